import { describe, expect, it } from 'vitest'
import type { NotHeld } from '@oak-stilts/core/plan'
import { GAUGES, type StiltShape } from '@oak-stilts/core/stilts'
import { joinMeshes } from '../../../core/mesh'
import { uprightShape } from '../../../core/testing/jobs'
import { bowl, box, sphere } from '../../../core/testing/shapes'
import type { HoldAnswer, HoldWhat } from '../workers/scan.worker'
import { fakeBench, scanned, settle } from './bench-context.fake'
import { createEditing } from './editing'
import { createHolding } from './holding'

const mesh = joinMeshes([bowl(6, 1, 7, 1, 0, 48), box([-0.5, 12, 0], [0.5, 13, 10]), sphere([12, 0, 6], 2, 24), box([0, 12.2, 7], [6, 12.8, 8])])
const result = scanned(mesh)
const stilt = (): StiltShape => uprightShape(12)
const missed = (kind: NotHeld['kind'], layer: number, reason: string): NotHeld => ({ kind, layer, at: [0, 0, layer], reason })

async function bench(answer: () => Promise<HoldAnswer | null>) {
  const asked: HoldWhat[] = []
  const context = await fakeBench(mesh, { scan: { hold: (...args: unknown[]) => {
    asked.push(args[7] as HoldWhat)
    return answer()
  } } })
  context.state.result = result
  context.state.scanState = 'fresh'
  let rescans = 0
  const editing = createEditing(context)
  const holding = createHolding(context, editing.addStilts, () => {
    rescans++
    return Promise.resolve()
  }, () => GAUGES)
  return { context, state: context.state, store: context.store, asked, rescans: () => rescans, ...editing, ...holding }
}
const placed = (count = 0): (() => Promise<HoldAnswer>) => () => Promise.resolve({ added: Array.from({ length: count }, stilt), notHeld: [], near: 0 })

