import 'fake-indexeddb/auto'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { applyEdit, DEFAULT_PRINTER, DEFAULT_SETTINGS, type EditBatch, type Job } from '@oak-stilts/core/contract'
import { api, ApiError } from '../api/client'
import { Superseded, useJobStore } from './job'

/** Locks as pages hold them; a page that is closed lets go of its own. */
const held = new Map<string, Promise<unknown>>()
vi.stubGlobal('navigator', {
  locks: {
    request: async (name: string, work: () => Promise<void>) => {
      while (held.has(name)) await held.get(name)
      const own = work().finally(() => held.delete(name))
      held.set(name, own)
      return own
    },
    query: () => Promise.resolve({ held: [...held.keys()].map(name => ({ name })) }),
  },
})

/** A server with jobs, which remembers batches as the real one does. */
function server() {
  const jobs = new Map<string, Job>()
  const state = { down: false, loseAnswers: false, delays: new Map<string, Promise<void>>() }
  const fresh = (id: string): Job => ({
    id, name: id, revision: 0, meshHash: '', printer: DEFAULT_PRINTER, pose: { tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm: 5 }, poseSettled: true, nodes: [], beams: [], settings: DEFAULT_SETTINGS, waivers: [], batches: [],
    mesh: { triangles: 1, unclosedEdges: 0, zippedEdges: 0, cappedLoops: 0, duplicateTriangles: 0, degenerateTriangles: 0, shells: 1, turnedShells: 0, cavities: 0, sheets: 0, tooDamaged: false, volumeMm3: 1, sizeMm: [1, 1, 1], looksStanding: true },
  })
  const take = (id: string, batch: EditBatch): number => {
    const job = jobs.get(id)
    if (!job) throw new ApiError('not-found', 'There is no such job.', 404)
    if (!job.batches.includes(batch.batch)) {
      if (job.revision !== batch.baseRevision) throw new ApiError('stale', 'Changed elsewhere.', 409)
      let next = job
      for (const e of batch.edits) next = applyEdit(next, e)
      jobs.set(id, { ...next, revision: job.revision + 1, batches: [...job.batches, batch.batch] })
    }
    return (jobs.get(id) as Job).revision
  }
  api.job = async id => {
    await state.delays.get(id)
    if (state.down) throw new ApiError('offline', 'no answer')
    const job = jobs.get(id)
    if (!job) throw new ApiError('not-found', 'There is no such job.', 404)
    return job
  }
  api.edit = async (id, batch) => {
    await Promise.resolve()
    if (state.down) throw new ApiError('offline', 'no answer')
    const revision = take(id, batch)
    if (state.loseAnswers) throw new ApiError('offline', 'the answer got lost')
    return revision
  }
  api.editLeaving = (id, batch) => {
    if (!state.down) take(id, batch)
  }
  const add = (): string => {
    const id = crypto.randomUUID()
    jobs.set(id, fresh(id))
    return id
  }
  return { state, jobs, add, foreign: (id: string) => take(id, { batch: crypto.randomUUID(), baseRevision: (jobs.get(id) as Job).revision, edits: [{ label: 'rename', name: 'theirs' }] }) }
}

/** As if the page was closed without a word: what was in memory is gone, its locks are free. */
function newPage(): ReturnType<typeof useJobStore> {
  held.clear()
  setActivePinia(createPinia())
  return useJobStore()
}
const knee = (n: number) => ({ id: `${n}.knee`, stilt: n, kind: 'knee' as const, at: [n, 0, 5] as [number, number, number] })
const place = (store: ReturnType<typeof useJobStore>, n: number): void => store.apply({ label: 'place', putNodes: [knee(n)] })
const placed = (job: Job | undefined): number[] => (job?.nodes ?? []).map(n => n.stilt)
/** Lets the outbox send and the browser write. */
const pass = (ms = 350): Promise<void> => new Promise(resolve => setTimeout(resolve, ms))

let s: ReturnType<typeof server>
beforeEach(() => {
  s = server()
})

