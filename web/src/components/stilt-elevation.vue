<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { GAUGES, shaftOf, type SizeName, type Stilt, type StiltSizes } from '@oak-stilts/core/stilts'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import NumberField from './number-field.vue'

const props = defineProps<{ stilts: readonly Stilt[] }>()
const bench = useBench(), state = useBenchStore()

const WIDTH = 320, AXIS = 70, TOP = 34, FOOT_SCALE = 6, KNEE_BOTTOM = 188, FOOT_TOP = 222, FOOT_BASE = 286

const first = computed(() => props.stilts[0])
const preview = ref<Partial<StiltSizes>>({})
watch(() => props.stilts, () => (preview.value = {}))

/** A size of everything that is selected. */
function sizes(name: SizeName): number[] {
  return props.stilts.map(s => preview.value[name] ?? s.sizes[name])
}

const drawn = computed(() => ({ ...first.value.sizes, ...preview.value }))
const scale = computed(() => {
  const tall = drawn.value.coneLengthMm + 1.2
  return Math.max(8, Math.min(40, (KNEE_BOTTOM - TOP) / tall, 46 / (drawn.value.kneeDiameterMm / 2)))
})
const tipY = computed(() => TOP + 14)
const kneeY = computed(() => tipY.value + drawn.value.coneLengthMm * scale.value)
const half = (d: number): number => Math.min(56, (d / 2) * scale.value)
const footHalf = (d: number): number => Math.min(56, (d / 2) * FOOT_SCALE * (props.stilts[0].foot === 'model' ? 3 : 1))

const coneOutline = computed(() => {
  const d = drawn.value, pen = d.penetrationMm * scale.value
  const t = half(d.tipDiameterMm), k = half(d.kneeDiameterMm), y = tipY.value
  return `M${AXIS - t} ${y - pen}H${AXIS + t}V${y}L${AXIS + k} ${kneeY.value}V${KNEE_BOTTOM + 14}l${-k / 2} -5l${-k / 2} 5l${-k / 2} -5l${-k / 2} 5V${kneeY.value}L${AXIS - t} ${y}Z`
})
const footOutline = computed(() => {
  const d = drawn.value, s = footHalf(d.shaftFootDiameterMm), r = footHalf(d.footDiameterMm)
  if (first.value.foot === 'model') return `M${AXIS - s} ${FOOT_TOP}l${s / 2} 5l${s / 2} -5l${s / 2} 5l${s / 2} -5V${FOOT_BASE - 26}L${AXIS + r} ${FOOT_BASE}H${AXIS - r}L${AXIS - s} ${FOOT_BASE - 26}Z`
  const h = Math.max(4, d.footHeightMm * FOOT_SCALE)
  return `M${AXIS - s} ${FOOT_TOP}l${s / 2} 5l${s / 2} -5l${s / 2} 5l${s / 2} -5V${FOOT_BASE - h}L${AXIS + r} ${FOOT_BASE - h * 0.4}V${FOOT_BASE}H${AXIS - r}V${FOOT_BASE - h * 0.4}L${AXIS - s} ${FOOT_BASE - h}Z`
})
const shaft = computed(() => shaftOf(first.value.path))
const gap = ref<number | null>(null)
watch(first, async s => {
  gap.value = null
  const measured = await bench.workers().surface.gap(s).catch(() => null)
  if (s === first.value) gap.value = measured
}, { immediate: true })

const LABELS: Record<SizeName, string> = {
  tipDiameterMm: 'tip diameter', penetrationMm: 'penetration', coneLengthMm: 'cone length', kneeDiameterMm: 'knee diameter',
  shaftFootDiameterMm: 'shaft diameter', footDiameterMm: 'foot diameter', footHeightMm: 'foot height', footPenetrationMm: 'foot penetration',
}
const LIMITS: Record<SizeName, [number, number]> = {
  tipDiameterMm: [0.08, 5], penetrationMm: [0, 3], coneLengthMm: [0.4, 20], kneeDiameterMm: [0.2, 10], shaftFootDiameterMm: [0.2, 10], footDiameterMm: [0.2, 30], footHeightMm: [0.2, 5], footPenetrationMm: [0, 3],
}

function change(name: SizeName, values: readonly number[]): void {
  void bench.resize(props.stilts, i => ({ [name]: values[i] }), `change ${LABELS[name]}`)
}

