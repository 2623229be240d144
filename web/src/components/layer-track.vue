<script setup lang="ts">
import { NCheckbox, NRadio, NRadioGroup } from 'naive-ui'
import { useResizeObserver } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { StrengthLanes } from '@oak-stilts/core/proof'
import { drawSymbol } from '../stage/symbols'
import { useBench } from '../bench/use-bench'
import { LANES, laneValues, useBenchStore, type Lane } from '../stores/bench'
import { kindOf, type Finding } from '../findings'
import { useJobStore } from '../stores/job'
import BenchPopover from './bench-popover.vue'
import { fitCanvas } from './fit-canvas'

// A canvas of our own: the lanes share one axis that zooms to single layers, symbols cluster by screen distance and carry shapes, and
// a drag must redraw thousands of layers within a frame.
const bench = useBench(), state = useBenchStore(), store = useJobStore()
const canvas = ref<HTMLCanvasElement | null>(null)
const props = defineProps<{ /** What the layers pull and what the stilts can carry, in the place of the signals. */ strength?: StrengthLanes | null }>()
const emit = defineEmits<{ table: [] }>()
const LEFT = 78
/** Marks nearer than this are one with a count; room for two digits under it, or beside it where the track is low. */
const CLUSTER_PX = 18, CLUSTER_LOW_PX = 26

/** Shown range in layers. */
const from = ref(0), to = ref(1)
watch(() => state.trackLayers, n => fit(n), { immediate: true })
function fit(n = state.trackLayers): void {
  from.value = 0
  to.value = Math.max(10, n)
}

interface Hit { readonly x: number; readonly y: number; readonly findings: Finding[] }
let hits: Hit[] = []

function draw(): void {
  const fitted = fitCanvas(canvas.value)
  if (!fitted) return
  const { context, width, height } = fitted
  context.fillStyle = '#FFFDF8'
  context.fillRect(0, 0, width, height)
  const low = height < 90
  const yScale = 11, yArea = low ? 16 : 20, yAreaEnd = low ? 38 : 46, yIsland = low ? 45 : 57, yCup = low ? 55 : 82, yStilt = low ? 65 : 95
  context.font = `${low ? 9.5 : 11}px 'IBM Plex Sans', sans-serif`
  context.fillStyle = '#6A6254'
  context.textBaseline = 'middle'
  context.textAlign = 'left'
  for (const [text, y] of [['layer, mm', yScale], ['findings', yIsland], ['cups, pools', yCup], ['selected', yStilt]] as const) context.fillText(text, 8, y)
  const result = state.result
  if (!result) return
  const span = to.value - from.value
  const x = (layer: number): number => LEFT + ((layer - from.value) / span) * (width - LEFT - 8)
  context.save()
  context.beginPath()
  context.rect(LEFT - 4, 0, width - LEFT + 4, height)
  context.clip()
  drawScale(context, x, span, width, yScale, result.layerMm)
  if (props.strength) drawStrength(context, props.strength, x, span, width, yArea, yAreaEnd)
  else {
    shownLanes.value.forEach((lane, i) => drawLane(context, signalOf(lane), i, span, width, yArea, yAreaEnd))
    drawJumps(context, x, yArea)
  }
  context.strokeStyle = '#D9D2C3'
  for (const y of [yAreaEnd, yIsland, yCup, yStilt]) {
    context.beginPath()
    context.moveTo(LEFT, y + 0.5)
    context.lineTo(width, y + 0.5)
    context.stroke()
  }
  hits = []
  const islands = state.shown.filter(f => kindOf(f).track === 'symbol').sort((a, b) => a.layer - b.layer)
  drawClusters(context, islands, x, yIsland, low)
  for (const f of state.shown) {
    const { track, symbol } = kindOf(f)
    if (track !== 'layers' && track !== 'outline') continue
    const a = x(f.layer), b = Math.max(a + 3, x(f.lastLayer + 1))
    context.fillStyle = context.strokeStyle = symbol.color
    // pools and what is waived are outlines
    if (track === 'outline' || f.state === 'waived') {
      if (f.state === 'waived') context.setLineDash([3, 2])
      context.strokeRect(a + 0.5, yCup - 3, Math.max(2, b - a - 1), 6)
      context.setLineDash([])
    } else context.fillRect(a, yCup - 3.5, b - a, 7)
    hits.push({ x: (a + b) / 2, y: yCup, findings: [f] })
  }
  context.fillStyle = '#1D6763'
  for (const s of state.chosenStilts) {
    if (s.foot === 'lost') continue
    const a = x(s.path[s.path.length - 1][2] / result.layerMm), b = x(s.path[0][2] / result.layerMm)
    context.fillRect(a, yStilt - 2.5, Math.max(2, b - a), 5)
  }
  if (state.scanState === 'cancelled' || state.scanState === 'scanning') {
    // hatched is what nobody has looked at since the last change, or at all
    const unseen = result.stage === 'layers' ? Math.max(LEFT, x(result.covered)) : LEFT
    context.fillStyle = 'rgba(106, 98, 84, 0.14)'
    for (let px = unseen; px < width; px += 7) context.fillRect(px, 0, 2, height)
  }
  const at = x(state.playhead + 0.5)
  context.fillStyle = '#8A5A1F'
  context.fillRect(at - 1, 0, 2, height)
  context.beginPath()
  context.moveTo(at - 6, 0)
  context.lineTo(at + 6, 0)
  context.lineTo(at, 8)
  context.fill()
  context.restore()
}

