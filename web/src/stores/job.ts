import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { applyEdit, inverseOf, type Edit, type EditBatch, type Job, type JobContent } from '@oak-stilts/core/contract'
import { graphOfStilt, stiltsOfGraph, type Stilt } from '@oak-stilts/core/stilts'
import { createOutbox, type Outbox } from '../api/autosave'
import { api } from '../api/client'

interface Step {
  readonly edit: Edit
  readonly inverse: Edit
}

const keptUnder = (id: string): string => `oak-stilts/unsent/${id}`

/** The job on the bench: its content, the edits that change it, undo and redo, and what is not saved yet. */
export const useJobStore = defineStore('job', () => {
  const job = shallowRef<Job | null>(null)
  const outbox = shallowRef<Outbox | null>(null)
  const done = shallowRef<readonly Step[]>([])
  const undone = shallowRef<readonly Step[]>([])
  /** Edits of an earlier visit that were sent now, or could not be. */
  const recovered = ref<'none' | 'sent' | 'lost'>('none')

  const nodes = computed(() => job.value?.nodes ?? NONE), beams = computed(() => job.value?.beams ?? NONE)
  /** Stilts that an edit leaves alone stay the same objects, so that nothing is made for them again. */
  const stilts = computed<readonly Stilt[]>(before => keepSame(before ?? [], stiltsOfGraph({ nodes: nodes.value, beams: beams.value }).stilts))
  const saveState = computed(() => outbox.value?.state.value ?? 'saved')
  const saveProblem = computed(() => outbox.value?.problem.value ?? '')
  const waiting = computed(() => outbox.value?.waiting.value ?? 0)
  const undoLabel = computed(() => done.value[done.value.length - 1]?.edit.label ?? null)
  const redoLabel = computed(() => undone.value[undone.value.length - 1]?.edit.label ?? null)

  async function open(id: string): Promise<Job> {
    close()
    let loaded = await api.job(id)
    const earlier = unsentOf(id)
    recovered.value = 'none'
    let batches: readonly EditBatch[] = []
    if (earlier) {
      // a last batch whose answer was lost counts as applied; the server knows it by its name
      if (earlier.revision === loaded.revision) {
        for (const b of earlier.batches) for (const e of b.edits) loaded = { ...applyEdit(loaded, e) }
        batches = earlier.batches
        recovered.value = 'sent'
      } else if (earlier.revision + 1 === loaded.revision && earlier.batches.length === 1) {
        localStorage.removeItem(keptUnder(id))
      } else {
        recovered.value = 'lost'
        localStorage.removeItem(keptUnder(id))
      }
    }
    outbox.value = createOutbox({
      revision: loaded.revision, earlier: batches,
      send: batch => api.edit(id, batch),
      keep: state => keepUnsent(id, state),
    })
    job.value = loaded
    done.value = []
    undone.value = []
    return loaded
  }

  function close(): void {
    outbox.value?.stop()
    outbox.value = null
    job.value = null
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

  return { job, stilts, nextStiltId, saveState, saveProblem, waiting, undoLabel, redoLabel, recovered, open, close, apply, undo, redo, flush: () => outbox.value?.flush() ?? Promise.resolve() }
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

function unsentOf(id: string): { revision: number; batches: EditBatch[] } | null {
  try {
    const text = localStorage.getItem(keptUnder(id))
    return text ? (JSON.parse(text) as { revision: number; batches: EditBatch[] }) : null
  } catch {
    return null
  }
}

function keepUnsent(id: string, state: unknown): void {
  try {
    if (state) localStorage.setItem(keptUnder(id), JSON.stringify(state))
    else localStorage.removeItem(keptUnder(id))
  } catch {
    // a full store must not stop the work; the edits stay in memory and are sent as soon as the server answers
  }
}
