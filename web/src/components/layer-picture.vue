<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { LAYER_CODES } from '@oak-stilts/core/scan'
import { LAYER_COLORS } from '../stage/model-layer'
import { useBench } from '../stage/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import { fitCanvas } from './fit-canvas'

const bench = useBench(), state = useBenchStore(), store = useJobStore()
const canvas = ref<HTMLCanvasElement | null>(null)
const zoom = ref<'part' | 'plate' | 'exact'>('part')
const pointer = ref<{ x: number; y: number } | null>(null)
const pixelMm = computed(() => store.job?.printer.pixelMm ?? 0.05)

interface Look { readonly cx: number; readonly cy: number; readonly scale: number }
let look: Look = { cx: 0, cy: 0, scale: 1 }

/** Middle of the picture and screen pixels a mm. */
function lookOf(width: number, height: number): Look {
  const printer = store.job?.printer
  const box = partBox.value
  if (zoom.value === 'plate' && printer) return { cx: 0, cy: 0, scale: Math.min(width / (printer.widthMm + 6), height / (printer.depthMm + 10)) }
  if (zoom.value === 'exact') {
    const at = state.finding?.at
    return { cx: at?.[0] ?? (box ? (box[0] + box[2]) / 2 : 0), cy: at?.[1] ?? (box ? (box[1] + box[3]) / 2 : 0), scale: 4 / pixelMm.value }
  }
  if (!box) return { cx: 0, cy: 0, scale: 4 }
  return { cx: (box[0] + box[2]) / 2, cy: (box[1] + box[3]) / 2, scale: Math.min(width / (box[2] - box[0] + 4), height / (box[3] - box[1] + 6)) }
}

/** The model's footprint, so that the picture stands still while the layers go by. */
const partBox = computed<[number, number, number, number] | null>(() => {
  const m = bench.placement.value, mesh = bench.model.value?.mesh
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
    const p = pixelMm.value, s = picture.spans
    // what matters most is drawn last, and never smaller than a screen pixel
    for (const code of [LAYER_CODES.cup, LAYER_CODES.model, LAYER_CODES.stilt, LAYER_CODES.islandHeld, LAYER_CODES.islandOpen]) {
      const least = code === LAYER_CODES.islandOpen ? 1.6 : 1
      context.fillStyle = code === LAYER_CODES.cup ? hatch(context) : LAYER_COLORS[code]
      for (let i = 0; i < s.length; i += 4) {
        if (s[i + 3] !== code) continue
        const x = toX(s[i + 1] * p), y = toY((s[i] + 1) * p)
        context.fillRect(x, y, Math.max(least, (s[i + 2] - s[i + 1]) * p * look.scale), Math.max(least, p * look.scale + 0.02))
      }
    }
  }
  const at = state.finding
  if (at && at.layer === state.playhead) {
    context.strokeStyle = '#8A5A1F'
    context.lineWidth = 1.5
    context.beginPath()
    context.arc(toX(at.at[0]), toY(at.at[1]), 9, 0, 2 * Math.PI)
    context.stroke()
    context.lineWidth = 1
  }
  context.fillStyle = '#6A6254'
  context.font = "11px 'IBM Plex Sans', sans-serif"
  context.textAlign = 'center'
  context.fillText('front', width / 2, height - 5)
}

let pattern: CanvasPattern | string | null = null
function hatch(context: CanvasRenderingContext2D): CanvasPattern | string {
  if (pattern) return pattern
  const tile = document.createElement('canvas')
  tile.width = tile.height = 6
  const t = tile.getContext('2d') as CanvasRenderingContext2D
  t.fillStyle = '#EEF0E4'
  t.fillRect(0, 0, 6, 6)
  t.strokeStyle = '#3A4A1A'
  t.beginPath()
  t.moveTo(0, 6)
  t.lineTo(6, 0)
  t.stroke()
  pattern = context.createPattern(tile, 'repeat') ?? '#C9D0B4'
  return pattern
}

function move(event: PointerEvent): void {
  const c = canvas.value
  if (!c) return
  const box = c.getBoundingClientRect()
  pointer.value = { x: look.cx + (event.clientX - box.left - box.width / 2) / look.scale, y: look.cy - (event.clientY - box.top - box.height / 2) / look.scale }
}

const observer = new ResizeObserver(draw)
onMounted(() => {
  if (canvas.value) observer.observe(canvas.value)
})
onBeforeUnmount(() => observer.disconnect())
watch([() => bench.picture.value, zoom, () => state.selectedFinding, partBox], draw)

const summary = computed(() => {
  const p = bench.picture.value
  if (!p) return ''
  return `${p.regions} ${p.regions === 1 ? 'region' : 'regions'}${p.enclosed ? `, ${p.enclosed} enclosed` : ''}`
})
</script>

<template>
  <section class="layer-picture" aria-label="Layer picture">
    <header>
      <strong>Layer <span class="figure" aria-label="Current layer">{{ state.layerCount ? state.playhead + 1 : '–' }}</span></strong>
      <span class="figure quiet">{{ ((state.playhead + 0.5) * (store.job?.printer.layerMm ?? 0.05)).toFixed(2) }} mm</span>
      <span class="zooms">
        <button v-for="z in (['part', 'plate', 'exact'] as const)" :key="z" class="link-button" :class="{ on: zoom === z }" :aria-pressed="zoom === z" @click="zoom = z">{{ z === 'part' ? 'Part' : z === 'plate' ? 'Plate' : '1:1' }}</button>
      </span>
    </header>
    <canvas ref="canvas" role="img" :aria-label="`Layer ${state.playhead + 1} from above: ${summary}`" @pointermove="move" @pointerleave="pointer = null" />
    <footer class="quiet"><span>{{ summary }}</span><span v-if="pointer" class="figure">{{ pointer.x.toFixed(2) }}, {{ pointer.y.toFixed(2) }} mm</span></footer>
  </section>
</template>

<style scoped>
.layer-picture { border-bottom: 1px solid var(--divider); }
header { display: flex; align-items: baseline; gap: 8px; padding: 7px 10px 4px; }
.zooms { margin-left: auto; display: flex; gap: 2px; }
.zooms button { color: var(--quiet); padding: 0 5px; }
.zooms button.on { color: var(--ink); text-decoration: underline; text-decoration-color: var(--accent); text-decoration-thickness: 2px; text-underline-offset: 4px; }
canvas { display: block; width: 100%; height: 200px; }
@media (max-height: 720px) { canvas { height: 150px; } }
footer { display: flex; justify-content: space-between; padding: 2px 10px 5px; font-size: 12px; min-height: 22px; }
</style>
