<script setup lang="ts">
import { PLANNED, RaftKindSchema, type Gauge, type Planned, type PlanOptions, type RaftKind, type Worth } from '@oak-stilts/core/contract'
import NumberField from '../components/number-field.vue'
import { PLAN_FOR, PLAN_FOR_SAYS, RAFTS, WORTHS_OFFERED } from './words'

/** What a plan is asked for. */
const props = defineProps<{ options: PlanOptions; gauges: readonly Gauge[]; /** How far a tip holds by the scan, mm. */ holdMm: number; disabled?: boolean; /** Whether it is for what was picked, whatever else is asked for. */ aimed?: boolean }>()
const emit = defineEmits<{ change: [change: Partial<PlanOptions>] }>()

const uses = (id: string): boolean => props.options.gauges?.includes(id) ?? true
function toggleGauge(id: string): void {
  const all = props.gauges.map(g => g.id), now = all.filter(g => (g === id ? !uses(g) : uses(g)))
  // one is needed at least
  if (now.length > 0) emit('change', { gauges: now.length === all.length ? null : now })
}
function toggleWorth(worth: Worth): void {
  const { worths } = props.options, now = WORTHS_OFFERED.filter(w => (w === worth ? !worths.includes(w) : worths.includes(w)))
  if (now.length > 0) emit('change', { worths: now })
}
function setHold(mm: number): void {
  emit('change', { holdMm: mm >= props.holdMm ? null : mm })
}
</script>

<template>
  <fieldset class="options" :disabled="disabled">
    <template v-if="!aimed">
    <label class="line"><span>For</span><select :value="options.what" aria-label="What to plan for" @change="emit('change', { what: ($event.target as HTMLSelectElement).value as Planned })"><option v-for="w in PLANNED" :key="w" :value="w">{{ PLAN_FOR[w] }}</option></select></label>
    <p class="quiet">{{ PLAN_FOR_SAYS[options.what] }}</p>
    <div v-if="options.what === 'faces'" class="line" role="group" aria-label="Faces that are"><span>Faces that are</span><span class="chips"><button v-for="w in WORTHS_OFFERED" :key="w" type="button" class="chip" :aria-pressed="options.worths.includes(w)" @click="toggleWorth(w)">{{ w }}</button></span></div>
    </template>
    <div class="line" role="group" aria-label="Gauges that may be used"><span>Gauges</span><span class="chips"><button v-for="g in gauges" :key="g.id" type="button" class="chip" :aria-pressed="uses(g.id)" :title="`Tip ⌀ ${g.tipDiameterMm.toFixed(2)} mm`" @click="toggleGauge(g.id)">{{ g.name }}</button></span></div>
    <div class="line" :title="`Less sets tips closer than the scan asks for, which is ${holdMm.toFixed(2)} mm`"><span>A tip holds within</span><NumberField label="A tip holds within" :values="[Math.min(holdMm, options.holdMm ?? holdMm)]" :min="0.3" :max="holdMm" :step="0.1" @change="setHold($event[0])" /></div>
    <div class="line" title="Skin that rises less than this gets tips as soon as it juts out; at 0 only what is beyond reach gets any"><span>Also skin flatter than</span><NumberField label="Also skin flatter than" unit="°" :digits="0" :values="[options.slopeDeg]" :min="0" :max="60" :step="5" @change="emit('change', { slopeDeg: $event[0] })" /></div>
    <label class="check"><input type="checkbox" :checked="options.branches" @change="emit('change', { branches: ($event.target as HTMLInputElement).checked })" />Gather tips on shared trunks</label>
    <label class="check"><input type="checkbox" :checked="options.sticks" @change="emit('change', { sticks: ($event.target as HTMLInputElement).checked })" />Sticks to the part where nothing leads to the plate</label>
    <label class="line"><span>Raft</span><select :value="options.raft ?? ''" aria-label="Raft of the plan" @change="emit('change', { raft: (($event.target as HTMLSelectElement).value || null) as RaftKind | null })"><option value="">as it is</option><option v-for="k in RaftKindSchema.options" :key="k" :value="k">{{ RAFTS[k] }}</option></select></label>
  </fieldset>
</template>

<style scoped>
.options { border: 0; padding: 0; margin: 0; min-width: 0; }
.line { display: flex; justify-content: space-between; align-items: center; gap: 10px; min-height: 29px; }
.line > span:first-child { color: var(--quiet); font-size: 12.5px; white-space: nowrap; }
.check { display: flex; align-items: center; gap: 7px; min-height: 27px; font-size: 12.5px; }
.check input { accent-color: var(--accent); margin: 0; }
select { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 25px; color: var(--ink); max-width: 180px; }
.chips { display: flex; gap: 4px; flex-wrap: wrap; justify-content: flex-end; }
.chip { border: 1px solid var(--divider); background: none; border-radius: 4px; padding: 1px 7px; font-size: 12.5px; color: var(--quiet); cursor: pointer; text-decoration: line-through; }
.chip[aria-pressed='true'] { border-color: var(--control); background: var(--panel); color: var(--ink); text-decoration: none; }
p { font-size: 12px; margin: 0 0 3px; }
</style>
