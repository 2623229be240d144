<script setup lang="ts">
import { computed } from 'vue'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'

/** The plate from above in true proportion: what stands where, what is chosen, and what does not fit. */
const bench = useBench(), state = useBenchStore(), store = useJobStore()
const printer = computed(() => store.job?.printer)
/** Room around the plate, mm; more to the right where something stands beside it. */
const MARGIN_MM = 4
const shapes = computed(() => {
  const { outside, overlaps } = bench.misplaced.value, wrong = new Set([...outside.map(o => o.copy), ...overlaps.flatMap(o => o.copies)])
  return (state.plateCheck?.boxes ?? []).map(b => {
    const part = store.parts.find(p => p.id === store.copies.find(c => c.id === b.copy)?.part)
    return { ...b, name: part?.name ?? '', points: b.outline.map(([x, y]) => `${x.toFixed(2)},${(-y).toFixed(2)}`).join(' '), on: b.copy === store.copy?.id, wrong: wrong.has(b.copy) }
  })
})
const frame = computed(() => {
  const p = printer.value
  if (!p) return ''
  const right = Math.max(p.widthMm / 2, ...shapes.value.map(s => s.max[0])), left = Math.min(-p.widthMm / 2, ...shapes.value.map(s => s.min[0])), low = Math.min(-p.depthMm / 2, ...shapes.value.map(s => s.min[1])), high = Math.max(p.depthMm / 2, ...shapes.value.map(s => s.max[1]))
  return `${left - MARGIN_MM} ${-high - MARGIN_MM} ${right - left + 2 * MARGIN_MM} ${high - low + 2 * MARGIN_MM}`
})
const edges = computed(() => {
  const p = printer.value
  if (!p || p.edgesMm.every(e => e === 0)) return null
  const [left, right, front, back] = p.edgesMm
  return { x: -p.widthMm / 2 + left, y: -p.depthMm / 2 + back, width: p.widthMm - left - right, height: p.depthMm - front - back }
})
</script>

<template>
  <svg v-if="printer" class="map" :viewBox="frame" role="group" aria-label="Plate from above">
    <rect :x="-printer.widthMm / 2" :y="-printer.depthMm / 2" :width="printer.widthMm" :height="printer.depthMm" class="ground" />
    <rect v-if="edges" v-bind="edges" class="edges" />
    <line :x1="-printer.widthMm / 2" :x2="printer.widthMm / 2" :y1="printer.depthMm / 2" :y2="printer.depthMm / 2" class="front" />
    <polygon v-for="(s, i) in shapes" :key="s.copy" :points="s.points" :class="{ on: s.on, wrong: s.wrong }" role="button" tabindex="0" :aria-label="`${s.name}, copy ${i + 1} on the plate${s.wrong ? ', does not fit' : ''}`" :aria-pressed="s.on" @click="store.chosenCopy = s.copy" @keydown.enter="store.chosenCopy = s.copy" @keydown.space.prevent="store.chosenCopy = s.copy"><title>{{ s.name }}{{ s.wrong ? ': does not fit' : '' }}</title></polygon>
  </svg>
</template>

<style scoped>
.map { width: 100%; max-height: 180px; display: block; }
.ground { fill: var(--paper); stroke: var(--control); stroke-width: 1; vector-effect: non-scaling-stroke; }
.edges { fill: none; stroke: var(--control); stroke-width: 1; stroke-dasharray: 3 3; vector-effect: non-scaling-stroke; }
.front { stroke: var(--ink); stroke-width: 2.5; vector-effect: non-scaling-stroke; }
polygon { fill: #c9c2b4; stroke: #4a453c; stroke-width: 1; vector-effect: non-scaling-stroke; cursor: pointer; }
polygon.on { stroke: var(--accent); stroke-width: 2.5; }
polygon.wrong { fill: #fff; stroke: var(--ink); stroke-dasharray: 4 3; stroke-width: 2; }
polygon:focus-visible { outline: none; stroke: var(--ink); stroke-width: 3; }
</style>
