import { describe, expect, it, vi } from 'vitest'
import { listsOf, type Part } from '@oak-stilts/core/contract'
import { copyRow, uprightShape } from '../../../core/testing/jobs'
import { box } from '../../../core/testing/shapes'
import { fakeBench } from './bench-context.fake'
import { createEditing } from './editing'
import { createSharing } from './sharing'

/** A block with two copies, a stilt, a mark and two waivers; the worker gives what it is told. */
async function bench(answer: (hosts: readonly { readonly part: string }[]) => object) {
  const shareOut = vi.fn((_: unknown, hosts: readonly { readonly part: string }[]) => Promise.resolve<object>({ change: {}, belong: [], moved: 0, lost: 0, braces: 0, anew: 0, ...answer(hosts) }))
  const context = await fakeBench(box([0, 0, 0], [10, 4, 3]), { surface: { shareOut } }), { store, state } = context
  state.plateCheck = { outside: [], overlaps: [], boxes: [{ copy: 'copy', min: [-5, -2], max: [5, 2], outline: [] }] }
  createEditing(context).addStilts('place', [uprightShape(1)])
  store.apply({ label: 'begin', put: { copies: [copyRow('second', 'part', { xPixels: 150 })], marks: [{ id: 'm', part: 'part', worth: 'prized', runs: [0, 2] }], waivers: [{ id: 'u', part: 'part', kind: 'cup', at: [0, 0, 1], reason: 'low' }, { id: 'v', part: 'part', kind: 'cup', at: [0, 0, 2], reason: 'high' }] } })
  return { ...context, shareOut, share: createSharing(context, () => Promise.resolve()), part: () => store.parts.find(p => p.id === 'part') as Part, all: () => JSON.stringify(listsOf(store.snapshot().tables)) }
}
const off = (part: Part): Part => ({ ...part, id: 'off', name: 'Cut off' })

describe('what a part has, shared among those that come after it', () => {
  it('goes along: as many copies where there is room, marks on both sides, waivers with their skin, stilts as the worker says; in one step', async () => {
    const b = await bench(() => ({ belong: [0, 1], moved: 1 })), before = b.all(), [node] = b.store.plan().nodes.values()
    b.shareOut.mockImplementationOnce(() => Promise.resolve({ change: { put: { nodes: [{ ...node, part: 'off' }] } }, belong: [0, 1], moved: 1, lost: 0, braces: 0, anew: 0 }))
    await b.share('cut', [b.part()], [b.part(), off(b.part())])
    const { store } = b, fresh = store.copies.filter(c => c.part === 'off')
    expect([store.parts.map(p => p.id).sort(), fresh.length, new Set(fresh.map(c => `${c.xPixels} ${c.yPixels}`)).size]).toEqual([['off', 'part'], 2, 2])
    // clear of the block of 10 × 4 mm, which stands in the middle
    for (const c of fresh) expect(Math.abs(c.xPixels * 0.1) >= 10 || Math.abs(c.yPixels * 0.1) >= 4).toBe(true)
    const { marks, waivers } = store.snapshot().tables
    expect([[...marks.values()].map(m => [m.part, m.worth]).sort(), [...waivers.values()].map(w => [w.reason, w.part]).sort()]).toEqual([[['off', 'prized'], ['part', 'prized']], [['high', 'off'], ['low', 'part']]])
    expect([store.plan().nodes.get(node.id)?.part, b.state.message]).toEqual(['off', 'Cut in two: A part and Cut off, which stands beside it on the plate. 1 stilt went along.'])
    store.undo()
    expect(b.all()).toBe(before)
  })
  it('comes together again: what the one that goes had is kept, and not twice', async () => {
    const b = await bench(() => ({ belong: [0, 0, 0] })), { store } = b
    store.apply({ label: 'other', put: { parts: [off(b.part())], copies: [copyRow('third', 'off')], marks: [{ id: 'same', part: 'off', worth: 'prized', runs: [0, 2] }, { id: 'own', part: 'off', worth: 'spare', runs: [4, 6] }], waivers: [{ id: 'w', part: 'off', kind: 'pool', at: [1, 0, 0], reason: 'there' }] } })
    const before = b.all()
    await b.share('join again', [b.part(), off(b.part())].map(p => store.parts.find(o => o.id === p.id) as Part), [b.part()])
    const { marks, waivers } = store.snapshot().tables
    expect([store.parts.map(p => p.id), store.copies.map(c => c.id), [...marks.values()].map(m => [m.part, m.worth]).sort(), [...waivers.values()].map(w => [w.reason, w.part]).sort()])
      .toEqual([['part'], ['copy', 'second'], [['part', 'prized'], ['part', 'spare']], [['high', 'part'], ['low', 'part'], ['there', 'part']]])
    expect(b.state.message).toBe('A part is whole again.')
    store.undo()
    expect(b.all()).toBe(before)
  })
  it('stays as it is where the part was changed meanwhile', async () => {
    const b = await bench(() => ({}))
    b.shareOut.mockImplementationOnce(() => {
      b.store.apply({ label: 'rename', put: { parts: [{ ...b.part(), name: 'Renamed' }] } })
      return Promise.resolve({ change: {}, belong: [0, 0], moved: 0, lost: 0, braces: 0, anew: 0 })
    })
    await b.share('cut', [b.part()], [b.part(), off(b.part())])
    expect([b.store.parts.map(p => p.name), b.state.message]).toEqual([['Renamed'], 'The part was changed meanwhile; it stays as it was.'])
  })
})
