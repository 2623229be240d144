<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { axisOf, type MovedNode, type Stilt } from '@oak-stilts/core/stilts'
import { useBench } from '../bench/use-bench'
import { latestOnly } from '../stage/latest-only'
import { useBenchStore } from '../stores/bench'

/** One stilt whole, from the side to which it leans most: its knee, joints and foot are dragged here, or moved by arrows. */
const props = defineProps<{ stilt: Stilt }>()
const bench = useBench(), state = useBenchStore()
const WIDTH = 300, HEIGHT = 128, EDGE = 14
/** By an arrow, mm; with Shift ten times that. */
const STEP_MM = 0.1

/** The way to which it leans, seen from above. */
const across = computed<readonly [number, number]>(() => {
  const { path } = props.stilt, [tip] = path
  const far = path.reduce((m, p) => (Math.hypot(p[0] - tip[0], p[1] - tip[1]) > Math.hypot(m[0] - tip[0], m[1] - tip[1]) ? p : m)), l = Math.hypot(far[0] - tip[0], far[1] - tip[1])
  return l > 0.05 ? [(far[0] - tip[0]) / l, (far[1] - tip[1]) / l] : [1, 0]
})
const moved = ref<readonly Vec3[] | null>(null)
watch(() => props.stilt, () => (moved.value = null))
const shape = computed(() => ({ ...props.stilt, path: moved.value ?? props.stilt.path }))
const own = computed(() => props.stilt.alone < props.stilt.nodes.length ? props.stilt.alone : props.stilt.path.length - 1)
const flat = (p: Vec3): readonly [number, number] => [p[0] * across.value[0] + p[1] * across.value[1], p[2]]
const frame = computed(() => {
  const points = props.stilt.path.map(flat), xs = points.map(p => p[0]), high = points[0][1], low = Math.min(0, ...points.map(p => p[1]))
  const scale = Math.min((HEIGHT - 2 * EDGE) / Math.max(1, high - low), (WIDTH - 2 * EDGE) / Math.max(6, Math.max(...xs) - Math.min(...xs) + 4)), middle = (Math.max(...xs) + Math.min(...xs)) / 2
  return { scale, x: (v: number): number => WIDTH / 2 + (v - middle) * scale, y: (z: number): number => HEIGHT - EDGE - (z - low) * scale }
})
const at = (p: Vec3): { x: number; y: number } => ({ x: frame.value.x(flat(p)[0]), y: frame.value.y(p[2]) })
const line = computed(() => axisOf(shape.value).slice(0, own.value + 1).map((p, i) => `${i ? 'L' : 'M'}${at(p).x} ${at(p).y}`).join(''))
const trunk = computed(() => (own.value < props.stilt.path.length - 1 ? axisOf(shape.value).slice(own.value).map((p, i) => `${i ? 'L' : 'M'}${at(p).x} ${at(p).y}`).join('') : ''))
const grips = computed(() => shape.value.path.flatMap((p, i) => (i === 0 || i > own.value || (i === props.stilt.path.length - 1 && props.stilt.foot !== 'plate') || (i === own.value && trunk.value) ? [] : [{ i, ...at(p), name: i === 1 ? 'Knee' : i === props.stilt.path.length - 1 ? 'Foot' : `Joint ${i - 1}` }])))

let held: { readonly i: number; readonly x: number; readonly y: number; readonly from: Vec3 } | null = null, latest: Extract<MovedNode, { ok: true }> | null = null, settled: Promise<void> = Promise.resolve()
const ask = latestOnly(async ({ i, to, force }: { i: number; to: Vec3; force: boolean }) => {
  const answer = await bench.workers().surface.moveNode(props.stilt.id, i, to, force)
  if (!answer) return
  if (answer.ok) {
    latest = answer
    moved.value = answer.shape.path
  }
  state.verdict = answer.ok ? `Lean ${answer.leanDeg.toFixed(0)}°, gap ${answer.gapMm >= 5 ? 'over 5' : Math.max(0, answer.gapMm).toFixed(2)} mm` : answer.reason
})
const moveBy = ({ i, from }: { i: number; from: Vec3 }, du: number, dz: number): Vec3 => [from[0] + across.value[0] * du, from[1] + across.value[1] * du, i === props.stilt.path.length - 1 ? from[2] : from[2] + dz]
function hold(i: number, event: PointerEvent): void {
  held = { i, x: event.clientX, y: event.clientY, from: props.stilt.path[i] }
  latest = null
  ;(event.target as Element).setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent): void {
  if (held) settled = ask({ i: held.i, to: moveBy(held, (event.clientX - held.x) / frame.value.scale, -(event.clientY - held.y) / frame.value.scale), force: event.ctrlKey || event.metaKey })
}
async function release(): Promise<void> {
  const own = held
  held = null
  await settled
  if (own) finish(own.i)
}
function finish(i: number): void {
  if (latest) bench.applyRows(`move ${i === 1 ? 'knee' : i === props.stilt.path.length - 1 ? 'foot' : 'joint'}`, { put: latest.rows, drop: { nodes: [], beams: [] } })
  else if (state.verdict) bench.say(state.verdict)
  latest = null
  moved.value = null
  state.verdict = ''
}
async function key(i: number, event: KeyboardEvent): Promise<void> {
  const step = STEP_MM * (event.shiftKey ? 10 : 1), by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, step], ArrowDown: [0, -step] }[event.key]
  if (!by) return
  event.preventDefault()
  event.stopPropagation()
  latest = null
  await ask({ i, to: moveBy({ i, from: props.stilt.path[i] }, by[0], by[1]), force: event.ctrlKey || event.metaKey })
  finish(i)
}
</script>

<template>
  <svg class="whole" :width="WIDTH" :height="HEIGHT" :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="group" aria-label="The whole stilt from the side">
    <line x1="8" :x2="WIDTH - 8" :y1="frame.y(0)" :y2="frame.y(0)" stroke="#857C6B" />
    <path v-if="trunk" :d="trunk" stroke="#A9C4C1" stroke-width="6" fill="none" stroke-linejoin="round" />
    <path :d="line" stroke="#1D6763" stroke-width="4" fill="none" stroke-linejoin="round" stroke-linecap="round" />
    <g v-for="g in grips" :key="g.i" class="grip" role="slider" tabindex="0" :aria-label="`${g.name}, moved by arrows`" :aria-valuetext="`${stilt.path[g.i].map(v => v.toFixed(2)).join(', ')} mm`" @pointerdown="hold(g.i, $event)" @pointermove="drag" @pointerup="release" @pointercancel="release" @keydown="key(g.i, $event)">
      <circle :cx="g.x" :cy="g.y" r="12" fill="transparent" /><circle :cx="g.x" :cy="g.y" r="5" fill="#FFFDF8" stroke="#8A5A1F" stroke-width="2" />
    </g>
  </svg>
</template>

<style scoped>
.whole { display: block; margin: 4px auto 0; touch-action: none; }
.grip { cursor: grab; outline-offset: 2px; }
</style>
