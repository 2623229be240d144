<script setup lang="ts">
import { computed, ref } from 'vue'
import type { CarryingEnd } from '@oak-stilts/core/proof'
import { useBench } from '../bench/use-bench'
import { SYMPTOMS } from '../print'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'

/** The layer in view: what it pulls, what carries it, the weakest first, and what changed in the layers before. */
const bench = useBench(), state = useBenchStore(), store = useJobStore()
const look = bench.lookInto(() => (state.layerCount > 0 ? state.playhead : null))
/** Rows that are shown: of ends at first, and at the most. */
const FEW = 8, MOST = 60
const all = ref(false), shown = computed(() => look.value?.ends.slice(0, all.value ? MOST : FEW) ?? [])
const limit = computed(() => 1 / (store.job?.resin.margin ?? 2)), selected = computed(() => new Set(state.chosenStilts.map(s => s.number)))
const loose = computed(() => look.value?.pieces.filter(p => !p.held) ?? []), looseMm2 = computed(() => loose.value.reduce((sum, p) => sum + p.areaMm2, 0))
const times = computed(() => (look.value && look.value.middleN > 0 ? look.value.pullN / look.value.middleN : null))
const carriedBy = computed(() => {
  const { ends = [], pieces = [] } = look.value ?? {}
  if (ends.length > 0) return `Carried by ${ends.length === 1 ? 'one tip' : `${ends.length} tips, weakest first`}`
  if (!pieces.some(p => p.onPlate)) return 'No tip carries it.'
  return bench.builtInTips.value.length > 0 ? 'Supports of the file itself carry it. Lifted out, each tells what it bears.' : 'It stands on the plate by itself.'
})
/** The print that failed in this layer, where one is being traced. */
const failed = computed(() => {
  const { outcome } = bench.traced.value ?? {}
  return outcome?.kind === 'failed' && look.value && bench.failedLayer.value?.layer === look.value.layer ? SYMPTOMS.find(s => s.id === outcome.symptom)?.name : undefined
})
const percent = (share: number): string => (share >= 10 ? `${Math.round(share)} ×` : `${Math.round(share * 100)} %`)
function show({ stilt, at }: CarryingEnd): void {
  bench.showPlace({ at: [at[0], at[1], at[2]], layer: null, figure: null, stilts: [stilt] })
}
</script>

<template>
  <p v-if="!look" class="quiet">{{ state.scanState === 'scanning' ? 'Scanning: what carries the layer is told after that.' : 'Looking into the layer.' }}</p>
  <div v-else class="look">
    <p v-if="failed" class="failed">Here a print failed: {{ failed.toLowerCase() }}.</p>
    <p><b>Layer {{ (look.layer + 1).toLocaleString('en') }}</b>: <span class="figure">{{ look.areaMm2.toFixed(1) }} mm²</span><template v-if="look.pieces.length > 1"> in {{ look.pieces.length }} pieces</template> <template v-if="look.pullN > 0">pull<template v-if="look.pieces.length === 1">s</template> <span class="figure">{{ look.pullN.toFixed(2) }} N</span> <span class="quiet">(estimate)</span><template v-if="times !== null && (times >= 1.2 || times <= 0.8)">, {{ times.toFixed(1) }} times the middle layer</template></template>.</p>
    <p v-if="loose.length" class="loose"><b>{{ loose.length === 1 ? 'One piece is' : `${loose.length} pieces are` }} held by nothing there</b>, {{ looseMm2.toFixed(looseMm2 < 1 ? 2 : 1) }} mm².</p>
    <h3>{{ carriedBy }}</h3>
    <ul>
      <li v-for="e in shown" :key="e.id"><button :class="{ on: selected.has(e.stilt) }" :title="`Pulled by up to ${e.pulledN.toFixed(3)} N in this layer`" @click="show(e)">
        <span>Stilt {{ e.stilt }}<template v-if="e.kind === 'foot'">, foot</template></span>
        <span class="bar" aria-hidden="true"><span :class="{ over: e.share > limit }" :style="{ width: `${Math.min(100, e.share * 100)}%` }" /></span>
        <span class="figure">{{ percent(e.share) }}</span>
        <span class="figure quiet">⌀{{ e.diameterMm.toFixed(2) }}</span>
      </button></li>
    </ul>
    <button v-if="look.ends.length > FEW" class="link-button more" :aria-expanded="all" @click="all = !all">{{ all ? 'Only the weakest' : `All ${look.ends.length}` }}</button>
    <template v-if="look.before.length">
      <h3>Changed in the 2 mm before it</h3>
      <ol><li v-for="(e, i) in look.before.slice(0, MOST)" :key="i"><button class="link-button figure" :title="`Show layer ${e.layer + 1}`" @click="state.setPlayhead(e.layer)">{{ (e.layer + 1).toLocaleString('en') }}</button> <span>{{ e.sentence }}</span></li></ol>
    </template>
    <p v-else-if="look.layer > 0" class="quiet">Nothing begins, joins or widens in the 2 mm before it.</p>
  </div>
</template>

<style scoped>
.look { display: grid; gap: 8px; }
.failed { border-left: 3px solid var(--accent); padding-left: 8px; }
h3 { font-size: 12.5px; font-weight: 600; }
ul, ol { list-style: none; margin: 0; padding: 0; }
ul button { display: grid; grid-template-columns: 76px 1fr 48px 44px; gap: 8px; align-items: center; width: 100%; height: 26px; padding: 0 4px; background: none; border: 0; border-bottom: 1px solid #ece6d9; cursor: pointer; text-align: left; font-size: 12.5px; color: var(--ink); }
ul button:hover { background: #f6f1e6; }
ul .on { background: #f0e6d4; box-shadow: inset 2px 0 0 var(--accent); }
ul .figure { text-align: right; }
.bar { height: 6px; background: #ece6d9; border-radius: 3px; overflow: hidden; }
.bar span { display: block; height: 100%; background: #1d6763; }
.bar .over { background: #8a5a1f; }
.more { justify-self: start; padding: 0 4px; text-decoration: underline; }
ol li { display: grid; grid-template-columns: 44px minmax(0, 1fr); gap: 8px; padding: 3px 0; align-items: baseline; }
ol .link-button { padding: 0; text-align: right; text-decoration: underline; }
</style>
