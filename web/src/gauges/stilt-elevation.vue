<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { TipShape } from '@oak-stilts/core/contract'
import { contactOf, shaftOf, slantOf, type FootSpread, type SizeName, type Stilt, type StiltSizes } from '@oak-stilts/core/stilts'
import { normalFromSource, shapeOf } from '@oak-stilts/core/pose'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import NumberField from '../components/number-field.vue'
import StiltDrawing from './stilt-drawing.vue'
import StiltWhole from './stilt-whole.vue'
import { LABELS, tipWarnings } from './sizes'

/** What is selected, as a dimensioned side elevation. */
const props = defineProps<{ stilts: readonly Stilt[] }>()
const emit = defineEmits<{ gauge: [] }>()
const bench = useBench(), state = useBenchStore(), store = useJobStore()

const first = computed(() => props.stilts[0])
const isBranch = computed(() => first.value.alone < first.value.nodes.length)
const shaft = computed(() => shaftOf(first.value.path.slice(0, first.value.alone + 1)))
const gap = ref<number | null>(null)
watch(first, async s => {
  gap.value = null
  const measured = await bench.workers().surface.gap(s).catch(() => null)
  if (s === first.value) gap.value = measured
}, { immediate: true })

function change(name: SizeName, values: readonly number[]): void {
  void bench.resize(props.stilts, i => ({ [name]: values[i] }), `change ${LABELS[name].toLowerCase()}`)
}
function setShape(tipShape: TipShape): void {
  void bench.resize(props.stilts, () => ({ tipShape }), 'change the tip’s shape')
}
function setDragged(changes: Partial<StiltSizes>): void {
  const [name] = Object.keys(changes) as SizeName[]
  void bench.resize(props.stilts, () => changes, `change ${LABELS[name].toLowerCase()}`)
}
function regauge(id: string): void {
  if (id === 'next' || id === 'before') {
    void bench.regaugeBy(id === 'next' ? 1 : -1, bench.gauges.value)
    return
  }
  const spread = bench.chosenSpread.value
  // a spread that is selected whole stays one
  if (spread && bench.stiltsOfSpread(spread.id).length === props.stilts.length) {
    void bench.respread(spread.id, { gauge: id })
    return
  }
  void bench.regauge(id, bench.gauges.value.find(g => g.id === id)?.name)
}
/** What is chosen is asked for; the list shows what the stilts have. */
function takeGauge(select: HTMLSelectElement): void {
  regauge(select.value)
  select.value = chosen.value.length === 1 ? chosen.value[0] : ''
}
/** Keeps the sizes of the one selected stilt as a gauge, and shows it. */
function saveGauge(): void {
  const made = bench.gaugeFromStilt(first.value)
  bench.say(`${made.name} has the sizes of stilt ${first.value.number}, and is kept with the workshop.`)
  emit('gauge')
}

/** On how many points sticks stand, and how far those are from their middle; set by hand, or by the gauge. */
const isStick = computed(() => props.stilts.every(s => s.foot === 'model' && !s.shared))
const feet = computed(() => props.stilts.map(s => {
  const gauge = bench.gauges.value.find(g => g.id === s.gauge)
  return { points: 1 + (s.legs?.length ?? 0), wide: s.own.footSpreadMm ?? gauge?.modelFootSpreadMm ?? 1.2 }
}))
function spreadFeet(name: keyof FootSpread, values: readonly number[]): void {
  void bench.spreadFeet(props.stilts, i => ({ [name]: name === 'footPoints' ? Math.round(values[i]) : values[i] }), name === 'footPoints' ? 'change the points of a foot' : 'change the spread of a foot')
}

const title = computed(() => (props.stilts.length === 1 ? `Stilt ${first.value.number}` : `${props.stilts.length} stilts`))
const setByHand = computed(() => Object.keys(first.value.own).length)
const chosen = computed(() => [...new Set(props.stilts.map(s => s.gauge))])
const roles = { carrier: 'carries the part', structural: 'structural', detail: 'holds a detail' } as const
const contact = computed(() => {
  const { part } = store, stand = bench.stand.value
  const normal = part && stand ? normalFromSource({ shape: shapeOf(part.recipe), stand }, first.value.anchor.normal) : null
  return contactOf(first.value.sizes, normal ? slantOf(first.value.path, normal) : 1).areaMm2
})
const warnings = computed(() => tipWarnings(first.value.sizes, store.raster?.pixelMm ?? null))
</script>

