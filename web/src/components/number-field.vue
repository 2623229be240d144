<script setup lang="ts">
import { ref, watch } from 'vue'
import { readQuantity } from '../input/quantity'

const props = withDefaults(defineProps<{
  label: string
  /** null for a selection whose values differ. */
  modelValue: number | null
  unit?: string
  step?: number
  min?: number
  max?: number
  digits?: number
  disabled?: boolean
}>(), { unit: 'mm', step: 0.05, min: -Infinity, max: Infinity, digits: 2 })
const emit = defineEmits<{ 'update:modelValue': [value: number] }>()

const shown = (): string => (props.modelValue === null ? 'mixed' : props.modelValue.toFixed(props.modelValue !== 0 && Math.abs(props.modelValue) < 0.1 && props.unit === 'mm' ? Math.max(3, props.digits) : props.digits))
const text = ref(shown())
const wrong = ref(false)
watch(() => props.modelValue, () => {
  text.value = shown()
  wrong.value = false
})

function take(): void {
  if (text.value === shown()) return
  const value = readQuantity(text.value, props.modelValue)
  if (value === null || value < props.min || value > props.max) {
    wrong.value = true
    return
  }
  wrong.value = false
  emit('update:modelValue', Math.round(value * 1e4) / 1e4)
  text.value = shown()
}

function nudge(event: KeyboardEvent, sign: number): void {
  event.preventDefault()
  if (props.modelValue === null) return
  const by = props.step * (event.shiftKey ? 10 : event.ctrlKey ? 0.1 : 1) * sign
  emit('update:modelValue', Math.max(props.min, Math.min(props.max, Math.round((props.modelValue + by) * 1e4) / 1e4)))
}

function back(event: KeyboardEvent): void {
  text.value = shown()
  wrong.value = false
  ;(event.target as HTMLInputElement).blur()
}
</script>

<template>
  <span class="number-field" :class="{ wrong }">
    <input
      v-model="text" class="figure" type="text" inputmode="decimal" autocomplete="off" spellcheck="false" :aria-label="`${label}, ${unit}`" :aria-invalid="wrong" :disabled="disabled"
      :title="wrong ? 'Not a number within the limits. Write 0.5, +=0.05, x1.1 or +10%.' : `${label} in ${unit}`"
      @change="take" @keydown.enter="take" @keydown.up="nudge($event, 1)" @keydown.down="nudge($event, -1)" @keydown.esc.stop="back" @focus="($event.target as HTMLInputElement).select()"
    />
    <span class="unit">{{ unit }}</span>
  </span>
</template>

<style scoped>
.number-field { display: inline-flex; align-items: center; background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 24px; }
.number-field:focus-within { outline: 2px solid var(--accent); outline-offset: 0; }
.number-field.wrong { border-color: #560f2a; box-shadow: inset 0 0 0 1px #560f2a; }
input { border: 0; background: none; width: 62px; padding: 0 0 0 6px; text-align: right; outline: none; font-size: 12.5px; }
.unit { padding: 0 6px 0 4px; color: var(--quiet); font-size: 12px; }
</style>
