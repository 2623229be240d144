<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { GaugeSchema, PegBedSchema, pixelMmOf, PrinterSchema, RecipeOfPlansSchema, RESIN_VALUES, resinLimits, ResinSchema, SelectRuleSchema, type KitEntry, type Printer, type Resin, type ResinValue } from '@oak-stilts/core/contract'
import NumberField from '../components/number-field.vue'
import { download } from '../files'
import { KitGauge } from '../gauges'
import { KitRecipe } from '../planning'
import { KitBed } from '../spread'
import { useDraft } from '../input/draft'
import { useBenchStore } from '../stores/bench'
import { useKitStore } from '../stores/kit'

/** The kit: printers, resins, gauges, recipes of plans and beds of pegs, those that everybody has and the person's own. */
const kit = useKitStore(), bench = useBenchStore()
const trouble = ref('')
const chosen = ref('printer 0')
const chooser = ref<HTMLInputElement | null>(null)

onMounted(() => {
  document.title = 'Kit – Oak Stilts'
  bench.message = ''
  kit.load().catch((error: unknown) => (trouble.value = (error as Error).message))
})

const printer = computed(() => kit.kit.printers.find(p => p.id === chosen.value) ?? null)
const resin = computed(() => kit.kit.resins.find(r => r.id === chosen.value) ?? null)
/** Gauges are chosen by what they are, so that one that becomes one's own stays chosen. */
const gauge = computed(() => kit.kit.gauges.find(g => `gauge ${g.gauge.id}` === chosen.value) ?? null)
const recipe = computed(() => kit.kit.recipes.find(r => `recipe ${r.recipe.id}` === chosen.value) ?? null)
const bed = computed(() => kit.kit.beds.find(b => b.id === chosen.value) ?? null)
const shown = computed(() => printer.value ?? resin.value)
const said = computed(() => kit.problem || bench.message)
watch(chosen, () => (bench.message = ''))

/** Takes a changed entry where it can be one, else says why not. */
function keep(entry: KitEntry): void {
  const parsed = entry.kind === 'printer' ? PrinterSchema.safeParse(entry.printer) : entry.kind === 'resin' ? ResinSchema.safeParse(entry.resin) : entry.kind === 'gauge' ? GaugeSchema.safeParse(entry.gauge) : entry.kind === 'bed' ? PegBedSchema.safeParse(entry.bed) : entry.kind === 'recipe' ? RecipeOfPlansSchema.safeParse(entry.recipe) : SelectRuleSchema.safeParse(entry.rule)
  bench.message = parsed.success ? '' : `Nothing was changed: it ${parsed.error.issues[0].message}.`
  if (parsed.success) void kit.put([entry])
}
function setPrinter(values: Partial<Printer>): void {
  if (printer.value && !printer.value.builtIn) keep({ id: printer.value.id, kind: 'printer', printer: { ...printer.value.printer, ...values } })
}
/** Pixels and plate belong together: the plate's depth follows its pixels, so that they stay square. */
function setPixels(x: number, y: number, widthMm: number): void {
  const pixelMm = widthMm / x
  setPrinter({ pixelsX: x, pixelsY: y, widthMm, depthMm: Math.round(y * pixelMm * 1000) / 1000 })
}
const SIDES = ['Left', 'Right', 'Front', 'Back'] as const
function setEdge(side: number, mm: number): void {
  if (!printer.value) return
  const [left, right, front, back] = printer.value.printer.edgesMm.map((v, i) => (i === side ? mm : v))
  setPrinter({ edgesMm: [left, right, front, back] })
}
function setResin(values: Partial<Resin>): void {
  if (resin.value && !resin.value.builtIn) keep({ id: resin.value.id, kind: 'resin', resin: { ...resin.value.resin, ...values } })
}
/** What was written by hand counts as known. */
function setValue(name: ResinValue, value: number): void {
  if (resin.value) setResin({ [name]: value, guesses: resin.value.resin.guesses.filter(g => g !== name) })
}
function toggleGuess(name: ResinValue): void {
  const { guesses } = resin.value?.resin ?? { guesses: [] as string[] }
  setResin({ guesses: guesses.includes(name) ? guesses.filter(g => g !== name) : [...guesses, name] })
}
const groups = [...new Set(RESIN_VALUES.map(v => v.group))].map(name => ({ name, values: RESIN_VALUES.filter(v => v.group === name) }))

