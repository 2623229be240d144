<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useBenchStore } from '../stores/bench'
import { readQuantity } from '../input/quantity'

const props = withDefaults(defineProps<{
  label: string
  /** The values of all that is selected, one each. */
  values: readonly number[]
  unit?: string
  step?: number
  min?: number
  max?: number
  digits?: number
  disabled?: boolean
}>(), { unit: 'mm', step: 0.05, min: -Infinity, max: Infinity, digits: 2 })
/** New values, one for each of the old ones. */
const emit = defineEmits<{ change: [values: number[]] }>()
const state = useBenchStore()

const round = (v: number): number => Math.round(v * 1e4) / 1e4
const spread = computed(() => ({ low: Math.min(...props.values), high: Math.max(...props.values), mean: props.values.reduce((a, b) => a + b, 0) / props.values.length }))
const mixed = computed(() => round(spread.value.high) !== round(spread.value.low))
const written = (v: number): string => v.toFixed(v !== 0 && Math.abs(v) < 0.1 && props.unit === 'mm' ? Math.max(3, props.digits) : props.digits)
const shown = (): string => (mixed.value ? [spread.value.low, spread.value.mean, spread.value.high].map(written).join('·') : props.values.length ? written(props.values[0]) : '')
const text = ref(shown())
const wrong = ref(false)
// the parent makes a new array at every drawing; only other numbers take what is being typed away
watch(() => props.values.join(), () => {
  text.value = shown()
  wrong.value = false
})

function refuse(sentence: string): void {
  wrong.value = true
  state.message = sentence
}
/** Takes what was written; gives whether it could. */
function take(): boolean {
  if (text.value === shown()) return true
  const values = props.values.map(v => readQuantity(text.value, v))
  if (values.some(v => v === null)) {
    refuse(`“${text.value.trim()}” is no number; nothing was changed. Write 0.5, +=0.05, x1.1 or +10%.`)
    return false
  }
  const numbers = (values as number[]).map(round)
  if (numbers.some(v => v < props.min || v > props.max)) {
    refuse(`${props.label} can be ${props.min} to ${props.max} ${props.unit}; nothing was changed.`)
    return false
  }
  wrong.value = false
  if (numbers.some((v, i) => v !== round(props.values[i]))) emit('change', numbers)
  text.value = shown()
  return true
}
function nudge(event: KeyboardEvent, sign: number): void {
  event.preventDefault()
  const by = props.step * (event.shiftKey ? 10 : event.ctrlKey ? 0.1 : 1) * sign
  emit('change', props.values.map(v => Math.max(props.min, Math.min(props.max, round(v + by)))))
}
/** Gives the keys back to the stage, so that letters are commands again. */
function leave(event: KeyboardEvent): void {
  const input = event.target as HTMLInputElement
  input.blur()
  document.querySelector<HTMLElement>('[role=application]')?.focus({ preventScroll: true })
}
function enter(event: KeyboardEvent): void {
  if (take()) leave(event)
}
function back(event: KeyboardEvent): void {
  text.value = shown()
  wrong.value = false
  leave(event)
}
</script>

<template>
  <span class="number-field" :class="{ wrong, mixed }">
    <input
      v-model="text" class="figure" type="text" inputmode="decimal" autocomplete="off" spellcheck="false" :aria-label="`${label}, ${unit}`" :aria-invalid="wrong" :disabled="disabled"
      :title="mixed ? `Smallest, mean and largest ${label.toLowerCase()} of ${values.length}. What is written counts for all; +=0.05, x1.1 and +10% for each from its own.` : `${label} in ${unit}`"
      @change="take" @keydown.enter.stop="enter" @keydown.up="nudge($event, 1)" @keydown.down="nudge($event, -1)" @keydown.esc.stop="back" @focus="($event.target as HTMLInputElement).select()"
    />
    <span class="unit">{{ unit }}</span>
  </span>
</template>

<style scoped>
.number-field { display: inline-flex; align-items: center; background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 24px; }
.number-field:focus-within { outline: 2px solid var(--accent); outline-offset: 0; }
.number-field.wrong { border-color: #560f2a; box-shadow: inset 0 0 0 1px #560f2a; }
input { border: 0; background: none; width: 62px; padding: 0 0 0 6px; text-align: right; outline: none; font-size: 12.5px; }
.mixed input { width: 108px; font-size: 11px; }
.unit { padding: 0 6px 0 4px; color: var(--quiet); font-size: 12px; }
</style>
