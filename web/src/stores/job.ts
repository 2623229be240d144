import { defineStore } from 'pinia'
import { computed, ref, shallowRef, triggerRef } from 'vue'
import { applyChange, changesToReplace, contentOf, newId, pixelMmOf, sortedById, TABLE_NAMES, type AnyRow, type Change, type CheckWaiver, type Copy, type Edit, type Gauge, type Job, type JobContent, type KeptProof, type Mark, type JobFields, type Part, type Spread, type Step, type TableName, type Tables, type Touched, type Waiver } from '@oak-stilts/core/contract'
import type { Raster } from '@oak-stilts/core/scan'
import { changeOfStilts, PlanIndex, type Stilt, type StiltChanges } from '@oak-stilts/core/stilts'
import { upgradedEdits } from '../api/older-edits'
import { createOutbox, type Outbox } from '../api/autosave'
import { api, ApiError } from '../api/client'
import { locks } from '../api/locks'
import { continuing, createKeeper, forget, unsentOf, type Keeper, type KeptVisit } from '../api/unsent'

/** What an earlier visit left: nothing; sent now; or changes that do not go on from the job as it is now. */
export type Recovered = 'none' | 'sent' | 'apart'

/** A job was opened while another one was on its way; nothing came of the first. */
export class Superseded extends Error {}

/** A job that is left waits this long for its last changes to be sent, ms. */
const LEAVING_MS = 3000

/** Undo goes back as far as this memory reaches, bytes of JSON; the newest step is always kept. */
const UNDO_BYTES = 64 * 1024 * 1024

/** A job as it is open here: what it has once. Its rows are asked for by table. */
export type OpenJob = JobFields & { readonly id: string }

interface SizedStep extends Step {
  readonly bytes: number
}
/** Told of every change after it was made. */
export type ChangeListener = (change: Change, touched: Touched) => void

