<script setup lang="ts">
import { useId } from 'vue'
import { FINDING_KINDS, type FindingKind, type ShownState } from '../findings'

defineProps<{ kind: FindingKind; state: ShownState }>()
const id = useId()
</script>

<template>
  <svg width="16" height="16" viewBox="-0.5 -0.5 17 17" aria-hidden="true">
    <clipPath :id="id"><rect x="-1" y="8" width="18" height="9" /></clipPath>
    <path v-if="state === 'open' || state === 'partly'" :d="FINDING_KINDS[kind].symbol.path" :fill="FINDING_KINDS[kind].symbol.color" fill-rule="evenodd" :clip-path="state === 'partly' ? `url(#${id})` : undefined" />
    <path v-if="state !== 'open'" :d="FINDING_KINDS[kind].symbol.path" fill="none" :stroke="FINDING_KINDS[kind].symbol.color" stroke-width="1.6" stroke-linejoin="round" :stroke-dasharray="state === 'waived' ? '2.4 2' : undefined" />
  </svg>
</template>
