<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { LOOSE_SWAY_MM, sideName, type StrengthLanes } from '@oak-stilts/core/proof'
import { LAYER_CODES } from '@oak-stilts/core/scan'
import { useDraft } from '../input/draft'
import { fillOf, REGION_LOOKS } from '../stage/layer-patterns'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import { PALETTE } from '../styles/palette'
import { fitCanvas } from './fit-canvas'

const bench = useBench(), state = useBenchStore(), store = useJobStore()
const canvas = ref<HTMLCanvasElement | null>(null)
const props = defineProps<{ /** How far what is laid moves under the side pull, and from where it is softest. */ sway?: StrengthLanes | null }>()
const zoom = ref<'part' | 'plate' | 'exact' | 'free'>('part')
const pointer = ref<{ x: number; y: number } | null>(null)
/** Whether what ends below this layer is drawn too. */
const difference = ref(true)
const pixelMm = computed(() => store.raster?.pixelMm ?? 0)

interface Look { readonly cx: number; readonly cy: number; readonly scale: number }
let look: Look = { cx: 0, cy: 0, scale: 1 }
const free = ref<Look>({ cx: 0, cy: 0, scale: 1 })
/** Screen pixels that a pixel of the printer takes at most. */
const LARGEST_PX = 48
/** Room below for the name of the front. */
const LABEL_PX = 18

function above(cx: number, cy: number, scale: number): Look {
  return { cx, cy: cy - LABEL_PX / 2 / scale, scale }
}

/** Middle of the picture and screen pixels a mm. */
function lookOf(width: number, height: number): Look {
  const printer = store.job?.printer
  const box = partBox.value
  if (zoom.value === 'free') return free.value
  if (zoom.value === 'plate' && printer) return above(0, 0, Math.min(width / (printer.widthMm + 6), (height - LABEL_PX) / (printer.depthMm + 6)))
  if (zoom.value === 'exact') {
    const at = state.finding?.at
    return { cx: at?.[0] ?? (box ? (box[0] + box[2]) / 2 : 0), cy: at?.[1] ?? (box ? (box[1] + box[3]) / 2 : 0), scale: 4 / pixelMm.value }
  }
  if (!box) return { cx: 0, cy: 0, scale: 4 }
  return above((box[0] + box[2]) / 2, (box[1] + box[3]) / 2, Math.min(width / (box[2] - box[0] + 4), (height - LABEL_PX) / (box[3] - box[1] + 4)))
}

/** The model's footprint, so that the picture stands still while the layers go by. */
const partBox = computed<[number, number, number, number] | null>(() => {
  const m = bench.stand.value, mesh = bench.model.value?.mesh
  if (!m || !mesh) return null
  const p = mesh.positions
  let x0 = Infinity, y0 = Infinity, x1 = -Infinity, y1 = -Infinity
  for (let i = 0; i < p.length; i += 3) {
    const x = m[0] * p[i] + m[1] * p[i + 1] + m[2] * p[i + 2] + m[3], y = m[4] * p[i] + m[5] * p[i + 1] + m[6] * p[i + 2] + m[7]
    if (x < x0) x0 = x
    if (x > x1) x1 = x
    if (y < y0) y0 = y
    if (y > y1) y1 = y
  }
  return [x0, y0, x1, y1]
})

