import { describe, expect, it } from 'vitest'
import { applyChange, checkPlan, contentOf, listsOf, type Change } from '../contract'
import { joinMeshes, type Vec3 } from '../mesh'
import { toSource, type Stand } from '../pose'
import { jobRow, partRow } from '../testing/jobs'
import { box } from '../testing/shapes'
import { changeOfStilts, gaugeOf, GAUGES, pickedStick, PlanIndex, routeBranch, routeStilt, rowsOfBranch, shapeOfBranch, shapeOfRoute, shareOut, Surface, type Host, type Stilt, type StoodUnder } from './index'

// A roof over a low floor, cut in two at x = 0: what stood under it goes with the side that it touches.
const plate = { widthMm: 120, depthMm: 80 }, medium = gaugeOf('medium'), fine = gaugeOf('fine')
const roof = new Surface(joinMeshes([box([-25, -15, 20], [25, 15, 24]), box([-25, 12, 2], [25, 15, 20]), box([-25, 5, 2], [-15, 12, 5])]))
const left = new Surface(joinMeshes([box([-25, -15, 20], [0, 15, 24]), box([-25, 12, 2], [0, 15, 20])])), right = new Surface(joinMeshes([box([0, -15, 20], [25, 15, 24]), box([0, 12, 2], [25, 15, 20])]))
const host = (part: string, surface: Surface): Host => ({ part, surface, plate }), under = (part: string, { stand }: Surface): StoodUnder => ({ part, stand })

function bench() {
  const job = contentOf(jobRow('job', { parts: [partRow('a'), partRow('b')] })), index = new PlanIndex(job.tables.nodes, job.tables.beams)
  const apply = (c: Pick<Change, 'put' | 'drop'>): Change => {
    const { inverse, touched } = applyChange(job, { label: 'test', ...c })
    index.touch(touched.rows.get('nodes') ?? [], touched.rows.get('beams') ?? [])
    return inverse
  }
  const place = (x: number, y = 0): Stilt => {
    const r = routeStilt(roof, [x, y, 20], [0, 0, -1], medium, plate)
    if (!r.ok) throw new Error(r.reason)
    apply(changeOfStilts(index, 'a', 'place', { add: [shapeOfRoute(roof, medium, 'detail', r, [0, 0, -1])] }))
    return index.stiltsOf('a').at(-1) as Stilt
  }
  const branch = (on: Stilt, x: number): void => {
    const r = routeBranch(roof, [x, 0, 20], [0, 0, -1], fine, [on])
    if (!r.ok) throw new Error(r.reason)
    const { nodes, beams } = rowsOfBranch(index, shapeOfBranch({ gauge: 'fine', role: 'detail', anchor: { point: toSource(roof, [x, 0, 20] as never), normal: [0, 0, -1] } }, r), r.joint, index.nextNumber('a'))
    apply({ put: { nodes: [...nodes], beams: [...beams] } })
  }
  const rows = (): string => JSON.stringify([listsOf(job.tables).nodes, listsOf(job.tables).beams])
  const tips = (part: string): (readonly [number, number, string])[] => index.stiltsOf(part).map(s => [Math.round(s.path[0][0]), s.number, s.foot] as const)
  return { index, apply, place, branch, rows, tips }
}