/** The first lane is filled, the others are lines over it, told apart by colour and dashes; each is drawn to its own peak. */
const LINES: readonly { readonly color: string; readonly dash: readonly number[] }[] = [
  { color: '#CFC6B4', dash: [] }, { color: '#8A5A1F', dash: [] }, { color: '#1A36A8', dash: [5, 2] }, { color: '#24211C', dash: [1.5, 2] }, { color: '#6E2A78', dash: [7, 2, 1.5, 2] }, { color: '#3A4A1A', dash: [3, 3] }, { color: '#560F2A', dash: [9, 3] },
]
const shownLanes = computed(() => LANES.filter(l => state.lanes.includes(l.id)))
const peaks = computed(() => {
  const s = state.signals
  return new Map(LANES.map(l => {
    let peak = 0
    if (s) for (const v of Array.from(laneValues(s, l))) if (v > peak) peak = v
    return [l.id, peak]
  }))
})
const ofPlate = computed(() => state.plateScan !== null && state.signalsFor === 'plate')
function setLane(lane: Lane, on: boolean): void {
  state.lanes = LANES.filter(l => (l.id === lane.id ? on : state.lanes.includes(l.id))).map(l => l.id)
}

/** Numbers of all layers, and the one that reaches to the top. */
interface Drawn {
  readonly values: ArrayLike<number>
  readonly peak: number
  /** Of layers that share a column of the screen the least one counts, not the largest. */
  readonly least?: boolean
}
function signalOf(lane: Lane): Drawn {
  return { values: state.signals ? laneValues(state.signals, lane) : [], peak: peaks.value.get(lane.id) || 1 }
}