function draw(): void {
  const fitted = fitCanvas(canvas.value)
  if (!fitted) return
  const { context, width, height } = fitted
  look = lookOf(width, height)
  context.fillStyle = '#FFFFFF'
  context.fillRect(0, 0, width, height)
  const toX = (mm: number): number => width / 2 + (mm - look.cx) * look.scale
  const toY = (mm: number): number => height / 2 - (mm - look.cy) * look.scale
  const printer = store.job?.printer
  if (printer) {
    context.strokeStyle = '#D9D2C3'
    context.strokeRect(toX(-printer.widthMm / 2), toY(printer.depthMm / 2), printer.widthMm * look.scale, printer.depthMm * look.scale)
  }
  const picture = bench.picture.value
  if (picture) {
    const p = pixelMm.value, spans = picture.spans, cell = p * look.scale
    // what matters most is drawn last, and never smaller than a screen pixel
    for (const kind of REGION_LOOKS) {
      if (kind.code === LAYER_CODES.gone && !difference.value) continue
      const least = kind.code === LAYER_CODES.freshHanging || kind.code === LAYER_CODES.hanging ? 1.6 : kind.code === LAYER_CODES.fresh || kind.code === LAYER_CODES.gone ? 0 : 1
      context.fillStyle = fillOf(context, kind)
      for (let i = 0; i < spans.length; i += 4) {
        if (spans[i + 3] !== kind.code) continue
        const x = toX(spans[i + 1] * p), y = toY((spans[i] + 1) * p), w = Math.max(least, (spans[i + 2] - spans[i + 1]) * cell), h = Math.max(least, cell + 0.02)
        if (x < width && y < height && x + w > 0 && y + h > 0) context.fillRect(x, y, w, h)
      }
    }
    if (cell >= 9) drawGrid(context, width, height, cell, toX, toY)
  }
  drawOutline(context, toX, toY)
  const at = state.finding
  if (at && at.layer === state.playhead) {
    context.strokeStyle = '#8A5A1F'
    context.lineWidth = 1.5
    context.beginPath()
    context.arc(toX(at.at[0]), toY(at.at[1]), 9, 0, 2 * Math.PI)
    context.stroke()
    context.lineWidth = 1
  }
  drawSway(context, width, height, toX, toY)
  context.fillStyle = '#6A6254'
  context.font = "11px 'IBM Plex Sans', sans-serif"
  context.textAlign = 'center'
  context.fillText('front', width / 2, height - 5)
}

/** How long the arrow is of what moves by as much as it may, and at most, screen pixels. */
const SWAY_PX = 40, MOST_SWAY_PX = 90
/** From where what is laid in this layer is soft, and how far it moves; null where that is not known, or nothing of it is large enough. */
const softest = computed(() => {
  const mm = props.sway?.swayMm[state.playhead], deg = props.sway?.softDeg[state.playhead]
  return mm === undefined || deg === undefined || !Number.isFinite(mm) ? null : { mm, deg, limitMm: store.job?.resin.swayMm ?? 0.1 }
})
/** The way in which what is laid moves most, as an arrow with two heads in the middle of the part. */
function drawSway(context: CanvasRenderingContext2D, width: number, height: number, toX: (mm: number) => number, toY: (mm: number) => number): void {
  const soft = softest.value, box = partBox.value
  if (!soft || !box) return
  const x = toX((box[0] + box[2]) / 2), y = toY((box[1] + box[3]) / 2), a = (soft.deg * Math.PI) / 180, [ux, uy] = [Math.cos(a), -Math.sin(a)]
  const length = Math.max(14, Math.min(MOST_SWAY_PX, 0.42 * Math.min(width, height), (SWAY_PX * soft.mm) / soft.limitMm))
  for (const [color, wide] of [['#FFFFFF', 5], [PALETTE.ink, 2]] as const) {
    context.strokeStyle = color
    context.lineWidth = wide
    context.beginPath()
    context.moveTo(x - ux * length, y - uy * length)
    context.lineTo(x + ux * length, y + uy * length)
    for (const way of [1, -1]) {
      for (const side of [1, -1]) {
        context.moveTo(x + way * ux * length, y + way * uy * length)
        context.lineTo(x + way * ux * (length - 9) + side * uy * 6, y + way * uy * (length - 9) - side * ux * 6)
      }
    }
    context.stroke()
  }
  context.lineWidth = 1
}

/** What hangs of the selected finding, or its vent, seen from above: what lies in this layer as a full line, what does not as a pale one. */
function drawOutline(context: CanvasRenderingContext2D, toX: (mm: number) => number, toY: (mm: number) => number): void {
  const lines = bench.outline.value, layerMm = store.raster?.layerMm ?? 0
  if (!lines) return
  const low = state.playhead * layerMm - 1e-6, high = (state.playhead + 1) * layerMm + 1e-6
  context.strokeStyle = PALETTE.island
  for (const here of [false, true]) {
    context.globalAlpha = here ? 1 : 0.45
    context.lineWidth = here ? 1.8 : 1
    context.beginPath()
    for (let i = 0; i < lines.length; i += 6) {
      if ((lines[i + 2] >= low && lines[i + 2] <= high) !== here) continue
      context.moveTo(toX(lines[i]), toY(lines[i + 1]))
      context.lineTo(toX(lines[i + 3]), toY(lines[i + 4]))
    }
    context.stroke()
  }
  context.globalAlpha = 1
  context.lineWidth = 1
}

