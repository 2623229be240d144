<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { WORTHS, type Worth } from '@oak-stilts/core/contract'
import type { Vec3 } from '@oak-stilts/core/mesh'
import type { ProvenEnd } from '@oak-stilts/core/proof'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'

/** What is left on the skin: by worth, the worst first, and what of it shows from where one looks. */
const props = defineProps<{ ends: readonly ProvenEnd[]; eye: () => Vec3 | null }>()
const bench = useBench(), state = useBenchStore()
/** Rows that are shown. */
const MOST = 60
/** What is worth most comes first. */
const ORDER: readonly Worth[] = ['off-limits', 'prized', 'plain', 'spare']
const sum = (list: readonly ProvenEnd[]): number => list.reduce((mm2, e) => mm2 + e.contactMm2, 0)
const totals = computed(() => ORDER.filter(w => WORTHS.includes(w)).map(worth => ({ worth, ends: props.ends.filter(e => e.worth === worth) })).filter(t => t.ends.length > 0))
/** Width of a mark beside how thick the part is there. */
const ratioOf = (e: ProvenEnd): number => (2 * Math.sqrt(e.contactMm2 / Math.PI)) / e.thicknessMm
const seen = ref<ReadonlySet<string> | null>(null)
watch(() => props.ends, () => (seen.value = null))
const rows = computed(() => totals.value.flatMap(t => [...t.ends].sort((a, b) => b.contactMm2 - a.contactMm2 || ratioOf(b) - ratioOf(a))).filter(e => !seen.value || seen.value.has(e.id)).slice(0, MOST))
const shown = computed(() => props.ends.filter(e => seen.value?.has(e.id)))
const chosen = computed(() => new Set(state.chosenStilts.map(s => s.number)))
async function look(): Promise<void> {
  const eye = props.eye()
  if (!eye) return
  const asked = props.ends, answer = await bench.workers().surface.marksSeen(eye, asked.map(e => e.at))
  if (asked === props.ends) seen.value = new Set(asked.filter((_, i) => answer[i]).map(e => e.id))
}
</script>

<template>
  <div class="scars">
    <dl>
      <template v-for="t in totals" :key="t.worth"><dt>{{ t.worth }}</dt><dd class="figure">{{ t.ends.length }}</dd><dd class="figure">{{ sum(t.ends).toFixed(2) }} mm²</dd></template>
    </dl>
    <p class="seen"><span role="status" aria-label="Seen from here">{{ seen === null ? 'How many show from a side?' : shown.length === 0 ? 'No mark shows.' : `${shown.length} of ${ends.length} show, ${sum(shown).toFixed(2)} mm²` }}</span> <button class="plain-button" title="Counts the marks that the present view shows" @click="look">Seen from here</button><button v-if="seen" class="link-button" @click="seen = null">All</button></p>
    <ul>
      <li v-for="e in rows" :key="e.id"><button :class="{ on: chosen.has(e.stilt) }" :title="`${e.contactMm2.toFixed(3)} mm² on ${e.worth} skin${Number.isFinite(e.thicknessMm) ? `; the part is ${e.thicknessMm.toFixed(2)} mm thick there` : ''}${e.ball ? '; a ball leaves a bead' : ''}`" @click="bench.showEnd(e)">
        <span>Stilt {{ e.stilt }}<template v-if="e.kind === 'foot'">, foot</template></span>
        <span class="quiet">{{ e.worth }}<template v-if="e.ball">, bead</template></span>
        <span class="figure">{{ e.contactMm2.toFixed(3) }}</span>
        <span class="figure quiet" title="Width of the mark beside how thick the part is there">{{ Number.isFinite(e.thicknessMm) ? ratioOf(e).toFixed(2) : '–' }}</span>
      </button></li>
    </ul>
  </div>
</template>

<style scoped>
dl { display: grid; grid-template-columns: 1fr auto auto; gap: 2px 14px; margin: 0 0 8px; }
dd { margin: 0; text-align: right; }
.seen { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; justify-content: space-between; margin-bottom: 6px; }
ul { list-style: none; margin: 0; padding: 0; }
li button { display: grid; grid-template-columns: 84px 1fr 52px 40px; gap: 8px; align-items: center; width: 100%; height: 26px; padding: 0 4px; background: none; border: 0; border-bottom: 1px solid #ece6d9; cursor: pointer; text-align: left; font-size: 12.5px; color: var(--ink); }
li button:hover { background: #f6f1e6; }
li .on { background: #f0e6d4; box-shadow: inset 2px 0 0 var(--accent); }
.figure { text-align: right; }
</style>
