<script setup lang="ts">
import { computed } from 'vue'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'

/** One verdict, and what was looked at under it, each with the place where it is worst. */
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const proof = computed(() => bench.proof.value)
const STATES = { good: 'as it should be', bad: 'to be seen to', note: 'to know' } as const
const checks = computed(() => [...(proof.value?.checks ?? [])].sort((a, b) => Number(b.state === 'bad') - Number(a.state === 'bad')))
</script>

<template>
  <aside class="proof" aria-label="Proof">
    <p class="verdict" role="status" aria-label="Verdict">
      <template v-if="bench.proving.value">{{ bench.proving.value }}</template>
      <template v-else-if="proof">{{ proof.verdict }}<span v-if="bench.proofStale.value" class="quiet"> It was changed since: prove it again.</span></template>
      <template v-else-if="!store.stilts.length">There are no stilts yet. Hold the part first.</template>
      <template v-else>Whether the part holds on its {{ store.stilts.length === 1 ? 'stilt' : `${store.stilts.length} stilts` }} is not proved yet.</template>
    </p>
    <div class="actions"><button class="plain-button" :class="{ leading: !proof || bench.proofStale.value }" :disabled="!!bench.proving.value || !store.stilts.length || state.scanState === 'scanning' || !!state.busy" title="Scans part and stilts together, loads every layer, and lets each stilt go in turn" @click="bench.prove()">{{ proof ? 'Prove again' : 'Prove' }}</button></div>
    <ul v-if="proof" class="checks" :class="{ stale: bench.proofStale.value }">
      <li v-for="c in checks" :key="c.kind">
        <button :disabled="!c.at && c.layer === null" :title="c.at || c.layer !== null ? 'Look at where it is worst' : ''" @click="bench.showCheck(c)">
          <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true"><path v-if="c.state === 'good'" d="M2 6.5 5 9.5 10 3" fill="none" stroke="#24211C" stroke-width="1.6" /><rect v-else-if="c.state === 'bad'" x="2" y="2" width="8" height="8" fill="#8A5A1F" /><path v-else d="M2 6H10" stroke="#6A6254" stroke-width="1.6" /></svg>
          <span class="visually-hidden">{{ STATES[c.state] }}: </span><span>{{ c.sentence }}</span>
        </button>
      </li>
    </ul>
    <p v-if="proof" class="quiet estimate">Loads and what can be borne are estimates, from the values of {{ store.job?.resin.name }} in <RouterLink to="/kit">Kit</RouterLink>.</p>
  </aside>
</template>

<style scoped>
.proof { display: flex; flex-direction: column; min-height: 0; overflow-y: auto; background: var(--panel); border-right: 1px solid var(--divider); }
.verdict { padding: 10px 12px 6px; font-weight: 600; line-height: 1.35; }
.verdict .quiet { font-weight: 400; }
.actions { padding: 0 12px 10px; }
.checks { list-style: none; margin: 0; padding: 0 4px; border-top: 1px solid var(--divider); }
.checks button { display: grid; grid-template-columns: 14px 1fr; gap: 8px; align-items: baseline; width: 100%; padding: 6px 8px; text-align: left; background: none; border: 0; border-bottom: 1px solid #ece6d9; cursor: pointer; font-size: 12.5px; line-height: 1.35; color: var(--ink); }
.checks button:hover:enabled { background: #f6f1e6; }
.checks button:disabled { cursor: default; }
.stale { opacity: 0.65; }
.estimate { padding: 8px 12px; font-size: 12px; }
</style>
