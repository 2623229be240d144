<script setup lang="ts">
import { computed } from 'vue'
import { BUILT_IN_GAUGES, GaugeSchema, type Gauge, type Kit } from '@oak-stilts/core/contract'
import { useDraft } from '../input/draft'
import { useBenchStore } from '../stores/bench'
import { useKitStore } from '../stores/kit'
import GaugeDrawing from './gauge-drawing.vue'

/** A gauge of the workshop on its drawing. Changing a built-in one makes it one's own; it can be had back. */
const props = defineProps<{ entry: Kit['gauges'][number] }>()
const emit = defineEmits<{ chosen: [id: string] }>()
const kit = useKitStore(), bench = useBenchStore()
const gauge = computed(() => props.entry.gauge)
const place = computed(() => kit.kit.gauges.findIndex(g => g.gauge.id === gauge.value.id))
const builtIn = computed(() => BUILT_IN_GAUGES.find(g => g.id === gauge.value.id))

function change(changes: Partial<Gauge>): void {
  const parsed = GaugeSchema.safeParse({ ...gauge.value, ...changes })
  bench.message = parsed.success ? '' : `Nothing was changed: it ${parsed.error.issues[0].message}.`
  if (!parsed.success) return
  void kit.putGauge(parsed.data)
  emit('chosen', gauge.value.id)
}
const { text: name, reset } = useDraft(() => gauge.value.name)
function rename(): void {
  if (name.value.trim()) change({ name: name.value.trim() })
  else reset()
}
function duplicate(): void {
  emit('chosen', kit.addGauge(gauge.value).id)
}
function remove(): void {
  const { id } = gauge.value
  void kit.remove(props.entry.id)
  emit('chosen', builtIn.value ? id : BUILT_IN_GAUGES[0].id)
}
</script>

<template>
  <div class="kit-gauge">
    <div class="head">
      <input v-model="name" class="name" aria-label="Gauge name" maxlength="60" @change="rename" @keydown.enter="($event.target as HTMLInputElement).blur()" />
      <span v-if="place < 9" class="quiet">key <kbd>{{ place + 1 }}</kbd></span>
      <button class="plain-button" :disabled="place === 0" title="One place up in the list" @click="kit.moveGauge(gauge.id, -1)">Up</button>
      <button class="plain-button" :disabled="place === kit.kit.gauges.length - 1" title="One place down in the list" @click="kit.moveGauge(gauge.id, 1)">Down</button>
      <button class="plain-button" @click="duplicate">Duplicate</button>
      <button v-if="!entry.builtIn" class="plain-button" @click="remove">{{ builtIn ? 'Back to built-in' : 'Delete' }}</button>
    </div>
    <GaugeDrawing :gauge="gauge" :pixel-mm="null" @change="change" />
    <p class="quiet">{{ entry.builtIn ? 'Built in; a change makes it your own, and it can be had back.' : builtIn ? `Your own in the place of the built-in ${builtIn.name}.` : 'Your own.' }} Stilts of jobs keep the sizes that they were given.</p>
  </div>
</template>

<style scoped>
.head { display: flex; align-items: center; gap: 10px; margin-bottom: 16px; flex-wrap: wrap; }
.name { font-size: 16px; font-weight: 600; border: 1px solid var(--control); border-radius: 4px; background: var(--panel); padding: 3px 8px; width: 200px; }
kbd { font: 400 12px var(--mono); border: 1px solid var(--divider); border-radius: 3px; padding: 0 4px; }
.kit-gauge > p { margin-top: 10px; max-width: 420px; font-size: 13px; }
</style>