const { text: name, reset } = useDraft(() => printer.value?.printer.name ?? resin.value?.resin.name ?? '')
function rename(): void {
  const wanted = name.value.trim()
  if (!wanted) reset()
  else if (printer.value) setPrinter({ name: wanted })
  else setResin({ name: wanted })
}
const { text: layers, reset: resetLayers } = useDraft(() => printer.value?.printer.layersMm.join(', ') ?? '')
function setLayers(): void {
  const values = [...new Set(layers.value.split(/[\s;,]+(?=\d)|[;\s]+/).map(v => Number(v.replace(',', '.'))))].sort((a, b) => a - b)
  if (values.length === 0 || values.some(v => !(v >= 0.005 && v <= 1))) {
    bench.message = 'Layer heights are numbers from 0.005 to 1 mm, with commas between them; nothing was changed.'
    resetLayers()
  } else setPrinter({ layersMm: values })
}

function own(): void {
  const from = printer.value ? { printer: printer.value.printer } : resin.value ? { resin: resin.value.resin } : null
  if (from) chosen.value = kit.add(from).id
}
function remove(): void {
  const id = chosen.value
  chosen.value = printer.value ? 'printer 0' : 'resin 0'
  void kit.remove(id)
}
function save(): void {
  download(new Blob([JSON.stringify(kit.fileOf(), null, 2)], { type: 'application/json' }), 'oak-stilts kit.json')
}
async function load(event: Event): Promise<void> {
  const input = event.target as HTMLInputElement, file = input.files?.[0]
  if (file) bench.message = await kit.read(file.name, await file.text())
  input.value = ''
}
</script>

