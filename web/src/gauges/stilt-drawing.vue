<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { TipShape } from '@oak-stilts/core/contract'
import { degrees, radians } from '@oak-stilts/core/mesh'
import { ballProfile, neckOf, type SizeName, type StiltSizes } from '@oak-stilts/core/stilts'
import NumberField from '../components/number-field.vue'
import { LABELS, LIMITS } from './sizes'

/** A side elevation that is broken like a workshop drawing: from tip to knee enlarged, then the foot. Its numbers are edited on it, its grips dragged. */
const props = defineProps<{
  /** As it is drawn. */
  sizes: StiltSizes
  /** Sizes of all that is shown, one each. */
  values: (name: SizeName) => readonly number[]
  shapes: readonly TipShape[]
  /** Where it ends; at a joint it is a branch, and what is below belongs to another. */
  foot: 'plate' | 'model' | 'lost' | 'joint'
  /** What is said beside the break: length and lean. */
  shaft: string
  disabled?: boolean
}>()
const emit = defineEmits<{ change: [name: SizeName, values: number[]]; shape: [shape: TipShape]; drag: [changes: Partial<StiltSizes>] }>()

const WIDTH = 320, AXIS = 70, TOP = 34, FOOT_SCALE = 6, KNEE_BOTTOM = 188, FOOT_TOP = 222, FOOT_BASE = 286
/** Steps of what is dragged, mm; and how far it goes for a pixel. */
const STEP_MM = 0.05, DRAGGED_MM = 1 / 25

const preview = ref<Partial<StiltSizes>>({})
watch(() => props.sizes, () => (preview.value = {}))
const drawn = computed(() => ({ ...props.sizes, ...preview.value }))
const shownValues = (name: SizeName): readonly number[] => (preview.value[name] === undefined ? props.values(name) : props.values(name).map(() => preview.value[name] as number))

const scale = computed(() => {
  const tall = drawn.value.coneLengthMm + 1.2
  return Math.max(8, Math.min(40, (KNEE_BOTTOM - TOP) / tall, 46 / (drawn.value.kneeDiameterMm / 2)))
})
const tipY = TOP + 14
const kneeY = computed(() => tipY + drawn.value.coneLengthMm * scale.value)
const half = (d: number): number => Math.min(56, (d / 2) * scale.value)
const footHalf = (d: number): number => Math.min(56, (d / 2) * FOOT_SCALE * (props.foot === 'model' ? 3 : 1))

const coneOutline = computed(() => {
  const d = drawn.value, k = half(d.kneeDiameterMm)
  const side = d.tipShape === 'ball'
    ? ballProfile(d.tipDiameterMm / 2, d.penetrationMm).map(([at, r]): [number, number] => [r * scale.value, tipY + at * scale.value])
    : [[half(d.tipDiameterMm), tipY - d.penetrationMm * scale.value], [half(d.tipDiameterMm), tipY]]
  const right = side.map(([x, y]) => `L${AXIS + x} ${y}`).join(''), left = side.toReversed().map(([x, y]) => `L${AXIS - x} ${y}`).join('')
  const top = d.tipShape === 'ball' ? tipY - d.penetrationMm * scale.value : side[0][1]
  return `M${AXIS} ${top}${right}L${AXIS + k} ${kneeY.value}V${KNEE_BOTTOM + 14}l${-k / 2} -5l${-k / 2} 5l${-k / 2} -5l${-k / 2} 5V${kneeY.value}${left}Z`
})
const footOutline = computed(() => {
  const d = drawn.value, s = footHalf(d.shaftFootDiameterMm), r = footHalf(d.footDiameterMm)
  if (props.foot === 'joint') return `M${AXIS - s} ${FOOT_TOP}l${s / 2} 5l${s / 2} -5l${s / 2} 5l${s / 2} -5V${FOOT_BASE - 20}L${AXIS - s} ${FOOT_BASE - 16}Z`
  if (props.foot === 'model') return `M${AXIS - s} ${FOOT_TOP}l${s / 2} 5l${s / 2} -5l${s / 2} 5l${s / 2} -5V${FOOT_BASE - 26}L${AXIS + r} ${FOOT_BASE}H${AXIS - r}L${AXIS - s} ${FOOT_BASE - 26}Z`
  const h = Math.max(4, d.footHeightMm * FOOT_SCALE)
  return `M${AXIS - s} ${FOOT_TOP}l${s / 2} 5l${s / 2} -5l${s / 2} 5l${s / 2} -5V${FOOT_BASE - h}L${AXIS + r} ${FOOT_BASE - h * 0.4}V${FOOT_BASE}H${AXIS - r}V${FOOT_BASE - h * 0.4}L${AXIS - s} ${FOOT_BASE - h}Z`
})
const plateFoot = computed(() => props.foot !== 'model' && props.foot !== 'joint')
const shownRows = computed(() => rows.filter(r => (plateFoot.value || r.only !== 'plate') && (props.foot === 'model' || r.only !== 'model') && (props.foot !== 'joint' || r.top() < 240)))