/** What could be pulled is drawn up to so many times the largest pull: farther up it says no more. */
const CARRIES_TIMES = 3
/** What the layers pull, filled, under what the stilts can carry by then, and where the margin is thinnest. */
function drawStrength(context: CanvasRenderingContext2D, { pullN, canN }: StrengthLanes, x: (k: number) => number, span: number, width: number, top: number, bottom: number): void {
  const peak = CARRIES_TIMES * pullN.reduce((most, n) => Math.max(most, n), 0) || 1
  drawLane(context, { values: pullN, peak }, 0, span, width, top, bottom)
  drawLane(context, { values: canN.map(n => (Number.isNaN(n) ? peak : Math.min(peak, n))), peak, least: true }, 1, span, width, top, bottom)
  let thinnest = -1
  canN.forEach((n, k) => {
    if (!Number.isNaN(n) && pullN[k] > 0 && (thinnest < 0 || n / pullN[k] < canN[thinnest] / pullN[thinnest])) thinnest = k
  })
  if (thinnest < 0) return
  const at = Math.max(LEFT + 4, Math.min(width - 60, x(thinnest + 0.5)))
  context.fillStyle = '#24211C'
  context.beginPath()
  context.moveTo(at - 3.5, top - 1)
  context.lineTo(at + 3.5, top - 1)
  context.lineTo(at, top + 5)
  context.fill()
  context.textAlign = 'left'
  context.fillText(`${(canN[thinnest] / pullN[thinnest]).toFixed(2)} ×`, at + 6, top + 3)
}

/** A lane as the layer that stands out in every screen column, so that none is lost: the first is filled, others are lines. */
function drawLane(context: CanvasRenderingContext2D, { values, peak, least }: Drawn, index: number, span: number, width: number, top: number, bottom: number): void {
  const look = LINES[index % LINES.length]
  context.fillStyle = context.strokeStyle = look.color
  context.lineWidth = 1.4
  context.setLineDash([...look.dash])
  context.beginPath()
  const layersPerPx = span / (width - LEFT - 8)
  for (let px = LEFT; px < width - 8; px++) {
    const a = from.value + (px - LEFT) * layersPerPx, b = a + layersPerPx
    let out = least ? peak : 0
    for (let k = Math.max(0, Math.floor(a)); k < Math.min(values.length, Math.max(Math.floor(a) + 1, b)); k++) out = least ? Math.min(out, values[k]) : Math.max(out, values[k])
    const h = (out / peak) * (bottom - top)
    if (index === 0) context.fillRect(px, bottom - h, 1.02, h)
    else if (px === LEFT) context.moveTo(px, bottom - h)
    else context.lineTo(px, bottom - h)
  }
  if (index > 0) context.stroke()
  context.setLineDash([])
  context.lineWidth = 1
}

function drawJumps(context: CanvasRenderingContext2D, x: (k: number) => number, y: number): void {
  context.fillStyle = '#24211C'
  for (const k of state.signals?.jumps ?? []) {
    const at = x(k + 0.5)
    if (at < LEFT) continue
    context.beginPath()
    context.moveTo(at - 3.5, y - 1)
    context.lineTo(at + 3.5, y - 1)
    context.lineTo(at, y + 5)
    context.fill()
  }
}

function drawScale(context: CanvasRenderingContext2D, x: (k: number) => number, span: number, width: number, y: number, layerMm: number): void {
  const wanted = (span * 110) / (width - LEFT)
  const power = 10 ** Math.floor(Math.log10(Math.max(1, wanted)))
  const tick = Math.max(1, [1, 2, 5, 10].map(m => m * power).find(t => t >= wanted) ?? power * 10)
  context.fillStyle = '#24211C'
  context.textAlign = 'center'
  context.font = "11px 'IBM Plex Mono', monospace"
  for (let k = Math.ceil(from.value / tick) * tick; k <= to.value; k += tick) {
    if (x(k) < LEFT + 30 || x(k) > width - 34) continue
    context.fillText(`${k + (k === 0 ? 1 : 0)} · ${roundMm(k * layerMm)}`, x(k), y)
  }
  context.font = "11px 'IBM Plex Sans', sans-serif"
}

/** A height with no more decimals than it needs. */
function roundMm(mm: number): string {
  return String(Number(mm.toFixed(3)))
}

