<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { BINDINGS } from '../input/bindings'
import BenchDialog from './bench-dialog.vue'

const shown = defineModel<boolean>('shown', { required: true })
const emit = defineEmits<{ run: [id: string] }>()
const text = ref('')
const at = ref(0)
const input = ref<HTMLInputElement | null>(null)
const found = computed(() => BINDINGS.filter(b => b.keys.length > 0 && b.id !== 'command' && b.id !== 'nudge' && b.does.toLowerCase().includes(text.value.trim().toLowerCase())))
watch(text, () => (at.value = 0))
watch(shown, async open => {
  text.value = ''
  if (open) {
    await nextTick()
    input.value?.focus()
  }
})
function run(id: string): void {
  shown.value = false
  emit('run', id)
}
</script>

<template>
  <BenchDialog v-model:shown="shown" title="Commands" width="460px" :auto-focus="false">
    <input ref="input" v-model="text" class="search" aria-label="Command" placeholder="hold, layer, undo" @keydown.down.prevent="at = Math.min(found.length - 1, at + 1)" @keydown.up.prevent="at = Math.max(0, at - 1)" @keydown.enter.prevent="found[at] && run(found[at].id)" />
    <ul role="listbox" aria-label="Commands" tabindex="0">
      <li v-for="(b, i) in found" :key="b.id" role="option" :aria-selected="i === at" @click="run(b.id)"><span>{{ b.does }}</span><span class="figure quiet">{{ b.shown }}</span></li>
    </ul>
  </BenchDialog>
</template>

<style scoped>
.search { width: 100%; border: 1px solid var(--control); border-radius: 4px; padding: 6px 8px; background: var(--panel); }
ul { list-style: none; padding: 0; margin: 8px 0 0; max-height: 320px; overflow-y: auto; }
li { display: flex; justify-content: space-between; padding: 5px 8px; border-radius: 4px; cursor: pointer; }
li[aria-selected='true'], li:hover { background: #f0e6d4; }
</style>