describe('stilts of a part that is cut in two', () => {
  it('stay exactly as they are where they can, moved along with what they stand under', () => {
    const b = bench(), trunk = b.place(-10)
    for (const x of [-5, -15]) b.branch(trunk, x)
    b.place(12)
    const before = b.index.stiltsOf('a'), rows = b.rows()
    // nothing of the side that stays moves: nothing is written
    expect(shareOut(b.index, [under('a', roof)], [host('a', roof)], GAUGES)).toMatchObject({ change: { put: { nodes: [], beams: [] }, drop: { nodes: [], beams: [] } }, moved: 0, anew: 0, lost: 0 })
    // the other side comes to stand 3 mm lower, and aside
    const lower = new Surface(joinMeshes([box([0, -15, 20], [25, 15, 24]), box([0, 12, 2], [25, 15, 20])]), { shape: [1, 1, 1], stand: [1, 0, 0, 4, 0, 1, 0, -2, 0, 0, 1, -3] })
    const { change, anew, moved } = shareOut(b.index, [under('a', roof)], [host('a', left), host('b', lower)], GAUGES), back = b.apply(change), [gone] = b.index.stiltsOf('b')
    expect([moved, anew, b.index.stiltsOf('a').map(s => s.path)]).toEqual([1, 0, before.slice(0, 3).map(s => s.path)])
    expect(gone.path).toEqual(before[3].path.map((p, i, all) => [p[0] + 4, p[1] - 2, i === all.length - 1 ? p[2] : p[2] - 3].map(v => expect.closeTo(v, 9))))
    b.apply(back)
    expect(b.rows()).toBe(rows)
    // so low that there is no room for a shaft, or turned otherwise: all find another way, or are listed
    for (const stand of [[1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, -17.5], [0, -1, 0, 0, 1, 0, 0, 0, 0, 0, 1, 0]] as unknown as Stand[]) {
      const again = shareOut(b.index, [under('a', roof)], [host('a', new Surface(roof.faces, { shape: [1, 1, 1], stand }))], GAUGES)
      expect(again.anew + again.lost).toBe(4)
    }
  })

  it('go with the side that they touch, keep their numbers there, and come back to the byte', () => {
    const b = bench()
    for (const x of [-10, -4, 6, 12]) b.place(x)
    const before = b.rows(), shared = shareOut(b.index, [under('a', roof)], [host('a', left), host('b', right)], GAUGES), back = b.apply(shared.change)
    expect([b.tips('a'), b.tips('b')]).toEqual([[[-10, 1, 'plate'], [-4, 2, 'plate']], [[6, 3, 'plate'], [12, 4, 'plate']]])
    expect([shared.moved, shared.lost, checkPlan(b.index.nodes, b.index.beams)]).toEqual([2, 0, []])
    b.apply(back)
    expect(b.rows()).toBe(before)
  })

  it('that hang together go with most of their tips; a tip that is left on the other side touches nothing', () => {
    const b = bench(), trunk = b.place(4)
    b.branch(trunk, 9)
    b.branch(trunk, -1)
    const { change, moved, lost } = shareOut(b.index, [under('a', roof)], [host('a', left), host('b', right)], GAUGES)
    b.apply(change)
    expect([moved, lost, b.tips('a')]).toEqual([3, 1, []])
    expect(b.tips('b').map(t => [t[0], t[2]])).toEqual([[4, 'plate'], [9, 'plate'], [-1, 'lost']])
    expect(b.index.stiltsOf('b').find(s => s.foot === 'lost')?.lostFor).toBe('What it touched is not there any more.')
    expect(checkPlan(b.index.nodes, b.index.beams)).toEqual([])
  })

  it('are listed where they stood on a piece that left', () => {
    const b = bench(), at: Vec3 = [-18, 8, 20], down = roof.cast([-18, 8, 19], [0, 0, -1])
    const stick = down && pickedStick(roof, { point: at, normal: [0, 0, -1] }, down, medium)
    if (!stick?.ok) throw new Error('There is no way for a stick.')
    b.apply(changeOfStilts(b.index, 'a', 'place', { add: [shapeOfRoute(roof, medium, 'detail', stick, [0, 0, -1])] }))
    const { change, lost } = shareOut(b.index, [under('a', roof)], [host('a', left), host('b', right)], GAUGES)
    b.apply(change)
    expect([lost, b.tips('a'), b.index.stiltsOf('a')[0].lostFor]).toEqual([1, [[-18, 1, 'lost']], 'What it stood on is not there any more.'])
  })

  it('are all of one part again where the two are joined, with numbers that none has twice', () => {
    const b = bench()
    for (const x of [-10, 6]) b.place(x)
    b.branch(b.place(12), 17)
    b.apply(shareOut(b.index, [under('a', roof)], [host('a', left), host('b', right)], GAUGES).change)
    // a new one on the first side takes a number that the other side has
    b.place(-4)
    expect(b.tips('a').map(t => t[1])).toEqual([1, 2])
    b.apply(shareOut(b.index, [under('a', left), under('b', right)], [host('a', roof)], GAUGES).change)
    const all = b.tips('a')
    expect([all.map(t => t[0]).sort((p, q) => p - q), new Set(all.map(t => t[1])).size, all.every(t => t[2] === 'plate'), b.tips('b')]).toEqual([[-10, -4, 6, 12, 17], 5, true, []])
    expect(checkPlan(b.index.nodes, b.index.beams)).toEqual([])
  })
})