function drawClusters(context: CanvasRenderingContext2D, list: readonly Finding[], x: (k: number) => number, y: number, low: boolean): void {
  for (let i = 0; i < list.length;) {
    const start = x(list[i].layer)
    let j = i + 1
    while (j < list.length && x(list[j].layer) - start < (low ? CLUSTER_LOW_PX : CLUSTER_PX)) j++
    const group = list.slice(i, j)
    const middle = (start + x(list[j - 1].layer)) / 2
    if (middle > LEFT - 12) {
      drawSymbol(context, group[0].kind, (group.find(f => f.state === 'open') ?? group.find(f => f.state === 'partly') ?? group[0]).state, middle - 6, y - 6, 12, '#FFFDF8')
      if (group.length > 1) {
        context.fillStyle = '#24211C'
        context.textAlign = low ? 'left' : 'center'
        context.font = "9.5px 'IBM Plex Mono', monospace"
        context.fillText(String(group.length), low ? middle + 6 : middle, low ? y : y + 12)
        context.font = "11px 'IBM Plex Sans', sans-serif"
      }
      hits.push({ x: middle, y, findings: group })
    }
    i = j
  }
}

const layerAt = (clientX: number): number => {
  const box = (canvas.value as HTMLCanvasElement).getBoundingClientRect()
  return from.value + ((clientX - box.left - LEFT) / (box.width - LEFT - 8)) * (to.value - from.value)
}

let drag: { x: number; from: number; to: number; head: boolean; moved: boolean } | null = null
function down(event: PointerEvent): void {
  if (!state.result || !canvas.value) return
  canvas.value.setPointerCapture(event.pointerId)
  const box = canvas.value.getBoundingClientRect()
  const hit = nearest(event.clientX - box.left, event.clientY - box.top)
  if (hit) {
    const index = hit.findings.findIndex(f => f.key === state.selectedFinding)
    void bench.goTo(hit.findings[(index + 1) % hit.findings.length])
    return
  }
  // with the left button the playhead, with another one the shown range
  drag = { x: event.clientX, from: from.value, to: to.value, head: event.button === 0 && !event.altKey, moved: false }
  if (drag.head) state.setPlayhead(Math.floor(layerAt(event.clientX)))
}
function move(event: PointerEvent): void {
  if (!drag) return
  if (drag.head) {
    state.setPlayhead(Math.floor(layerAt(event.clientX)))
    return
  }
  const width = (canvas.value as HTMLCanvasElement).clientWidth - LEFT - 8
  const by = ((event.clientX - drag.x) / width) * (drag.to - drag.from)
  range(drag.from - by, drag.to - by)
}
function up(): void {
  drag = null
}
function nearest(x: number, y: number): Hit | null {
  let best: Hit | null = null
  for (const h of hits) if (Math.abs(h.y - y) < 9 && Math.abs(h.x - x) < 9 && (!best || Math.abs(h.x - x) < Math.abs(best.x - x))) best = h
  return best
}
function range(a: number, b: number): void {
  const n = Math.max(10, state.trackLayers)
  const span = Math.max(10, Math.min(n, b - a))
  const start = Math.max(0, Math.min(n - span, a))
  from.value = start
  to.value = start + span
}
function wheel(event: WheelEvent): void {
  if (event.shiftKey) {
    state.setPlayhead(state.playhead + (event.deltaY > 0 || event.deltaX > 0 ? -1 : 1))
    return
  }
  const at = layerAt(event.clientX), factor = Math.exp(Math.sign(event.deltaY) * 0.22)
  range(at - (at - from.value) * factor, at + (to.value - at) * factor)
}

useResizeObserver(canvas, draw)
watch([() => state.result, () => state.signals, () => state.playhead, from, to, () => state.shown, () => state.selectedStilts, () => state.scanState, () => store.stilts, () => state.lanes, () => props.strength], () => requestAnimationFrame(draw))

const text = computed(() => `Layer ${state.playhead + 1} of ${state.layerCount}`)
</script>

