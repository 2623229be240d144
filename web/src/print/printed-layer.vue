<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useBench } from '../bench/use-bench'
import { fitCanvas } from '../components/fit-canvas'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import { PALETTE } from '../styles/palette'

/** A layer as the printer shows it: the picture of the package, in whole or pixel by pixel. It follows the playhead, and reaches layers above the part on the bench. */
const bench = useBench(), state = useBenchStore(), store = useJobStore()
const canvas = ref<HTMLCanvasElement | null>(null)
const count = computed(() => bench.slicedManifest.value?.layers.length ?? 0)
const layer = ref(Math.min(state.playhead, Math.max(0, count.value - 1))), zoom = ref<'plate' | 'lit' | 'pixels'>('lit'), trouble = ref('')
let bitmap: ImageBitmap | null = null, lit: readonly [number, number, number, number] = [0, 0, 1, 1], asked = 0
/** Screen pixels that a pixel of the printer takes when they are looked at one by one; room below for the name of the front. */
const PIXEL_PX = 6, LABEL_PX = 18

watch(() => state.playhead, k => (layer.value = Math.min(k, Math.max(0, count.value - 1))))
watch([layer, () => bench.sliced.value], load, { immediate: true })
watch(zoom, draw)
useResizeObserver(canvas, draw)

async function load(): Promise<void> {
  const ticket = ++asked, png = await bench.printedLayer(layer.value)
  if (ticket !== asked) return
  trouble.value = png ? '' : 'This layer cannot be shown.'
  const made = png && (await createImageBitmap(new Blob([png as BlobPart], { type: 'image/png' })).catch(() => null))
  if (ticket !== asked) {
    made?.close()
    return
  }
  bitmap?.close()
  bitmap = made
  lit = boxOf(made)
  draw()
}

/** What of a picture is lit, in pixels; looked for on a small copy. */
function boxOf(picture: ImageBitmap | null): readonly [number, number, number, number] {
  const step = picture ? Math.max(1, Math.ceil(picture.width / 512)) : 1, small = document.createElement('canvas'), context = picture && small.getContext('2d', { willReadFrequently: true })
  if (!picture || !context) return [0, 0, 1, 1]
  small.width = Math.ceil(picture.width / step)
  small.height = Math.ceil(picture.height / step)
  context.drawImage(picture, 0, 0, small.width, small.height)
  const { data } = context.getImageData(0, 0, small.width, small.height)
  let x0 = small.width, y0 = small.height, x1 = 0, y1 = 0
  for (let i = 0; i < data.length; i += 4) {
    if (data[i] < 8) continue
    const x = (i >> 2) % small.width, y = Math.floor((i >> 2) / small.width)
    x0 = Math.min(x0, x)
    x1 = Math.max(x1, x + 1)
    y0 = Math.min(y0, y)
    y1 = Math.max(y1, y + 1)
  }
  return x1 > x0 ? [x0 * step, y0 * step, x1 * step, y1 * step] : [0, 0, picture.width, picture.height]
}

function draw(): void {
  const fit = fitCanvas(canvas.value)
  if (!fit) return
  const { context, width, height } = fit
  context.fillStyle = PALETTE.paper
  context.fillRect(0, 0, width, height)
  if (!bitmap) return
  const box = zoom.value === 'plate' ? ([0, 0, bitmap.width, bitmap.height] as const) : lit, room = height - LABEL_PX
  const scale = zoom.value === 'pixels' ? PIXEL_PX : Math.min(width / (box[2] - box[0] + 40), room / (box[3] - box[1] + 40)), cx = (box[0] + box[2]) / 2, cy = (box[1] + box[3]) / 2
  context.imageSmoothingEnabled = scale < 1
  context.fillStyle = '#000'
  context.save()
  context.beginPath()
  context.rect(0, 0, width, room)
  context.clip()
  context.drawImage(bitmap, width / 2 - cx * scale, room / 2 - cy * scale, bitmap.width * scale, bitmap.height * scale)
  context.restore()
  context.fillStyle = PALETTE.quiet
  context.font = '12px "IBM Plex Sans"'
  context.textAlign = 'center'
  context.fillText('front of the plate', width / 2, height - 5)
}

function step(event: Event): void {
  const wanted = Math.round(Number((event.target as HTMLInputElement).value)) - 1
  if (Number.isFinite(wanted)) layer.value = Math.max(0, Math.min(count.value - 1, wanted))
  state.setPlayhead(layer.value)
  ;(event.target as HTMLInputElement).value = String(layer.value + 1)
}
const heightMm = computed(() => ((layer.value + 0.5) * (store.job?.layerMm ?? 0)).toFixed(2))
</script>

<template>
  <section class="printed" aria-label="Layer as the printer shows it">
    <header>
      <label>Layer <input type="number" class="figure" aria-label="Printed layer" :min="1" :max="count" :value="layer + 1" @change="step" /></label>
      <span class="quiet figure">of {{ count.toLocaleString('en') }}, {{ heightMm }} mm</span>
      <select v-model="zoom" aria-label="Part of the picture"><option value="lit">What is lit</option><option value="plate">Plate</option><option value="pixels">Pixels</option></select>
    </header>
    <canvas ref="canvas" role="img" :aria-label="trouble || `Layer ${layer + 1} as the printer shows it`" />
  </section>
</template>

<style scoped>
.printed { border-bottom: 1px solid var(--divider); }
header { display: flex; align-items: center; gap: 8px; padding: 6px 12px; }
header label { display: flex; align-items: baseline; gap: 5px; }
header span { font-size: 12px; white-space: nowrap; }
header select { margin-left: auto; max-width: 92px; }
input[type='number'] { width: 58px; border: 0; border-bottom: 1px solid var(--control); background: none; padding: 1px 2px; font-size: 13px; }
canvas { display: block; width: 100%; height: 200px; }
@media (max-height: 720px) { canvas { height: 150px; } }
</style>
