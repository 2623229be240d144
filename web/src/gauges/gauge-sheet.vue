<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Gauge } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import { useDraft } from '../input/draft'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import GaugeDrawing from './gauge-drawing.vue'

/** The sizes of the gauge that is chosen, to be changed for this job. Where stilts have it, it is asked whether they follow. */
const emit = defineEmits<{ close: [] }>()
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const { gauge, offered, proposed } = bench
const from = computed(() => offered.value.find(o => o.gauge.id === gauge.value.id)?.from ?? 'built-in')
const SAID = { job: 'of this job', resin: 'of the resin', workshop: 'of the workshop', 'built-in': 'built in' } as const
/** What was changed and is not answered for yet. */
const changes = ref<Partial<Gauge>>({})
watch(gauge, () => (changes.value = {}))
const draft = computed<Gauge>(() => ({ ...gauge.value, ...changes.value }))
const changed = computed(() => (Object.keys(changes.value) as (keyof Gauge)[]).some(n => changes.value[n] !== gauge.value[n]))
const count = computed(() => (void store.stilts, bench.stiltsWith(gauge.value.id).length))
const has = computed(() => (count.value === 1 ? '1 stilt of this job has it.' : `${count.value} stilts of this job have it.`))
const workshop = computed(() => bench.workshopGauge(gauge.value.id))
const differs = computed(() => from.value === 'job' && JSON.stringify(workshop.value) !== JSON.stringify(gauge.value))

function change(more: Partial<Gauge>): void {
  changes.value = { ...changes.value, ...more }
  // nothing to ask
  if (count.value === 0) void settle(false)
}
async function settle(follow: boolean): Promise<void> {
  const wanted = draft.value
  await bench.changeGauge(wanted, follow)
  changes.value = {}
}
async function takeWorkshop(): Promise<void> {
  if (workshop.value) change({ ...workshop.value, order: gauge.value.order })
}
const { text: name, reset } = useDraft(() => draft.value.name)
function rename(): void {
  if (name.value.trim()) change({ name: name.value.trim().slice(0, 60) })
  else reset()
}
</script>

<template>
  <section class="gauge-sheet" aria-label="Sizes of the gauge">
    <header>
      <input v-model="name" class="name" aria-label="Gauge name" maxlength="60" @change="rename" @keydown.enter="($event.target as HTMLInputElement).blur()" />
      <span class="quiet">{{ SAID[from] }}</span>
      <button class="link-button end" @click="emit('close')">Close</button>
    </header>
    <p v-if="proposed" class="quiet proposed">{{ proposed.reason }} <button v-if="proposed.gauge.id !== gauge.id" class="link-button" @click="bench.chooseGauge(proposed.gauge.id)">Take {{ proposed.gauge.name }}</button></p>
    <div v-if="changed && count" class="ask" role="alert">
      <p>{{ has }} Do they follow? Sizes set by hand stay.</p>
      <p class="answers"><button class="plain-button" @click="settle(true)">They follow</button><button class="plain-button" @click="settle(false)">They stay as they are</button><button class="link-button" @click="changes = {}">Undo the change</button></p>
    </div>
    <GaugeDrawing :gauge="draft" :pixel-mm="store.raster?.pixelMm ?? null" @change="change" />
    <p class="foot"><button v-if="differs" class="link-button" title="For other jobs too" @click="bench.keepGauge(gauge)">Keep with the workshop</button><button v-if="differs && workshop" class="link-button" @click="takeWorkshop">Take the workshop’s sizes</button></p>
    <p v-if="state.busy" class="quiet" role="status">{{ state.busy }}</p>
  </section>
</template>

<style scoped>
.gauge-sheet { padding: 8px 10px 12px; }
header { display: flex; align-items: baseline; gap: 10px; margin-bottom: 6px; }
.name { font-weight: 600; border: 1px solid var(--control); border-radius: 4px; background: var(--panel); padding: 2px 6px; width: 130px; }
.end { margin-left: auto; }
.proposed { font-size: 12.5px; margin-bottom: 8px; }
.ask { border: 1px solid var(--control); border-radius: 6px; padding: 8px 10px; margin-bottom: 8px; }
.answers, .foot { display: flex; gap: 10px; flex-wrap: wrap; align-items: center; margin-top: 6px; }
</style>
