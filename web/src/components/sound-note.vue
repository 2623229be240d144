<script setup lang="ts">
import { computed } from 'vue'
import { troubleOf } from '../bench/soundness'
import { useBench } from '../bench/use-bench'
import { useJobStore } from '../stores/job'

/** Says beforehand where a mesh is not sound enough to have something taken out of it, and what helps. */
const bench = useBench(), store = useJobStore()
const trouble = computed(() => troubleOf(store.part))
</script>

<template>
  <div v-if="trouble" class="note" role="note">
    <template v-if="trouble === 'unmended'">
      <p>The mesh is taken as it came, with faults by which inside and outside are not told apart.</p>
      <button class="plain-button leading" @click="bench.setRecipe({ mended: true }, 'mend')">Mend it first</button>
    </template>
    <p v-else>Over 2 % of its edges are unclosed. What is taken out of it may not be what it looks like: repair it first in the program that made it.</p>
  </div>
</template>

<style scoped>
.note { display: grid; gap: 8px; justify-items: start; color: #560f2a; }
p { margin: 0; }
</style>
