<script setup lang="ts">
import { computed } from 'vue'
import { RESIN_VALUES, resinLimits, shadesOf, type HeightRange, type LayerTimes, type ResinValue, type Smoothing } from '@oak-stilts/core/contract'
import { costOf } from '@oak-stilts/core/print'
import { useBench } from '../bench/use-bench'
import NumberField from '../components/number-field.vue'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import PrinterSection from './printer-section.vue'
import { durationText, sizeText } from './words'

/** What the print comes to, and how its layers are printed; then the package of layers. */
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const job = computed(() => store.job), printing = computed(() => store.job?.printing), resin = computed(() => store.job?.resin)
const slicing = computed(() => bench.slicing.value), sliced = computed(() => bench.sliced.value), fresh = computed(() => sliced.value !== null && !bench.slicedStale.value)

/** Once it is sliced the figures are those of the pictures; before, those of the scan. */
const figures = computed(() => {
  const m = fresh.value ? bench.slicedManifest.value : null, e = bench.printEstimate.value, r = resin.value
  if (m && r) return { layers: m.layers.length, seconds: m.seconds, ml: m.resinMl.all, cost: costOf(m.resinMl.all, r), of: m.resinMl }
  return e && { layers: e.layers, seconds: e.seconds, ml: e.ml, cost: e.cost, of: null }
})
const formula = computed(() => {
  const r = resin.value
  return r ? `The sum over all layers of light + rest + plate travel ÷ speed up + plate travel ÷ speed down. An ordinary layer: ${r.exposureS} s + ${r.restS} s + ${r.travelMm} mm ÷ ${r.travelUpMmMin} mm/min + ${r.travelMm} mm ÷ ${r.travelDownMmMin} mm/min` : ''
})

const LIGHT: readonly ResinValue[] = ['exposureS', 'bottomExposureS', 'bottomLayers', 'transitionLayers'], TRAVEL: readonly ResinValue[] = ['restS', 'travelMm', 'travelUpMmMin', 'travelDownMmMin']
const valueOf = (name: ResinValue): (typeof RESIN_VALUES)[number] => RESIN_VALUES.find(v => v.name === name) as (typeof RESIN_VALUES)[number]
function limitsOf(name: ResinValue): readonly [number, number] {
  const [low, high] = resinLimits(name)
  return name === 'travelUpMmMin' || name === 'travelDownMmMin' ? [low, Math.min(high, job.value?.printer.fastestMmMin ?? high)] : [low, high]
}
const setResin = (name: ResinValue, value: number): void => bench.setResin({ [name]: valueOf(name).digits === 0 && valueOf(name).unit === '' ? Math.round(value) : value }, `${valueOf(name).label.toLowerCase()} of this job`)

const SMOOTHS: readonly { readonly id: Smoothing; readonly name: string }[] = [{ id: 'none', name: 'None: black and white' }, { id: 'twice', name: '2 × 2 within a pixel' }, { id: 'fourfold', name: '4 × 4 within a pixel' }, { id: 'finest', name: '4 × 4, two within a layer' }]
const shrinkage = computed<readonly [number, number, number]>(() => printing.value?.shrinkagePercent ?? [resin.value?.shrinkagePercent ?? 0, resin.value?.shrinkagePercent ?? 0, resin.value?.shrinkagePercent ?? 0])
function setShrinkage(axis: number, percent: number): void {
  bench.setPrinting({ shrinkagePercent: shrinkage.value.map((v, i) => (i === axis ? percent : v)) as [number, number, number] }, 'shrinkage of this job')
}

