<script setup lang="ts">
import type { FaultState } from '../part/faults'

/** A broken triangle: solid while it is open, an outline once it is mended, dashed where it is left as it is. */
defineProps<{ state: FaultState }>()
const PATH = 'M8 1.2 L15 14.4 H9.6 L8.6 11 L7 14.4 H1 L6 5.2 L7.6 8 Z'
</script>

<template>
  <svg width="16" height="16" viewBox="-0.5 -0.5 17 17" aria-hidden="true">
    <path :d="PATH" :fill="state === 'open' ? '#24211c' : 'none'" stroke="#24211c" :stroke-width="state === 'open' ? 0 : 1.4" stroke-linejoin="round" :stroke-dasharray="state === 'noted' ? '2.4 2' : undefined" />
  </svg>
</template>
