<script setup lang="ts">
import { computed } from 'vue'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import LayerLook from './layer-look.vue'
import ScarList from './scar-list.vue'

/** What each tip bears of what it can, the weakest first, and what would be missed; what carries the layer in view; or what is left on the skin. */
defineProps<{ eye: () => Vec3 | null }>()
const bench = useBench(), state = useBenchStore(), store = useJobStore()
const TABS = [['strength', 'Weakest tips'], ['layer', 'This layer'], ['scars', 'Scars']] as const
/** Rows that are shown: what is stronger than so many is not of interest. */
const MOST = 60
const ends = computed(() => bench.proof.value?.ends.slice(0, MOST) ?? [])
const limit = computed(() => 1 / (store.job?.resin.margin ?? 2))
/** Ten times what it can bear is said in times. */
const percent = (share: number): string => (share >= 10 ? `${Math.round(share)} ×` : `${Math.round(share * 100)} %`)
const selected = computed(() => new Set(state.chosenStilts.map(s => s.number)))
const few = (numbers: readonly number[]): string => (numbers.length === 1 ? 'stilt' : 'stilts')
</script>

<template>
  <section class="sheet" :aria-label="state.proofTab === 'strength' ? 'What tips bear' : state.proofTab === 'layer' ? 'What carries this layer' : 'What is left on the skin'">
    <div class="tabs" role="tablist"><button v-for="[id, name] in TABS" :key="id" role="tab" :aria-selected="state.proofTab === id" @click="state.proofTab = id">{{ name }}<template v-if="id === 'scars' && bench.proof.value">{{ ' ' }}<span class="figure">{{ bench.proof.value.ends.length }}</span></template></button></div>
    <LayerLook v-if="state.proofTab === 'layer'" />
    <p v-else-if="!bench.proof.value" class="quiet">A proof scans part and stilts together, loads every layer with what the film pulls, and says which tip, shaft or branch is the weakest and where.</p>
    <ScarList v-else-if="state.proofTab === 'scars'" :ends="bench.proof.value.ends" :eye="eye" />
    <template v-else>
    <p v-if="bench.needed.value.length || bench.idle.value.length" class="missed">
      <button v-if="bench.needed.value.length" class="link-button" title="Without one of them something would fall, or another one would break" @click="bench.selectProved(bench.needed.value)">{{ bench.needed.value.length }} {{ few(bench.needed.value) }} cannot be missed</button>
      <span v-if="bench.idle.value.length" class="idle"><button class="link-button" title="They bear next to nothing, and nothing else would bear more without them" @click="bench.selectProved(bench.idle.value)">{{ bench.idle.value.length }} {{ few(bench.idle.value) }} {{ bench.idle.value.length === 1 ? 'bears' : 'bear' }} next to nothing</button><button v-if="!bench.proofStale.value" class="plain-button" @click="bench.takeIdleAway()">Take away</button></span>
    </p>
    <ul>
      <li v-for="e in ends" :key="e.id"><button :class="{ on: selected.has(e.stilt) }" :title="`Pulled by up to ${e.pulledN.toFixed(3)} N, pressed by up to ${e.pressedN.toFixed(3)} N, contact ${e.contactMm2.toFixed(3)} mm² on ${e.worth} skin`" @click="bench.showEnd(e)">
        <span>Stilt {{ e.stilt }}<template v-if="e.kind === 'foot'">, foot</template></span>
        <span class="bar" aria-hidden="true"><span :class="{ over: e.share > limit }" :style="{ width: `${Math.min(100, e.share * 100)}%` }" /></span>
        <span class="figure">{{ percent(e.share) }}</span>
        <span class="figure quiet" title="Layer in which it bears most">{{ e.layer < 0 ? '–' : e.layer + 1 }}</span>
      </button></li>
    </ul>
    </template>
  </section>
</template>

<style scoped>
.sheet { padding: 10px 10px 14px; font-size: 12.5px; }
.missed { display: grid; gap: 4px; margin-bottom: 8px; }
.missed .link-button { padding-left: 0; justify-self: start; }
.idle { display: flex; justify-content: space-between; align-items: center; }
.tabs { display: flex; gap: 14px; margin-bottom: 8px; }
.tabs button { background: none; border: 0; padding: 0 0 3px; cursor: pointer; border-bottom: 2px solid transparent; font-size: 13px; }
.tabs button[aria-selected='true'] { font-weight: 600; border-color: var(--accent); }
ul { list-style: none; margin: 0; padding: 0; }
li button { display: grid; grid-template-columns: 76px 1fr 48px 44px; gap: 8px; align-items: center; width: 100%; height: 26px; padding: 0 4px; background: none; border: 0; border-bottom: 1px solid #ece6d9; cursor: pointer; text-align: left; font-size: 12.5px; color: var(--ink); }
li button:hover { background: #f6f1e6; }
li .on { background: #f0e6d4; box-shadow: inset 2px 0 0 var(--accent); }
.figure { text-align: right; }
.bar { height: 6px; background: #ece6d9; border-radius: 3px; overflow: hidden; }
.bar span { display: block; height: 100%; background: #1d6763; }
.bar .over { background: #8a5a1f; }
</style>