const SETTABLE: readonly (keyof LayerTimes)[] = ['exposureS', 'restS', 'travelMm', 'travelUpMmMin', 'travelDownMmMin']
function setRange(range: HeightRange, change: Partial<HeightRange>): void {
  const next = { ...range, ...change }
  if (printing.value && next.toMm > next.fromMm) bench.setPrinting({ ranges: printing.value.ranges.map(r => (r.id === range.id ? next : r)) }, 'change a range of heights')
}
function setInRange(range: HeightRange, name: keyof LayerTimes, value: number | undefined): void {
  const set = { ...range.set }
  if (value === undefined) delete set[name]
  else set[name] = value
  setRange(range, { set })
}
function addTo(range: HeightRange, event: Event): void {
  const select = event.target as HTMLSelectElement, name = select.value as keyof LayerTimes
  if (resin.value && name) setInRange(range, name, resin.value[name])
  select.value = ''
}
function dropRange(range: HeightRange): void {
  if (printing.value) bench.setPrinting({ ranges: printing.value.ranges.filter(r => r.id !== range.id) }, 'take a range of heights out')
}
function addRange(): void {
  const from = state.playhead * (job.value?.layerMm ?? 0.05)
  if (resin.value) bench.addRange({ fromMm: Math.round(from * 100) / 100, toMm: Math.round((from + 5) * 100) / 100, set: { travelUpMmMin: Math.max(1, Math.round(resin.value.travelUpMmMin / 2)) }, why: '' })
}

const islands = computed(() => bench.rehearsal.value?.result.islands.filter(i => i.state === 'open') ?? []), cups = computed(() => bench.rehearsal.value?.result.cups.filter(c => c.ends !== 'vent') ?? []), differs = computed(() => bench.rehearsalDiffers.value)
const troubles = computed(() => islands.value.length + (bench.rehearsal.value?.faults.length ?? 0) + (differs.value ? 1 : 0))
const printingNow = computed(() => ['printing', 'paused', 'interrupted'].includes(bench.printer.value?.doing ?? ''))
const show = (layer: number): void => state.setPlayhead(layer)
</script>

