<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import type { Job, JobSummary } from '@oak-stilts/core/contract'
import { FILE_LIMIT_BYTES } from '@oak-stilts/core/mesh'
import { shapedSize, shapeOf } from '@oak-stilts/core/pose'
import { api } from '../api/client'
import { unsentCounts } from '../api/unsent'
import { ACCEPTED, addToJob, BringInStatus, createBringIn, DropAnywhere, firstView } from '../bring-in'
import { download } from '../files'
import BenchDialog from '../components/bench-dialog.vue'
import { useJobStore } from '../stores/job'

const router = useRouter()
const jobs = ref<JobSummary[] | null>(null)
const deleted = ref<JobSummary[]>([])
/** Jobs at hand, and those that were put away. */
const lists = computed(() => [{ archived: false, jobs: (jobs.value ?? []).filter(j => !j.archived) }, { archived: true, jobs: (jobs.value ?? []).filter(j => j.archived) }])
const unsent = ref<ReadonlyMap<string, number>>(new Map())
const trouble = ref('')
const chooser = ref<HTMLInputElement | null>(null)
const bringIn = createBringIn()
/** Files of which it is asked whether they are one job. */
const asked = shallowRef<readonly File[]>([])

async function load(): Promise<void> {
  try {
    // a job that was left a moment ago may still be on its way
    await useJobStore().left()
    ;[jobs.value, deleted.value] = await Promise.all([api.list(), api.deleted()])
    unsent.value = await unsentCounts()
    trouble.value = ''
  } catch (error) {
    trouble.value = (error as Error).message
  }
}
onMounted(() => {
  document.title = 'Jobs – Oak Stilts'
  void load()
})

function take(files: readonly File[]): void {
  if (bringIn.bringing.value) return
  if (files.length > 1) asked.value = files
  else void oneEach(files)
}
async function oneEach(files: readonly File[]): Promise<void> {
  asked.value = []
  await arrive(await bringIn.run(files, (file, options) => api.upload(file, options)))
}
/** The first file makes the job, the others are added to it; one that is refused makes none. */
async function together(files: readonly File[]): Promise<void> {
  asked.value = []
  let job: Job | null = null
  await bringIn.run(files, async (file, options) => (job = job ? await addToJob(job, await api.addParts(job.id, file, options)) : await api.upload(file, options)))
  await arrive(job ? [job] : [])
}
/** One job that was made is opened, where nothing was refused that should be read first. */
async function arrive(made: readonly Job[]): Promise<void> {
  if (made.length === 1 && bringIn.refused.value.length === 0) await router.push(`/jobs/${made[0].id}/${firstView(made[0])}`)
  else await load()
}
function choose(event: Event): void {
  const input = event.target as HTMLInputElement
  take([...(input.files ?? [])])
  input.value = ''
}
/** The job that was deleted last, to be brought back. */
const removed = ref<JobSummary | null>(null)
async function act(work: () => Promise<unknown>): Promise<void> {
  await work().catch(error => (trouble.value = (error as Error).message))
  await load()
}
function remove(job: JobSummary): Promise<void> {
  return act(async () => {
    await api.remove(job.id)
    removed.value = job
  })
}
function restore(job: JobSummary): Promise<void> {
  if (removed.value?.id === job.id) removed.value = null
  return act(() => api.restore(job.id))
}
async function exportJob(job: JobSummary): Promise<void> {
  try {
    writing.value = job.id
    download(await api.wholeJob(job.id), `${job.name.replace(/[^\p{L}\p{N} _-]/gu, '').trim() || 'job'} - job.3mf`)
  } catch (error) {
    trouble.value = (error as Error).message
  } finally {
    writing.value = ''
  }
}
const writing = ref('')
const copy = (job: JobSummary): Promise<void> => act(() => api.copy(job.id, `${job.name.slice(0, 110)} (copy)`))
const archive = (job: JobSummary): Promise<void> => act(() => api.archive(job.id, !job.archived))
/** Size and triangles of the one part; of several their number. */
function weightOf({ parts }: JobSummary): string {
  const triangles = parts.reduce((n, p) => n + p.summary.triangles, 0).toLocaleString('en')
  return `${parts.length === 1 ? `${shapedSize(parts[0].summary.sizeMm, shapeOf(parts[0].recipe)).map(v => v.toFixed(0)).join(' × ')} mm` : `${parts.length} parts`} · ${triangles} triangles`
}
const when = (iso: string): string => new Date(iso).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })
</script>

