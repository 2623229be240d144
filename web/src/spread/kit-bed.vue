<script setup lang="ts">
import { computed } from 'vue'
import type { PegBed } from '@oak-stilts/core/contract'
import { useDraft } from '../input/draft'

/** A bed of pegs of the workshop: seen from above, its gauges, and the resins that it proved with. */
const props = defineProps<{ entry: { readonly id: string; readonly bed: PegBed } }>()
const emit = defineEmits<{ change: [bed: PegBed]; gone: [] }>()
const { text: name, reset } = useDraft(() => props.entry.bed.name)
function rename(): void {
  const wanted = name.value.trim()
  if (wanted) emit('change', { ...props.entry.bed, name: wanted })
  else reset()
}
/** Size of the plan on the screen. */
const WIDTH = 420, HEIGHT = 280, RIM = 16
const plan = computed(() => {
  const { pegs, gauges } = props.entry.bed.pattern
  const sized = pegs.map(p => {
    const gauge = gauges.find(g => g.id === p.gauge)
    return { x: p.xMm, y: p.yMm, tip: (p.own.tipDiameterMm ?? gauge?.tipDiameterMm ?? 1) / 2, foot: (p.own.footDiameterMm ?? gauge?.footDiameterMm ?? 3) / 2 }
  })
  const least = (v: number[]): number => v.reduce((a, b) => Math.min(a, b), Infinity), most = (v: number[]): number => v.reduce((a, b) => Math.max(a, b), -Infinity)
  const x0 = least(sized.map(p => p.x - p.foot)), x1 = most(sized.map(p => p.x + p.foot)), y0 = least(sized.map(p => p.y - p.foot)), y1 = most(sized.map(p => p.y + p.foot))
  const scale = Math.min((WIDTH - 2 * RIM) / (x1 - x0), (HEIGHT - 2 * RIM) / (y1 - y0), 12)
  return {
    widthMm: x1 - x0, depthMm: y1 - y0,
    pegs: sized.map(p => ({ x: WIDTH / 2 + (p.x - (x0 + x1) / 2) * scale, y: HEIGHT / 2 - (p.y - (y0 + y1) / 2) * scale, tip: p.tip * scale, foot: p.foot * scale })),
  }
})
const heights = computed(() => props.entry.bed.pattern.gauges.map(g => `${g.name} (${g.tipDiameterMm.toFixed(2)} mm at the tip, ${g.footDiameterMm.toFixed(1)} at the foot)`))
</script>

<template>
  <div class="head">
    <input v-model="name" class="name" aria-label="Bed name" maxlength="120" @change="rename" @keydown.enter="($event.target as HTMLInputElement).blur()" />
    <button class="plain-button" @click="emit('gone')">Delete</button>
  </div>
  <svg :width="WIDTH" :height="HEIGHT" :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="img" :aria-label="`${entry.bed.pattern.pegs.length} pegs, seen from above`">
    <rect x="0.5" y="0.5" :width="WIDTH - 1" :height="HEIGHT - 1" fill="#FFFDF8" stroke="#D9D2C3" />
    <g v-for="(p, i) in plan.pegs" :key="i"><circle :cx="p.x" :cy="p.y" :r="p.foot" fill="#A8C0BB" /><circle :cx="p.x" :cy="p.y" :r="p.tip" fill="#1D6763" /></g>
  </svg>
  <p><b class="figure">{{ entry.bed.pattern.pegs.length }}</b> {{ entry.bed.pattern.pegs.length === 1 ? 'peg' : 'pegs' }} on <span class="figure">{{ plan.widthMm.toFixed(1) }} × {{ plan.depthMm.toFixed(1) }} mm</span>: {{ heights.join('; ') }}.</p>
  <p v-if="entry.bed.provedWith.length">Proved with {{ entry.bed.provedWith.map(p => `${p.resin} (${p.on})`).join(', ') }}.</p>
  <p v-else class="quiet">Not proved with any resin yet. In a job, select the bed that was dropped and say that it printed well.</p>
</template>

<style scoped>
.head { display: flex; align-items: center; gap: 10px; margin-bottom: 16px; }
.name { font-size: 16px; font-weight: 600; border: 1px solid var(--control); border-radius: 4px; background: var(--panel); padding: 3px 8px; width: 260px; }
p { margin-top: 10px; max-width: 640px; }
</style>
