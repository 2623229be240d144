import 'fake-indexeddb/auto'
import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { applyChange, contentOf, DEFAULT_SETTINGS, follow, listsOf, type Change, type Edit, type EditBatch, type Job, type Step } from '@oak-stilts/core/contract'
import { copyRow, jobRow, kneeRow, partRow, uprightShape } from '../../../core/testing/jobs'
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
  const fresh = (id: string): Job => jobRow(id)
  /** Every step as the server keeps it: what it changed, and what takes it back. */
  const logs = new Map<string, { done: string[]; undone: string[]; steps: Map<string, Step> }>()
  const take = (id: string, batch: EditBatch): number => {
    const job = jobs.get(id)
    if (!job) throw new ApiError('not-found', 'There is no such job.', 404)
    if (!job.batches.includes(batch.batch)) {
      if (job.revision !== batch.baseRevision) throw new ApiError('stale', 'Changed elsewhere.', 409)
      const content = contentOf(job), log = logs.get(id) ?? { done: [], undone: [], steps: new Map<string, Step>() }
      for (const e of batch.edits) {
        const { step, way, ...change } = e, { inverse } = applyChange(content, e)
        if (way === 'do') log.steps.set(step, { step, change, inverse })
        follow(log.done, log.undone, e)
      }
      logs.set(id, log)
      jobs.set(id, { ...job, ...content.fields, ...listsOf(content.tables), revision: job.revision + 1, batches: [...job.batches, batch.batch] })
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
  api.history = id => {
    const log = logs.get(id), of = (steps: readonly string[] = []): Step[] => steps.map(step => log?.steps.get(step) as Step)
    return Promise.resolve({ done: of(log?.done), undone: of(log?.undone) })
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
  return { state, jobs, add, foreign: (id: string) => take(id, { batch: crypto.randomUUID(), baseRevision: (jobs.get(id) as Job).revision, edits: [edit({ label: 'rename', set: { name: 'theirs' } })] }) }
}

/** As if the page was closed without a word: what was in memory is gone, its locks are free. */
function newPage(): ReturnType<typeof useJobStore> {
  held.clear()
  setActivePinia(createPinia())
  return useJobStore()
}
const edit = (change: Change): Edit => ({ ...change, step: crypto.randomUUID(), way: 'do' })
const place = (store: ReturnType<typeof useJobStore>, n: number): void => store.apply({ label: 'place', put: { nodes: [kneeRow(n)] } })
const numbers = (nodes: Iterable<{ readonly id: string }>): number[] => [...nodes].map(n => Number.parseInt(n.id, 10)).sort((a, b) => a - b)
const placed = (job: Job | undefined): number[] => numbers(job?.nodes ?? [])
const shown = (store: ReturnType<typeof useJobStore>): number[] => numbers(store.plan().nodes.values())
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
    expect([store.recovered, shown(store)]).toEqual(['sent', [1, 2]])
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
      expect([store.recovered, store.apart.flatMap(v => v.edits.map(e => e.edit.label)), shown(store), store.job?.name]).toEqual(['apart', ['place'], [], 'theirs'])
    }
    const copy = s.add()
    const mine = store.snapshot()
    applyChange(mine, store.apart[0].edits[0].edit)
    await store.copyInto(s.jobs.get(copy) as Job, mine)
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
    store.apply({ label: 'rename', set: { name: 'renamed' } })
    void store.close()
    await store.left()
    expect(s.jobs.get(id)?.name).toBe('renamed')
    await store.open(id)
    store.apply({ label: 'rename', set: { name: 'again' } })
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
    expect([store.saveState, shown(store)]).toEqual(['gone', [1]])
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

describe('undo', () => {
  it('passes over what is noted, which is stored all the same', async () => {
    const id = s.add(), store = newPage()
    await store.open(id)
    place(store, 1)
    place(store, 2)
    store.undo()
    const found = { id: store.part?.id ?? '', of: 'a state', checks: [] }
    store.note({ label: 'prove', put: { proofs: [found] } })
    expect([store.undoLabel, store.redoLabel, store.keptProof]).toEqual(['place', 'place', found])
    store.redo()
    store.undo()
    store.undo()
    await store.flush()
    expect([shown(store), store.keptProof, s.jobs.get(id)?.proofs]).toEqual([[], found, [found]])
  })

  it('goes back over what was done before a reload, and over what had not been sent yet; redo goes on again', async () => {
    const id = s.add()
    let store = newPage()
    await store.open(id)
    place(store, 1)
    place(store, 2)
    await store.flush()
    store.undo()
    place(store, 3)
    place(store, 4)
    store.undo()
    await store.flush()
    s.state.down = true
    place(store, 5)
    await pass(50)
    s.state.down = false
    store = newPage()
    await store.open(id)
    expect([shown(store), store.undoLabel]).toEqual([[1, 3, 5], 'place'])
    store.undo()
    store.undo()
    expect([shown(store), store.redoLabel]).toEqual([[1], 'place'])
    await store.flush()
    expect(placed(s.jobs.get(id))).toEqual([1])
    store = newPage()
    await store.open(id)
    store.redo()
    expect(shown(store)).toEqual([1, 3])
    store.redo()
    expect([shown(store), store.redoLabel]).toEqual([[1, 3, 5], null])
    store.undo()
    store.undo()
    store.undo()
    expect([shown(store), store.undoLabel, store.undo()]).toEqual([[], null, null])
  })
})

describe('stilts of the job', () => {
  it('stay the same objects where an edit leaves them alone, go with what they share, and come back whole', async () => {
    const id = s.add(), store = newPage()
    await store.open(id)
    const told: string[] = []
    const end = store.onChange(change => told.push(change.label))
    store.apply(store.stiltChange('place', { add: [uprightShape(1), uprightShape(2), uprightShape(3)] }))
    const [a, b, c] = store.stilts
    expect([a, b, c].map(x => [x.number, x.path[0][0]])).toEqual([[1, 1], [2, 2], [3, 3]])
    // longer by two joints, and back: rows that are left over go
    const bent = { ...b, path: [b.path[0], b.path[1], [2.5, 0, 1.2], [3, 0, 1], [3, 0, 0]] as const }
    store.apply(store.stiltChange('bend', { put: [{ stilt: b, shape: bent }] }))
    expect([store.stilts[0] === a, store.stilts[1] === b, store.stilts[1].path.length, store.stilts[1].id, store.plan().nodes.size, store.plan().beams.size]).toEqual([true, false, 5, b.id, 11, 8])
    store.undo()
    expect([store.stilts[1], store.plan().nodes.size, store.plan().beams.size]).toEqual([b, 9, 6])
    end()
    store.apply(store.stiltChange('delete', { drop: [store.stilts[0]] }))
    expect([store.stilts.map(x => x.number), store.plan().nodes.size, told]).toEqual([[2, 3], 6, ['place', 'bend', 'bend']])
    store.apply(store.stiltChange('place', { add: [uprightShape(9)] }))
    expect(store.stilts.map(x => x.number)).toEqual([2, 3, 4])
  })
})

describe('keeping mine as a copy', () => {
  it('keeps all of it: parts, copies, stilts, settings, waivers', async () => {
    const id = s.add()
    const store = newPage()
    await store.open(id)
    const many = Array.from({ length: 9000 }, (_, i) => kneeRow(i + 1))
    store.apply({
      label: 'all', set: { settings: { ...DEFAULT_SETTINGS, flapMm: 3 } },
      put: { parts: [partRow('part', { pose: { tiltXDeg: 9, tiltYDeg: 0, liftMm: 5 } }), partRow('second')], copies: [copyRow('third', 'second', { turnDeg: 30 })], nodes: many, waivers: [{ id: 'w', part: 'part', kind: 'cup', at: [0, 0, 0], reason: 'hidden' }] },
    })
    const target = s.add(), theirs = s.jobs.get(target) as Job
    s.jobs.set(target, { ...theirs, nodes: [kneeRow(20_000), kneeRow(1)], waivers: [{ id: 'x', part: 'part', kind: 'pool', at: [1, 1, 1], reason: 'theirs' }] })
    const mine = store.snapshot()
    place(store, 30_000)
    await store.copyInto(s.jobs.get(target) as Job, mine)
    expect(s.jobs.get(target)).toMatchObject({ ...mine.fields, name: target, ...listsOf(mine.tables) })
    expect(placed(s.jobs.get(target))).toEqual(many.map((_, i) => i + 1))
  })
})