<template>
  <div class="kit-page">
    <header>
      <RouterLink to="/jobs" class="mark" title="All jobs"><img src="/mark.svg" alt="" width="24" height="24" />Oak Stilts</RouterLink>
      <h1>Kit</h1>
      <span class="quiet">Printers, resins, gauges, recipes and peg beds. A job keeps those it was given, whatever changes here.</span>
      <span class="end"><button class="link-button" :disabled="!kit.own.length" @click="save">Save mine as JSON</button><button class="link-button" @click="chooser?.click()">Load JSON</button><RouterLink to="/jobs">Jobs</RouterLink></span>
      <input ref="chooser" class="visually-hidden" type="file" accept=".json,application/json" aria-label="Kit file" tabindex="-1" @change="load" />
    </header>
    <main>
      <nav aria-label="Printers, resins, gauges, recipes and peg beds">
        <h2>Printers</h2>
        <button v-for="p in kit.kit.printers" :key="p.id" :class="{ on: p.id === chosen }" :aria-current="p.id === chosen" @click="chosen = p.id">{{ p.printer.name }}<span v-if="p.builtIn" class="quiet">built in</span></button>
        <h2>Resins</h2>
        <button v-for="r in kit.kit.resins" :key="r.id" :class="{ on: r.id === chosen }" :aria-current="r.id === chosen" @click="chosen = r.id">{{ r.resin.name }}<span v-if="r.builtIn" class="quiet">built in</span></button>
        <h2>Gauges</h2>
        <button v-for="(g, i) in kit.kit.gauges" :key="g.gauge.id" :class="{ on: `gauge ${g.gauge.id}` === chosen }" :aria-current="`gauge ${g.gauge.id}` === chosen" @click="chosen = `gauge ${g.gauge.id}`">{{ g.gauge.name }}<span class="quiet">{{ g.builtIn ? 'built in' : '' }} <span class="figure">{{ i < 9 ? i + 1 : '' }}</span></span></button>
        <h2>Recipes of plans</h2>
        <button v-for="r in kit.kit.recipes" :key="r.recipe.id" :class="{ on: `recipe ${r.recipe.id}` === chosen }" :aria-current="`recipe ${r.recipe.id}` === chosen" @click="chosen = `recipe ${r.recipe.id}`">{{ r.recipe.name }}<span v-if="r.builtIn" class="quiet">built in</span></button>
        <template v-if="kit.kit.beds.length">
          <h2>Peg beds</h2>
          <button v-for="b in kit.kit.beds" :key="b.id" :class="{ on: b.id === chosen }" :aria-current="b.id === chosen" @click="chosen = b.id">{{ b.bed.name }}<span class="quiet figure">{{ b.bed.pattern.pegs.length }}</span></button>
        </template>
      </nav>
      <section v-if="gauge" :key="chosen" aria-label="Gauge">
        <p class="quiet said" role="status" aria-label="Message">{{ trouble || said }}</p>
        <KitGauge :entry="gauge" @chosen="chosen = `gauge ${$event}`" />
      </section>
      <section v-else-if="recipe" :key="`${chosen} `" aria-label="Recipe">
        <p class="quiet said" role="status" aria-label="Message">{{ trouble || said }}</p>
        <KitRecipe :entry="recipe" @chosen="chosen = `recipe ${$event}`" />
      </section>
      <section v-else-if="bed" :key="chosen" aria-label="Peg bed">
        <p class="quiet said" role="status" aria-label="Message">{{ trouble || said }}</p>
        <KitBed :entry="bed" @change="keep({ id: bed.id, kind: 'bed', bed: $event })" @gone="remove" />
      </section>
      <section v-else-if="shown" :key="shown.id" :aria-label="printer ? 'Printer' : 'Resin'">
        <div class="head">
          <input v-model="name" class="name" :aria-label="printer ? 'Printer name' : 'Resin name'" maxlength="120" :disabled="shown.builtIn" @change="rename" @keydown.enter="($event.target as HTMLInputElement).blur()" />
          <button class="plain-button" :class="{ leading: shown.builtIn }" @click="own">{{ shown.builtIn ? 'Make my own from it' : 'Duplicate' }}</button>
          <button v-if="!shown.builtIn" class="plain-button" @click="remove">Delete</button>
          <p class="quiet said" role="status" aria-label="Message">{{ trouble || said }}</p>
        </div>
        <div v-if="printer" class="values">
          <fieldset>
            <legend>Plate</legend>
            <div class="line"><span>Width, x</span><NumberField label="Width, x" :values="[printer.printer.widthMm]" :min="5" :max="2000" :step="0.1" :disabled="printer.builtIn" @change="setPixels(printer.printer.pixelsX, printer.printer.pixelsY, $event[0])" /></div>
            <div class="line"><span>Depth, y</span><span class="figure">{{ printer.printer.depthMm }} mm</span></div>
            <div class="line"><span>Height, z</span><NumberField label="Height, z" :values="[printer.printer.heightMm]" :min="5" :max="2000" :step="1" :disabled="printer.builtIn" @change="setPrinter({ heightMm: $event[0] })" /></div>
          </fieldset>
          <fieldset>
            <legend>Picture</legend>
            <div class="line"><span>Pixels across</span><NumberField label="Pixels across" unit="px" :digits="0" :values="[printer.printer.pixelsX]" :min="16" :max="100000" :step="1" :disabled="printer.builtIn" @change="setPixels(Math.round($event[0]), printer.printer.pixelsY, printer.printer.widthMm)" /></div>
            <div class="line"><span>Pixels along</span><NumberField label="Pixels along" unit="px" :digits="0" :values="[printer.printer.pixelsY]" :min="16" :max="100000" :step="1" :disabled="printer.builtIn" @change="setPixels(printer.printer.pixelsX, Math.round($event[0]), printer.printer.widthMm)" /></div>
            <div class="line"><span>Pixel</span><span class="figure">{{ pixelMmOf(printer.printer) }} mm</span></div>
            <p class="quiet">Pixels are square: the depth follows from their number.</p>
          </fieldset>
          <fieldset>
            <legend>Layers</legend>
            <div class="line"><span>Heights offered</span><span class="text-field"><input v-model="layers" class="figure" aria-label="Layer heights, mm" :disabled="printer.builtIn" @change="setLayers" @keydown.enter="($event.target as HTMLInputElement).blur()" /><span class="quiet">mm</span></span></div>
          </fieldset>
          <fieldset>
            <legend>Nothing is printed within</legend>
            <div v-for="(side, i) in SIDES" :key="side" class="line"><span>{{ side }}</span><NumberField :label="`${side} edge`" :values="[printer.printer.edgesMm[i]]" :min="0" :max="100" :step="0.5" :disabled="printer.builtIn" @change="setEdge(i, $event[0])" /></div>
          </fieldset>
          <fieldset>
            <legend>Limits</legend>
            <div class="line"><span>Fastest travel</span><NumberField label="Fastest travel" unit="mm/min" :digits="0" :values="[printer.printer.fastestMmMin]" :min="1" :max="2000" :step="10" :disabled="printer.builtIn" @change="setPrinter({ fastestMmMin: $event[0] })" /></div>
            <div class="line"><span>Memory</span><NumberField label="Memory" unit="MB" :digits="0" :values="[printer.printer.memoryMb]" :min="1" :max="100000" :step="100" :disabled="printer.builtIn" @change="setPrinter({ memoryMb: $event[0] })" /></div>
          </fieldset>
        </div>
        <div v-else-if="resin" class="values">
          <fieldset v-for="g in groups" :key="g.name">
            <legend>{{ g.name }}</legend>
            <div v-for="v in g.values" :key="v.name" class="line">
              <span>{{ v.label }}</span>
              <span class="value">
                <button class="guess" :class="{ on: resin.resin.guesses.includes(v.name) }" :disabled="resin.builtIn" :aria-pressed="resin.resin.guesses.includes(v.name)" :aria-label="`${v.label} is a guess`" title="A guess: from memory, or not measured. What you write yourself counts as known." @click="toggleGuess(v.name)">guess</button>
                <NumberField :label="v.label" :unit="v.unit" :digits="v.digits" :values="[resin.resin[v.name]]" :min="resinLimits(v.name)[0]" :max="resinLimits(v.name)[1]" :step="v.digits === 0 ? 1 : 10 ** -v.digits" :disabled="resin.builtIn" @change="setValue(v.name, v.digits === 0 ? Math.round($event[0]) : $event[0])" />
              </span>
            </div>
          </fieldset>
          <fieldset>
            <legend>Gauges</legend>
            <p v-if="resin.resin.gauges.length">Brings its own: {{ resin.resin.gauges.map(g => `${g.name} ${g.tipDiameterMm.toFixed(2)}`).join(', ') }}.</p>
            <p v-else class="quiet">The usual ones suit it.</p>
            <p v-if="!resin.builtIn"><button class="link-button" title="This resin brings the gauges of the workshop as they are now" @click="setResin({ gauges: kit.kit.gauges.slice(0, 9).map(g => g.gauge) })">Bring those of the workshop</button> <button v-if="resin.resin.gauges.length" class="link-button" @click="setResin({ gauges: [] })">Bring none</button></p>
          </fieldset>
        </div>
      </section>
    </main>
  </div>