<template>
  <section v-if="job && printing && resin" class="print-sheet" aria-label="Print">
    <dl v-if="figures" aria-label="What it comes to">
      <div><dt>Layers</dt><dd class="figure">{{ figures.layers.toLocaleString('en') }}</dd></div>
      <div :title="formula"><dt>Time</dt><dd class="figure">~{{ durationText(figures.seconds) }}</dd></div>
      <div :title="figures.of ? `Parts ${figures.of.parts.toFixed(1)} ml, stilts ${figures.of.stilts.toFixed(1)} ml, rafts ${figures.of.rafts.toFixed(1)} ml` : 'From the scan; slicing tells parts, stilts and rafts apart'"><dt>Resin</dt><dd class="figure">{{ figures.ml.toFixed(1) }} ml</dd></div>
      <div :title="`${resin.densityGMl} g/ml at ${resin.pricePerKg} a kg`"><dt>Cost</dt><dd class="figure">{{ figures.cost.toFixed(2) }}</dd></div>
    </dl>
    <p v-if="figures?.of" class="quiet of">Parts <span class="figure">{{ figures.of.parts.toFixed(1) }}</span>, stilts <span class="figure">{{ figures.of.stilts.toFixed(1) }}</span>, rafts <span class="figure">{{ figures.of.rafts.toFixed(1) }} ml</span></p>
    <p v-if="slicing" class="doing" role="status" aria-label="Slicing"><progress :value="slicing.share" max="1" /> <span>{{ slicing.words }}</span> <button class="plain-button" @click="bench.cancel()">Cancel</button></p>
    <template v-else>
      <p v-if="sliced && !fresh" role="status">It was changed since it was sliced: slice it again.</p>
      <div class="actions">
        <button class="plain-button" :class="{ leading: !fresh }" title="Makes the picture of every layer (Alt + Enter)" :disabled="state.scanState === 'scanning' || !!state.busy" @click="bench.slice()">{{ sliced ? 'Slice again' : 'Slice' }}</button>
        <template v-if="fresh && sliced">
          <button class="plain-button" :class="{ leading: !bench.rehearsal.value && !printingNow }" title="Goes through the pictures alone, as a printer does" @click="bench.rehearse()">Rehearse</button>
          <button class="plain-button" :title="`An open zip of ${sliced.manifest.layers.length.toLocaleString('en')} pictures and what they are`" @click="bench.saveSliced()">Save package <span class="figure">{{ sizeText(sliced.bytes) }}</span></button>
        </template>
      </div>
    </template>
    <section v-if="fresh && bench.rehearsal.value" class="found" aria-label="Rehearsal">
      <p role="status">{{ troubles === 0 ? `Rehearsed from its ${sliced?.manifest.layers.length.toLocaleString('en')} pictures alone: nothing begins in the air.` : `${troubles} ${troubles === 1 ? 'thing is' : 'things are'} not as ${troubles === 1 ? 'it' : 'they'} should be.` }}</p>
      <ul>
        <li v-for="f in bench.rehearsal.value.faults" :key="`${f.kind} ${f.layer}`"><button class="link-button" @click="show(f.layer)">{{ f.sentence }}</button></li>
        <li v-if="differs"><button class="link-button" @click="show(differs.layer)">{{ differs.count }} {{ differs.count === 1 ? 'layer covers' : 'layers cover' }} another area than was scanned; layer {{ differs.layer + 1 }} {{ differs.areaMm2.toFixed(1) }} in place of {{ differs.provedMm2.toFixed(1) }} mm².</button></li>
        <li v-for="i in islands.slice(0, 20)" :key="i.id"><button class="link-button" @click="show(i.layer)">Layer {{ i.layer + 1 }} lays {{ i.areaMm2.toFixed(2) }} mm² on nothing.</button></li>
        <li v-if="cups.length"><button class="link-button" @click="show(cups[0].peakLayer)">{{ cups.length === 1 ? 'One cup pulls' : `${cups.length} cups pull` }} on the film, the largest up to {{ cups[0].peakAreaMm2.toFixed(0) }} mm².</button></li>
      </ul>
      <p class="quiet">First layer: {{ bench.rehearsal.value.firstLayer.regions }} {{ bench.rehearsal.value.firstLayer.regions === 1 ? 'region' : 'regions' }}, {{ bench.rehearsal.value.firstLayer.areaMm2.toFixed(0) }} mm². <button class="link-button" title="A model made of the pictures alone, shown behind the plate" @click="bench.toggleRebuilt()">{{ bench.rebuilt.value ? 'Hide what they make' : 'Show what they make' }}</button></p>
    </section>
    <PrinterSection />
    <details>
      <summary>Light <span class="quiet figure">{{ resin.exposureS }} s; first {{ resin.bottomLayers }}, {{ resin.bottomExposureS }} s</span></summary>
      <p v-for="name in LIGHT" :key="name" class="line"><span>{{ valueOf(name).label }}</span><NumberField :label="valueOf(name).label" :unit="valueOf(name).unit" :digits="valueOf(name).digits" :values="[resin[name]]" :min="limitsOf(name)[0]" :max="limitsOf(name)[1]" :step="valueOf(name).digits ? 0.1 : 1" @change="setResin(name, $event[0])" /></p>
    </details>
    <details>
      <summary>Plate travel <span class="quiet figure">{{ resin.travelMm }} mm, {{ resin.travelUpMmMin }} mm/min up</span></summary>
      <p v-for="name in TRAVEL" :key="name" class="line"><span>{{ valueOf(name).label }}</span><NumberField :label="valueOf(name).label" :unit="valueOf(name).unit" :digits="valueOf(name).digits" :values="[resin[name]]" :min="limitsOf(name)[0]" :max="limitsOf(name)[1]" :step="valueOf(name).digits ? 0.1 : 5" @change="setResin(name, $event[0])" /></p>
      <p class="quiet">{{ job.printer.name }} travels at most {{ job.printer.fastestMmMin }} mm/min. These are values of {{ resin.name }} in this job alone; those of the workshop are in <RouterLink to="/kit">Kit</RouterLink>.</p>
    </details>
    <details :open="printing.ranges.length > 0">
      <summary>By height <span class="quiet figure">{{ printing.ranges.length || 'none' }}</span></summary>
      <fieldset v-for="(r, i) in printing.ranges" :key="r.id" class="range">
        <legend class="visually-hidden">Range {{ i + 1 }}</legend>
        <p class="line"><NumberField :label="`Range ${i + 1} from`" :values="[r.fromMm]" :min="0" :max="r.toMm - 0.01" :step="0.5" @change="setRange(r, { fromMm: $event[0] })" /> to <NumberField :label="`Range ${i + 1} to`" :values="[r.toMm]" :min="r.fromMm + 0.01" :max="2000" :step="0.5" @change="setRange(r, { toMm: $event[0] })" /><button class="link-button" :aria-label="`Take range ${i + 1} out`" title="Take this range out" @click="dropRange(r)">×</button></p>
        <p v-for="name in SETTABLE.filter(n => r.set[n] !== undefined)" :key="name" class="line"><span>{{ valueOf(name).label }}</span><NumberField :label="`Range ${i + 1}: ${valueOf(name).label}`" :unit="valueOf(name).unit" :digits="valueOf(name).digits" :values="[r.set[name] ?? 0]" :min="limitsOf(name)[0]" :max="limitsOf(name)[1]" :step="valueOf(name).digits ? 0.1 : 5" @change="setInRange(r, name, $event[0])" /><button class="link-button" :aria-label="`Range ${i + 1}: leave ${valueOf(name).label} as it is`" title="As elsewhere" @click="setInRange(r, name, undefined)">×</button></p>
        <select v-if="SETTABLE.some(n => r.set[n] === undefined)" :aria-label="`Set something else in range ${i + 1}`" @change="addTo(r, $event)"><option value="">Set something else …</option><option v-for="name in SETTABLE.filter(n => r.set[n] === undefined)" :key="name" :value="name">{{ valueOf(name).label }}</option></select>
        <p v-if="r.why" class="quiet">{{ r.why }}</p>
      </fieldset>
      <div class="actions"><button class="plain-button" :disabled="!bench.plateSignals.value" title="Proposes slower layers where the plate pulls most, with the reason" @click="bench.proposeSlower()">Slower where it pulls</button><button class="plain-button" @click="addRange">Add a range</button></div>
    </details>
    <details>
      <summary>Shrinkage <span class="quiet figure">{{ shrinkage.every(s => s === shrinkage[0]) ? `${shrinkage[0]} %` : shrinkage.map(s => `${s} %`).join(' · ') }}</span></summary>
      <p v-for="(axis, i) in ['x', 'y', 'z']" :key="axis" class="line"><span>Along {{ axis }}</span><NumberField :label="`Shrinkage along ${axis}`" unit="%" :values="[shrinkage[i]]" :min="0" :max="10" :step="0.1" @change="setShrinkage(i, $event[0])" /></p>
      <p class="quiet">Layers are made so much larger that the part comes out in its size. <button v-if="printing.shrinkagePercent" class="link-button" @click="bench.setPrinting({ shrinkagePercent: null }, 'shrinkage of the resin')">As the resin says</button></p>
    </details>
    <p class="line shades"><span>Shades at edges</span><select aria-label="Shades at edges" :value="printing.smoothing" :title="`${shadesOf(printing.smoothing)} shades of grey, black among them`" @change="bench.setPrinting({ smoothing: ($event.target as HTMLSelectElement).value as Smoothing }, 'shades at edges')"><option v-for="s in SMOOTHS" :key="s.id" :value="s.id">{{ s.name }}</option></select></p>
  </section>