/** Edges of the printer's pixels, once they are large enough to be counted. */
function drawGrid(context: CanvasRenderingContext2D, width: number, height: number, cell: number, toX: (mm: number) => number, toY: (mm: number) => number): void {
  const p = pixelMm.value
  context.strokeStyle = 'rgba(36, 33, 28, 0.16)'
  context.beginPath()
  for (let x = toX(Math.floor((look.cx - width / 2 / look.scale) / p) * p); x < width; x += cell) {
    context.moveTo(x, 0)
    context.lineTo(x, height)
  }
  for (let y = toY(Math.ceil((look.cy + height / 2 / look.scale) / p) * p); y < height; y += cell) {
    context.moveTo(0, y)
    context.lineTo(width, y)
  }
  context.stroke()
}

function mmAt(event: MouseEvent): { x: number; y: number } {
  const box = (canvas.value as HTMLCanvasElement).getBoundingClientRect()
  return { x: look.cx + (event.clientX - box.left - box.width / 2) / look.scale, y: look.cy - (event.clientY - box.top - box.height / 2) / look.scale }
}
function wheel(event: WheelEvent): void {
  if (event.shiftKey) {
    state.setPlayhead(state.playhead + (event.deltaY + event.deltaX > 0 ? -1 : 1))
    return
  }
  const at = mmAt(event), scale = Math.max(0.8, Math.min(LARGEST_PX / pixelMm.value, look.scale * Math.exp(-Math.sign(event.deltaY) * 0.25)))
  // the place under the pointer stays where it is
  free.value = { cx: at.x + ((look.cx - at.x) * look.scale) / scale, cy: at.y + ((look.cy - at.y) * look.scale) / scale, scale }
  zoom.value = 'free'
}
let panned: { x: number; y: number; from: Look } | null = null
function down(event: PointerEvent): void {
  canvas.value?.setPointerCapture(event.pointerId)
  panned = { x: event.clientX, y: event.clientY, from: look }
}
function up(): void {
  panned = null
}
function move(event: PointerEvent): void {
  if (panned && Math.hypot(event.clientX - panned.x, event.clientY - panned.y) > 2) {
    const { from } = panned
    free.value = { cx: from.cx - (event.clientX - panned.x) / from.scale, cy: from.cy + (event.clientY - panned.y) / from.scale, scale: from.scale }
    zoom.value = 'free'
  }
  pointer.value = mmAt(event)
}

useResizeObserver(canvas, draw)
watch([() => bench.picture.value, () => bench.outline.value, zoom, free, difference, () => state.selectedFinding, partBox, softest], draw)

/** Goes to the layer, or the height in mm, that was written. */
const { text: layer, reset: resetLayer } = useDraft(() => (state.layerCount ? String(state.playhead + 1) : '–'))
function goToLayer(leave: boolean, take = true): void {
  const layerMm = store.raster?.layerMm ?? 0, written = layer.value.trim()
  const found = /^(\d+(?:[.,]\d+)?)\s*(mm)?$/.exec(written)
  if (take && found) state.setPlayhead(found[2] ? Math.floor(Number(found[1].replace(',', '.')) / layerMm) : Number(found[1].replace(',', '.')) - 1)
  else if (take && written !== String(state.playhead + 1)) bench.say(`“${written}” is no layer. Write a number from 1 to ${state.layerCount}, or a height such as 12.5 mm.`)
  resetLayer()
  if (leave) document.querySelector<HTMLElement>('[role=application]')?.focus({ preventScroll: true })
}

/** What this layer has of the kinds that are told apart. */
const legend = computed(() => {
  const s = bench.picture.value?.spans
  const there = new Set<number>()
  if (s) for (let i = 3; i < s.length; i += 4) there.add(s[i])
  return REGION_LOOKS.filter(k => there.has(k.code) && (difference.value || k.code !== LAYER_CODES.gone)).reverse()
})
function swatch(c: HTMLCanvasElement | null, kind: (typeof REGION_LOOKS)[number]): void {
  const context = c?.getContext('2d')
  if (!context) return
  context.fillStyle = fillOf(context, kind)
  context.fillRect(0, 0, 14, 10)
}

