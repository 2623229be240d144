<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { contentOf, newId, stateOfPrint, type FailedOutcome, type Symptom } from '@oak-stilts/core/contract'
import { factsOf } from '@oak-stilts/core/print'
import { api } from '../api/client'
import { ACCEPTED, BringInStatus, createBringIn } from '../bring-in'
import PageHeader from '../components/page-header.vue'
import { lookIntoPackage, type FailedPackage } from '../print/failed-package'
import { SYMPTOMS } from '../print/outcomes'

/** From a print that failed to its cause, without a job: the file that was printed, the height, what is seen. */
const router = useRouter(), bringIn = createBringIn()
const file = shallowRef<File | null>(null), heightMm = ref<string | number>(''), symptom = ref<Symptom>('missing'), doing = ref(''), trouble = ref('')
const found = shallowRef<FailedPackage | null>(null), picture = ref('')
onMounted(() => (document.title = 'A print failed – Oak Stilts'))
const isPackage = computed(() => /\.zip$/i.test(file.value?.name ?? ''))
function showPicture(blob: Blob | null): void {
  if (picture.value) URL.revokeObjectURL(picture.value)
  picture.value = blob ? URL.createObjectURL(blob) : ''
}
onBeforeUnmount(() => showPicture(null))
function choose(event: Event): void {
  file.value = (event.target as HTMLInputElement).files?.[0] ?? null
  found.value = null
  trouble.value = ''
}
/** The outcome in layers of a height. */
function outcomeOf(layerMm: number): FailedOutcome {
  const mm = Number(String(heightMm.value).replace(',', '.')), known = String(heightMm.value).trim() !== '' && mm >= 0 && symptom.value !== 'nothing'
  return { kind: 'failed', layer: known ? Math.floor(mm / layerMm + 1e-9) : null, symptom: symptom.value, copies: [], note: '' }
}

async function find(): Promise<void> {
  const { value: chosen } = file
  if (!chosen || doing.value) return
  trouble.value = ''
  found.value = null
  doing.value = isPackage.value ? 'Opening the package' : 'Bringing it in'
  try {
    if (isPackage.value) await lookInto(chosen)
    else await bringInto(chosen)
  } catch (error) {
    trouble.value = (error as Error).message
  } finally {
    doing.value = ''
  }
}
async function lookInto(chosen: File): Promise<void> {
  // the layer height is told by the package itself
  const first = await lookIntoPackage(chosen, outcomeOf(0.05), words => (doing.value = words)), { layerMm } = first.manifest
  found.value = layerMm === 0.05 ? first : await lookIntoPackage(chosen, outcomeOf(layerMm), words => (doing.value = words))
  showPicture(found.value.picture)
}
/** A model goes onto the bench as it was printed, with the failure noted: there its layers and tips are looked at. */
async function bringInto(chosen: File): Promise<void> {
  const [made] = await bringIn.run([chosen], (f, options) => api.upload(f, options))
  if (!made) return
  const parts = made.parts.map(p => (p.poseSettled ? p : { ...p, pose: { ...p.pose, liftMm: 0 }, poseSettled: true, sizeSettled: true }))
  await api.edit(made.id, { batch: newId(), baseRevision: made.revision, edits: [{ label: 'as it was printed', step: newId(), way: 'note', put: { parts } }] })
  const job = await api.job(made.id), layers = Math.ceil(Math.max(...parts.map(p => p.source.summary.sizeMm[2] + p.pose.liftMm)) / job.layerMm), id = newId()
  await api.keepPrint({ id, job: { id: job.id, state: stateOfPrint(contentOf(job)) }, name: job.name, at: new Date().toISOString(), facts: factsOf(job, job.parts, job.copies, layers, () => []), seconds: 0, resinMl: 0, sha256: null, outcome: outcomeOf(job.layerMm), photo: null })
  await router.push(`/jobs/${job.id}/print?trace=${id}`)
}
const islands = computed(() => found.value?.rehearsal.result.islands.filter(i => i.state === 'open') ?? [])
</script>

<template>
  <div class="failed-page">
    <PageHeader title="A print failed" />
    <main>
      <form @submit.prevent="find">
        <p>Bring the file that was printed, with its supports, and say where it went wrong. It is looked at layer by layer; nothing is sent anywhere else.</p>
        <label>What was printed <input type="file" :accept="`${ACCEPTED},.zip`" aria-label="What was printed" @change="choose" /></label>
        <label>What is wrong <select v-model="symptom" aria-label="What is wrong"><option v-for="s in SYMPTOMS" :key="s.id" :value="s.id">{{ s.name }}</option></select></label>
        <label v-if="symptom !== 'nothing'">At what height <span><input v-model="heightMm" type="number" min="0" max="2000" step="any" class="figure" aria-label="Height where it failed" placeholder="not known" /> mm above the plate</span></label>
        <p v-if="doing && !bringIn.bringing.value" role="status">{{ doing }}</p>
        <BringInStatus :bring-in="bringIn" />
        <p v-for="r in bringIn.refused.value" :key="r.name" role="alert" class="trouble">{{ r.name }} was not brought in. {{ r.sentence }}</p>
        <p v-if="trouble" role="alert" class="trouble">{{ trouble }}</p>
        <button class="plain-button leading" type="submit" :disabled="!file || !!doing">Find the cause</button>
      </form>
      <section v-if="found" class="found" aria-label="What was found">
        <h2>{{ found.manifest.name }}</h2>
        <p class="quiet">{{ found.manifest.layers.length.toLocaleString('en') }} layers of {{ found.manifest.layerMm }} mm for {{ found.manifest.printer.name }}, {{ found.manifest.resin.name }}. From its pictures alone: {{ islands.length === 0 ? 'nothing begins in the air' : `${islands.length} ${islands.length === 1 ? 'region begins' : 'regions begin'} in the air` }}.</p>
        <ul v-if="found.rehearsal.faults.length" class="faults"><li v-for="f in found.rehearsal.faults" :key="`${f.kind} ${f.layer}`">{{ f.sentence }}</li></ul>
        <ol aria-label="Likely causes"><li v-for="c in found.causes.slice(0, 4)" :key="c.kind"><b>{{ c.title }}</b><ul><li v-for="e in c.evidence" :key="e">{{ e }}</li></ul></li></ol>
        <img v-if="picture" :src="picture" alt="The layer where it failed, as the printer showed it" />
        <p v-if="found.manifest.job"><RouterLink :to="`/jobs/${found.manifest.job.id}/print`">Open the job that it was sliced from</RouterLink></p>
      </section>
    </main>
  </div>
</template>

<style scoped>
.failed-page { display: grid; grid-template-rows: auto 1fr; height: 100%; font-size: 15px; }
h2 { font-size: 16px; font-weight: 600; }
main { overflow-y: auto; padding: 20px; display: grid; grid-template-columns: minmax(320px, 460px) minmax(0, 640px); gap: 28px; align-content: start; }
form, .found { display: grid; gap: 12px; align-content: start; }
form > label { display: grid; grid-template-columns: 130px minmax(0, 1fr); gap: 10px; align-items: center; }
form input[type='number'] { width: 110px; }
form .leading { justify-self: start; }
.trouble { color: #560f2a; }
.found { border-left: 1px solid var(--divider); padding-left: 28px; }
ol { margin: 0; padding-left: 22px; display: grid; gap: 8px; }
ol ul, .faults { margin: 2px 0; padding-left: 18px; }
img { max-width: 100%; border: 1px solid var(--divider); }
@media (max-width: 900px) { main { grid-template-columns: 1fr; } .found { border-left: 0; padding-left: 0; } }
</style>
