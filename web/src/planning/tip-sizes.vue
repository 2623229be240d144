<script setup lang="ts">
import { computed } from 'vue'
import type { PlanMeasures } from '@oak-stilts/core/contract'

/** How many tips there are of each diameter, as bars on one scale of diameters. */
const props = defineProps<{ sizes: PlanMeasures['tipsBySize'] }>()
const WIDTH = 200, HEIGHT = 34, FROM_MM = 0.1, TO_MM = 1.6
const bars = computed(() => {
  const most = Math.max(1, ...props.sizes.map(s => s.count))
  return props.sizes.map(s => ({ ...s, x: ((Math.min(TO_MM, Math.max(FROM_MM, s.mm)) - FROM_MM) / (TO_MM - FROM_MM)) * (WIDTH - 8), h: Math.max(2, (s.count / most) * (HEIGHT - 2)) }))
})
const said = computed(() => props.sizes.map(s => `${s.count} of ${s.mm.toFixed(2)} mm`).join(', '))
</script>

<template>
  <svg :width="WIDTH" :height="HEIGHT + 13" role="img" :aria-label="said">
    <title>{{ said }}</title>
    <rect v-for="b in bars" :key="b.mm" :x="b.x" :y="HEIGHT - b.h" width="7" :height="b.h" fill="#1D6763" />
    <path :d="`M0 ${HEIGHT}.5H${WIDTH}`" stroke="#857C6B" />
    <text x="0" :y="HEIGHT + 12">{{ FROM_MM }}</text><text :x="WIDTH / 2" :y="HEIGHT + 12" text-anchor="middle">⌀ mm</text><text :x="WIDTH" :y="HEIGHT + 12" text-anchor="end">{{ TO_MM }}</text>
  </svg>
</template>

<style scoped>
text { font: 10.5px var(--mono); fill: var(--quiet); }
</style>