/** The job on the bench: its content, the edits that change it, undo and redo, and what is not saved yet. */
export const useJobStore = defineStore('job', () => {
  const job = shallowRef<OpenJob | null>(null)
  /** All of the job. Its rows are changed in place; `tick` tells who reads them. */
  let content: JobContent | null = null
  let index: PlanIndex | null = null
  const ticks = Object.fromEntries(TABLE_NAMES.map(name => [name, shallowRef({})])) as Record<TableName, ReturnType<typeof shallowRef<object>>>
  const listeners = new Set<ChangeListener>()
  const outbox = shallowRef<Outbox | null>(null)
  const done = shallowRef<readonly SizedStep[]>([])
  const undone = shallowRef<readonly SizedStep[]>([])
  const recovered = ref<Recovered>('none')
  /** Visits whose changes were made to another state of the job; they are kept until the person decides. */
  const apart = shallowRef<readonly KeptVisit[]>([])
  /** Changes of earlier visits that the browser had no room for. */
  const missing = ref(0)
  const keeper = shallowRef<Keeper | null>(null)
  /** The copy, and by it the part, that the bench works on. */
  const chosenCopy = ref<string | null>(null)
  let newest = 0
  /** Resolves once what a job left behind has been sent, or cannot be for now. */
  let leaving: Promise<void> = Promise.resolve()

  /** Rows of a table, oldest first. */
  function rowsOf<K extends 'parts' | 'copies' | 'waivers' | 'marks' | 'gauges' | 'spreads' | 'checkWaivers' | 'proofs'>(name: K): Tables[K] extends Map<string, infer R> ? R[] : never {
    void ticks[name].value
    return sortedById((content?.tables[name].values() ?? []) as Iterable<AnyRow>) as never
  }
  const parts = computed<readonly Part[]>(() => rowsOf('parts'))
  const copies = computed<readonly Copy[]>(() => rowsOf('copies'))
  const copy = computed<Copy | null>(() => copies.value.find(c => c.id === chosenCopy.value) ?? copies.value[0] ?? null)
  /** A part without a copy is not on the plate, and only there where no other is. */
  const part = computed<Part | null>(() => parts.value.find(p => p.id === copy.value?.part) ?? parts.value[0] ?? null)
  const waivers = computed<readonly Waiver[]>(() => rowsOf('waivers').filter(w => w.part === part.value?.id))
  /** Checks of its proof that are left as they are, and what its last proof found. */
  const checkWaivers = computed<readonly CheckWaiver[]>(() => rowsOf('checkWaivers').filter(w => w.part === part.value?.id))
  const keptProof = computed<KeptProof | null>(() => rowsOf('proofs').find(p => p.id === part.value?.id) ?? null)
  const marks = computed<readonly Mark[]>(() => rowsOf('marks').filter(m => m.part === part.value?.id))
  /** Gauges of the job's own: those that were changed here, or came from elsewhere and were used. */
  const gauges = computed<readonly Gauge[]>(() => rowsOf('gauges'))
  const spreads = computed<readonly Spread[]>(() => rowsOf('spreads').filter(s => s.part === part.value?.id))
  /** Ids of the gauges that its stilts have. */
  const usedGauges = computed<ReadonlySet<string>>(before => {
    void ticks.nodes.value
    const now = new Set<string>()
    for (const n of content?.tables.nodes.values() ?? []) if (n.kind === 'tip') now.add(n.gauge)
    return before && before.size === now.size && [...now].every(id => before.has(id)) ? before : now
  })
  const stilts = computed<readonly Stilt[]>(() => stiltsOf(part.value?.id ?? ''))
  /** Pixel and layer of the job. */
  const raster = computed<Raster | null>(before => {
    if (!job.value) return null
    const now = { pixelMm: pixelMmOf(job.value.printer), layerMm: job.value.layerMm }
    return before && before.pixelMm === now.pixelMm && before.layerMm === now.layerMm ? before : now
  })

  /** The stilts of a part. Those that an edit leaves alone stay the same objects. */
  function stiltsOf(id: string): readonly Stilt[] {
    void ticks.nodes.value
    void ticks.beams.value
    return index?.stiltsOf(id) ?? NONE
  }
  /** The graph of all stilts. @throws Error where no job is open */
  function plan(): PlanIndex {
    if (!index) throw new Error('No job is open.')
    return index
  }
  const saveState = computed(() => outbox.value?.state.value ?? 'saved')
  const saveProblem = computed(() => outbox.value?.problem.value ?? '')
  const waiting = computed(() => outbox.value?.waiting.value ?? 0)
  /** Whether what is unsent lives in this page alone, since the browser has no room for it. */
  const onlyHere = computed(() => waiting.value > 0 && keeper.value?.kept.value === false)
  const undoLabel = computed(() => done.value[done.value.length - 1]?.change.label ?? null)
  const redoLabel = computed(() => undone.value[undone.value.length - 1]?.change.label ?? null)

  /** @throws Superseded where another job was opened meanwhile; ApiError */
  async function open(id: string): Promise<OpenJob> {
    const before = close()
    const ticket = ++newest
    // what the same job had unsent a moment ago has to be in what is loaded
    await before
    if (ticket !== newest) throw new Superseded()
    const loaded = await api.job(id).catch(async (error: unknown) => {
      if (ticket === newest) missing.value = await droppedWith(id, error)
      throw error
    })
    if (ticket !== newest) throw new Superseded()
    // what can be undone is of no use while it cannot be loaded, and no reason not to open the job
    const history = await api.history(id).catch(() => ({ done: [], undone: [] }))
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
      const fresh = contentOf(loaded), upgraded = upgradedEdits(next?.rest ?? [], fresh), earlier = upgraded.edits
      missing.value += upgraded.left
      done.value = history.done.map(sized)
      undone.value = history.undone.map(sized)
      for (const { edit } of earlier) follow(edit, applyChange(fresh, edit).inverse)
      const own = createKeeper(id, loaded.revision, next ? [{ ...next.visit, edits: earlier }] : [])
      keeper.value = own
      outbox.value = createOutbox({ revision: loaded.revision, earlier, send: batch => api.edit(id, batch), sendLeaving: batch => api.editLeaving(id, batch), keeper: own })
      content = fresh
      index = new PlanIndex(fresh.tables.nodes, fresh.tables.beams)
      job.value = { id, ...fresh.fields }
      for (const name of TABLE_NAMES) triggerRef(ticks[name])
    }
    // of two tabs only one takes over what an earlier visit left
    const manager = locks()
    await (manager ? manager.request(`oak-stilts/recover/${id}`, async () => {
      await take()
      await keeper.value?.settled()
    }) : take())
    if (!job.value) throw new Superseded()
    return job.value
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
    content = null
    index = null
    chosenCopy.value = null
    for (const name of TABLE_NAMES) triggerRef(ticks[name])
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
    for (const change of changesToReplace(contentOf(target), mine, 'keep as a copy')) {
      revision = await api.edit(target.id, { batch: crypto.randomUUID(), baseRevision: revision, edits: [{ ...change, step: newId(), way: 'do' }] })
    }
  }

  /** All of the job as it is now, unaffected by what is changed afterwards. @throws Error where no job is open */
  function snapshot(): JobContent {
    if (!content) throw new Error('No job is open.')
    const { fields, tables } = content
    return { fields, tables: Object.fromEntries(TABLE_NAMES.map(name => [name, new Map<string, AnyRow>(tables[name])])) as unknown as Tables }
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
  function apply(change: Change): void {
    commit({ ...change, step: newId(), way: 'do' })
  }

  /** Makes a change that is no step: undo and redo pass it over. */
  function note(change: Change): void {
    commit({ ...change, step: newId(), way: 'note' })
  }

  /** Takes an edit into the steps that undo and redo go through. */
  function follow(edit: Edit, inverse: Change): void {
    if (edit.way === 'note') return
    if (edit.way === 'do') {
      const { step, label, set, put, drop } = edit
      done.value = bounded([...done.value, sized({ step, change: { label, set, put, drop }, inverse })])
      undone.value = []
      return
    }
    const [from, to] = edit.way === 'undo' ? [done, undone] : [undone, done]
    const step = from.value.findLast(s => s.step === edit.step)
    if (!step) return
    from.value = from.value.filter(s => s !== step)
    to.value = [...to.value, step]
  }

  function commit(edit: Edit): void {
    if (!content || !index || !job.value) return
    const { inverse, touched } = applyChange(content, edit)
    follow(edit, inverse)
    const nodes = touched.rows.get('nodes'), beams = touched.rows.get('beams')
    if (nodes || beams) index.touch(nodes ?? NONE, beams ?? NONE)
    if (touched.fields.size > 0) job.value = { id: job.value.id, ...content.fields }
    for (const name of touched.rows.keys()) triggerRef(ticks[name])
    for (const listener of listeners) listener(edit, touched)
    outbox.value?.push(edit)
  }

  function undo(): string | null {
    const step = done.value[done.value.length - 1]
    if (!step || !content) return null
    commit({ ...step.inverse, step: step.step, way: 'undo' })
    return step.change.label
  }

  function redo(): string | null {
    const step = undone.value[undone.value.length - 1]
    if (!step || !content) return null
    commit({ ...step.change, step: step.step, way: 'redo' })
    return step.change.label
  }

  /** Calls a listener after every change; gives what ends that. */
  function onChange(listener: ChangeListener): () => void {
    listeners.add(listener)
    return () => listeners.delete(listener)
  }

  /** The change of stilts of the part on the bench, as rows. */
  function stiltChange(label: string, changes: StiltChanges): Change {
    return changeOfStilts(plan(), part.value?.id ?? '', label, changes)
  }

  return {
    job, parts, copies, part, copy, chosenCopy, raster, waivers, checkWaivers, keptProof, marks, gauges, usedGauges, spreads, stilts, stiltsOf, plan, saveState, saveProblem, waiting, onlyHere, undoLabel, redoLabel, recovered, apart, missing,
    open, close, forgetApart, copyInto, snapshot, abandon, apply, note, undo, redo, onChange, stiltChange,
    flush: () => outbox.value?.flush() ?? Promise.resolve(), leave: () => outbox.value?.leave(), left: () => leaving,
  }
})

const NONE: readonly never[] = []

function sized(step: Step): SizedStep {
  return { ...step, bytes: JSON.stringify(step).length }
}

/** The newest steps that memory is kept for. */
function bounded(steps: readonly SizedStep[]): readonly SizedStep[] {
  let bytes = 0
  const from = steps.findLastIndex((s, i) => (bytes += s.bytes) > UNDO_BYTES && i < steps.length - 1)
  return from < 0 ? steps : steps.slice(from + 1)
}