// grips: the knee sets cone length and knee diameter, the foot's rim its diameter
let held: { grip: 'knee' | 'foot'; x: number; y: number; sizes: StiltSizes } | null = null
function hold(grip: 'knee' | 'foot', event: PointerEvent): void {
  held = { grip, x: event.clientX, y: event.clientY, sizes: first.value.sizes }
  ;(event.target as Element).setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent): void {
  if (!held) return
  const dx = event.clientX - held.x, dy = event.clientY - held.y
  const keep = (name: SizeName, v: number): number => Math.round(Math.max(LIMITS[name][0], Math.min(LIMITS[name][1], v)) / 0.05) * 0.05
  if (held.grip === 'foot') preview.value = { footDiameterMm: keep('footDiameterMm', held.sizes.footDiameterMm + (2 * dx) / FOOT_SCALE) }
  else if (Math.abs(dy) > Math.abs(dx)) preview.value = { coneLengthMm: keep('coneLengthMm', held.sizes.coneLengthMm + dy / 25) }
  else preview.value = { kneeDiameterMm: keep('kneeDiameterMm', held.sizes.kneeDiameterMm + (2 * dx) / 25) }
}
function release(): void {
  if (!held) return
  held = null
  const names = Object.keys(preview.value) as SizeName[]
  if (names.length > 0) {
    const changes = { ...preview.value }
    void bench.resize(props.stilts, () => changes, `change ${LABELS[names[0]]}`)
  }
  preview.value = {}
}

const title = computed(() => (props.stilts.length === 1 ? `Stilt ${first.value.number}` : `${props.stilts.length} stilts`))
const setByHand = computed(() => Object.keys(first.value.own).length)
const gauges = computed(() => [...new Set(props.stilts.map(s => s.gauge))])
const roles = { carrier: 'carries the part', structural: 'structural', detail: 'holds a detail' } as const
const plateFoot = computed(() => first.value.foot !== 'model')
</script>