/** How much a cone opens to each side, degrees. */
const taperOf = (tip: number, knee: number, cone: number): number => degrees(Math.atan((knee - tip) / 2 / cone))
const tapers = computed(() => {
  const tips = shownValues('tipDiameterMm'), knees = shownValues('kneeDiameterMm'), cones = shownValues('coneLengthMm')
  return tips.map((t, i) => taperOf(neckOf({ tipShape: props.shapes[i] ?? props.sizes.tipShape, tipDiameterMm: t }), knees[i], cones[i]))
})
/** A taper sets the knee; length and tip stay. */
function setTaper(values: readonly number[]): void {
  const tips = props.values('tipDiameterMm'), cones = props.values('coneLengthMm')
  emit('change', 'kneeDiameterMm', values.map((v, i) => {
    const neck = neckOf({ tipShape: props.shapes[i] ?? props.sizes.tipShape, tipDiameterMm: tips[i] })
    return Math.min(LIMITS.kneeDiameterMm[1], Math.max(LIMITS.kneeDiameterMm[0], Math.round((neck + 2 * cones[i] * Math.tan(radians(v))) * 1000) / 1000))
  }))
}

// grips: the knee sets cone length and knee diameter, the foot's rim its diameter
let held: { grip: 'knee' | 'foot'; x: number; y: number; sizes: StiltSizes } | null = null
function hold(grip: 'knee' | 'foot', event: PointerEvent): void {
  if (props.disabled) return
  held = { grip, x: event.clientX, y: event.clientY, sizes: props.sizes }
  ;(event.target as Element).setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent): void {
  if (!held) return
  const dx = event.clientX - held.x, dy = event.clientY - held.y
  const keep = (name: SizeName, v: number): number => Math.round(Math.max(LIMITS[name][0], Math.min(LIMITS[name][1], v)) / STEP_MM) * STEP_MM
  if (held.grip === 'foot') preview.value = { footDiameterMm: keep('footDiameterMm', held.sizes.footDiameterMm + (2 * dx) / FOOT_SCALE) }
  else if (Math.abs(dy) > Math.abs(dx)) preview.value = { coneLengthMm: keep('coneLengthMm', held.sizes.coneLengthMm + dy * DRAGGED_MM) }
  else preview.value = { kneeDiameterMm: keep('kneeDiameterMm', held.sizes.kneeDiameterMm + 2 * dx * DRAGGED_MM) }
}
function release(): void {
  if (!held) return
  held = null
  if (Object.keys(preview.value).length > 0) emit('drag', { ...preview.value })
  preview.value = {}
}
const oneShape = computed(() => (new Set(props.shapes).size === 1 ? props.shapes[0] : ''))
const rows: readonly { readonly name: SizeName; readonly label: string; readonly top: () => number; readonly only?: 'plate' | 'model' }[] = [
  { name: 'penetrationMm', label: 'penetration', top: () => 30 },
  { name: 'coneLengthMm', label: 'cone', top: () => 62 },
  { name: 'kneeDiameterMm', label: 'knee ⌀', top: () => Math.max(118, Math.min(168, kneeY.value - 12)) },
  { name: 'shaftFootDiameterMm', label: 'shaft ⌀', top: () => 220 },
  { name: 'footHeightMm', label: 'foot height', top: () => 248, only: 'plate' },
  { name: 'footPenetrationMm', label: 'goes in', top: () => 248, only: 'model' },
  { name: 'footDiameterMm', label: 'foot ⌀', top: () => 276 },
]
</script>

