<script setup lang="ts">
import { computed } from 'vue'
import { useBench } from '../bench/use-bench'
import { useJobStore } from '../stores/job'
import BenchDialog from './bench-dialog.vue'

/** Asks before a plan that was made for another part is put on this one. */
const bench = useBench(), store = useJobStore()
const sizes = computed(() => {
  const plan = bench.otherPlan.value?.plan, made = plan && plan.version !== 1 ? plan.madeFor?.sizeMm : undefined
  const text = (mm: readonly number[] | undefined): string => mm?.map(v => v.toFixed(1)).join(' × ') ?? ''
  return { made: text(made), here: text(store.part?.source.summary.sizeMm) }
})
function use(): void {
  const asked = bench.otherPlan.value
  bench.otherPlan.value = null
  if (asked) bench.usePlan(asked.plan)
}
</script>

<template>
  <BenchDialog :shown="bench.otherPlan.value !== null" title="Made for another part" width="440px" @update:shown="bench.otherPlan.value = null">
    <p>{{ bench.otherPlan.value?.name }} was made for a part of {{ sizes.made }} mm; this one has {{ sizes.here }} mm. Its stilts would stand where they stood there, whether they meet this part or not. The stilts that {{ store.part?.name }} has now are replaced; undo brings them back.</p>
    <p class="choices"><button class="plain-button leading" @click="bench.otherPlan.value = null">Leave it</button> <button class="plain-button" @click="use">Load it all the same</button></p>
  </BenchDialog>
</template>

<style scoped>
.choices { display: flex; gap: 8px; margin-top: 14px; }
</style>
