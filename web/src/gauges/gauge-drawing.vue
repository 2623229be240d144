<script setup lang="ts">
import { computed } from 'vue'
import { GAUGE_VALUES, gaugeLimits, type Gauge, type GaugeValue } from '@oak-stilts/core/contract'
import { radians } from '@oak-stilts/core/mesh'
import { sizesOf, type SizeName, type StiltSizes } from '@oak-stilts/core/stilts'
import NumberField from '../components/number-field.vue'
import StiltDrawing from './stilt-drawing.vue'
import { tipWarnings } from './sizes'

/** A gauge on the dimensioned side elevation: all its sizes, shown and edited. */
const props = defineProps<{ gauge: Gauge; pixelMm: number | null; disabled?: boolean }>()
const emit = defineEmits<{ change: [changes: Partial<Gauge>] }>()
const sizes = computed(() => sizesOf(props.gauge))
const warnings = computed(() => tipWarnings(props.gauge, props.pixelMm))
const labels = new Map(GAUGE_VALUES.map(v => [v.name, v]))

function set(name: GaugeValue, value: number): void {
  emit('change', { [name]: labels.get(name)?.digits === 0 && labels.get(name)?.unit === '' ? Math.round(value) : value })
}
function setSize(name: SizeName, [value]: readonly number[]): void {
  if (name !== 'footPenetrationMm') set(name, value)
}
function setDragged(changes: Partial<StiltSizes>): void {
  emit('change', changes as Partial<Gauge>)
}
const drawings: readonly { readonly id: string; readonly names: readonly GaugeValue[] }[] = [
  { id: 'shaft', names: ['thickenDeg', 'thickestMm', 'longestMm'] },
  { id: 'lean', names: ['preferredLeanDeg', 'leanLimitDeg'] },
  { id: 'model', names: ['modelFootDiameterMm', 'modelFootPenetrationMm', 'modelFootPoints', 'modelFootSpreadMm'] },
  { id: 'room', names: ['spacingMm', 'gapMm', 'coneShortestMm'] },
  { id: 'branch', names: ['branchTipMm', 'branchBaseMm', 'braceDiameterMm'] },
]
/** The end of a line that leans, from the top of its glyph. */
const leaning = (deg: number): string => `M70 6L${70 + 40 * Math.sin(radians(deg))} ${6 + 40 * Math.cos(radians(deg))}`
const foot = computed(() => {
  const half = (mm: number): number => Math.min(26, (mm / 2) * 14), { modelFootPoints: count, shaftFootDiameterMm, modelFootDiameterMm, modelFootPenetrationMm, modelFootSpreadMm } = props.gauge
  const s = half(shaftFootDiameterMm), t = half(modelFootDiameterMm), deep = Math.min(12, modelFootPenetrationMm * 14), reach = count > 1 ? Math.min(44, Math.max(t + 3, modelFootSpreadMm * 14)) : 0
  const legs = Array.from({ length: count }, (_, i) => 70 + (count > 1 ? reach * ((2 * i) / (count - 1) - 1) : 0))
  return `M${70 - s} 4H${70 + s}V32H${70 - s}Z${legs.map(x => `M${70 - s} 32H${70 + s}L${x + t} 70V${70 + deep}H${x - t}V70Z`).join('')}`
})
const branch = computed(() => {
  const t = Math.max(1, props.gauge.branchTipMm * 4), b = Math.max(2, Math.min(8, props.gauge.branchBaseMm * 8))
  return `M${22 - t} 6L${22 + t} 6L${48 + b / 2} ${40 - b / 2}L${48 - b / 2} ${40 + b / 2}Z`
})
const opening = computed(() => {
  const top = Math.max(3, props.gauge.kneeDiameterMm * 4), bottom = Math.min(30, Math.max(top, props.gauge.shaftFootDiameterMm * 4, top + 2 * 66 * Math.tan(radians(props.gauge.thickenDeg))), Math.max(props.gauge.thickestMm * 4, top))
  return `M${70 - top / 2} 4H${70 + top / 2}L${70 + bottom / 2} 70H${70 - bottom / 2}Z`
})
</script>

<template>
  <div class="gauge-drawing">
    <StiltDrawing class="whole" :sizes="sizes" :shapes="[gauge.tipShape]" :values="name => [sizes[name]]" foot="plate" shaft="shaft" :disabled="disabled" @change="setSize" @shape="emit('change', { tipShape: $event })" @drag="setDragged" />
    <div class="bands">
      <div v-for="d in drawings" :key="d.id" class="band">
        <svg width="118" :height="d.names.length * 26 - 2" :viewBox="`12 0 118 ${d.names.length * 26 - 2}`" aria-hidden="true">
          <path v-if="d.id === 'shaft'" :d="opening" fill="#1D6763" />
          <g v-else-if="d.id === 'lean'" fill="none" stroke="#1D6763" stroke-width="4">
            <path d="M70 6V46" stroke="#857C6B" stroke-width="1" stroke-dasharray="2 3" /><path :d="leaning(gauge.leanLimitDeg)" stroke="#857C6B" stroke-width="2" /><path :d="leaning(gauge.preferredLeanDeg)" />
          </g>
          <template v-else-if="d.id === 'model'">
            <path d="M20 72Q70 67 122 72V90H20Z" fill="#E4DED0" stroke="#4A453C" /><path :d="foot" fill="#1D6763" />
          </template>
          <g v-else-if="d.id === 'branch'" fill="none" stroke="#1D6763">
            <path d="M48 4V74M100 4V74" stroke-width="9" /><path d="M48 62L100 30" :stroke-width="Math.min(9, 3 + gauge.braceDiameterMm * 3)" />
            <path :d="branch" fill="#1D6763" stroke="none" />
          </g>
          <template v-else>
            <path d="M16 18H124V6H16Z" fill="#E4DED0" stroke="#4A453C" /><path d="M30 14V22L26 60V74H42V60L38 22V14Z M74 14V22L70 60V74H86V60L82 22V14Z" fill="#1D6763" /><path d="M100 30H128V74H100Z" fill="#E4DED0" stroke="#4A453C" />
            <path d="M34 68H78M86 50H100" stroke="#FFFDF8" stroke-width="5" fill="none" /><path d="M34 68H78M86 50H100" stroke="#24211C" fill="none" />
          </template>
        </svg>
        <div>
          <span v-for="name in d.names" :key="name" class="line"><i>{{ labels.get(name)?.label.toLowerCase() }}</i><NumberField :label="labels.get(name)?.label ?? name" :unit="labels.get(name)?.unit" :digits="labels.get(name)?.digits" :values="[gauge[name]]" :min="gaugeLimits(name)[0]" :max="gaugeLimits(name)[1]" :step="labels.get(name)?.unit === 'mm' ? 0.05 : 1" :disabled="disabled" @change="set(name, $event[0])" /></span>
        </div>
      </div>
    </div>
    <p v-for="w in warnings" :key="w" class="warning">{{ w }}</p>
  </div>
</template>

<style scoped>
.gauge-drawing { display: flex; flex-wrap: wrap; gap: 0 48px; }
.whole, .bands { width: 320px; }
.band { display: grid; grid-template-columns: 118px 1fr; align-items: center; border-top: 1px solid var(--divider); padding: 6px 0; white-space: nowrap; }
.line { display: flex; justify-content: flex-end; align-items: center; gap: 6px; height: 26px; }
.line i { font-style: normal; color: var(--quiet); font-size: 12px; }
.warning { font-size: 12.5px; margin-top: 6px; flex-basis: 100%; }
</style>
