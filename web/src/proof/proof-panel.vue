<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { ProofCheck, ProofCheckKind } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import ProofCheckRow from './proof-check-row.vue'

/** One verdict, and what was looked at under it, each with the places where it is worst and what helps. */
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const verdict = computed(() => bench.proofVerdict.value), proving = computed(() => bench.proving.value), stale = computed(() => bench.proofStale.value)
/** What is to be seen to first, then what was left as it is. */
const checks = computed<ProofCheck[]>(() => [...(bench.proofChecks.value ?? [])].sort((a, b) => rank(b) - rank(a)))
function rank(c: ProofCheck): number {
  return c.state === 'bad' ? (bench.checkWaiver(c) ? 1 : 2) : 0
}
const opened = ref<ProofCheckKind | null>(null)
watch(() => store.part?.id, () => (opened.value = null))
function toggle(kind: ProofCheckKind): void {
  opened.value = opened.value === kind ? null : kind
  const place = bench.proofChecks.value?.find(c => c.kind === opened.value)?.places[0]
  if (place) bench.showPlace(place)
}
</script>

<template>
  <aside class="proof" aria-label="Proof">
    <p class="verdict" role="status" aria-label="Verdict">
      <template v-if="proving">{{ proving }}</template>
      <template v-else-if="verdict">{{ verdict.verdict }}<span v-if="stale" class="quiet"> It was changed since: prove it again.</span></template>
      <template v-else-if="!store.stilts.length">There are no stilts yet. Hold the part by hand, or let it be made ready.</template>
      <template v-else>Whether the part holds on its {{ store.stilts.length === 1 ? 'stilt' : `${store.stilts.length} stilts` }} is not proved yet.</template>
    </p>
    <div v-if="!proving || !state.busy" class="actions">
      <button v-if="proving" class="plain-button" @click="bench.cancel()">Cancel</button>
      <template v-else>
      <button class="plain-button" :class="{ leading: !store.stilts.length }" :disabled="!!state.busy" title="Holds what hangs, braces what is slender, proves, repairs once, and proves again. Never moves the part." @click="bench.makeReady()">Make ready</button>
      <button v-if="store.stilts.length" class="plain-button" :class="{ leading: !verdict || stale }" :disabled="state.scanState === 'scanning' || !!state.busy" title="Scans part and stilts together, loads every layer, and lets each stilt go in turn" @click="bench.prove()">{{ verdict ? 'Prove again' : 'Prove' }}</button>
      </template>
    </div>
    <ul v-if="checks.length" class="checks" :class="{ stale }">
      <ProofCheckRow v-for="c in checks" :key="c.kind" :check="c" :open="opened === c.kind" @toggle="toggle(c.kind)" />
    </ul>
    <p v-if="checks.length" class="quiet estimate">Loads and what can be borne are estimates, from the values of {{ store.job?.resin.name }} in <RouterLink to="/kit">Kit</RouterLink>.</p>
  </aside>
</template>

<style scoped>
.proof { display: flex; flex-direction: column; min-height: 0; overflow-y: auto; background: var(--panel); border-right: 1px solid var(--divider); }
.verdict { padding: 10px 12px; font-weight: 600; line-height: 1.35; }
.verdict .quiet { font-weight: 400; }
.actions { display: flex; flex-direction: row-reverse; justify-content: flex-end; gap: 6px; padding: 0 12px 10px; margin-top: -4px; }
.checks { list-style: none; margin: 0; padding: 0 4px; border-top: 1px solid var(--divider); }
.stale { opacity: 0.75; }
.estimate { padding: 8px 12px; font-size: 12px; }
</style>
