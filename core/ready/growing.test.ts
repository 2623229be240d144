import { describe, expect, it } from 'vitest'
import { DEFAULT_RESIN, NO_RAFT, type FootNode, type PlanBeam } from '../contract'
import type { Vec3 } from '../mesh'
import { loadedBy, swayedBy, swayEnergies, swayMotion } from '../proof'
import { solidsOfPart } from '../raft'
import { gaugeOf, PlanIndex, rowsOfStilt } from '../stilts'
import { heldScene } from '../testing/held-scene'
import { uprightShape } from '../testing/jobs'
import { box } from '../testing/shapes'
import { grownRows, type Growth, type Space } from './grown-rows'
import { swayingIn } from './soft-beams'

const NOTHING: Growth = { tips: new Map(), times: new Map(), least: new Map() }
const ROOM: Space = { hasRoom: () => true, hasRoomAsStick: () => true, take: () => undefined }
/** A stilt down a way of points, and how thick its beams are in mm after growing, the highest first: at the upper and at the lower end. */
function grown(path: readonly Vec3[], growth: (beams: readonly string[]) => Partial<Growth>, space: (beams: readonly string[]) => Partial<Space> = () => ({})): (readonly [number, number])[] {
  const rows = rowsOfStilt(uprightShape(0, { gauge: 'medium', anchor: { point: path[0], normal: [0, 0, -1] }, path: [...path] }), { part: 'part', number: 1 })
  const even = rows.beams.map((b): PlanBeam => (b.kind === 'cone' ? b : { ...b, fromDiameterMm: 1, toDiameterMm: 1 })), index = new PlanIndex(new Map(rows.nodes.map(n => [n.id, n])), new Map(even.map(b => [b.id, b]))), [stilt] = index.stiltsOf('part')
  const made = grownRows(index, 'part', { ...NOTHING, ...growth(stilt.beams) }, () => Infinity, { ...ROOM, ...space(stilt.beams) }), now = new Map([...index.beams, ...made.beams.map(b => [b.id, b] as const)])
  return stilt.beams.map(id => [now.get(id)?.fromDiameterMm ?? 0, now.get(id)?.toDiameterMm ?? 0])
}
/** What a pair of ends leans out by to each side, degrees. */
const leansOut = ([from, to]: readonly [number, number], lengthMm: number): number => (Math.atan2((from - to) / 2, lengthMm) * 180) / Math.PI

describe('what is made thicker', () => {
  const straight: Vec3[] = [[0, 0, 60], [0, 0, 57], [0, 0, 50], [0, 0, 30], [0, 0, 0]]
  it('thins again below, over sides that print without a ledge', () => {
    const [, top, below, foot] = grown(straight, beams => ({ times: new Map([[beams[1], 3]]) }))
    expect(top[0]).toBeCloseTo(3, 6)
    // a stack of layers of which none reaches out by more than it is high: 45° is common practice, and 12° is far within it
    expect(leansOut(top, 7)).toBeLessThanOrEqual(12 + 1e-6)
    expect(below[0]).toBeGreaterThanOrEqual(top[1] - 1e-6)
    expect(leansOut(below, 20)).toBeLessThanOrEqual(12 + 1e-6)
    expect(foot).toEqual([1, 1])
  })
  it('does not thin where it leans by itself', () => {
    const [, leaning, below] = grown([[0, 0, 60], [0, 0, 57], [9.6, 0, 47], [9.6, 0, 30], [9.6, 0, 0]], beams => ({ times: new Map([[beams[1], 2]]) }))
    expect(leaning[0]).toBeCloseTo(2, 6)
    expect(leaning[1]).toBeGreaterThan(1.9)
    expect(below[0]).toBeGreaterThanOrEqual(leaning[1] - 1e-6)
  })
  it('stands on nothing that has no room to be nearly as thick', () => {
    const [, top, below] = grown(straight, beams => ({ times: new Map([[beams[1], 3]]) }), beams => ({ hasRoom: b => b.id !== beams[2] }))
    expect(below).toEqual([1, 1])
    expect(top[1]).toBeLessThanOrEqual(1.2 + 1e-6)
    expect(leansOut(top, 7)).toBeLessThanOrEqual(12 + 1e-6)
  })
  it('is as thick as its length asks for, and no thicker where it is that already', () => {
    const [, top, below] = grown(straight, beams => ({ times: new Map([[beams[1], 2]]), least: new Map([[beams[1], 1.4], [beams[2], 1.4]]) }))
    expect(top[0]).toBeCloseTo(2, 6)
    expect(below.every(mm => mm >= 1.4 - 1e-6)).toBe(true)
    expect(below[1]).toBeCloseTo(1.4, 6)
  })
  it('is no thicker than what it ends in where it is a brace; a leg, which begins on the plate, by half at the most', () => {
    const one = rowsOfStilt(uprightShape(0, { gauge: 'medium', anchor: { point: straight[0], normal: [0, 0, -1] }, path: straight }), { part: 'part', number: 1 }), aside = straight.map(([, y, z]): Vec3 => [8, y, z])
    const other = rowsOfStilt(uprightShape(0, { gauge: 'medium', anchor: { point: aside[0], normal: [0, 0, -1] }, path: aside }), { part: 'part', number: 2 })
    const at = (rows: typeof one, z: number): string => rows.nodes.find(n => n.at[2] === z)?.id ?? '', foot = one.nodes.find(n => n.kind === 'foot') as FootNode
    const strut = (id: string, to: string): PlanBeam => ({ id, part: 'part', kind: 'brace', from: at(one, 50), to, fromDiameterMm: 0.8, toDiameterMm: 0.8 })
    const beams = [...[...one.beams, ...other.beams].map((b): PlanBeam => (b.kind === 'cone' ? b : { ...b, fromDiameterMm: 1, toDiameterMm: 1 })), strut('brace', at(other, 30)), strut('leg', 'legs foot')]
    const index = new PlanIndex(new Map([...one.nodes, ...other.nodes, { ...foot, id: 'legs foot', at: [-20, 0, 0] as [number, number, number] }].map(n => [n.id, n])), new Map(beams.map(b => [b.id, b])))
    const made = new Map(grownRows(index, 'part', { ...NOTHING, times: new Map([['brace', 3], ['leg', 3]]) }, () => Infinity, ROOM).beams.map(b => [b.id, b]))
    expect([made.get('brace')?.fromDiameterMm, made.get('leg')?.fromDiameterMm]).toEqual([1, 1.5])
  })
  it('has a tip as thick as its cone has room for beside the skin', () => {
    const tips = new Map<string, number>()
    const path: Vec3[] = [[0, 0, 20], [0, 0, 17], [0, 0, 0]], wide = (room: boolean): number => {
      const rows = rowsOfStilt(uprightShape(0, { gauge: 'medium', anchor: { point: path[0], normal: [0, 0, -1] }, path }), { part: 'part', number: 1 }), index = new PlanIndex(new Map(rows.nodes.map(n => [n.id, n])), new Map(rows.beams.map(b => [b.id, b])))
      const [{ id, sizes }] = index.stiltsOf('part'), most = 1.6 * sizes.tipDiameterMm
      tips.set(id, 2)
      const [node] = grownRows(index, 'part', { ...NOTHING, tips }, () => Infinity, { ...ROOM, hasRoom: (_, as) => room || !as || as.tipDiameterMm <= most }).nodes
      return node.kind === 'tip' ? node.fitted.tipDiameterMm / sizes.tipDiameterMm : NaN
    }
    expect(wide(true)).toBeCloseTo(2, 6)
    // twice as thick has no room, and half of the way to that has
    expect(wide(false)).toBeCloseTo(1.5, 6)
  })
  it('opens a cone by 18° to each side at the most', () => {
    const [cone] = grown(straight, beams => ({ times: new Map([[beams[0], 20]]) })), tip = gaugeOf('medium').tipDiameterMm
    expect(cone[1]).toBeGreaterThan(tip)
    expect((Math.atan2((cone[1] - tip) / 2, 3) * 180) / Math.PI).toBeLessThanOrEqual(18 + 1e-6)
  })
})

