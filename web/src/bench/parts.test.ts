import { describe, expect, it, vi } from 'vitest'
import { AS_MADE, checkPlan, listsOf, NO_RAFT, type BroughtIn, type Copy, type Part } from '@oak-stilts/core/contract'
import { copyRow, partRow, uprightShape } from '../../../core/testing/jobs'
import { box } from '../../../core/testing/shapes'
import { api, ApiError } from '../api/client'
import { fakeBench } from './bench-context.fake'
import { createEditing } from './editing'
import { createParts } from './parts'

async function bench() {
  const context = await fakeBench(box([0, 0, 0], [10, 4, 3]))
  context.state.plateCheck = { outside: [], overlaps: [], boxes: [{ copy: 'copy', min: [-5, -2], max: [5, 2], outline: [] }] }
  const { store } = context
  return { ...context, ...createEditing(context), ...createParts(context, () => Promise.resolve()), copy: () => store.copies[0] as Copy, part: () => store.parts[0] as Part, all: () => JSON.stringify(listsOf(store.snapshot().tables)) }
}
const brought: BroughtIn = { part: { name: 'Second', recipe: AS_MADE, sizeSettled: false, poseSettled: true, raft: NO_RAFT, plannedBy: null, pose: { tiltXDeg: 0, tiltYDeg: 0, liftMm: 5 }, source: { ...partRow().source, summary: { ...partRow().source.summary, sizeMm: [8, 8, 8] } } }, places: [[0, 0]] }
const file = new File(['solid'], 'Second.stl')

