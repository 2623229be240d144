<script setup lang="ts">
import { ref, watch } from 'vue'
import type { Version } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import { useDraft } from '../input/draft'
import BenchDialog from './bench-dialog.vue'

/** Named states of the job to go back to. */
const shown = defineModel<boolean>('shown', { required: true })
const bench = useBench()
const busy = ref(false)
const { text: name, reset } = useDraft(() => '')
watch(shown, on => on && void bench.loadVersions())
async function keep(): Promise<void> {
  if (!name.value.trim() || busy.value) return
  busy.value = true
  await bench.keepVersion(name.value)
  busy.value = false
  name.value = ''
  reset()
}
async function goBack(version: Version): Promise<void> {
  shown.value = false
  await bench.goBack(version)
}
const when = (iso: string): string => new Date(iso).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })
</script>

<template>
  <BenchDialog v-model:shown="shown" title="Versions" width="480px">
    <form class="keep" @submit.prevent="keep"><input v-model="name" maxlength="120" aria-label="Name of the version" placeholder="Name it, such as “before the tilt”" /><button class="plain-button leading" :disabled="busy || !name.trim()">Keep as it is now</button></form>
    <p v-if="bench.versions.value?.length === 0" class="quiet">None is kept yet. Every change is saved all the time; a version is a state that you name, to go back to.</p>
    <ul v-else-if="bench.versions.value" aria-label="Versions">
      <li v-for="v in bench.versions.value" :key="v.id">
        <span class="name">{{ v.name }}</span><span class="quiet">{{ when(v.createdAt) }} · {{ v.stilts === 1 ? '1 stilt' : `${v.stilts} stilts` }}</span>
        <button class="plain-button" :aria-label="`Go back to ${v.name}`" @click="goBack(v)">Go back</button><button class="link-button" :aria-label="`Delete ${v.name}`" @click="bench.dropVersion(v)">Delete</button>
      </li>
    </ul>
  </BenchDialog>
</template>

<style scoped>
.keep { display: flex; gap: 8px; margin-bottom: 12px; }
.keep input { flex: 1; background: var(--paper); border: 1px solid var(--control); border-radius: 4px; padding: 4px 8px; min-width: 0; }
ul { list-style: none; margin: 0; padding: 0; max-height: 50vh; overflow-y: auto; }
li { display: grid; grid-template-columns: 1fr auto auto; gap: 0 8px; align-items: center; padding: 7px 0; border-top: 1px solid #ece6d9; }
.name { font-weight: 600; grid-column: 1; overflow-wrap: anywhere; }
li .quiet { grid-column: 1; grid-row: 2; font-size: 12.5px; }
li button { grid-row: 1 / span 2; }
</style>