<template>
  <div class="drawing">
    <svg :width="WIDTH" height="300" :viewBox="`0 0 ${WIDTH} 300`" aria-hidden="true">
      <path :d="`M14 ${tipY - 2}Q${AXIS} ${tipY + 2} 128 ${tipY - 8}V${TOP - 22}H14Z`" fill="#E4DED0" stroke="#4A453C" />
      <path :d="coneOutline" fill="#1D6763" />
      <line :x1="AXIS - half(drawn.kneeDiameterMm)" :x2="AXIS + half(drawn.kneeDiameterMm)" :y1="kneeY" :y2="kneeY" stroke="#FFFDF8" />
      <path :d="footOutline" fill="#1D6763" />
      <line :x1="AXIS" :x2="AXIS" :y1="KNEE_BOTTOM + 18" :y2="FOOT_TOP - 4" stroke="#6A6254" stroke-dasharray="2 3" />
      <path v-if="foot === 'joint'" :d="`M${AXIS - 30} ${FOOT_BASE - 40}h18V${FOOT_BASE}h-18Z`" transform="translate(22 0)" fill="#A9C4C1" />
      <line v-else x1="20" x2="128" :y1="FOOT_BASE" :y2="FOOT_BASE" stroke="#857C6B" />
      <g stroke="#6A6254" fill="none">
        <path :d="`M${AXIS + half(drawn.tipDiameterMm) + 3} ${tipY}H152`" />
        <path :d="`M${AXIS + half(drawn.kneeDiameterMm) + 3} ${kneeY}H152`" />
        <path :d="`M146 ${tipY}V${kneeY}M143 ${tipY + 5}L146 ${tipY}L149 ${tipY + 5}M143 ${kneeY - 5}L146 ${kneeY}L149 ${kneeY - 5}`" />
        <path v-if="foot !== 'joint'" :d="`M${AXIS + footHalf(drawn.footDiameterMm) + 3} ${FOOT_BASE - 1}H152`" />
      </g>
      <template v-if="!disabled">
        <g class="grip" @pointerdown="hold('knee', $event)" @pointermove="drag" @pointerup="release" @pointercancel="release">
          <circle :cx="AXIS + half(drawn.kneeDiameterMm)" :cy="kneeY" r="12" fill="transparent" /><circle :cx="AXIS + half(drawn.kneeDiameterMm)" :cy="kneeY" r="5" fill="#FFFDF8" stroke="#8A5A1F" stroke-width="2" />
        </g>
        <g v-if="plateFoot" class="grip" @pointerdown="hold('foot', $event)" @pointermove="drag" @pointerup="release" @pointercancel="release">
          <circle :cx="AXIS + footHalf(drawn.footDiameterMm)" :cy="FOOT_BASE - 3" r="12" fill="transparent" /><circle :cx="AXIS + footHalf(drawn.footDiameterMm)" :cy="FOOT_BASE - 3" r="5" fill="#FFFDF8" stroke="#8A5A1F" stroke-width="2" />
        </g>
      </template>
    </svg>
    <span class="at" style="top: 2px">
      <select class="shape" :value="oneShape" aria-label="Tip shape" title="A cone goes straight in; a ball gives a clean break, and leaves a bead on fine skin" :disabled="disabled" @change="emit('shape', ($event.target as HTMLSelectElement).value as TipShape)">
        <option v-if="!oneShape" value="" disabled>mixed</option>
        <option value="cone">cone</option><option value="ball">ball</option>
      </select>
      <i>tip ⌀</i><NumberField :label="LABELS.tipDiameterMm" :values="shownValues('tipDiameterMm')" :min="LIMITS.tipDiameterMm[0]" :max="LIMITS.tipDiameterMm[1]" :disabled="disabled" @change="emit('change', 'tipDiameterMm', $event)" />
    </span>
    <template v-for="r in shownRows" :key="r.name">
      <span class="at" :style="{ top: `${r.top()}px` }"><i>{{ foot === 'joint' && r.name === 'shaftFootDiameterMm' ? 'base ⌀' : r.label }}</i><NumberField :label="LABELS[r.name]" :values="shownValues(r.name)" :min="LIMITS[r.name][0]" :max="LIMITS[r.name][1]" :disabled="disabled" @change="emit('change', r.name, $event)" /></span>
    </template>
    <span class="at" style="top: 90px"><i title="How much the cone opens to each side; sets the knee">taper</i><NumberField label="Taper" unit="°" :digits="1" :values="tapers" :min="-60" :max="60" :step="1" :disabled="disabled" @change="setTaper" /></span>
    <span class="note figure" style="top: 200px">{{ shaft }}</span>
  </div>
</template>

<style scoped>
.drawing { position: relative; height: 302px; }
.at { position: absolute; right: 0; display: flex; align-items: center; gap: 6px; }
/* what is mixed needs more room than there is beside the drawing */
.at:has(.mixed) { background: color-mix(in srgb, var(--panel) 82%, transparent); border-radius: 4px; }
.at i { font-style: normal; color: var(--quiet); font-size: 12px; }
.note { position: absolute; right: 0; font-size: 11.5px; color: var(--quiet); background: var(--panel); padding: 0 3px; }
.grip { cursor: grab; }
.shape { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 24px; color: var(--ink); font-size: 12.5px; }
</style>