<template>
  <div class="jobs-page">
    <header>
      <span class="mark"><img src="/mark.svg" alt="" width="24" height="24" />Oak Stilts</span>
      <span class="quiet">Lift and tilt, scan every layer, hold what hangs.</span>
      <RouterLink to="/failed" class="kit">A print failed</RouterLink>
      <RouterLink to="/log">Print log</RouterLink>
      <RouterLink to="/kit">Printers and resins</RouterLink>
    </header>
    <main>
      <section class="bring-in" aria-label="Bring in a model">
        <div>
          <h1>Drop a model here</h1>
          <p class="quiet">STL, OBJ, PLY or 3MF, up to {{ FILE_LIMIT_BYTES / 1048576 }} MB; several at once if you like. The file itself is never changed.</p>
        </div>
        <button class="plain-button leading" :disabled="!!bringIn.bringing.value" @click="chooser?.click()">Choose models</button>
        <input ref="chooser" class="visually-hidden" type="file" multiple :accept="ACCEPTED" aria-label="Model files" tabindex="-1" @change="choose" />
      </section>
      <BringInStatus :bring-in="bringIn" class="sending" />
      <section v-for="r in bringIn.refused.value" :key="r.name" class="refused" role="alert">
        <strong>{{ r.name }} was not brought in.</strong>
        <p>{{ r.sentence }}</p>
        <button class="link-button" @click="bringIn.refused.value = bringIn.refused.value.filter(o => o !== r)">Close</button>
      </section>
      <section v-if="trouble" class="refused" role="alert"><p>{{ trouble }}</p><button class="plain-button" @click="load">Try again</button></section>
      <section v-if="removed" class="removed" role="status"><span>“{{ removed.name }}” was deleted.</span><button class="plain-button leading" @click="restore(removed)">Undo</button></section>
      <p v-if="jobs && jobs.length === 0" class="none quiet">There are no jobs yet. Bring in a model to begin.</p>
      <component :is="list.archived ? 'details' : 'section'" v-for="list in lists.filter(l => l.jobs.length)" :key="String(list.archived)">
        <summary v-if="list.archived">Put away <span class="quiet">{{ list.jobs.length }}</span></summary>
        <h2 v-else>Jobs</h2>
        <ul class="cards" :aria-label="list.archived ? 'Jobs that were put away' : 'Jobs'">
          <li v-for="job in list.jobs" :key="job.id">
            <RouterLink :to="`/jobs/${job.id}/hold`" class="picture" :aria-label="`Open ${job.name}`">
              <img v-if="job.pictureVersion" :src="`/api/jobs/${job.id}/picture?v=${job.pictureVersion}`" :alt="`Picture of ${job.name}`" />
            </RouterLink>
            <div class="text">
              <RouterLink :to="`/jobs/${job.id}/hold`"><strong>{{ job.name }}</strong></RouterLink>
              <span class="quiet figure">{{ weightOf(job) }}</span>
              <span class="quiet">{{ job.stilts ? `${job.stilts} stilts` : 'no stilts yet' }} · {{ when(job.updatedAt) }}</span>
              <span v-if="unsent.get(job.id)" class="unsent">{{ unsent.get(job.id) }} {{ unsent.get(job.id) === 1 ? 'change was' : 'changes were' }} not saved yet; open the job to save {{ unsent.get(job.id) === 1 ? 'it' : 'them' }}.</span>
              <span class="actions"><RouterLink :to="`/jobs/${job.id}/proof?ready`" class="link-button" :aria-label="`Make ready ${job.name}`" title="Opens it, holds what hangs, braces what is slender, repairs, and proves that it holds">Make ready</RouterLink><button class="link-button" :aria-label="`Copy ${job.name}`" @click="copy(job)">Copy</button><button class="link-button" :disabled="writing !== ''" :aria-label="`Export ${job.name}`" title="The whole job as one file, 3MF" @click="exportJob(job)">{{ writing === job.id ? 'Writing' : 'Export' }}</button><button class="link-button" :aria-label="`${job.archived ? 'Take out' : 'Put away'} ${job.name}`" @click="archive(job)">{{ job.archived ? 'Take out' : 'Put away' }}</button><button class="link-button" :aria-label="`Delete ${job.name}`" @click="remove(job)">Delete</button></span>
            </div>
          </li>
        </ul>
      </component>
      <details v-if="deleted.length" class="deleted">
        <summary>Deleted in the last day <span class="quiet">{{ deleted.length }}</span></summary>
        <p v-for="job in deleted" :key="job.id">{{ job.name }} <button class="link-button" :aria-label="`Bring back ${job.name}`" @click="restore(job)">Bring back</button></p>
      </details>
    </main>
    <DropAnywhere sentence="Drop to bring in" @files="take" />
    <BenchDialog :shown="asked.length > 0" :title="`${asked.length} models`" width="460px" @update:shown="asked = []">
      <p>{{ asked.map(f => f.name).join(', ') }}</p>
      <p class="choices"><button class="plain-button leading" @click="together(asked)">One job of {{ asked.length }} parts</button> <button class="plain-button" @click="oneEach(asked)">{{ asked.length }} jobs, one each</button></p>
    </BenchDialog>
  </div>
