<script setup lang="ts">
import { NProgress } from 'naive-ui'
import { progressText, type BringIn } from './bring-in'

/** How far a file has come that is being brought in, with a way to end it. */
defineProps<{ bringIn: BringIn }>()
</script>

<template>
  <div v-if="bringIn.bringing.value" class="bring-in-status">
    <p role="status">{{ progressText(bringIn.bringing.value) }}</p>
    <NProgress type="line" :percentage="Math.round(bringIn.bringing.value.now.share * 100)" :show-indicator="false" :height="4" :processing="bringIn.bringing.value.now.stage === 'preparing'" />
    <button class="link-button" @click="bringIn.cancel()">Cancel</button>
  </div>
</template>

<style scoped>
.bring-in-status { display: grid; gap: 4px; justify-items: start; }
p { overflow-wrap: anywhere; }
</style>