<template>
  <section class="track" aria-label="Layers of the print">
    <p v-if="strength" class="lanes" title="Estimates: what the film pulls in every layer, and what could be pulled before the weakest tip breaks; ▾ where the margin is thinnest"><span><i :style="{ borderTop: `5px solid ${LINES[0].color}` }" />pull</span><span><i :style="{ borderTop: `2px solid ${LINES[1].color}` }" />can carry</span></p>
    <BenchPopover v-else label="Signals" placement="top-start">
      <template #button>
        <button class="lanes" aria-haspopup="dialog" :title="ofPlate ? 'Signals of the whole plate are drawn over the layers' : 'Which signals are drawn over the layers'">
          <span class="visually-hidden">Signals drawn</span>
          <span v-for="(l, i) in shownLanes.slice(0, 2)" :key="l.id"><i :style="{ borderTop: i === 0 ? `5px solid ${LINES[0].color}` : `2px solid ${LINES[i].color}` }" />{{ l.name }}{{ ofPlate ? ', all' : '' }}</span><span v-if="shownLanes.length > 2">+ {{ shownLanes.length - 2 }}</span><span v-if="!shownLanes.length">none</span>
        </button>
      </template>
      <NCheckbox v-for="l in LANES" :key="l.id" :checked="state.lanes.includes(l.id)" :title="l.explains" @update:checked="setLane(l, $event)">
        <span class="line"><i v-if="state.lanes.includes(l.id)" :style="{ borderTop: state.lanes[0] === l.id ? `5px solid ${LINES[0].color}` : `2px ${LINES[state.lanes.indexOf(l.id)].dash.length ? 'dashed' : 'solid'} ${LINES[state.lanes.indexOf(l.id)].color}` }" /> {{ l.name }} <span class="figure quiet">{{ (peaks.get(l.id) ?? 0).toFixed(l.id === 'pieces' ? 0 : 1) }} {{ l.unit }}</span></span>
      </NCheckbox>
      <NRadioGroup v-if="state.plateScan" v-model:value="state.signalsFor" size="small" aria-label="Signals of"><NRadio value="part">this part</NRadio><NRadio value="plate">whole plate</NRadio></NRadioGroup>
      <span class="buttons"><button class="plain-button" title="All layers as a table (Y)" @click="emit('table')">Table</button> <button class="plain-button" :disabled="!state.result" @click="bench.exportSignals()">Save as CSV</button></span>
      <p class="quiet">Figures are peaks. Peel is an estimate. ▾ marks a jump.</p>
    </BenchPopover>
    <canvas
      ref="canvas" tabindex="0" role="slider" aria-label="Layer track" aria-orientation="horizontal" :aria-valuemin="1" :aria-valuemax="Math.max(1, state.layerCount)" :aria-valuenow="state.playhead + 1" :aria-valuetext="text"
      title="Drag the playhead; wheel zooms, right drag pans, double click shows all layers" @pointerdown="down" @pointermove="move" @pointerup="up" @pointercancel="up" @contextmenu.prevent @dblclick="fit()" @wheel.prevent="wheel"
    />
  </section>
</template>

<style scoped>
i { display: inline-block; width: 12px; vertical-align: middle; margin-right: 4px; }
.lanes { position: absolute; left: 2px; top: 18px; display: grid; gap: 0; text-align: left; background: none; border: 0; border-radius: 3px; padding: 1px 5px; font-size: 11px; line-height: 14px; color: var(--quiet); cursor: pointer; text-decoration: underline dotted; text-underline-offset: 2px; }
.lanes:hover { background: #f6f1e6; }
@media (max-height: 720px) { .lanes { top: 14px; line-height: 11px; font-size: 9.5px; } }
.line { display: inline-flex; gap: 6px; align-items: center; }
.buttons { padding-top: 4px; }
.track { position: relative; background: var(--panel); border-top: 1px solid var(--divider); }
canvas { display: block; width: 100%; height: 104px; cursor: ew-resize; outline-offset: -2px; }
@media (max-height: 720px) { canvas { height: 72px; } }
</style>