<template>
  <section class="elevation" :aria-label="`${title}, side elevation`">
    <header>
      <strong>{{ title }}</strong>
      <label class="quiet">gauge
        <select :value="gauges.length === 1 ? gauges[0] : ''" aria-label="Gauge of the selection" @change="bench.regauge(($event.target as HTMLSelectElement).value)">
          <option v-if="gauges.length !== 1" value="" disabled>mixed</option>
          <option v-for="g in GAUGES" :key="g.id" :value="g.id">{{ g.name }}</option>
        </select>
      </label>
      <button class="link-button delete" title="Delete (Del)" @click="bench.remove()">Delete</button>
    </header>
    <div class="drawing">
      <svg :width="WIDTH" height="300" :viewBox="`0 0 ${WIDTH} 300`" aria-hidden="true">
        <path :d="`M14 ${tipY - 2}Q${AXIS} ${tipY + 2} 128 ${tipY - 8}V${TOP - 22}H14Z`" fill="#E4DED0" stroke="#4A453C" />
        <path :d="coneOutline" fill="#1D6763" />
        <line :x1="AXIS - half(drawn.kneeDiameterMm)" :x2="AXIS + half(drawn.kneeDiameterMm)" :y1="kneeY" :y2="kneeY" stroke="#FFFDF8" />
        <path :d="footOutline" fill="#1D6763" />
        <line :x1="AXIS" :x2="AXIS" :y1="KNEE_BOTTOM + 18" :y2="FOOT_TOP - 4" stroke="#6A6254" stroke-dasharray="2 3" />
        <line x1="20" x2="128" :y1="FOOT_BASE" :y2="FOOT_BASE" stroke="#857C6B" />
        <g stroke="#6A6254" fill="none">
          <path :d="`M${AXIS + half(drawn.tipDiameterMm) + 3} ${tipY}H152`" />
          <path :d="`M${AXIS + half(drawn.kneeDiameterMm) + 3} ${kneeY}H152`" />
          <path :d="`M146 ${tipY}V${kneeY}M143 ${tipY + 5}L146 ${tipY}L149 ${tipY + 5}M143 ${kneeY - 5}L146 ${kneeY}L149 ${kneeY - 5}`" />
          <path :d="`M${AXIS + footHalf(drawn.footDiameterMm) + 3} ${FOOT_BASE - 1}H152`" />
        </g>
        <g class="grip" @pointerdown="hold('knee', $event)" @pointermove="drag" @pointerup="release" @pointercancel="release">
          <circle :cx="AXIS + half(drawn.kneeDiameterMm)" :cy="kneeY" r="12" fill="transparent" /><circle :cx="AXIS + half(drawn.kneeDiameterMm)" :cy="kneeY" r="5" fill="#FFFDF8" stroke="#8A5A1F" stroke-width="2" />
        </g>
        <g v-if="plateFoot" class="grip" @pointerdown="hold('foot', $event)" @pointermove="drag" @pointerup="release" @pointercancel="release">
          <circle :cx="AXIS + footHalf(drawn.footDiameterMm)" :cy="FOOT_BASE - 3" r="12" fill="transparent" /><circle :cx="AXIS + footHalf(drawn.footDiameterMm)" :cy="FOOT_BASE - 3" r="5" fill="#FFFDF8" stroke="#8A5A1F" stroke-width="2" />
        </g>
      </svg>
      <span class="at" style="top: 2px"><i>tip ⌀</i><NumberField label="Tip diameter" :values="sizes('tipDiameterMm')" :min="LIMITS.tipDiameterMm[0]" :max="LIMITS.tipDiameterMm[1]" @change="change('tipDiameterMm', $event)" /></span>
      <span class="at" style="top: 30px"><i>penetration</i><NumberField label="Penetration" :values="sizes('penetrationMm')" :min="0" :max="3" @change="change('penetrationMm', $event)" /></span>
      <span class="at" :style="{ top: `${Math.max(62, (tipY + kneeY) / 2 - 12)}px` }"><i>cone</i><NumberField label="Cone length" :values="sizes('coneLengthMm')" :min="LIMITS.coneLengthMm[0]" :max="20" @change="change('coneLengthMm', $event)" /></span>
      <span class="at" :style="{ top: `${Math.max(94, Math.min(168, kneeY - 12))}px` }"><i>knee ⌀</i><NumberField label="Knee diameter" :values="sizes('kneeDiameterMm')" :min="LIMITS.kneeDiameterMm[0]" :max="10" @change="change('kneeDiameterMm', $event)" /></span>
      <span class="note figure" style="top: 200px">{{ first.foot === 'model' ? 'stick' : 'shaft' }} {{ shaft.lengthMm.toFixed(2) }} mm, lean {{ shaft.leanDeg.toFixed(0) }}°</span>
      <span class="at" style="top: 220px"><i>shaft ⌀</i><NumberField label="Shaft diameter" :values="sizes('shaftFootDiameterMm')" :min="LIMITS.shaftFootDiameterMm[0]" :max="10" @change="change('shaftFootDiameterMm', $event)" /></span>
      <span v-if="plateFoot" class="at" style="top: 248px"><i>foot height</i><NumberField label="Foot height" :values="sizes('footHeightMm')" :min="LIMITS.footHeightMm[0]" :max="5" @change="change('footHeightMm', $event)" /></span>
      <span class="at" style="top: 276px"><i>foot ⌀</i><NumberField label="Foot diameter" :values="sizes('footDiameterMm')" :min="LIMITS.footDiameterMm[0]" :max="30" @change="change('footDiameterMm', $event)" /></span>
    </div>
    <p class="facts quiet" :title="`The smallest gap to the part, and the area of the tip's contact. Drawn at ${scale.toFixed(0)} px/mm, the foot at ${FOOT_SCALE}.`">
      {{ roles[state.roleOf(first)] }}, {{ first.foot === 'lost' ? 'no way down' : gap === null ? 'measuring the gap' : gap < 0.02 ? 'a bead in a crevice, fuses with both faces' : `gap ${gap >= 5 ? 'over 5' : gap.toFixed(2)} mm` }}, contact {{ (Math.PI * (first.sizes.tipDiameterMm / 2) ** 2).toFixed(2) }} mm²
      <template v-if="setByHand">, {{ setByHand }} {{ setByHand === 1 ? 'size' : 'sizes' }} set by hand</template>
    </p>
  </section>
</template>

<style scoped>
.elevation { padding: 8px 10px 12px; }
header { display: flex; align-items: center; gap: 10px; margin-bottom: 4px; }
select { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 24px; margin-left: 4px; color: var(--ink); }
.delete { margin-left: auto; }
.drawing { position: relative; height: 302px; }
.at { position: absolute; right: 0; display: flex; align-items: center; gap: 6px; }
.at i { font-style: normal; color: var(--quiet); font-size: 12px; }
.note { position: absolute; right: 0; font-size: 11.5px; color: var(--quiet); background: var(--panel); padding: 0 3px; }
.grip { cursor: grab; }
.facts { font-size: 12.5px; margin-top: 4px; }
</style>
