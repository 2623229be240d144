import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { applyEdit, editsToReplace, inverseOf, type Edit, type Job, type JobContent } from '@oak-stilts/core/contract'
import { graphOfStilt, stiltsOfGraph, type Stilt } from '@oak-stilts/core/stilts'
import { createOutbox, type Outbox } from '../api/autosave'
import { api, ApiError } from '../api/client'
import { locks } from '../api/locks'
import { continuing, createKeeper, forget, unsentOf, type Keeper, type KeptVisit } from '../api/unsent'

interface Step {
  readonly edit: Edit
  readonly inverse: Edit
}

/** What an earlier visit left: nothing; sent now; or changes that do not go on from the job as it is now. */
export type Recovered = 'none' | 'sent' | 'apart'

/** A job was opened while another one was on its way; nothing came of the first. */
export class Superseded extends Error {}

/** A job that is left waits this long for its last changes to be sent, ms. */
const LEAVING_MS = 3000

/** The job on the bench: its content, the edits that change it, undo and redo, and what is not saved yet. */
export const useJobStore = defineStore('job', () => {
  const job = shallowRef<Job | null>(null)
  const outbox = shallowRef<Outbox | null>(null)
  const done = shallowRef<readonly Step[]>([])
  const undone = shallowRef<readonly Step[]>([])
  const recovered = ref<Recovered>('none')
  /** Visits whose changes were made to another state of the job; they are kept until the person decides. */
  const apart = shallowRef<readonly KeptVisit[]>([])
  /** Changes of earlier visits that the browser had no room for. */
  const missing = ref(0)
  const keeper = shallowRef<Keeper | null>(null)
  let newest = 0
  /** Resolves once what a job left behind has been sent, or cannot be for now. */
  let leaving: Promise<void> = Promise.resolve()

  const nodes = computed(() => job.value?.nodes ?? NONE), beams = computed(() => job.value?.beams ?? NONE)
  /** Stilts that an edit leaves alone stay the same objects, so that nothing is made for them again. */
  const stilts = computed<readonly Stilt[]>(before => keepSame(before ?? [], stiltsOfGraph({ nodes: nodes.value, beams: beams.value }).stilts))
  const saveState = computed(() => outbox.value?.state.value ?? 'saved')
  const saveProblem = computed(() => outbox.value?.problem.value ?? '')
  const waiting = computed(() => outbox.value?.waiting.value ?? 0)
  /** Whether what is unsent lives in this page alone, since the browser has no room for it. */
  const onlyHere = computed(() => waiting.value > 0 && keeper.value?.kept.value === false)
  const undoLabel = computed(() => done.value[done.value.length - 1]?.edit.label ?? null)
  const redoLabel = computed(() => undone.value[undone.value.length - 1]?.edit.label ?? null)

  /** @throws Superseded where another job was opened meanwhile; ApiError */
  async function open(id: string): Promise<Job> {
    const before = close()
    const ticket = ++newest
    // what the same job had unsent a moment ago has to be in what is loaded
    await before
    if (ticket !== newest) throw new Superseded()
    let loaded = await api.job(id).catch(async (error: unknown) => {
      if (ticket === newest) missing.value = await droppedWith(id, error)
      throw error
    })
    const take = async (): Promise<void> => {
      if (ticket !== newest) throw new Superseded()
      const visits = await unsentOf(id)
      if (ticket !== newest) throw new Superseded()
      const judged = visits.map(visit => ({ visit, ...continuing(visit, loaded) }))
      const next = judged.find(j => j.fits && j.rest.length > 0)
      for (const j of judged) if (j.rest.length === 0) void forget(id, j.visit.visit).catch(() => undefined)
      apart.value = judged.filter(j => j !== next && j.rest.length > 0).map(j => ({ ...j.visit, edits: j.rest }))
      missing.value = visits.reduce((n, v) => n + v.missing, 0)
      recovered.value = apart.value.length > 0 ? 'apart' : next ? 'sent' : 'none'
      const earlier = next?.rest ?? []
      for (const { edit } of earlier) loaded = applyEdit(loaded, edit)
      const own = createKeeper(id, loaded.revision, next ? [{ ...next.visit, edits: earlier }] : [])
      keeper.value = own
      outbox.value = createOutbox({ revision: loaded.revision, earlier, send: batch => api.edit(id, batch), sendLeaving: batch => api.editLeaving(id, batch), keeper: own })
      job.value = loaded
      done.value = []
      undone.value = []
    }
    // of two tabs only one takes over what an earlier visit left
    const manager = locks()
    await (manager ? manager.request(`oak-stilts/recover/${id}`, async () => {
      await take()
      await keeper.value?.settled()
    }) : take())
    return loaded
  }

  /** Changes that no job is there for any more; gives how many. */
  async function droppedWith(id: string, error: unknown): Promise<number> {
    if (!(error instanceof ApiError) || error.code !== 'not-found') return 0
    const visits = await unsentOf(id)
    for (const v of visits) await forget(id, v.visit).catch(() => undefined)
    return visits.reduce((n, v) => n + v.edits.length + v.missing, 0)
  }

  /** Leaves the job. What is unsent goes on being sent for a while, and is kept for the next visit. */
  function close(): Promise<void> {
    newest++
    const box = outbox.value, own = keeper.value
    outbox.value = null
    keeper.value = null
    job.value = null
    if (box) {
      const sent = Promise.race([box.flush().catch(() => undefined), new Promise<void>(resolve => setTimeout(resolve, LEAVING_MS))])
      leaving = Promise.all([leaving, sent.then(() => {
        box.stop()
        own?.end()
      })]).then(() => undefined)
    }
    return leaving
  }

  /** What is apart is dropped, or was kept otherwise. */
  async function forgetApart(): Promise<void> {
    const visits = apart.value
    apart.value = []
    recovered.value = 'none'
    for (const v of visits) await forget(v.job, v.visit).catch(() => undefined)
  }

  /** Makes another job hold what this one holds here, apart from its name. */
  async function copyInto(target: Job, mine: JobContent): Promise<void> {
    let { revision } = target
    for (const edit of editsToReplace(target, mine, 'keep as a copy')) revision = await api.edit(target.id, { batch: crypto.randomUUID(), baseRevision: revision, edits: [edit] })
  }

  /** Drops what is unsent here: it was kept elsewhere, or is not wanted. */
  async function abandon(): Promise<void> {
    const id = job.value?.id
    outbox.value?.stop()
    const own = keeper.value
    outbox.value = null
    if (!id || !own) return
    await own.settled()
    own.drop()
    await own.settled()
  }

  /** Makes a change that can be undone. */
  function apply(edit: Edit): void {
    const before = job.value
    if (!before) return
    done.value = [...done.value, { edit, inverse: inverseOf(before, edit) }]
    undone.value = []
    commit(before, edit)
  }

  function commit(before: Job, edit: Edit): void {
    job.value = { ...applyEdit(before as JobContent, edit) } as Job
    outbox.value?.push(edit)
  }

  function undo(): string | null {
    const step = done.value[done.value.length - 1]
    if (!step || !job.value) return null
    done.value = done.value.slice(0, -1)
    undone.value = [...undone.value, step]
    commit(job.value, step.inverse)
    return step.edit.label
  }

  function redo(): string | null {
    const step = undone.value[undone.value.length - 1]
    if (!step || !job.value) return null
    undone.value = undone.value.slice(0, -1)
    done.value = [...done.value, step]
    commit(job.value, step.edit)
    return step.edit.label
  }

  const nextStiltId = computed(() => stilts.value.reduce((n, s) => Math.max(n, s.id), 0) + 1)

  return { job, stilts, nextStiltId, saveState, saveProblem, waiting, onlyHere, undoLabel, redoLabel, recovered, apart, missing, open, close, forgetApart, copyInto, abandon, apply, undo, redo, flush: () => outbox.value?.flush() ?? Promise.resolve(), leave: () => outbox.value?.leave(), left: () => leaving }
})

/** The edit that puts stilts in, replacing those of the same number, and drops others. */
export function stiltsEdit(job: JobContent, label: string, put: readonly Stilt[], drop: readonly number[] = []): Edit {
  const touched = new Set([...put.map(s => s.id), ...drop])
  const graphs = put.map(graphOfStilt)
  const putNodes = graphs.flatMap(g => g.nodes), putBeams = graphs.flatMap(g => g.beams)
  const kept = new Set([...putNodes, ...putBeams].map(i => i.id))
  const gone = (items: readonly { id: string; stilt: number }[]): string[] => items.filter(i => touched.has(i.stilt) && !kept.has(i.id)).map(i => i.id)
  return { label, putNodes, putBeams, dropNodes: gone(job.nodes), dropBeams: gone(job.beams) }
}

const NONE: readonly never[] = []

/** The stilts of `now`, those that are the same as before by their objects of before. */
function keepSame(before: readonly Stilt[], now: readonly Stilt[]): readonly Stilt[] {
  const known = new Map(before.map(s => [s.id, s]))
  return now.map(s => {
    const old = known.get(s.id)
    return old && JSON.stringify(old) === JSON.stringify(s) ? old : s
  })
}
