<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { ProofCheck, ProofPlace } from '@oak-stilts/core/contract'
import { LOOSE_SWAY_MM } from '@oak-stilts/core/proof'
import { useBench } from '../bench/use-bench'
import WaiveForm from '../components/waive-form.vue'
import { useBenchStore } from '../stores/bench'

/** One check: what it says, and where it is open, its places, what helps, and the waiver. */
const props = defineProps<{ check: ProofCheck; open: boolean }>()
const emit = defineEmits<{ toggle: [] }>()
const bench = useBench(), state = useBenchStore()
const STATES = { good: 'as it should be', bad: 'to be seen to', note: 'to know', waived: 'left as it is' } as const
const waiver = computed(() => bench.checkWaiver(props.check))
const shown = computed(() => (waiver.value ? 'waived' : props.check.state))
const fixes = computed(() => bench.fixesOf(props.check))
/** Places that are listed; the rest are counted. */
const MOST = 6
const places = computed(() => props.check.places.slice(0, MOST)), more = computed(() => props.check.places.length - places.value.length)
const canOpen = computed(() => props.check.places.length > 0 || props.check.state === 'bad')
const digits = (value: number, unit: string): string => (unit === '%' ? String(Math.round(value)) : value.toFixed(Math.abs(value) < 0.1 ? 3 : 2))
/** The figure of a place; what is ten times and more is said in times. */
function figureOf({ figure }: ProofPlace): string {
  const { unit, kind } = props.check
  if (figure === null) return ''
  // what moves farther does not stand at all
  if (kind === 'sway' && figure > LOOSE_SWAY_MM) return `over ${LOOSE_SWAY_MM} mm`
  return unit === '%' && figure >= 1000 ? `${Math.round(figure / 100)} ×` : `${digits(figure, unit)} ${unit}`
}
const subject = ({ stilts, at }: ProofPlace): string => (stilts.length > 0 ? `Stilt ${stilts.slice(0, 3).join(', ')}${stilts.length > 3 ? ' …' : ''}` : at ? 'Here' : 'Whole layer')

const waiving = ref(false)
watch(() => props.open, () => (waiving.value = false))
function waive(reason: string): void {
  bench.waiveCheck(props.check, reason)
  waiving.value = false
}
</script>

<template>
  <li :class="{ open }">
    <button class="head" :disabled="!canOpen" :aria-expanded="canOpen ? open : undefined" @click="emit('toggle')">
      <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true"><path v-if="shown === 'good'" d="M2 6.5 5 9.5 10 3" fill="none" stroke="#24211C" stroke-width="1.6" /><rect v-else-if="shown === 'bad'" x="2" y="2" width="8" height="8" fill="#8A5A1F" /><rect v-else-if="shown === 'waived'" x="2.5" y="2.5" width="7" height="7" fill="none" stroke="#8A5A1F" stroke-width="1.4" stroke-dasharray="2 1.5" /><path v-else d="M2 6H10" stroke="#6A6254" stroke-width="1.6" /></svg>
      <span class="visually-hidden">{{ STATES[shown] }}: </span><span>{{ check.sentence }}</span>
    </button>
    <div v-if="open" class="inside">
      <p v-if="waiver" class="quiet">Left as it is: {{ waiver.reason }}</p>
      <p v-if="check.limit && check.figure !== null" class="quiet figures">{{ figureOf({ at: null, layer: null, stilts: [], figure: check.figure }) }}, limit {{ digits(check.limit, check.unit) }} {{ check.unit }}</p>
      <ul v-if="places.length">
        <li v-for="(p, i) in places" :key="i"><button title="Look at it" @click="bench.showPlace(p)"><span>{{ subject(p) }}</span><span class="figure">{{ figureOf(p) }}</span><span class="figure quiet">{{ p.layer === null ? '' : p.layer + 1 }}</span></button></li>
        <li v-if="more" class="quiet more">and {{ more }} more</li>
      </ul>
      <WaiveForm v-if="waiving" placeholder="a test piece" @waive="waive" @back="waiving = false" />
      <div v-else-if="check.state === 'bad'" class="buttons">
        <button v-for="f in fixes" :key="f.label" class="plain-button" :title="f.title" :disabled="!!state.busy || !!bench.proving.value" @click="f.run()">{{ f.label }}</button>
        <button v-if="waiver" class="link-button" @click="bench.takeBackCheckWaiver(waiver)">Take back</button>
        <button v-else class="link-button" title="Leave it as it is, for a reason, as long as it becomes no worse" @click="waiving = true">Waive</button>
      </div>
    </div>
  </li>
</template>

<style scoped>
li { border-bottom: 1px solid #ece6d9; }
.head { display: grid; grid-template-columns: 14px 1fr; gap: 8px; align-items: baseline; width: 100%; padding: 6px 8px; text-align: left; background: none; border: 0; cursor: pointer; font-size: 12.5px; line-height: 1.35; color: var(--ink); }
.head:hover:enabled { background: #f6f1e6; }
.head:disabled { cursor: default; }
.open { background: #fbf8f0; }
.inside { padding: 0 8px 8px 30px; display: grid; gap: 6px; font-size: 12.5px; }
.inside ul { list-style: none; margin: 0; padding: 0; }
.inside li { border: 0; }
.inside li button { display: grid; grid-template-columns: 1fr auto 38px; gap: 8px; align-items: center; min-height: 24px; width: 100%; padding: 2px 4px; margin-left: -4px; background: none; border: 0; text-align: left; cursor: pointer; color: var(--ink); font-size: 12.5px; }
.inside li button:hover { background: #f0e6d4; }
.figure { text-align: right; }
.figures { margin: 0; }
.more { padding: 1px 0; }
.buttons { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; }
</style>
