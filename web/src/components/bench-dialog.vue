<script setup lang="ts">
import { NModal } from 'naive-ui'

// One dialog for all: a heading, what it says, and a cross where it may be closed without an answer.
const shown = defineModel<boolean>('shown', { required: true })
withDefaults(defineProps<{ title: string; width: string; mustAnswer?: boolean; autoFocus?: boolean }>(), { autoFocus: true })
</script>

<template>
  <NModal v-model:show="shown" :mask-closable="!mustAnswer" :close-on-esc="!mustAnswer" :auto-focus="autoFocus">
    <div class="bench-dialog" role="dialog" aria-modal="true" :aria-label="title" :style="{ width }">
      <div class="head"><h2>{{ title }}</h2><button v-if="!mustAnswer" class="link-button" aria-label="Close" title="Close (Esc)" @click="shown = false"><span aria-hidden="true">×</span></button></div>
      <slot />
    </div>
  </NModal>
</template>

<style scoped>
.bench-dialog { max-width: 94vw; background: var(--panel); border: 1px solid var(--divider); border-radius: 8px; padding: 16px 20px 20px; box-shadow: 0 12px 40px #24211c33; font-size: 13.5px; }
.head { display: flex; justify-content: space-between; align-items: center; margin-bottom: 10px; }
h2 { font-size: 17px; font-weight: 600; }
.head button { font-size: 18px; line-height: 1; }
</style>
