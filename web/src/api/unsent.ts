import { openDB, type DBSchema, type IDBPDatabase } from 'idb'
import { ref, type Ref } from 'vue'
import type { Edit } from '@oak-stilts/core/contract'
import { locks } from './locks'

/** An edit that was not acknowledged, and the name of the batch that it is sent in. */
export interface KeptEdit {
  readonly batch: string
  readonly edit: Edit
}

/** What one visit to a job left unsent. */
export interface KeptVisit {
  readonly job: string
  readonly visit: string
  /** Revision that its first edit goes on from. */
  readonly revision: number
  readonly edits: readonly KeptEdit[]
  /** Edits after these that the browser had no room for. */
  readonly missing: number
}

/** Keeps the unsent edits of one visit, in order. Writes as it can, never throws. */
export interface Keeper {
  /** Whether all that is unsent is surely kept in the browser; else it may live in this page alone. */
  readonly kept: Ref<boolean>
  add(edit: KeptEdit): void
  /** A batch, the oldest one, reached the server, whose revision is this one now. */
  acknowledged(batch: string, revision: number): void
  /** Everything that is kept of this visit is dropped. */
  drop(): void
  /** Resolves once everything is written that can be. */
  settled(): Promise<void>
  /** Ends the visit; what is left of it is found by the next one. */
  end(): void
}

interface EditRow extends KeptEdit {
  readonly job: string
  readonly visit: string
  readonly number: number
}
interface VisitRow {
  readonly job: string
  readonly visit: string
  readonly at: number
  readonly revision: number
  readonly missing: number
}
interface Schema extends DBSchema {
  edits: { key: [string, string, number]; value: EditRow }
  visits: { key: [string, string]; value: VisitRow }
}

/** Above every number: the end of a range of keys. */
const LAST: readonly never[] = []

let opening: Promise<IDBPDatabase<Schema>> | null = null
/** How often it was opened: the browser may close it, and lose what is in it, where its disk is full. */
let opened = 0
function database(): Promise<IDBPDatabase<Schema>> {
  if (!opening) opened++
  opening ??= openDB<Schema>('oak-stilts-unsent', 1, {
    upgrade: db => {
      db.createObjectStore('edits', { keyPath: ['job', 'visit', 'number'] })
      db.createObjectStore('visits', { keyPath: ['job', 'visit'] })
    },
    terminated: () => (opening = null),
  }).catch((error: unknown) => {
    opening = null
    throw error
  })
  return opening
}

const lockOf = (visit: string): string => `oak-stilts/visit/${visit}`

/** Visits whose page is still open, in this tab or another one. */
async function openVisits(): Promise<ReadonlySet<string>> {
  const held = (await locks()?.query())?.held ?? []
  return new Set(held.map(l => l.name ?? ''))
}

/** What visits that have ended left unsent of a job, oldest first. Empty where the browser keeps nothing. */
export async function unsentOf(job: string): Promise<KeptVisit[]> {
  try {
    const db = await database(), open = await openVisits()
    const visits = (await db.getAll('visits', IDBKeyRange.bound([job], [job, LAST]))).filter(v => !open.has(lockOf(v.visit))).sort((a, b) => a.at - b.at)
    const all: KeptVisit[] = []
    for (const { visit, revision, missing } of visits) {
      const edits = await db.getAll('edits', rangeOf(job, visit))
      if (edits.length === 0 && missing === 0) await forget(job, visit)
      else all.push({ job, visit, revision, edits, missing })
    }
    return all
  } catch {
    return []
  }
}

/** Jobs with unsent edits of visits that have ended, and how many. */
export async function unsentCounts(): Promise<ReadonlyMap<string, number>> {
  const counts = new Map<string, number>()
  try {
    const open = await openVisits()
    for (const [job, visit] of await (await database()).getAllKeys('edits')) if (!open.has(lockOf(visit))) counts.set(job, (counts.get(job) ?? 0) + 1)
  } catch {
    // a browser that keeps nothing has nothing to tell
  }
  return counts
}

/** Drops what a visit left. */
export async function forget(job: string, visit: string): Promise<void> {
  const tx = (await database()).transaction(['edits', 'visits'], 'readwrite')
  await Promise.all([tx.objectStore('edits').delete(rangeOf(job, visit)), tx.objectStore('visits').delete([job, visit]), tx.done])
}

function rangeOf(job: string, visit: string, from = 0): IDBKeyRange {
  return IDBKeyRange.bound([job, visit, from], [job, visit, Infinity])
}

