<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Print, Symptom } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import { dayText, outcomeText, SYMPTOMS } from './outcomes'
import { durationText } from './words'

/** A print of the log: how it came out; and where it failed, the likely causes with their evidence, and what helps. */
const props = defineProps<{ print: Print }>()
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const failed = computed(() => (props.print.outcome?.kind === 'failed' ? props.print.outcome : null))
/** Whether the form for a failure is open. */
const asking = ref(false)
const layer = ref<string | number>(''), symptom = ref<Symptom>('missing'), note = ref(''), lost = ref<string[]>([]), photo = ref<File | null>(null)
watch(() => props.print.id, () => (asking.value = false))
const copies = computed(() => props.print.facts.parts.flatMap(p => p.copies.map((id, i) => ({ id, name: p.copies.length > 1 ? `${p.name}, copy ${i + 1}` : p.name }))))
function ask(): void {
  const was = failed.value
  layer.value = was?.layer === null ? '' : String((was?.layer ?? state.playhead) + 1)
  symptom.value = was?.symptom ?? 'missing'
  note.value = props.print.outcome?.note ?? ''
  lost.value = [...(was?.copies ?? [])]
  photo.value = null
  asking.value = true
}
function good(): void {
  void bench.setOutcome(props.print, { kind: 'good', note: props.print.outcome?.note ?? '' })
  asking.value = false
}
async function keep(): Promise<void> {
  const k = Math.round(Number(layer.value)) - 1
  await bench.setOutcome(props.print, { kind: 'failed', layer: symptom.value === 'nothing' || String(layer.value).trim() === '' || !(k >= 0) ? null : Math.min(k, Math.max(0, props.print.facts.layers - 1)), symptom: symptom.value, copies: lost.value.length === copies.value.length ? [] : lost.value, note: note.value.slice(0, 2000) }, photo.value ?? undefined)
  asking.value = false
}
const shown = computed(() => bench.causes.value.slice(0, 4)), carrying = computed(() => bench.carrying.value.slice(0, 6))
function select(id: string): void {
  state.selectedStilts = [id]
}
</script>