</template>

<style scoped>
.kit-page { height: 100%; display: grid; grid-template-rows: auto 1fr; font-size: 14px; }
header { display: flex; align-items: center; gap: 16px; padding: 12px 32px; background: var(--panel); border-bottom: 1px solid var(--divider); }
.mark { display: flex; align-items: center; gap: 8px; font-weight: 600; font-size: 17px; color: var(--ink); text-decoration: none; white-space: nowrap; }
h1 { font-size: 17px; font-weight: 600; }
.end { margin-left: auto; display: flex; gap: 6px; align-items: baseline; white-space: nowrap; }
main { display: grid; grid-template-columns: 240px 1fr; min-height: 0; }
nav { background: var(--panel); border-right: 1px solid var(--divider); overflow-y: auto; padding: 10px 0; }
nav h2 { font-size: 13px; font-weight: 600; padding: 10px 20px 4px; }
nav button { display: flex; justify-content: space-between; gap: 8px; width: 100%; text-align: left; background: none; border: 0; border-left: 3px solid transparent; padding: 5px 16px 5px 17px; cursor: pointer; }
nav button:hover { background: #f6f1e6; }
nav button.on { border-color: var(--accent); font-weight: 600; }
nav .quiet { font-weight: 400; font-size: 12.5px; white-space: nowrap; }
section { overflow-y: auto; padding: 18px 32px 32px; }
.head { display: flex; align-items: center; gap: 10px; margin-bottom: 16px; }
.name { font-size: 16px; font-weight: 600; border: 1px solid var(--control); border-radius: 4px; background: var(--panel); padding: 3px 8px; width: 260px; }
.name:disabled { border-color: transparent; background: none; padding-left: 0; opacity: 1; }
.said { flex: 1; }
.values { display: grid; grid-template-columns: repeat(auto-fill, minmax(300px, 380px)); gap: 14px 40px; align-items: start; }
fieldset { border: 0; border-top: 1px solid var(--divider); padding: 8px 0 0; margin: 0; min-width: 0; }
legend { font-weight: 600; font-size: 13px; padding-right: 8px; }
/* what cannot be changed is text, not a field */
.values :deep(.number-field:has(input:disabled)), .text-field input:disabled { border-color: transparent; background: none; }
.values :deep(input:disabled) { color: var(--ink); opacity: 1; -webkit-text-fill-color: var(--ink); }
.line { display: flex; justify-content: space-between; align-items: center; gap: 10px; min-height: 30px; }
.value { display: flex; align-items: center; gap: 8px; }
.guess { border: 1px dashed transparent; background: none; border-radius: 4px; font-size: 12px; padding: 1px 6px; color: transparent; cursor: pointer; }
.guess.on { border-color: var(--control); color: var(--quiet); }
.guess:not(.on):not(:disabled):hover, .guess:not(.on):focus-visible { color: var(--quiet); text-decoration: line-through; }
.guess:disabled { cursor: default; }
.text-field { display: inline-flex; align-items: center; gap: 6px; }
.text-field input { border: 1px solid var(--control); border-radius: 4px; height: 24px; width: 150px; background: var(--panel); padding: 0 6px; font-size: 12.5px; }
fieldset p { font-size: 12.5px; margin-top: 2px; }
</style>