/**
 * A keeper for one visit to a job, in IndexedDB. While the browser has no room, edits wait in order, so that what is kept never has
 * a gap; how many are missing is noted for the next visit.
 * @param adopted edits of earlier visits that this one takes over, and those visits
 */
export function createKeeper(job: string, revision: number, adopted: readonly KeptVisit[] = []): Keeper {
  const visit = crypto.randomUUID()
  const kept = ref(true)
  let number = 0
  let last = revision
  /** All that is not acknowledged, in order; those below `written` are in the browser's store. */
  let rows: EditRow[] = []
  let written = 0
  let acknowledgedUpTo = -1
  const upTo = new Map<string, number>()
  let takenOver: readonly KeptVisit[] = adopted
  let end = (): void => undefined
  void locks()?.request(lockOf(visit), () => new Promise<void>(resolve => (end = resolve)))

  const add = ({ batch, edit }: KeptEdit): void => {
    upTo.set(batch, number)
    rows.push({ job, visit, number: number++, batch, edit })
  }
  for (const v of adopted) for (const e of v.edits) add(e)

  /** A store that failed under us was seen to lose later what it took in between: it is written to, and not relied on in this visit. */
  let trusted = true
  const unwritten = (): EditRow[] => rows.filter(r => r.number > acknowledgedUpTo && r.number >= written)
  let store = 0
  async function write(): Promise<void> {
    rows = rows.filter(r => r.number > acknowledgedUpTo)
    const visits = takenOver, done = acknowledgedUpTo, at = last, upToNow = number
    if (unwritten().length === 0 && visits.length === 0 && done < 0) return
    try {
      const db = await database()
      // a store that was closed under us may have lost what it had
      if (store !== opened) written = 0
      const tx = db.transaction(['edits', 'visits'], 'readwrite')
      const edits = tx.objectStore('edits'), all = tx.objectStore('visits')
      // all of them waited for together: where the transaction fails, each of them does
      await Promise.all([
        ...visits.flatMap(v => [edits.delete(rangeOf(job, v.visit)), all.delete([job, v.visit])]),
        ...(done >= 0 ? [edits.delete(IDBKeyRange.bound([job, visit, 0], [job, visit, done]))] : []),
        ...unwritten().map(r => edits.put(r)),
        done === number - 1 ? all.delete([job, visit]) : all.put({ job, visit, at: Date.now(), revision: at, missing: 0 }),
        tx.done,
      ])
      store = opened
      takenOver = []
      written = upToNow
    } catch (error) {
      // tried again with the next one
      if ((error as DOMException).name === 'UnknownError') trusted = false
    }
    const missing = unwritten().length
    kept.value = missing === 0 && (trusted || rows.every(r => r.number <= acknowledgedUpTo))
    if (missing > 0) await noteMissing(at, missing).catch(() => undefined)
  }
  async function noteMissing(at: number, missing: number): Promise<void> {
    await (await database()).put('visits', { job, visit, at: Date.now(), revision: at, missing })
  }

  let writing: Promise<void> = Promise.resolve()
  let asked = false
  /** Writes that follow each other at once are one. */
  function writeSoon(): void {
    if (asked) return
    asked = true
    writing = writing.then(() => {
      asked = false
      return write()
    })
  }
  if (number > 0) writeSoon()

  return {
    kept,
    add(edit) {
      add(edit)
      writeSoon()
    },
    acknowledged(batch, now) {
      acknowledgedUpTo = Math.max(acknowledgedUpTo, upTo.get(batch) ?? -1)
      last = now
      upTo.delete(batch)
      writeSoon()
    },
    drop() {
      acknowledgedUpTo = number - 1
      writeSoon()
    },
    settled: () => writing,
    end: () => void writing.then(() => end()),
  }
}

/**
 * What of earlier visits can be put on a job as it is now: edits that the server has already are left out, and what remains goes on
 * from the job's revision, or from a batch of that very visit that was the last one the server took.
 */
export function continuing(visit: KeptVisit, job: { readonly revision: number; readonly batches: readonly string[] }): { readonly rest: readonly KeptEdit[]; readonly fits: boolean } {
  const known = new Set(job.batches)
  const rest = visit.edits.filter(e => !known.has(e.batch))
  const applied = visit.edits.filter(e => known.has(e.batch))
  const fits = applied.length > 0 ? job.batches[job.batches.length - 1] === applied[applied.length - 1].batch : job.revision === visit.revision
  return { rest, fits }
}