const summary = computed(() => {
  const p = bench.picture.value
  if (!p) return ''
  const area = (n: number): string => `${(n * pixelMm.value ** 2).toFixed(2)} mm²`
  const sways = softest.value
  if (sways) return `Soft from ${sideName(sways.deg)}: moves ${sways.mm > LOOSE_SWAY_MM ? `more than ${LOOSE_SWAY_MM}` : sways.mm.toFixed(sways.mm < 0.1 ? 3 : 2)} mm here under the side pull`
  return `${p.pieces} ${p.pieces === 1 ? 'piece' : 'pieces'}${p.enclosed ? `, ${p.enclosed} enclosed` : ''}, new ${area(p.freshPixels)}${p.hangingPixels ? `, hanging ${area(p.hangingPixels)}` : ''}`
})
</script>

<template>
  <section class="layer-picture" aria-label="Layer picture">
    <header>
      <label class="layer"><strong>Layer</strong> <input v-model="layer" class="figure" inputmode="numeric" aria-label="Current layer" title="Write a layer, or a height such as 12.5 mm" :disabled="!state.layerCount" @focus="($event.target as HTMLInputElement).select()" @change="goToLayer(false)" @keydown.enter.stop="goToLayer(true)" @keydown.esc.stop="goToLayer(true, false)" /></label>
      <span v-if="state.layerCount" class="figure quiet">{{ ((state.playhead + 0.5) * (store.raster?.layerMm ?? 0)).toFixed(2) }} mm</span>
      <span class="zooms">
        <button class="link-button" :class="{ on: difference }" :aria-pressed="difference" title="Draw what ends in the layer below too" @click="difference = !difference">Below</button>
        <button v-for="z in (['part', 'plate', 'exact'] as const)" :key="z" class="link-button" :class="{ on: zoom === z }" :aria-pressed="zoom === z" @click="zoom = z">{{ z === 'part' ? 'Part' : z === 'plate' ? 'Plate' : 'Pixels' }}</button>
      </span>
    </header>
    <canvas ref="canvas" role="img" :aria-label="`Layer ${state.playhead + 1} from above: ${summary}`" title="Wheel zooms to the pointer, drag pans, double click shows the part" @pointerdown="down" @pointermove="move" @pointerup="up" @pointercancel="up" @pointerleave="pointer = null" @wheel.prevent="wheel" @dblclick="zoom = 'part'" />
    <span v-if="pointer" class="figure pointer" aria-hidden="true">{{ pointer.x.toFixed(2) }}, {{ pointer.y.toFixed(2) }} mm</span>
    <p v-if="legend.length" class="legend" role="group" aria-label="Legend"><span v-for="k in legend" :key="k.code"><canvas :ref="c => swatch(c as HTMLCanvasElement | null, k)" width="14" height="10" />{{ k.name }}</span></p>
    <footer class="quiet">{{ summary }}</footer>
  </section>
</template>

<style scoped>
.layer-picture { position: relative; border-bottom: 1px solid var(--divider); }
.pointer { position: absolute; top: 32px; right: 6px; padding: 0 4px; font-size: 12px; color: var(--ink); background: #ffffffd9; pointer-events: none; }
header { display: flex; align-items: baseline; gap: 6px; padding: 7px 10px 4px; }
.zooms { margin-left: auto; display: flex; gap: 2px; }
.zooms button { color: var(--quiet); padding: 0 4px; font-size: 12.5px; }
.zooms button.on { color: var(--ink); text-decoration: underline; text-decoration-color: var(--accent); text-decoration-thickness: 2px; text-underline-offset: 4px; }
section > canvas { display: block; width: 100%; height: clamp(150px, 27vh, 480px); cursor: crosshair; touch-action: none; }
@media (max-height: 720px) { section > canvas { height: 150px; } }
.layer { display: inline-flex; align-items: baseline; gap: 5px; }
header { white-space: nowrap; }
.layer input { width: 42px; padding: 0 3px; font-size: 12.5px; border: 1px solid transparent; border-bottom-color: var(--control); background: none; border-radius: 3px 3px 0 0; }
.layer input:hover, .layer input:focus { background: #fff; border-color: var(--control); }
.legend { display: flex; flex-wrap: wrap; gap: 2px 10px; padding: 3px 10px 0; font-size: 11.5px; color: var(--quiet); min-height: 19px; }
.legend span { display: inline-flex; align-items: center; gap: 4px; }
.legend canvas { border: 1px solid var(--divider); }
footer { padding: 2px 10px 5px; font-size: 12px; min-height: 22px; text-wrap: pretty; }
</style>
