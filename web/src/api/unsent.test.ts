import 'fake-indexeddb/auto'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import type { Edit } from '@oak-stilts/core/contract'
import { continuing, createKeeper, forget, unsentCounts, unsentOf } from './unsent'

/** Locks of a page: what ended visits held is free, what is open is held. */
const held = new Set<string>()
vi.stubGlobal('navigator', {
  locks: {
    request: (name: string, work: () => Promise<void>) => {
      held.add(name)
      return work().finally(() => held.delete(name))
    },
    query: () => Promise.resolve({ held: [...held].map(name => ({ name })) }),
  },
})
/** As if all pages were closed without a word. */
const crash = (): void => held.clear()

const rename = (name: string): Edit => ({ label: 'rename', step: `step-${name}`, way: 'do', set: { name } })
const names = (list: readonly { readonly edit: Edit }[]): (string | undefined)[] => list.map(e => e.edit.set?.name)
let job: string
beforeEach(() => {
  crash()
  job = crypto.randomUUID()
})

describe('what is unsent', () => {
  it('outlives a crash in order, without what was acknowledged', async () => {
    const keeper = createKeeper(job, 4)
    for (const [batch, name] of [['one', 'a'], ['one', 'b'], ['two', 'c'], ['three', 'd']]) keeper.add({ batch, edit: rename(name) })
    await keeper.settled()
    keeper.acknowledged('one', 5)
    await keeper.settled()
    expect(keeper.kept.value).toBe(true)
    // a page that is open looks after its own
    expect(await unsentOf(job)).toEqual([])
    crash()
    const [visit, ...more] = await unsentOf(job)
    expect(more).toEqual([])
    expect([visit.revision, names(visit.edits), visit.edits.map(e => e.batch), visit.missing]).toEqual([5, ['c', 'd'], ['two', 'three'], 0])
    expect((await unsentCounts()).get(job)).toBe(2)
  })

  it('is taken over by the next visit as a whole, and two tabs keep their own', async () => {
    const first = createKeeper(job, 0)
    first.add({ batch: 'one', edit: rename('a') })
    await first.settled()
    crash()
    const [left] = await unsentOf(job)
    const second = createKeeper(job, 0, [left]), third = createKeeper(job, 0)
    second.add({ batch: 'two', edit: rename('b') })
    third.add({ batch: 'three', edit: rename('c') })
    await Promise.all([second.settled(), third.settled()])
    crash()
    expect((await unsentOf(job)).map(v => names(v.edits)).sort()).toEqual([['a', 'b'], ['c']])
  })

  it('leaves nothing once all is acknowledged or dropped', async () => {
    const one = createKeeper(job, 0), two = createKeeper(job, 0)
    one.add({ batch: 'one', edit: rename('a') })
    two.add({ batch: 'two', edit: rename('b') })
    await Promise.all([one.settled(), two.settled()])
    one.acknowledged('one', 1)
    two.drop()
    await Promise.all([one.settled(), two.settled()])
    crash()
    expect(await unsentOf(job)).toEqual([])
  })

  it('never has a gap where the browser has no room; what is missing is told, and kept as soon as there is room', async () => {
    const put = IDBObjectStore.prototype.put
    let full = false
    vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(function (this: IDBObjectStore, value: { edit?: Edit }) {
      if (full && (value.edit?.set?.name ?? '').startsWith('large')) throw new DOMException('no room', 'QuotaExceededError')
      return put.call(this, value)
    })
    const keeper = createKeeper(job, 0)
    keeper.add({ batch: 'one', edit: rename('a') })
    await keeper.settled()
    full = true
    keeper.add({ batch: 'two', edit: rename('large b') })
    await keeper.settled()
    keeper.add({ batch: 'three', edit: rename('c') })
    await keeper.settled()
    expect(keeper.kept.value).toBe(false)
    held.clear()
    let [visit] = await unsentOf(job)
    expect([names(visit.edits), visit.missing]).toEqual([['a'], 2])
    full = false
    keeper.add({ batch: 'four', edit: rename('d') })
    await keeper.settled()
    expect(keeper.kept.value).toBe(true)
    ;[visit] = await unsentOf(job)
    expect([names(visit.edits), visit.missing]).toEqual([['a', 'large b', 'c', 'd'], 0])
    vi.restoreAllMocks()
    await forget(job, visit.visit)
    expect(await unsentOf(job)).toEqual([])
  })

  it('lives in the page alone where the browser keeps nothing, and says so', async () => {
    vi.spyOn(IDBObjectStore.prototype, 'put').mockImplementation(() => {
      throw new DOMException('private', 'InvalidStateError')
    })
    const keeper = createKeeper(job, 0)
    keeper.add({ batch: 'one', edit: rename('a') })
    await keeper.settled()
    expect(keeper.kept.value).toBe(false)
    vi.restoreAllMocks()
  })
})

describe('what goes on from a job as it is now', () => {
  const visit = { job: 'j', visit: 'v', revision: 3, missing: 0, edits: [{ batch: 'A', edit: rename('a') }, { batch: 'B', edit: rename('b') }] }
  it.each([
    ['nothing was taken', { revision: 3, batches: ['x'] }, ['b', 'a'], true],
    ['the first was taken and its answer lost', { revision: 4, batches: ['x', 'A'] }, ['b'], true],
    ['both were taken', { revision: 5, batches: ['A', 'B'] }, [], true],
    ['another tab changed the job', { revision: 4, batches: ['x', 'y'] }, ['b', 'a'], false],
    ['the first was taken, then another tab changed the job', { revision: 5, batches: ['A', 'y'] }, ['b'], false],
    ['the job was put back to an older state', { revision: 2, batches: [] }, ['b', 'a'], false],
  ])('where %s', (_, job, rest, fits) => {
    const judged = continuing(visit, job)
    expect(names(judged.rest)).toEqual([...rest].reverse())
    expect(judged.fits || judged.rest.length === 0).toBe(fits)
  })
})
