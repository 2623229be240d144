<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted } from 'vue'
import { troubleOf } from '../bench/soundness'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import NumberField from './number-field.vue'
import SoundNote from './sound-note.vue'

/** What the part is hollowed to, a first look at it, and what came of it. */
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const { asked, step, told, looked, looking, wanted, differs, otherWay } = bench.hollowing
onMounted(() => (wanted.value = true))
onBeforeUnmount(() => {
  wanted.value = false
  bench.endHollowing()
})

const made = computed(() => (step.value?.on ? told.value?.hollow ?? null : null))
/** How many openings the resin asks for; and whether some hollow has fewer. */
const openings = computed(() => store.job?.resin.holes ?? 2), lacking = computed(() => !told.value || told.value.openings.some(o => o.count < openings.value))
const cm3 = (mm3: number): string => `${(mm3 / 1000).toFixed(2)} cm³`
const percent = (part: number, all: number): string => (part < 0.01 * all ? 'less than 1 %' : `${Math.round((100 * part) / all)}\u00a0%`)
/** What resin is saved, by the resin's density and price. */
function saved(mm3: number): string {
  const resin = store.job?.resin
  if (!resin) return ''
  const grams = (mm3 / 1000) * resin.densityGMl
  return `${grams.toFixed(1)} g${resin.pricePerKg > 0 ? ` of resin, worth ${((grams / 1000) * resin.pricePerKg).toFixed(2)}` : ''}`
}
const rounded = (n: number): string => Number(n.toPrecision(2)).toLocaleString('en')
const seconds = (s: number): string => (s < 1.5 ? 'a second' : `${rounded(s)}\u00a0s`)
</script>

<template>
  <section class="hollow-sheet" aria-label="Hollow">
    <h2>Hollow</h2>
    <SoundNote />
    <div class="field"><span>Wall, measured from the skin</span><NumberField label="Wall" :values="[asked.wallMm]" :min="0.2" :max="50" :step="0.5" @change="bench.askHollow({ wallMm: $event[0] })" /></div>
    <div class="field" title="The smaller, the smoother, and the longer it takes"><span>Cells of the inner wall</span><NumberField label="Cells" :values="[asked.cellMm]" :min="0.05" :max="5" :step="0.05" @change="bench.askHollow({ cellMm: $event[0] })" /></div>
    <fieldset>
      <legend class="visually-hidden">Inner surface</legend>
      <label class="choice"><input type="radio" name="inside" :checked="!asked.carries" @change="bench.askHollow({ carries: false })" /> <span>Smooth, the same wall everywhere</span></label>
      <label class="choice"><input type="radio" name="inside" :checked="asked.carries" @change="bench.askHollow({ carries: true })" /> <span>Carries itself: ceilings become roofs</span></label>
    </fieldset>
    <p v-if="otherWay" class="warn">Its ceilings were shaped for another tilt.</p>
    <template v-if="differs">
      <p v-if="looking" class="quiet" role="status">Taking a first look</p>
      <template v-else-if="looked">
        <p v-if="looked.hollowMm3 <= 0">Nowhere is the part thick enough for this wall. Take a thinner one, or leave it solid.</p>
        <template v-else>
          <p>About <b class="figure">{{ cm3(looked.hollowMm3) }}</b> of {{ cm3(looked.solidMm3) }} would come out{{ asked.carries ? ', less what roofs take' : '' }}: {{ percent(looked.hollowMm3, looked.solidMm3) }}, saving {{ saved(looked.hollowMm3) }}.</p>
          <p class="quiet">Estimated: about {{ rounded(looked.fineTriangles) }} triangles, no more than {{ seconds(looked.fineSeconds) }}.</p>
        </template>
      </template>
      <button class="plain-button" :class="{ leading: troubleOf(store.part) !== 'unmended' }" :disabled="!!state.busy || (!!looked && looked.hollowMm3 <= 0)" @click="bench.makeHollow()">{{ step?.on ? 'Hollow it so' : 'Hollow it' }}</button>
    </template>
    <template v-else-if="made">
      <p v-if="store.part?.recipe.cuts.length" class="quiet">Of the whole, before it was cut:</p>
      <dl>
        <dt>Before</dt><dd class="figure">{{ cm3(made.solidMm3) }}</dd>
        <dt>Taken out</dt><dd class="figure">{{ cm3(made.hollowMm3) }}, {{ percent(made.hollowMm3, made.solidMm3) }}</dd>
        <dt>Saves</dt><dd class="figure">{{ saved(made.hollowMm3) }}</dd>
        <template v-for="(c, i) in made.chambers" :key="i"><dt>{{ made.chambers.length === 1 ? 'One hollow' : `Hollow ${i + 1}` }}</dt><dd class="figure">{{ cm3(c.volumeMm3) }}</dd></template>
        <template v-if="made.leftSolid.volumeMm3 >= 0.5"><dt>Too small to drain</dt><dd class="figure">{{ made.leftSolid.count }} left solid</dd></template>
      </dl>
      <p v-if="lacking" class="quiet">{{ made.chambers.length === 1 ? 'It wants' : 'Each wants' }} {{ openings === 2 ? 'two openings' : openings === 1 ? 'an opening' : `${openings} openings` }}, one near its lowest point: resin runs out of one while air comes in by the other. Each closed space is a finding in Hold, with where to drill.</p>
    </template>
  </section>
</template>

<style scoped>
.hollow-sheet { padding: 12px; display: grid; gap: 10px; justify-items: stretch; }
h2 { font-size: 13px; font-weight: 600; }
.field { display: grid; grid-template-columns: 1fr 110px; align-items: center; gap: 8px; }
fieldset { border: 0; padding: 0; margin: 0; display: grid; gap: 2px; }
.choice { display: grid; grid-template-columns: auto 1fr; gap: 6px; align-items: center; min-height: 24px; }
dl { display: grid; grid-template-columns: auto 1fr; gap: 3px 12px; margin: 0; }
dt { color: var(--quiet); }
dd { margin: 0; text-align: right; font-size: 12.5px; }
.plain-button { justify-self: start; }
.warn { color: #560f2a; }
</style>