describe('parts of a job', () => {
  it('are added where there is room, taken onto the bench, and taken back by undo', async () => {
    const b = await bench(), before = b.all()
    api.addParts = vi.fn(() => Promise.resolve([brought]))
    await b.addParts([file])
    expect([b.store.parts.map(p => p.name).sort(), b.store.part?.name, b.bringIn.bringing.value]).toEqual([['A part', 'Second'], 'Second', null])
    const { xPixels, yPixels } = b.store.copy as Copy
    // clear of the 10 × 4 mm that stand in the middle, 3 mm between them
    expect(Math.abs(xPixels * 0.1) >= 5 + 4 + 3 || Math.abs(yPixels * 0.1) >= 2 + 4 + 3).toBe(true)
    b.store.undo()
    expect([b.all(), b.store.part?.name]).toEqual([before, 'A part'])
  })
  it('come as the file has them: several parts, their copies and what lies between them, in one step', async () => {
    const b = await bench(), before = b.all()
    api.addParts = () => Promise.resolve([{ ...brought, places: [[-10, 0], [10, 0]] }, { part: { ...brought.part, name: 'Third' }, places: [[0, 6]] }])
    await b.addParts([file])
    const [second, third] = ['Second', 'Third'].map(name => b.store.copies.filter(c => c.part === b.store.parts.find(p => p.name === name)?.id))
    const mm = second.concat(third).map(c => [c.xPixels * (b.store.raster?.pixelMm ?? 0), c.yPixels * (b.store.raster?.pixelMm ?? 0)])
    expect(mm).toHaveLength(3)
    const steps = [mm[1][0] - mm[0][0], mm[1][1] - mm[0][1], mm[2][0] - mm[0][0], mm[2][1] - mm[0][1]]
    steps.forEach((v, i) => expect(Math.abs(v - [20, 0, 10, 6][i])).toBeLessThanOrEqual(b.store.raster?.pixelMm ?? 0))
    b.store.undo()
    expect(b.all()).toBe(before)
  })
  it('go on being brought in after one that is refused, until it is cancelled', async () => {
    const b = await bench(), asked: string[] = []
    api.addParts = (_, f, { signal }) => {
      asked.push(f.name)
      if (f.name === 'b.obj') return Promise.reject(new ApiError('damaged', 'This is damaged.', 422))
      if (f.name === 'c.ply') b.bringIn.cancel()
      return signal?.aborted ? Promise.reject(new ApiError('cancelled', 'Cancelled.')) : Promise.resolve([brought])
    }
    await b.addParts(['a.stl', 'b.obj', 'c.ply', 'd.3mf'].map(name => new File(['x'], name)).concat(new File([], 'e.stl')))
    expect([asked, b.store.parts.length, b.bringIn.refused.value]).toEqual([['a.stl', 'b.obj', 'c.ply'], 2, [{ name: 'b.obj', sentence: 'This is damaged.' }]])
    expect(b.state.message).toBe('b.obj was not brought in. This is damaged.')
  })
  it('that cannot be read change nothing and say why', async () => {
    const b = await bench(), before = b.all()
    api.addParts = () => Promise.reject(new ApiError('not-a-model', 'This is no STL.', 422))
    await b.addParts([file])
    expect([b.all(), b.state.message, b.bringIn.bringing.value]).toEqual([before, 'Second.stl was not brought in. This is no STL.', null])
  })
  it('are duplicated with stilts and waivers of their own, which nothing shares', async () => {
    const b = await bench()
    b.addStilts('place', [uprightShape(1), uprightShape(2)])
    b.store.apply({ label: 'waive', put: { waivers: [{ id: 'w', part: 'part', kind: 'cup', at: [0, 0, 0], reason: 'hidden' }] } })
    const way = { kind: 'line' as const, from: { point: [0, 0, 0] as [number, number, number], normal: [0, 0, -1] as [number, number, number] }, to: { point: [4, 0, 0] as [number, number, number], normal: [0, 0, -1] as [number, number, number] } }
    b.store.apply({ label: 'spread', put: { spreads: [{ id: 's', part: 'part', gauge: 'light', spacingMm: 2, keepMm: 0, way }] } })
    b.addStilts('place', [uprightShape(3, { spread: 's' })])
    await b.duplicate(b.part(), b.copy())
    // a spread of its own, and the stilt that was placed with it
    expect([b.store.spreads.map(s => [s.part, s.id === 's']), b.store.stilts.map(s => s.spread)]).toEqual([[[b.store.part?.id, false]], [undefined, undefined, b.store.spreads[0].id]])
    const twin = b.store.part as Part, own = b.store.stiltsOf('part')
    expect([twin.name, b.store.stilts.map(s => s.path), b.store.waivers.map(w => w.reason)]).toEqual(['A part (2)', own.map(s => s.path), ['hidden']])
    expect(checkPlan(b.store.plan().nodes, b.store.plan().beams)).toEqual([])
    b.state.selectedStilts = [b.store.stilts[0].id]
    b.remove()
    expect([b.store.stilts.length, b.store.stiltsOf('part').length]).toEqual([2, 3])
  })
  it('are deleted with everything that is theirs, and come back to the byte; the last one stays', async () => {
    const b = await bench()
    b.addStilts('place', [uprightShape(1)])
    b.removeCopy(b.copy())
    expect([b.store.parts.length, b.state.message]).toEqual([1, 'A job has one part at least. Add another one first, or delete the job.'])
    b.store.apply({ label: 'add', put: { parts: [partRow('zz')], copies: [copyRow('zz-1', 'zz'), copyRow('zz-2', 'zz')] } })
    const before = b.all()
    b.removeCopy(b.copy())
    expect([b.store.parts.map(p => p.id), b.store.copies.map(c => c.id), b.store.plan().nodes.size, b.store.part?.id]).toEqual([['zz'], ['zz-1', 'zz-2'], 0, 'zz'])
    b.store.undo()
    expect(b.all()).toBe(before)
    // of two copies one goes alone
    b.removeCopy(b.store.copies[1])
    expect([b.store.parts.length, b.store.copies.map(c => c.id)]).toEqual([2, ['copy', 'zz-2']])
  })
  it('are moved by whole pixels, and not farther than makes sense', async () => {
    const b = await bench()
    b.moveCopy(b.copy(), 1.234, -0.06)
    expect(b.copy()).toMatchObject({ xPixels: 12, yPixels: -1 })
    b.moveCopy(b.copy(), 1.24, -0.1)
    b.moveCopy(b.copy(), 1e9, 0)
    expect(b.copy()).toMatchObject({ xPixels: 20_000, yPixels: 0 })
    // a move that changes nothing is no step
    b.store.undo()
    expect(b.copy()).toMatchObject({ xPixels: 12, yPixels: -1 })
  })
  it('get another name, and keep theirs where it is empty', async () => {
    const b = await bench()
    b.renamePart(b.part(), '  Bell ')
    b.renamePart(b.part(), '   ')
    expect(b.part().name).toBe('Bell')
  })
})

describe('findings about the plate', () => {
  it('stand first in the worklist, at the place where they are seen from the part on the bench', async () => {
    const b = await bench()
    b.store.apply({ label: 'turn', put: { copies: [{ ...b.copy(), turnDeg: 90, xPixels: 100 }] } })
    b.state.plateCheck = { boxes: [], outside: [{ copy: 'copy', overMm: 1.5, aboveMm: 0, at: [10, 3, 0] }], overlaps: [{ copies: ['copy', 'copy'], at: [10, 0, 4] }] }
    const [outside, overlap] = b.state.worklist.findings
    expect([outside.kind, outside.figure, overlap.kind, b.state.worklist.open]).toEqual(['outside', 'A part, 1.50 mm over', 'overlap', 2])
    ;[[3, 0, 0], [0, 0, 4]].forEach((at, i) => [outside, overlap][i].at.forEach((v, x) => expect(v).toBeCloseTo(at[x], 9)))
    b.waive(outside, 'it is fine')
    expect(b.store.waivers).toEqual([])
  })
})
