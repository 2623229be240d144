<script setup lang="ts">
import type { IslandClass } from '@oak-stilts/core/contract'
import { NCheckbox } from 'naive-ui'
import { computed } from 'vue'
import { useBenchStore } from '../stores/bench'
import { CLASS_NAMES, evidence, FINDING_KINDS, KINDS, NO_FILTER, STATE_NAMES, STATES, type FindingKind, type ShownState } from '../findings'
import BenchPopover from './bench-popover.vue'
import FindingSymbol from './finding-symbol.vue'

const state = useBenchStore()
const CLASSES: readonly IslandClass[] = ['body', 'limb', 'detail', 'flake']

function counts<T>(of: (f: (typeof state.worklist.findings)[number]) => T | undefined): Map<T, number> {
  const out = new Map<T, number>()
  for (const f of state.worklist.findings) {
    const key = of(f)
    if (key !== undefined) out.set(key, (out.get(key) ?? 0) + 1)
  }
  return out
}
const byKind = computed(() => counts(f => f.kind)), byClass = computed(() => counts(f => evidence(f, 'island')?.class)), byState = computed(() => counts(f => f.state))
const kinds = computed(() => KINDS.filter(k => byKind.value.has(k)))

function toggle<T>(all: readonly T[], chosen: readonly T[] | null, one: T, on: boolean): readonly T[] | null {
  const next = all.filter(x => (x === one ? on : !chosen || chosen.includes(x)))
  return next.length === all.length ? null : next
}
function setKind(kind: FindingKind, on: boolean): void {
  state.filter = { ...state.filter, kinds: toggle(KINDS, state.filter.kinds, kind, on) }
}
function setClass(one: IslandClass, on: boolean): void {
  state.filter = { ...state.filter, classes: toggle(CLASSES, state.filter.classes, one, on) }
}
function setState(one: ShownState, on: boolean): void {
  state.filter = { ...state.filter, states: STATES.filter(s => (s === one ? on : state.filter.states.includes(s))) }
}
const narrowed = computed(() => state.filter.kinds !== null || state.filter.classes !== null)
</script>

<template>
  <BenchPopover label="Filter of the worklist" placement="bottom-start">
    <template #button>
      <button class="plain-button" :class="{ pressed: narrowed }" aria-haspopup="dialog" title="Which findings the list, the model and the track show">Filter</button>
    </template>
    <fieldset>
      <legend>State</legend>
      <NCheckbox v-for="s in STATES" :key="s" :checked="state.filter.states.includes(s)" @update:checked="setState(s, $event)"><span class="line">{{ STATE_NAMES[s] }} <span class="figure quiet">{{ byState.get(s) ?? 0 }}</span></span></NCheckbox>
    </fieldset>
    <fieldset>
      <legend>Kind</legend>
      <NCheckbox v-for="k in kinds" :key="k" :checked="!state.filter.kinds || state.filter.kinds.includes(k)" @update:checked="setKind(k, $event)"><span class="line"><FindingSymbol :kind="k" state="open" /> {{ FINDING_KINDS[k].plural }} <span class="figure quiet">{{ byKind.get(k) }}</span></span></NCheckbox>
    </fieldset>
    <fieldset>
      <legend title="By what hangs on an island before it joins the rest">Islands by what hangs on them</legend>
      <NCheckbox v-for="c in CLASSES" :key="c" :checked="!state.filter.classes || state.filter.classes.includes(c)" @update:checked="setClass(c, $event)"><span class="line">{{ CLASS_NAMES[c] }} <span class="figure quiet">{{ byClass.get(c) ?? 0 }}</span></span></NCheckbox>
    </fieldset>
    <button class="link-button" @click="state.filter = NO_FILTER">Show what is open again</button>
  </BenchPopover>
</template>

<style scoped>
.line { display: inline-flex; align-items: center; gap: 6px; }
</style>
