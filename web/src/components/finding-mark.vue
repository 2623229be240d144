<script setup lang="ts">
import { MARKS } from '../stage/marks'
import type { FindingKind } from '../stores/findings'

defineProps<{ kind: FindingKind; open: boolean }>()
</script>

<template>
  <svg width="16" height="16" viewBox="-0.5 -0.5 17 17" aria-hidden="true">
    <path v-if="open" :d="MARKS[kind].path" :fill="MARKS[kind].color" fill-rule="evenodd" />
    <path v-else :d="MARKS[kind].path" fill="none" :stroke="MARKS[kind].color" stroke-width="1.6" stroke-linejoin="round" />
  </svg>
</template>
