<script setup lang="ts">
import { computed } from 'vue'
import type { SpreadWay } from '@oak-stilts/core/contract'
import NumberField from '../components/number-field.vue'
import { keptMm, WAY_NAMES, type SpreadChanges } from '../bench/spreading'
import { useBench } from '../bench/use-bench'
import { isSpreadTool, useBenchStore, type SpreadTool } from '../stores/bench'

/** How the next stilts are spread while a tool for that is in hand; else the spread that is selected, to be placed anew. */
const bench = useBench(), state = useBenchStore()
const tool = computed(() => (isSpreadTool(state.tool) ? state.tool : null))
const chosen = computed(() => {
  const spread = tool.value ? null : bench.chosenSpread.value
  return spread && spread.way.kind !== 'bed' ? { ...spread, way: spread.way } : null
})
const kind = computed<SpreadTool | null>(() => tool.value ?? chosen.value?.way.kind ?? null)
const spacing = computed(() => chosen.value?.spacingMm ?? bench.spacingMm.value)
const keeps = computed(() => (chosen.value ? chosen.value.keepMm > 0 : state.spread.keep))
const pattern = computed(() => (chosen.value?.way.kind === 'face' ? chosen.value.way.pattern : state.spread.pattern))
const margin = computed(() => (chosen.value?.way.kind === 'face' ? chosen.value.way.marginMm : state.spread.marginMm))
const pressure = computed(() => (chosen.value?.way.kind === 'strokes' ? chosen.value.way.pressure : state.spread.pressure))
const count = computed(() => (chosen.value ? bench.stiltsOfSpread(chosen.value.id).length : 0))
const HINTS: Readonly<Record<SpreadTool, string>> = {
  line: 'Click where it begins, turn the view as you like, click where it ends.',
  edge: 'Click at an edge; within a face its whole border is taken.',
  face: 'Click a face. Where skin is marked, all of that mark is taken.',
  strokes: 'Press and draw over the skin.',
}
const KEYS: Readonly<Record<SpreadTool, string>> = { line: 'R', edge: 'E', face: 'F', strokes: 'B' }

function change(changes: SpreadChanges, next: () => void): void {
  if (chosen.value) void bench.respread(chosen.value.id, changes)
  else next()
}
function setSpacing([mm]: readonly number[]): void {
  change({ spacingMm: mm, ...(keeps.value && { keepMm: keptMm(mm) }) }, () => (state.spread.spacingMm = mm))
}
function setKeep(keep: boolean): void {
  change({ keepMm: keep ? keptMm(spacing.value) : 0 }, () => (state.spread.keep = keep))
}
function setWay(more: Partial<Extract<SpreadWay, { kind: 'face' }>> & Partial<Extract<SpreadWay, { kind: 'strokes' }>>, next: () => void): void {
  if (chosen.value) void bench.respread(chosen.value.id, { way: { ...chosen.value.way, ...more } as SpreadWay })
  else next()
}
function drawAnew(): void {
  if (!chosen.value) return
  const { id, gauge, spacingMm, keepMm, way } = chosen.value
  Object.assign(state.spread, { anew: id, spacingMm, keep: keepMm > 0, ...(way.kind === 'face' && { pattern: way.pattern, marginMm: way.marginMm }), ...(way.kind === 'strokes' && { pressure: way.pressure }) })
  bench.chooseGauge(gauge)
  state.tool = way.kind
}
</script>

<template>
  <section v-if="kind" class="spread-sheet" aria-label="Spread">
    <header>
      <strong>{{ tool ? `Spread ${WAY_NAMES[kind]}` : `${count} ${WAY_NAMES[kind]}` }}</strong>
      <button v-if="chosen" class="link-button end" :title="`Draw it again (${KEYS[kind]}): its stilts are placed anew`" @click="drawAnew">Draw it anew</button>
    </header>
    <p v-if="tool" class="quiet hint">{{ state.spread.anew ? 'What is drawn now takes the place of the one before.' : HINTS[kind] }}</p>
    <div class="line">
      <span>Spacing</span>
      <span><button v-if="tool && state.spread.spacingMm !== null" class="link-button" @click="state.spread.spacingMm = null">as the gauge</button> <NumberField label="Spacing" :values="[spacing]" :min="0.2" :max="50" :step="0.1" @change="setSpacing" /></span>
    </div>
    <template v-if="kind === 'face'">
      <div v-if="tool" class="line"><label for="spread-by">Takes</label><select id="spread-by" v-model="state.spread.by"><option value="flat">the flat</option><option value="patch">all up to its creases</option></select></div>
      <div class="line"><label for="spread-pattern">Rows</label><select id="spread-pattern" :value="pattern" @change="setWay({ pattern: ($event.target as HTMLSelectElement).value as 'hexagonal' }, () => (state.spread.pattern = ($event.target as HTMLSelectElement).value as 'hexagonal'))"><option value="hexagonal">hexagonal</option><option value="square">square</option></select></div>
      <div class="line"><span>Margin</span><NumberField label="Margin" :values="[margin]" :min="0" :max="20" @change="setWay({ marginMm: $event[0] }, () => (state.spread.marginMm = $event[0]))" /></div>
    </template>
    <div v-if="kind === 'strokes'" class="line"><label for="spread-pressure">A pen’s pressure sets</label><select id="spread-pressure" :value="pressure" @change="setWay({ pressure: ($event.target as HTMLSelectElement).value as 'nothing' }, () => (state.spread.pressure = ($event.target as HTMLSelectElement).value as 'nothing'))"><option value="nothing">nothing</option><option value="spacing">the spacing</option><option value="gauge">the gauge</option></select></div>
    <label class="line"><span>Keep {{ keptMm(spacing).toFixed(2) }} mm to tips that stand</span><input type="checkbox" :checked="keeps" @change="setKeep(($event.target as HTMLInputElement).checked)" /></label>
  </section>
</template>

<style scoped>
.spread-sheet { padding: 8px 10px 10px; }
header { display: flex; align-items: center; gap: 10px; }
.end { margin-left: auto; }
.hint { font-size: 12.5px; margin: 2px 0; }
.line { display: flex; justify-content: space-between; align-items: center; gap: 8px; min-height: 28px; }
select { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 24px; color: var(--ink); }
</style>