describe('changes that were not acknowledged', () => {
  it('A taken and its answer lost, B not sent, page closed: the next visit sends B alone', async () => {
    const id = s.add()
    let store = newPage()
    await store.open(id)
    s.state.loseAnswers = true
    place(store, 1)
    await pass()
    s.state.down = true
    place(store, 2)
    await pass(50)
    expect(placed(s.jobs.get(id))).toEqual([1])
    Object.assign(s.state, { loseAnswers: false, down: false })
    store = newPage()
    await store.open(id)
    expect([store.recovered, placed(store.job as Job)]).toEqual(['sent', [1, 2]])
    await store.flush()
    expect(placed(s.jobs.get(id))).toEqual([1, 2])
  })

  it('one unsent, and the job changed elsewhere: it is told, kept, and nothing is merged', async () => {
    const id = s.add()
    let store = newPage()
    await store.open(id)
    s.state.down = true
    place(store, 1)
    await pass(50)
    s.state.down = false
    s.foreign(id)
    for (let visit = 0; visit < 2; visit++) {
      store = newPage()
      await store.open(id)
      expect([store.recovered, store.apart.flatMap(v => v.edits.map(e => e.edit.label)), placed(store.job as Job), store.job?.name]).toEqual(['apart', ['place'], [], 'theirs'])
    }
    const copy = s.add()
    await store.copyInto(s.jobs.get(copy) as Job, applyEdit(store.job as Job, store.apart[0].edits[0].edit))
    await store.forgetApart()
    expect([placed(s.jobs.get(copy)), placed(s.jobs.get(id))]).toEqual([[1], []])
    store = newPage()
    await store.open(id)
    expect(store.recovered).toBe('none')
  })

  it('a day without the server: all are sent in order by the next visit', async () => {
    const id = s.add()
    let store = newPage()
    await store.open(id)
    s.state.down = true
    const all = Array.from({ length: 450 }, (_, i) => i + 1)
    for (const n of all) place(store, n)
    await pass(100)
    s.state.down = false
    store = newPage()
    await store.open(id)
    await store.flush()
    expect(placed(s.jobs.get(id))).toEqual(all)
  })

  it('leaving the bench at once sends them, and going back finds them', async () => {
    const id = s.add()
    const store = newPage()
    await store.open(id)
    store.apply({ label: 'rename', name: 'renamed' })
    void store.close()
    await store.left()
    expect(s.jobs.get(id)?.name).toBe('renamed')
    await store.open(id)
    store.apply({ label: 'rename', name: 'again' })
    await store.open(id)
    expect(store.job?.name).toBe('again')
    await store.flush()
    expect(store.saveState).toBe('saved')
  })

  it('the page goes away: what fits is sent, and not sent twice', async () => {
    const id = s.add()
    let store = newPage()
    await store.open(id)
    place(store, 1)
    store.leave()
    expect(placed(s.jobs.get(id))).toEqual([1])
    await pass(50)
    store = newPage()
    await store.open(id)
    await store.flush()
    expect([placed(s.jobs.get(id)), s.jobs.get(id)?.revision]).toEqual([[1], 1])
  })

  it('two pages: each sends its own, the second is told of the first', async () => {
    const id = s.add()
    setActivePinia(createPinia())
    const first = useJobStore()
    await first.open(id)
    const pinia = createPinia()
    setActivePinia(pinia)
    const second = useJobStore()
    await second.open(id)
    place(first, 1)
    await first.flush()
    place(second, 2)
    await expect(second.flush()).rejects.toThrow()
    expect([second.saveState, first.saveState, placed(s.jobs.get(id))]).toEqual(['stale', 'saved', [1]])
    // neither took over what the other one has under way
    const third = useJobStore(createPinia())
    await third.open(id)
    expect(third.recovered).toBe('none')
  })

  it('the job is deleted elsewhere: the page keeps it, a later visit says how many are lost', async () => {
    const id = s.add()
    let store = newPage()
    await store.open(id)
    s.jobs.delete(id)
    place(store, 1)
    await expect(store.flush()).rejects.toThrow()
    expect([store.saveState, placed(store.job as Job)]).toEqual(['gone', [1]])
    await pass(30)
    store = newPage()
    await expect(store.open(id)).rejects.toThrow(/no such job/)
    expect(store.missing).toBe(1)
  })
})

describe('opening', () => {
  it('the job that was asked for last is the one that is open, whichever answers first', async () => {
    const a = s.add(), b = s.add()
    let release = (): void => undefined
    s.state.delays.set(a, new Promise(resolve => (release = resolve)))
    const store = newPage()
    const first = store.open(a), second = store.open(b)
    const refused = expect(first).rejects.toThrow(Superseded)
    await second
    release()
    await refused
    place(store, 1)
    await store.flush()
    expect([store.job?.id, placed(s.jobs.get(a)), placed(s.jobs.get(b))]).toEqual([b, [], [1]])
  })
})

describe('keeping mine as a copy', () => {
  it('keeps all of it: pose, stilts, settings, waivers', async () => {
    const id = s.add()
    const store = newPage()
    await store.open(id)
    const many = Array.from({ length: 9000 }, (_, i) => knee(i + 1))
    store.apply({ label: 'all', pose: { tiltXDeg: 9, tiltYDeg: 0, turnDeg: 0, liftMm: 5 }, putNodes: many, settings: { ...DEFAULT_SETTINGS, flapMm: 3 }, putWaivers: [{ id: 'w', kind: 'cup', at: [0, 0, 0], reason: 'hidden' }] })
    const target = s.add(), theirs = s.jobs.get(target) as Job
    s.jobs.set(target, { ...theirs, nodes: [knee(20_000), knee(1)], waivers: [{ id: 'x', kind: 'pool', at: [1, 1, 1], reason: 'theirs' }] })
    await store.copyInto(s.jobs.get(target) as Job, store.job as Job)
    const { pose, settings, waivers } = store.job as Job
    expect(s.jobs.get(target)).toMatchObject({ pose, settings, waivers })
    expect(placed(s.jobs.get(target)).sort((p, q) => p - q)).toEqual(many.map(k => k.stilt))
  })
})
