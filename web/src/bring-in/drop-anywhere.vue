<script setup lang="ts">
import { useDropZone } from '@vueuse/core'
import { ref } from 'vue'

/** Takes files that are dropped anywhere on the page, and says so while they hang over it. */
defineProps<{ sentence: string }>()
const emit = defineEmits<{ files: [files: File[]] }>()
const { isOverDropZone } = useDropZone(ref(document.documentElement), {
  onDrop: files => {
    if (files?.length) emit('files', files)
  },
})
</script>

<template>
  <div v-if="isOverDropZone" class="drop-anywhere" aria-hidden="true"><p>{{ sentence }}</p></div>
</template>

<style scoped>
.drop-anywhere { position: fixed; inset: 8px; z-index: 3000; display: grid; place-items: center; pointer-events: none; border: 2px dashed var(--accent); border-radius: 8px; background: #f6eddde6; font-size: 17px; font-weight: 600; }
</style>
