<script setup lang="ts">
import { contours } from 'd3-contour'
import { computed, onMounted, ref, watch } from 'vue'
import type { TiltAngles } from '@oak-stilts/core/pose'
import { figureOf, onScale, scoreOf, type Aim, type TriedTilt } from '@oak-stilts/core/tilts'
import { useBench } from '../bench/use-bench'
import { PALETTE } from '../styles/palette'
import { fieldOf, placeOf, tiltAt } from './map-field'
import { AIM_WORDS, figureText, tiltText } from './words'

/** A picture of all directions that can point down, on which equal areas are equal: the middle is how the file stands, the edge upside down. */
const props = defineProps<{ shows: Aim | 'all'; flags: readonly { readonly letter: string; readonly tilt: TiltAngles }[] }>()
const { tilts, pick } = useBench()
const SIZE = 232, CELLS = 78, LEVELS = [0.1, 0.25, 0.45, 0.7]
const canvas = ref<HTMLCanvasElement | null>(null)
const zero = computed(() => tilts.tiltNow.value?.zero)

const scales = computed(() => (tilts.search.value && tilts.search.value.tried.length > 0 ? tilts.search.value.scales : null))
function valueOf({ measures }: TriedTilt): number {
  const s = scales.value
  if (!s) return 0
  return Math.max(0, Math.min(1, props.shows === 'all' ? (scoreOf(measures, s, tilts.weights.value) - scores.value.least) / scores.value.range : onScale(props.shows, measures, s)))
}
/** The least score, and the range up to what nineteen of twenty stay under, so that the ramp is used. */
const scores = computed(() => {
  const s = scales.value
  if (!s) return { least: 0, range: 1 }
  const all = (tilts.search.value?.tried ?? []).map(t => scoreOf(t.measures, s, tilts.weights.value)).sort((a, b) => a - b)
  return { least: all[0], range: all[Math.floor(0.95 * (all.length - 1))] - all[0] || 1 }
})
/** The ends of the ramp in figures. */
const ends = computed(() => {
  const s = scales.value
  if (!s) return ['', '']
  if (props.shows === 'all') return ['best', 'worst']
  const { least, range } = s[props.shows]
  return [figureText(props.shows, least), `${figureText(props.shows, least + range)}${(tilts.search.value?.tried ?? []).some(t => figureOf(props.shows as Aim, t.measures) > least + range) ? ' and more' : ''}`]
})

const mix = (a: number[], b: number[], t: number): string => `rgb(${a.map((v, i) => Math.round(v + (b[i] - v) * t)).join()})`
const rgb = (hex: string): number[] => [1, 3, 5].map(i => parseInt(hex.slice(i, i + 2), 16))
const LOW = rgb(PALETTE.paper), HIGH = rgb(PALETTE.ink)
/** Not all the way to ink, so that lines can be told on it. */
const ramp = (v: number): string => mix(LOW, HIGH, 0.82 * v)

/** Drawn without a graphics card: so small a picture is handed to one more slowly than it is painted. */
function draw(): void {
  const element = canvas.value, context = element?.getContext('2d', { willReadFrequently: true })
  if (!element || !context) return
  const scale = Math.min(3, devicePixelRatio || 1), size = SIZE * scale
  if (element.width !== size) element.width = element.height = size
  context.clearRect(0, 0, size, size)
  context.save()
  context.beginPath()
  context.arc(size / 2, size / 2, size / 2 - scale, 0, 2 * Math.PI)
  context.clip()
  context.fillStyle = PALETTE.paper
  context.fillRect(0, 0, size, size)
  hatch(context, size, scale)
  const search = tilts.search.value
  const field = search && scales.value ? fieldOf(search.tried, search.symmetry, zero.value, valueOf, CELLS) : null
  if (field) {
    const cell = size / CELLS
    for (let i = 0; i < CELLS * CELLS; i++) {
      if (!field.tried[i]) continue
      context.fillStyle = ramp(field.values[i])
      context.fillRect((i % CELLS) * cell, Math.floor(i / CELLS) * cell, cell + 1, cell + 1)
    }
    context.lineWidth = scale
    for (const contour of contours().size([CELLS, CELLS]).thresholds(LEVELS)(Array.from(field.values))) {
      context.strokeStyle = contour.value > 0.4 ? PALETTE.paper : PALETTE.ink
      context.globalAlpha = 0.6
      context.beginPath()
      for (const polygon of contour.coordinates) for (const line of polygon) line.forEach(([x, y], k) => (k === 0 ? context.moveTo(x * cell, y * cell) : context.lineTo(x * cell, y * cell)))
      context.stroke()
    }
    context.globalAlpha = 1
  }
  context.setLineDash([3 * scale, 3 * scale])
  context.strokeStyle = PALETTE.control
  context.lineWidth = scale
  for (const deg of [45, 90, 135]) {
    context.beginPath()
    context.arc(size / 2, size / 2, Math.sin((deg * Math.PI) / 360) * size / 2, 0, 2 * Math.PI)
    context.stroke()
  }
  context.restore()
  context.setLineDash([])
  context.strokeStyle = PALETTE.control
  context.lineWidth = scale
  context.beginPath()
  context.arc(size / 2, size / 2, size / 2 - scale, 0, 2 * Math.PI)
  context.stroke()
}
/** What was not tried yet stays hatched. */
function hatch(context: CanvasRenderingContext2D, size: number, scale: number): void {
  context.strokeStyle = '#B9AF9C'
  context.lineWidth = scale
  context.beginPath()
  for (let d = -size; d < size; d += 7 * scale) {
    context.moveTo(d, size)
    context.lineTo(d + size, 0)
  }
  context.stroke()
}
onMounted(draw)
watch([() => tilts.search.value?.tried, () => props.shows, tilts.weights, zero, tilts.search], draw, { flush: 'post' })