describe('what sways', () => {
  const raster = { pixelMm: 0.1, layerMm: 0.1 }, all = <T>(steps: Generator<string, T, void>): T => {
    let step = steps.next()
    while (!step.done) step = steps.next()
    return step.value
  }
  /** A wall like a sail on four stilts in a row. */
  const sail = (): { readonly of: Parameters<typeof loadedBy>[0]; readonly limitMm: number } => {
    const scene = heldScene(box([-12, -0.6, 40], [12, 0.6, 60]), [[-9, 0], [-3, 0], [3, 0], [9, 0]], gaugeOf('medium'), raster), { index, scan, surface } = scene
    scan.setStilts(solidsOfPart(index, 'part', NO_RAFT))
    scan.runToEnd()
    return { of: { scan, index, part: 'part', surface, resin: DEFAULT_RESIN }, limitMm: DEFAULT_RESIN.swayMm }
  }
  it('is found without what ends bear as it is with that', () => {
    const { of, limitMm } = sail(), quick = all(swayedBy(of)), whole = all(loadedBy(of))
    expect(whole.sways.length).toBeGreaterThan(0)
    expect(quick.sways).toEqual(whole.sways)
    // and again from the layers that were worst
    expect(all(swayedBy(of, quick)).sways[0].mm).toBeCloseTo(whole.sways[0].mm, 12)
    expect(swayingIn(quick, limitMm).map(s => s.times * limitMm)).toEqual(whole.sways.map(s => expect.closeTo(s.mm, 12) as number))
  })
  it('stores as much work in all as in its beams, and moves what is of the plan', () => {
    const { of } = sail(), { supports, pushes, sways } = all(swayedBy(of)), [{ layer }] = sways, pushed = pushes.get(layer), motion = pushed && swayMotion(supports, pushed), beams = [...(swayEnergies(supports, pushes, [layer]).get(layer) ?? [])]
    expect(beams.reduce((sum, [, e]) => sum + e, 0) / (motion?.workNmm ?? 0)).toBeCloseTo(1, 9)
    for (const id of motion?.moved.keys() ?? []) expect(of.index.nodes.has(id)).toBe(true)
    // a sail gives across itself, y, and not along, x: what holds its ends moves there most
    const ends = [...(motion?.moved ?? [])].filter(([id]) => of.index.nodes.get(id)?.kind === 'tip').map(([, m]) => [Math.abs(m[0]), Math.abs(m[4])])
    expect(ends).toHaveLength(4)
    for (const [x, y] of ends) expect(y).toBeGreaterThan(2 * x)
  })
})
