<script setup lang="ts">
import { NPopover } from 'naive-ui'
import { ref } from 'vue'

// A small sheet at a button: a second click, a click elsewhere and Esc close it.
defineProps<{ label: string; placement: 'bottom-start' | 'top-start' }>()
const shown = ref(false)
const anchor = ref<HTMLElement | null>(null)
function escape(event: KeyboardEvent): void {
  if (!shown.value) return
  event.stopPropagation()
  shown.value = false
  anchor.value?.querySelector('button')?.focus()
}
</script>

<template>
  <span ref="anchor" class="anchor" @keydown.esc="escape">
    <NPopover v-model:show="shown" trigger="click" :placement="placement" :show-arrow="false">
      <template #trigger><slot name="button" /></template>
      <div class="sheet-form" role="dialog" :aria-label="label" @keydown.esc="escape"><slot /></div>
    </NPopover>
  </span>
</template>

<style scoped>
.anchor { display: contents; }
</style>