describe('holding on the bench', () => {
  it('says how many stand nearer to others than the resin keeps open', async () => {
    const b = await bench(() => Promise.resolve({ added: [stilt(), stilt()], notHeld: [], near: 1 }))
    await b.holdAll()
    expect(b.state.message).toBe('2 stilts were placed, 1 of them nearer to others than this resin keeps open: nothing else would hold there.')
  })

  it('puts all stilts in one step, which undo takes back whole', async () => {
    const b = await bench(placed(2))
    await b.holdAll()
    expect([b.store.stilts.length, b.store.undoLabel, b.state.message, b.state.busy]).toEqual([2, 'hold open islands', '2 stilts were placed.', ''])
    expect(b.asked).toEqual([{ ledges: false }])
    expect(b.store.undo()).toBe('hold open islands')
    expect(b.store.stilts).toHaveLength(0)
  })
  it('asks for one island, one ledge, or the rest of an island with its ledges', async () => {
    const b = await bench(placed(1))
    const [island] = b.state.openIslands, [ledge] = b.state.openLedges
    await b.holdOne(island)
    await b.holdOne({ ...island, state: 'partly' })
    await b.holdOne(ledge)
    expect(b.asked).toEqual([{ only: [island.island.id], ledges: false }, { only: [island.island.id], ledges: true }, { ledge: ledge.ledge }])
  })
  it('asks for nothing where nothing is open, and says so', async () => {
    const b = await bench(placed(1))
    b.state.result = { ...result, islands: [], ledges: [] }
    await b.holdAll()
    expect(b.state.message).toBe('No island is open.')
    await b.holdAll(true)
    expect(b.state.message).toBe('Nothing hangs that a stilt could hold.')
    expect(b.asked).toEqual([])
  })
  it('says what helps where no stilt does', async () => {
    const b = await bench(placed(1))
    const cup = b.state.worklist.findings.find(f => f.kind === 'cup')
    if (!cup) throw new Error('There is no cup.')
    await b.holdOne(cup)
    expect(b.state.message).toBe('No stilt helps here. Tilt the part, or vent it.')
    await b.holdOne({ ...cup, state: 'settled' })
    expect(b.asked).toEqual([])
  })
  it('counts what it could not hold, and gives the reason or the list of them', async () => {
    let answer: HoldAnswer = { added: [stilt()], notHeld: [missed('island', 4, 'Every way down is blocked within 45°.')], near: 0 }
    const b = await bench(() => Promise.resolve(answer))
    await b.holdAll()
    expect(b.state.message).toBe('1 stilt was placed. 1 island could not be held whole. Every way down is blocked within 45°.')
    answer = { added: [], notHeld: [missed('island', 4, 'One.'), missed('island', 5, 'Two.'), missed('ledge', 9, 'One.')], near: 0 }
    await b.holdAll(true)
    expect(b.state.message).toBe('0 stilts were placed. 2 islands and 1 ledge could not be held whole. The list says why of each.')
    // nothing was placed, so the scan that gave way has to be made again
    expect(b.rescans()).toBe(1)
  })
  it('tells each finding why it could not be held', async () => {
    const b = await bench(placed())
    const [island] = b.state.openIslands
    b.context.notHeld.value = [{ kind: 'island', layer: island.layer, at: island.island.aim, reason: 'Too low.' }]
    expect(b.context.whyNotHeld(island)).toBe('Too low.')
    expect(b.context.whyNotHeld({ ...island, state: 'settled' })).toBeUndefined()
    expect(b.context.whyNotHeld(b.state.openLedges[0])).toBeUndefined()
    // what a plan left is known after a reload as well, and what was tried since goes before it
    const [x, y, z] = island.island.aim, kept = (reason: string): void => b.store.note({ label: 'prove', put: { proofs: [{ id: b.store.part?.id ?? '', of: '', checks: [], left: [{ kind: 'island', layer: island.layer, at: [x, y, z], reason }] }] } })
    kept('No way.')
    expect(b.context.whyNotHeld(island)).toBe('Too low.')
    b.context.notHeld.value = []
    expect(b.context.whyNotHeld(island)).toBe('No way.')
  })
  it('places nothing where it was cancelled, and says so where it failed', async () => {
    const cancelled = await bench(() => Promise.resolve(null))
    await cancelled.holdAll()
    expect([cancelled.state.message, cancelled.store.stilts.length, cancelled.rescans()]).toEqual(['Holding was cancelled; nothing was placed.', 0, 1])
    const failed = await bench(() => Promise.reject(new Error('out of memory')))
    await failed.holdAll()
    expect([failed.state.message, failed.state.busy, failed.holding()]).toEqual(['Holding failed: out of memory', '', false])
  })
  it('leaves what is placed by hand meanwhile alone', async () => {
    let release: (a: HoldAnswer) => void = () => undefined
    const b = await bench(() => new Promise(resolve => (release = resolve)))
    const held = b.holdAll()
    await settle()
    b.addStilts('place stilt', [{ ...stilt(), gauge: 'heavy' }])
    release({ added: [stilt(), stilt()], notHeld: [], near: 0 })
    await held
    expect(b.store.stilts.map(s => [s.number, s.gauge])).toEqual([[1, 'heavy'], [2, 'light'], [3, 'light']])
  })
  it('is cancelled at once, whatever the worker does, and takes nothing from it any more', async () => {
    let release: (a: HoldAnswer) => void = () => undefined
    const b = await bench(() => new Promise(resolve => (release = resolve)))
    const held = b.holdAll()
    await settle()
    expect(b.cancelHold()).toBe(true)
    expect([b.state.busy, b.holding(), b.state.message, b.rescans()]).toEqual(['', false, 'Holding was cancelled; nothing was placed.', 1])
    release({ added: [stilt()], notHeld: [], near: 0 })
    await held
    expect(b.store.stilts).toEqual([])
    expect(b.cancelHold()).toBe(false)
  })
  it('places nothing on a part that was moved meanwhile', async () => {
    let release: (a: HoldAnswer) => void = () => undefined
    const b = await bench(() => new Promise(resolve => (release = resolve)))
    const held = b.holdAll()
    await settle()
    await b.settlePose(7)
    release({ added: [stilt()], notHeld: [], near: 0 })
    await held
    expect([b.store.stilts.length, b.state.message]).toEqual([0, 'The part was moved meanwhile; nothing was placed.'])
  })
  it('scans what was edited meanwhile also where it failed', async () => {
    let fail: (e: Error) => void = () => undefined
    const b = await bench(() => new Promise((_, reject) => (fail = reject)))
    const held = b.holdAll()
    await settle()
    b.addStilts('place stilt', [stilt()])
    fail(new Error('out of memory'))
    await held
    expect([b.rescans(), b.store.stilts.length]).toEqual([1, 1])
  })
  it('is asked once at a time', async () => {
    let release: (a: HoldAnswer) => void = () => undefined
    const b = await bench(() => new Promise(resolve => (release = resolve)))
    const first = b.holdAll()
    await settle()
    await b.holdAll()
    expect([b.asked.length, b.holding(), b.state.busy]).toEqual([1, true, 'Placing stilts'])
    release({ added: [stilt()], notHeld: [], near: 0 })
    await first
    expect(b.holding()).toBe(false)
  })
})

describe('waiving on the bench', () => {
  it('keeps the reason in the job, at once and to be undone', async () => {
    const b = await bench(placed())
    const [island] = b.state.openIslands, open = b.state.worklist.open
    b.waive(island, '  It sits on the post.  ')
    expect(b.store.waivers).toMatchObject([{ kind: 'island', reason: 'It sits on the post.' }])
    const waived = b.state.worklist.findings.find(f => f.key === island.key)
    expect([waived?.state, b.state.worklist.open]).toEqual(['waived', open - 1])
    if (waived) b.takeBackWaiver(waived)
    expect([b.store.waivers, b.state.worklist.open]).toEqual([[], open])
    b.store.undo()
    expect(b.state.worklist.open).toBe(open - 1)
  })
  it('wants a reason', async () => {
    const b = await bench(placed())
    b.waive(b.state.openIslands[0], '   ')
    expect(b.store.waivers).toEqual([])
  })
})