<template>
  <section class="elevation" :aria-label="`${title}, side elevation`">
    <header>
      <strong>{{ title }}</strong>
      <label class="quiet">gauge
        <select :value="chosen.length === 1 ? chosen[0] : ''" aria-label="Gauge of the selection" @change="takeGauge($event.target as HTMLSelectElement)">
          <option v-if="chosen.length !== 1" value="" disabled>mixed</option>
          <option v-for="g in bench.gauges.value" :key="g.id" :value="g.id">{{ g.name }}</option>
          <option value="next">next gauge</option><option value="before">gauge before</option>
        </select>
      </label>
      <button class="link-button delete" title="Delete (Del)" @click="bench.remove()">Delete</button>
    </header>
    <div v-if="bench.partly.value" class="partly" role="alert">
      <p>{{ bench.partly.value.count }} of {{ bench.partly.value.of }} can follow. The others cannot: {{ bench.partly.value.reason }}</p>
      <p class="answers"><button class="plain-button" @click="bench.partly.value?.go()">Change {{ bench.partly.value.count }}</button><button class="link-button" @click="bench.partly.value = null">Leave all as they are</button></p>
    </div>
    <StiltDrawing :sizes="first.sizes" :shapes="stilts.map(s => s.sizes.tipShape)" :values="name => stilts.map(s => s.sizes[name])" :foot="isBranch ? 'joint' : first.foot" :shaft="`${isBranch ? 'branch' : first.foot === 'model' ? 'stick' : 'shaft'} ${shaft.lengthMm.toFixed(2)} mm, lean ${shaft.leanDeg.toFixed(0)}°${first.legs?.length ? `, on ${first.legs.length + 1} points` : ''}`" @change="change" @shape="setShape" @drag="setDragged" />
    <p v-if="isStick" class="facts feet">stands on <NumberField label="Points of the foot" unit="" :digits="0" :step="1" :values="feet.map(f => f.points)" :min="1" :max="4" @change="spreadFeet('footPoints', $event)" />
      <template v-if="feet.some(f => f.points > 1)">points, <NumberField label="Spread of the foot" :values="feet.map(f => f.wide)" :min="0.2" :max="10" @change="spreadFeet('footSpreadMm', $event)" /> from their middle</template>
      <template v-else>{{ feet.length === 1 ? 'point' : 'point each' }}</template>
    </p>
    <StiltWhole v-if="stilts.length === 1 && first.foot !== 'lost'" :stilt="first" />
    <p class="facts quiet" title="The smallest gap to the part, and the area of the tip's contact, its slant counted.">
      {{ roles[state.roleOf(first)] }}, {{ first.foot === 'lost' ? 'no way down' : gap === null ? 'measuring the gap' : gap < 0.02 ? 'a bead in a crevice, fuses with both faces' : `gap ${gap >= 5 ? 'over 5' : gap.toFixed(2)} mm` }}, contact {{ contact.toFixed(contact < 0.1 ? 3 : 2) }} mm²
      <template v-if="setByHand">, {{ setByHand }} {{ setByHand === 1 ? 'size' : 'sizes' }} set by hand</template>
    </p>
    <p v-for="w in warnings" :key="w" class="facts">{{ w }}</p>
    <p v-if="stilts.length === 1" class="facts"><button v-if="!isBranch" class="link-button" title="A gauge of your own with these sizes, kept with the workshop" @click="saveGauge">Save as a gauge</button></p>
  </section>
</template>

<style scoped>
.elevation { padding: 8px 10px 12px; }
header { display: flex; align-items: center; gap: 10px; margin-bottom: 4px; }
select { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 24px; margin-left: 4px; color: var(--ink); max-width: 110px; }
.delete { margin-left: auto; }
.partly { border: 1px solid var(--control); border-radius: 6px; padding: 8px 10px; margin: 4px 0 8px; font-size: 12.5px; }
.answers { display: flex; gap: 10px; margin-top: 6px; }
.facts { font-size: 12.5px; margin-top: 4px; }
.feet { display: flex; align-items: center; gap: 6px; flex-wrap: wrap; }
</style>