</template>

<style scoped>
.jobs-page { height: 100%; overflow-y: auto; font-size: 15px; }
header { display: flex; align-items: center; gap: 16px; padding: 14px 32px; background: var(--panel); border-bottom: 1px solid var(--divider); }
.mark { display: flex; align-items: center; gap: 8px; font-weight: 600; font-size: 17px; }
.kit { margin-left: auto; }
main { max-width: 1180px; margin: 0 auto; padding: 24px 32px 40px; }
.bring-in { display: flex; align-items: center; gap: 24px; padding: 22px 26px; border: 2px dashed var(--control); border-radius: 8px; background: var(--panel); }
.sending { margin-top: 14px; max-width: 420px; }
.bring-in > div { flex: 1; }
h1 { font-size: 19px; font-weight: 600; }
h2 { font-size: 16px; font-weight: 600; margin: 26px 0 12px; }
.refused { margin-top: 16px; padding: 12px 16px; background: var(--panel); border: 1px solid #560f2a; border-left-width: 5px; border-radius: 6px; display: grid; gap: 4px; justify-items: start; }
.removed { display: flex; gap: 14px; align-items: center; margin-top: 16px; padding: 10px 16px; background: var(--panel); border: 1px solid var(--control); border-radius: 6px; }
details { margin-top: 26px; }
summary { font-weight: 600; cursor: pointer; margin-bottom: 12px; }
summary .quiet { font-weight: 400; }
.deleted p { display: flex; gap: 8px; align-items: center; }
.none { margin-top: 28px; }
.cards { list-style: none; padding: 0; margin: 0; display: grid; grid-template-columns: repeat(auto-fill, minmax(320px, 1fr)); gap: 20px; }
.cards li { background: var(--panel); border: 1px solid var(--divider); border-radius: 8px; overflow: hidden; }
.picture { display: block; aspect-ratio: 3 / 2; background: var(--paper); border-bottom: 1px solid var(--divider); }
.picture img { width: 100%; height: 100%; object-fit: cover; display: block; }
.text { display: grid; gap: 2px; padding: 10px 14px 8px; font-size: 14px; }
.text a { color: var(--ink); text-decoration: none; font-size: 15px; }
.text .figure { font-size: 12.5px; }
.unsent { color: #560f2a; }
.choices { display: flex; gap: 8px; margin-top: 14px; }
.actions { margin: 4px 0 0 -6px; }
.actions .link-button { font-size: 14px; }
</style>