const spot = (tilt: TiltAngles): Record<string, string> => {
  const [x, y] = placeOf(tilt)
  return { left: `${((x + 1) / 2) * SIZE}px`, top: `${((1 - y) / 2) * SIZE}px` }
}
function tiltUnder(event: PointerEvent | MouseEvent): TiltAngles | null {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  return tiltAt(((event.clientX - box.left) / box.width) * 2 - 1, 1 - ((event.clientY - box.top) / box.height) * 2, zero.value)
}
function choose(event: MouseEvent): void {
  const tilt = tiltUnder(event)
  if (tilt) pick(tilt)
}
const STEPS: Readonly<Record<string, readonly [number, number]>> = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [1, 0], ArrowDown: [-1, 0] }
/** Arrows go from tilt to tilt, Enter picks one. */
function key(event: KeyboardEvent): void {
  const step = STEPS[event.key], from = tilts.pointed.value ?? tilts.tiltNow.value
  if (event.key === 'Enter' && tilts.pointed.value) pick(tilts.pointed.value)
  else if (step && from && !event.altKey && !event.ctrlKey && !event.metaKey) {
    const by = event.shiftKey ? 1 : 5, wrap = (v: number): number => ((((v + 180) % 360) + 360) % 360) - 180
    tilts.pointed.value = { ...from, tiltXDeg: wrap(Math.round(from.tiltXDeg) + step[0] * by), tiltYDeg: Math.max(-90, Math.min(90, Math.round(from.tiltYDeg) + step[1] * by)) }
  } else return
  event.preventDefault()
  event.stopPropagation()
}
</script>

<template>
  <figure class="tilt-map">
    <div class="disc" role="application" tabindex="0" :style="{ width: `${SIZE}px`, height: `${SIZE}px` }" :aria-label="`Map of all tilts. Arrows go through them, Enter picks one.${tilts.pointed.value ? ` ${tiltText(tilts.pointed.value)}` : ''}`" @pointermove="tilts.pointed.value = tiltUnder($event)" @pointerleave="tilts.pointed.value = null" @blur="tilts.pointed.value = null" @click="choose" @keydown="key">
      <canvas ref="canvas" aria-hidden="true" />
      <span v-if="tilts.tiltNow.value" class="now" :style="spot(tilts.tiltNow.value)" title="As it stands now" />
      <span v-for="f in flags" :key="f.letter" class="flag" :style="spot(f.tilt)">{{ f.letter }}</span>
      <span v-if="tilts.pointed.value" class="pointed" :style="spot(tilts.pointed.value)" />
    </div>
    <figcaption class="ends"><span class="figure">{{ ends[0] }}</span><span class="ramp" :style="{ background: `linear-gradient(90deg, ${ramp(0)}, ${ramp(1)})` }" /><span class="figure">{{ ends[1] }}</span></figcaption>
    <p class="visually-hidden">The map shows {{ shows === 'all' ? 'all that counts' : AIM_WORDS[shows].name }}.</p>
  </figure>
</template>

<style scoped>
.tilt-map { display: grid; gap: 6px; justify-items: center; margin: 0; }
.disc { position: relative; border-radius: 50%; cursor: crosshair; }
canvas { width: 100%; height: 100%; display: block; }
.now, .flag, .pointed { position: absolute; transform: translate(-50%, -50%); pointer-events: none; }
.now { width: 15px; height: 15px; background: linear-gradient(var(--paper), var(--paper)) center / 15px 5px no-repeat, linear-gradient(var(--paper), var(--paper)) center / 5px 15px no-repeat; }
.now::after { content: ''; position: absolute; inset: 1px; background: linear-gradient(var(--accent), var(--accent)) center / 13px 3px no-repeat, linear-gradient(var(--accent), var(--accent)) center / 3px 13px no-repeat; }
.flag { min-width: 18px; padding: 0 4px; border-radius: 3px; background: var(--panel); border: 1px solid var(--ink); font: 600 12px/16px var(--mono); text-align: center; }
.pointed { width: 11px; height: 11px; border: 2px solid var(--accent); border-radius: 50%; background: var(--panel); }
.ends { display: grid; grid-template-columns: auto 1fr auto; gap: 8px; align-items: center; width: 100%; font-size: 12px; }
.ramp { height: 9px; border: 1px solid var(--control); border-radius: 2px; }
</style>
