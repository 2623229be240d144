<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { SelectRuleSchema, WORTHS, type SelectRule } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import BenchPopover from '../components/bench-popover.vue'
import { readQuantity } from '../input/quantity'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import { useKitStore } from '../stores/kit'

/** Selects stilts by what they have in common; rules that are used often are kept by name. */
const bench = useBench(), state = useBenchStore(), store = useJobStore(), kit = useKitStore()
const RANGES = [['tipMm', 'Tip ⌀', 'mm'], ['heightMm', 'Height', 'mm'], ['leanDeg', 'Lean', '°'], ['sharePercent', 'Load, estimate', '%']] as const
type RangeName = (typeof RANGES)[number][0]
const ROLES = { carrier: 'carries the part', structural: 'holds a region', detail: 'saves a detail' } as const
const FEET = { plate: 'on the plate', model: 'on the model', stilt: 'on another stilt', lost: 'lost' } as const

const form = reactive<{ gauge: string; role: string; foot: string; worth: string; nearChosen: boolean; everythingBut: boolean; ranges: Record<RangeName, [string, string]> }>({
  gauge: '', role: '', foot: '', worth: '', nearChosen: false, everythingBut: false, ranges: { tipMm: ['', ''], heightMm: ['', ''], leanDeg: ['', ''], sharePercent: ['', ''] },
})
const rule = computed<SelectRule>(() => {
  const range = (name: RangeName): { [K in RangeName]?: [number | null, number | null] } => {
    const [from, to] = form.ranges[name].map(t => readQuantity(t, null))
    return from === null && to === null ? {} : { [name]: [from, to] }
  }
  return SelectRuleSchema.parse({
    ...(form.gauge && { gauge: form.gauge }), ...(form.role && { role: form.role }), ...(form.foot && { foot: form.foot }), ...(form.worth && { worth: form.worth }),
    ...range('tipMm'), ...range('heightMm'), ...range('leanDeg'), ...range('sharePercent'), nearChosen: form.nearChosen, everythingBut: form.everythingBut,
  })
})
const count = ref(0)
watch([rule, () => store.stilts, () => state.finding], async () => (count.value = (await bench.matching(rule.value).catch(() => [])).length), { immediate: true })

const name = ref('')
function take(saved: SelectRule): void {
  Object.assign(form, { gauge: saved.gauge ?? '', role: saved.role ?? '', foot: saved.foot ?? '', worth: saved.worth ?? '', nearChosen: saved.nearChosen, everythingBut: saved.everythingBut })
  for (const [range] of RANGES) form.ranges[range] = [saved[range]?.[0]?.toString() ?? '', saved[range]?.[1]?.toString() ?? '']
}
async function save(): Promise<void> {
  if (!name.value.trim()) return
  await kit.putRule(name.value.trim().slice(0, 120), rule.value)
  bench.say(kit.problem || `“${name.value.trim()}” is kept with the workshop.`)
  name.value = ''
}
</script>

<template>
  <BenchPopover label="Select by rule" placement="bottom-start">
    <template #button><button class="plain-button" aria-haspopup="dialog" title="Select stilts by what they have in common">Select by rule</button></template>
    <div class="rule">
      <p v-if="kit.kit.rules.length" class="saved"><span v-for="r in kit.kit.rules" :key="r.id"><button class="link-button" @click="take(r.rule)">{{ r.name }}</button><button class="link-button quiet" :aria-label="`Forget ${r.name}`" :title="`Forget ${r.name}`" @click="kit.remove(r.id)">×</button></span></p>
      <label>Gauge <select v-model="form.gauge"><option value="">any</option><option v-for="g in bench.gauges.value" :key="g.id" :value="g.id">{{ g.name }}</option></select></label>
      <label>Role <select v-model="form.role"><option value="">any</option><option v-for="(label, role) in ROLES" :key="role" :value="role">{{ label }}</option></select></label>
      <label>Foot <select v-model="form.foot"><option value="">any</option><option v-for="(label, foot) in FEET" :key="foot" :value="foot">{{ label }}</option></select></label>
      <label>Skin <select v-model="form.worth"><option value="">any</option><option v-for="w in WORTHS" :key="w" :value="w">{{ w }}</option></select></label>
      <div v-for="[range, label, unit] in RANGES" :key="range" class="range"><span>{{ label }}, {{ unit }}</span><span><input v-model="form.ranges[range][0]" inputmode="decimal" :aria-label="`${label} from`" placeholder="from" /> <input v-model="form.ranges[range][1]" inputmode="decimal" :aria-label="`${label} to`" placeholder="to" /></span></div>
      <label class="check"><input v-model="form.nearChosen" type="checkbox" :disabled="!state.finding && !form.nearChosen" /> at the finding that is chosen</label>
      <label class="check"><input v-model="form.everythingBut" type="checkbox" /> everything but these</label>
      <p class="go"><button class="plain-button leading" :disabled="count === 0" @click="bench.selectByRule(rule, false)">Select {{ count }}</button><button class="plain-button" :disabled="count === 0 || !state.selectedStilts.length" @click="bench.selectByRule(rule, true)">Add to selection</button></p>
      <form class="keep" @submit.prevent="save"><input v-model="name" aria-label="Name of the rule" placeholder="Keep as" maxlength="120" /><button class="plain-button" :disabled="!name.trim()">Keep</button></form>
    </div>
  </BenchPopover>
</template>

<style scoped>
.rule { display: grid; gap: 6px; width: 270px; font-size: 13px; }
label:not(.check), .range { display: flex; justify-content: space-between; align-items: center; gap: 8px; }
select { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 24px; width: 150px; color: var(--ink); }
input:not([type='checkbox']) { border: 1px solid var(--control); border-radius: 4px; height: 24px; padding: 0 6px; background: var(--panel); color: var(--ink); width: 70px; font-size: 12.5px; }
.keep input { flex: 1; }
.go, .keep, .saved { display: flex; gap: 6px; flex-wrap: wrap; }
</style>
