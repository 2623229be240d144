<script setup lang="ts">
import { WORTHS, type Worth } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import NumberField from './number-field.vue'

/** What the faces of the part are worth, how much skin each worth has, and how the next mark is made. */
const emit = defineEmits<{ markView: [] }>()
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const EXPLAINS: Readonly<Record<Worth, string>> = { prized: 'Avoid scars (1)', spare: 'Scars do no harm (2)', 'off-limits': 'Nothing may touch it (3)', plain: 'As usual (0)' }
const ORDER: readonly Worth[] = ['prized', 'spare', 'off-limits', 'plain']
const NAMES: Readonly<Record<Worth, string>> = { prized: 'Prized', spare: 'Spare', 'off-limits': 'Off-limits', plain: 'Plain' }
function choose(worth: Worth): void {
  state.worth = worth
  state.tool = 'mark'
}
const skin = (worth: Worth): string => {
  const mm2 = bench.skin.value[WORTHS.indexOf(worth)]
  return mm2 === 0 ? '–' : `${mm2.toFixed(mm2 < 10 ? 1 : 0)} mm²`
}
</script>

<template>
  <section aria-label="Faces">
    <h2>Faces</h2>
    <div role="radiogroup" aria-label="Worth" class="worths">
      <button v-for="w in ORDER" :key="w" role="radio" :aria-checked="state.worth === w && state.tool === 'mark'" :class="{ on: state.worth === w && state.tool === 'mark' }" :title="EXPLAINS[w]" @click="choose(w)"><span class="swatch" :class="w" aria-hidden="true" /><span>{{ NAMES[w] }}</span><span class="figure quiet">{{ skin(w) }}</span></button>
    </div>
    <template v-if="state.tool === 'mark'">
      <p class="line"><label for="mark-by">By</label><select id="mark-by" v-model="state.markBy"><option value="patch">patch, up to its creases</option><option value="flat">flat</option><option value="brush">strokes</option><option value="box">box</option></select></p>
      <p v-if="state.markBy === 'brush'" class="line"><span>Brush</span><NumberField label="Brush" :values="[state.brushMm]" :min="0.1" :max="50" :step="0.5" @change="state.brushMm = $event[0]" /></p>
      <button class="plain-button" title="Everything that is seen from where you look now (Shift + M)" @click="emit('markView')">Mark what is seen</button>
    </template>
    <button v-if="store.marks.length" class="link-button" @click="bench.clearMarks()">Take all marks off</button>
  </section>
</template>

<style scoped>
section { padding: 8px 0 12px; }
h2 { font-size: 13px; font-weight: 600; margin-bottom: 4px; }
.worths { margin: 0 -12px 6px; }
.worths button { display: grid; grid-template-columns: 18px 1fr auto; gap: 8px; align-items: center; width: 100%; min-height: 26px; padding: 0 12px 0 9px; background: none; border: 0; border-left: 3px solid transparent; text-align: left; cursor: pointer; }
.worths button:hover { background: #f6f1e6; }
.worths button.on { border-color: var(--accent); background: #f6f1e6; font-weight: 600; }
.worths .figure { font-size: 12px; font-weight: 400; }
.line { display: flex; justify-content: space-between; align-items: center; gap: 8px; margin-bottom: 6px; }
select { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 25px; min-width: 0; }
.swatch { width: 18px; height: 14px; border: 1px solid var(--control); background-color: #c9c2b4; background-size: 7px 7px; }
.prized { background-image: radial-gradient(circle, transparent 1.4px, var(--ink) 1.6px 2.5px, transparent 2.7px); }
.spare { background-image: radial-gradient(circle, var(--ink) 1.1px, transparent 1.3px); }
.off-limits { background-image: linear-gradient(45deg, transparent 44%, var(--ink) 44% 56%, transparent 56%), linear-gradient(-45deg, transparent 44%, var(--ink) 44% 56%, transparent 56%); }
</style>
