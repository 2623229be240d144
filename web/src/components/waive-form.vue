<script setup lang="ts">
import { onMounted, ref } from 'vue'

/** Asks why something may stay as it is. */
defineProps<{ placeholder: string }>()
const emit = defineEmits<{ waive: [reason: string]; back: [] }>()
const why = ref(''), input = ref<HTMLInputElement | null>(null)
onMounted(() => input.value?.focus())
function waive(): void {
  if (why.value.trim()) emit('waive', why.value)
}
</script>

<template>
  <form class="waive" aria-label="Waive" @submit.prevent="waive">
    <label>Why it may stay <input ref="input" v-model="why" maxlength="300" :placeholder="placeholder" @keydown.esc.stop="emit('back')" /></label>
    <span><button class="plain-button leading" :disabled="!why.trim()">Waive it</button> <button type="button" class="plain-button" @click="emit('back')">Back</button></span>
  </form>
</template>

<style scoped>
.waive { display: grid; gap: 6px; }
.waive label { display: grid; gap: 3px; }
.waive input { border: 1px solid var(--control); border-radius: 4px; padding: 4px 6px; background: var(--panel); color: var(--ink); min-width: 0; }
</style>