<template>
  <section class="traced" :aria-label="`Print of ${dayText(print.at)}`">
    <header><strong>{{ dayText(print.at) }}: {{ outcomeText(print) }}</strong><button class="link-button" @click="bench.tracePrint(null)">Close</button></header>
    <p class="quiet">{{ print.facts.printer }}, {{ print.facts.resin.name }}, {{ print.facts.layerMm }} mm, {{ print.facts.layers.toLocaleString('en') }} layers<template v-if="print.seconds > 0">; ~{{ durationText(print.seconds) }}, {{ print.resinMl.toFixed(1) }} ml</template>.</p>
    <img v-if="print.photo" :src="`/api/prints/${print.id}/photo?${print.photo.slice(0, 8)}`" alt="Photograph of this print" />
    <form v-if="asking" class="form" @submit.prevent="keep">
      <label>What is wrong <select v-model="symptom" aria-label="What is wrong"><option v-for="s in SYMPTOMS" :key="s.id" :value="s.id">{{ s.name }}</option></select></label>
      <label v-if="symptom !== 'nothing'">At layer <input v-model="layer" type="number" min="1" :max="print.facts.layers" class="figure" aria-label="Failed at layer" placeholder="not known" /></label>
      <fieldset v-if="copies.length > 1"><legend>What failed, all of it where nothing is chosen</legend><label v-for="c in copies" :key="c.id" class="check"><input v-model="lost" type="checkbox" :value="c.id" /> {{ c.name }}</label></fieldset>
      <label>Note <textarea v-model="note" rows="2" maxlength="2000" aria-label="Note" /></label>
      <label>Photograph <input type="file" accept="image/jpeg,image/png,image/webp" aria-label="Photograph" @change="photo = ($event.target as HTMLInputElement).files?.[0] ?? null" /></label>
      <div class="actions"><button class="plain-button leading" type="submit">Find the cause</button><button class="plain-button" type="button" @click="asking = false">Leave it</button></div>
    </form>
    <div v-else-if="!print.outcome" class="actions"><button class="plain-button leading" @click="good">It came out</button><button class="plain-button" @click="ask">It failed</button></div>
    <template v-else>
      <p v-if="failed"><b>{{ SYMPTOMS.find(s => s.id === failed?.symptom)?.name }}.</b> {{ failed.note }}</p>
      <p v-else-if="print.outcome.note">{{ print.outcome.note }}</p>
      <ol v-if="failed" aria-label="Likely causes">
        <li v-for="(c, i) in shown" :key="c.kind">
          <b>{{ c.title }}</b>
          <ul><li v-for="e in c.evidence" :key="e">{{ e }}</li></ul>
          <button v-if="bench.fixText(c)" class="plain-button" :class="{ leading: i === 0 }" :disabled="!!state.busy" @click="bench.fixCause(c)">{{ bench.fixText(c) }}</button>
        </li>
      </ol>
      <div v-if="failed && bench.failedLayer.value" class="carry">
        <h3>Layer {{ (bench.failedLayer.value.layer + 1).toLocaleString('en') }} as the part is now</h3>
        <p>It pulls <span class="figure">{{ bench.failedLayer.value.pullN.toFixed(1) }} N</span> <span class="quiet">(estimate)</span>, on {{ bench.failedLayer.value.ends.length === 0 ? 'no tip' : bench.failedLayer.value.ends.length === 1 ? 'one tip' : `${bench.failedLayer.value.ends.length} tips, weakest first` }}<template v-if="carrying.length">:</template><template v-else>.</template></p>
        <ul v-if="carrying.length" aria-label="What carries it"><li v-for="{ stilt, share } in carrying" :key="stilt.id"><button class="link-button" @click="select(stilt.id)">stilt {{ stilt.number }} <span class="figure">⌀{{ stilt.sizes.tipDiameterMm.toFixed(2) }}, {{ Math.round(share * 100) }} %</span></button></li></ul>
      </div>
      <div class="actions"><RouterLink v-if="failed" class="plain-button" :to="`/jobs/${store.job?.id}/proof`" @click="state.proofTab = 'layer'">Open the layer in Proof</RouterLink><button class="link-button" @click="ask">Change what is noted</button><button class="link-button" @click="bench.dropPrint(print)">Take out of the log</button></div>
    </template>
    <template v-if="!asking">
      <div v-if="bench.changedBefore.value?.length" class="changed"><h3>Changed since the print before it</h3><ul><li v-for="c in bench.changedBefore.value" :key="c">{{ c }}</li></ul></div>
      <p v-else-if="bench.changedBefore.value" class="quiet">Nothing was changed since the print before it.</p>
      <div v-if="bench.changedSince.value.length" class="changed"><h3>Changed since this print</h3><ul><li v-for="c in bench.changedSince.value" :key="c">{{ c }}</li></ul></div>
    </template>
  </section>
</template>

<style scoped>
.traced { padding: 10px 12px 14px; display: grid; grid-template-columns: minmax(0, 1fr); gap: 8px; align-content: start; border-bottom: 1px solid var(--divider); }
header { display: flex; justify-content: space-between; align-items: baseline; gap: 8px; }
img { max-width: 100%; max-height: 160px; border: 1px solid var(--divider); }
.form, .carry, .changed { display: grid; gap: 6px; }
.form label:not(.check) { display: grid; grid-template-columns: 90px minmax(0, 1fr); align-items: center; gap: 6px; }
.form input, .form select, .form textarea { min-width: 0; }
.form input:not([type='checkbox']), .form textarea { width: 100%; }
.traced > * { min-width: 0; }
.check { display: flex; gap: 6px; align-items: center; }
fieldset { border: 1px solid var(--divider); border-radius: 4px; max-height: 120px; overflow-y: auto; }
legend { color: var(--quiet); font-size: 12px; }
ol { margin: 0; padding-left: 20px; display: grid; gap: 8px; }
ol ul, .changed ul { margin: 2px 0 4px; padding-left: 16px; }
.carry ul { list-style: none; margin: 0; padding: 0; display: flex; flex-wrap: wrap; gap: 2px 8px; }
.carry .link-button { padding: 1px 0; text-decoration: underline; }
h3 { font-size: 12.5px; font-weight: 600; }
.actions { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; }
a.plain-button { text-decoration: none; color: var(--ink); }
</style>