</template>

<style scoped>
.print-sheet { padding: 10px 12px 16px; display: grid; gap: 8px; align-content: start; }
dl { display: grid; grid-template-columns: 1fr 1fr; gap: 4px 12px; margin: 0; }
dl div { display: flex; justify-content: space-between; gap: 8px; }
dt { color: var(--quiet); }
dd { margin: 0; }
.of { margin-top: -4px; font-size: 12px; }
.actions { display: flex; flex-wrap: wrap; gap: 6px; }
.doing { display: flex; align-items: center; gap: 8px; }
.doing span { flex: 1; }
progress { width: 80px; accent-color: var(--accent); }
.found { border: 1px solid var(--divider); border-radius: 4px; padding: 8px 10px; display: grid; gap: 4px; }
.found ul { margin: 0; padding: 0; list-style: none; max-height: 160px; overflow-y: auto; }
.found .link-button { padding: 2px 0; text-align: left; text-decoration: underline; }
details { border-top: 1px solid var(--divider); padding-top: 6px; }
summary { cursor: pointer; min-height: 24px; }
.line { display: flex; align-items: center; gap: 6px; min-height: 28px; }
.line > span:first-child { flex: 1; }
.line :deep(input) { width: 76px; }
.range { border: 1px solid var(--divider); border-radius: 4px; margin: 4px 0 6px; padding: 4px 8px 6px; }
.shades { border-top: 1px solid var(--divider); padding-top: 6px; }
</style>
