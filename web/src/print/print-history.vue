<script setup lang="ts">
import { onMounted, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useBench } from '../bench/use-bench'
import { useJobStore } from '../stores/job'
import { dayText, outcomeText } from './outcomes'

/** What was printed of this job before; a print that is chosen is looked into at the right. */
const bench = useBench(), store = useJobStore()
const route = useRoute()
onMounted(async () => {
  await bench.loadPrints()
  // led here from the print log
  const asked = bench.prints.value?.find(p => p.id === route.query.trace)
  if (asked) bench.tracePrint(asked)
})
watch(() => store.job?.id, () => void bench.loadPrints())
</script>

<template>
  <section class="history" aria-label="Printed before">
    <h2>Printed before <span v-if="bench.prints.value?.length" class="figure">{{ bench.prints.value.length }}</span></h2>
    <p v-if="bench.prints.value && !bench.prints.value.length" class="quiet">Nothing yet. What a printer starts here is noted.</p>
    <ul v-else>
      <li v-for="p in bench.prints.value ?? []" :key="p.id"><button :class="{ on: bench.traced.value?.id === p.id }" :aria-pressed="bench.traced.value?.id === p.id" @click="bench.tracePrint(bench.traced.value?.id === p.id ? null : p)"><span class="mark" :class="p.outcome?.kind ?? 'open'" aria-hidden="true" /><span>{{ dayText(p.at) }}</span><span class="quiet">{{ outcomeText(p) }}</span></button></li>
    </ul>
    <button v-if="bench.prints.value" class="link-button" title="For a print that was made elsewhere" @click="bench.notePrint()">Note a print</button>
  </section>
</template>

<style scoped>
.history { border-top: 1px solid var(--divider); padding-top: 8px; }
h2 { font-size: 13px; font-weight: 600; }
h2 .figure { font-weight: 400; color: var(--quiet); }
ul { list-style: none; margin: 4px 0; padding: 0; max-height: 220px; overflow-y: auto; }
li button { display: grid; grid-template-columns: 12px auto 1fr; gap: 6px; align-items: center; width: 100%; min-height: 28px; text-align: left; background: none; border: 0; border-left: 3px solid transparent; padding: 2px 4px; font: inherit; color: var(--ink); cursor: pointer; }
li button.on { border-color: var(--accent); background: #efe9dc; }
.mark { width: 10px; height: 10px; border: 2px solid var(--ink); }
.mark.good { border-radius: 50%; background: var(--ink); }
.mark.failed { transform: rotate(45deg); }
.mark.open { border-style: dotted; border-radius: 50%; }
.link-button { padding-left: 0; text-decoration: underline; }
</style>
