<script setup lang="ts">
import { computed } from 'vue'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'

/** What is known of the supports that a part arrived with, and the way to make stilts of them. */
const bench = useBench(), state = useBenchStore(), store = useJobStore()
const ROLES = { carrier: 'carries the part', structural: 'holds a region', detail: 'saves a detail' } as const
const count = computed(() => bench.builtInTips.value.length)
const range = computed(() => {
  const mm = bench.builtInTips.value.map(t => t.diameterMm)
  const [least, most] = [Math.min(...mm).toFixed(2), Math.max(...mm).toFixed(2)]
  return least === most ? least : `${least} to ${most}`
})
const said = computed(() => {
  const thin = bench.thinBuiltIn.value, came = `${count.value === 1 ? '1 support' : `${count.value} supports`} came with the file, with tips of ${range.value} mm${scaled.value ? ', scaled with it' : ''}.`
  return thin === 0 ? came : `${came} ${bench.builtInRoles.value ? (thin === 1 ? '1 that carries or holds a region is' : `${thin} that carry or hold a region are`) : thin === 1 ? '1 is' : `${thin} are`} thinner than ${state.leastTipMm.toFixed(2)} mm, which is commonly too thin for what carries.`
})
const scaled = computed(() => store.part?.recipe.scale.some(f => f !== 1) ?? false)
</script>

<template>
  <section v-if="count" class="arrived" aria-label="Supports that came with the file">
    <p>{{ said }}</p>
    <p v-if="bench.builtIn.value?.fused" class="quiet">They had grown into the part. What runs into its skin without an edge stays with it: look the stage over after lifting out.</p>
    <button class="plain-button leading" :disabled="!!state.busy" title="They become stilts that can be edited; the model is left whole where they stood" @click="bench.liftOutBuiltIn()">Lift them out</button>
    <details><summary>All tips, lowest first</summary>
      <ul><li v-for="(t, i) in bench.builtInTips.value" :key="i" class="figure"><span>at {{ t.heightMm.toFixed(1) }} mm</span><span v-if="t.role" class="quiet">{{ ROLES[t.role] }}</span><span>{{ t.shape }} ⌀{{ t.diameterMm.toFixed(2) }}</span></li></ul>
    </details>
  </section>
</template>

<style scoped>
.arrived { margin: 6px 10px; padding: 8px 10px; border: 1px solid var(--control); border-radius: 6px; font-size: 12.5px; }
.arrived p { margin: 0 0 6px; }
summary { margin-top: 6px; color: var(--quiet); cursor: pointer; }
ul { list-style: none; margin: 4px 0 0; padding: 0; max-height: 180px; overflow: auto; }
li { display: flex; justify-content: space-between; font-size: 12px; }
</style>
