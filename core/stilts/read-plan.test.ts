import { describe, expect, it } from 'vitest'
import { AnyPlanFileSchema, AS_MADE, checkPlan, NO_RAFT, PLAN_FORMAT, PlanFileSchema, type AnyPlanFile, type OlderBeam, type OlderNode, type PlanFile } from '../contract'
import { writeStl, type Vec3 } from '../mesh'
import { motionOfPose, movePoint, plateOf, standOf, movePointBack } from '../pose'
import { box } from '../testing/shapes'
import { fitOfPlan, gaugeOf, PlanIndex, readPlan, rowsOfStilt, sizesOf, solidOfStilts, type PlanTarget, type ReadPlan, type Stilt, type StiltShape } from './index'

const mesh = box([0, 0, 0], [30, 20, 10])
const target: PlanTarget = { part: 'part', positions: mesh.positions, triangles: 12, sizeMm: [30, 20, 10], meshHash: 'b'.repeat(64), pixelMm: 0.05 }
const madeFor = { pixelMm: 0.05, layerMm: 0.05, triangles: 12, sizeMm: [30, 20, 10] as [number, number, number], meshHash: target.meshHash }
const shape = (x: number, more: Partial<StiltShape> = {}): StiltShape => ({
  gauge: 'light', role: 'detail', sizes: sizesOf(gaugeOf('light')), own: {}, anchor: { point: [x, 0, 9], normal: [0, 0, -1] }, foot: 'plate', footPinned: false, path: [[x, 0, 9], [x, 0, 6.5], [x, 0, 0]], ...more,
})
function planOf(...shapes: StiltShape[]): PlanFile {
  const rows = shapes.map((s, i) => rowsOfStilt(s, { part: 'theirs', number: i + 1 }))
  return { format: PLAN_FORMAT, version: 3, gauges: [], raft: NO_RAFT, madeFor, recipe: AS_MADE, pose: null, turnDeg: 0, nodes: rows.flatMap(r => r.nodes), beams: rows.flatMap(r => r.beams) }
}
function stiltsOf({ nodes, beams }: Pick<ReadPlan, 'nodes' | 'beams'>): readonly Stilt[] {
  const byId = [new Map(nodes.map(n => [n.id, n])), new Map(beams.map(b => [b.id, b]))] as const
  expect(checkPlan(...byId)).toEqual([])
  return new PlanIndex(...byId).stiltsOf('part')
}
const read = (plan: unknown): ReadPlan => readPlan(AnyPlanFileSchema.parse(JSON.parse(JSON.stringify(plan))), target)

describe('plans as files', () => {
  it('come back as they were, under new ids', () => {
    const plan = planOf(shape(1), shape(2, { own: { tipDiameterMm: 0.4, footHeightMm: 1.1 }, footPinned: true })), back = read(plan)
    expect(back).toMatchObject({ notes: [], stilts: 2, pose: null })
    expect(stiltsOf(back)).toMatchObject([{ ...shape(1), number: 1 }, { ...shape(2, { own: { tipDiameterMm: 0.4, footHeightMm: 1.1 }, footPinned: true }), number: 2 }])
    const ids = new Set([...plan.nodes, ...plan.beams].map(r => r.id))
    expect([...back.nodes, ...back.beams].filter(r => ids.has(r.id) || r.part !== 'part')).toEqual([])
  })
  it.each<[string, StiltShape, RegExp]>([
    ['all in one point', shape(2, { path: [[0, 0, 5], [0, 0, 5], [0, 0, 5]] }), /without a length/],
    ['with a foot above the tip', shape(2, { path: [[0, 0, 5], [0, 0, 7], [0, 0, 9]] }), /foot above the tip/],
    ['with a foot below the plate', shape(2, { path: [[0, 0, 5], [0, 0, 3], [0, 0, -4]] }), /foot that is not on the plate/],
    ['with a foot in the air', shape(2, { path: [[0, 0, 9], [0, 0, 7], [0, 0, 2]] }), /foot that is not on the plate/],
  ])('leave out what cannot be, with a word: %s', (_, bad, word) => {
    const back = read(planOf(shape(1), bad))
    expect(stiltsOf(back)).toMatchObject([shape(1)])
    expect(back.nodes).toHaveLength(3)
    expect(back.notes.join(' ')).toMatch(word)
  })
  it('take a stilt once that is written twice, give numbers that none has, and gauges that are known', () => {
    const twice = planOf(shape(1), shape(1), shape(3, { gauge: 'unheard of' }), shape(4))
    const tips = twice.nodes.filter(n => n.kind === 'tip')
    tips[3].number = 3
    const back = read(twice)
    expect(stiltsOf(back).map(s => [s.path[0][0], s.number, s.gauge])).toEqual([[1, 1, 'light'], [3, 3, 'light'], [4, 4, 'light']])
    expect(back.notes).toHaveLength(2)
  })
  it('bring the gauges of their stilts, and nothing of the spreads that these were placed with', () => {
    const own = { ...gaugeOf('light'), id: 'pegs', name: 'Pegs', tipDiameterMm: 1.2 }, back = read({ ...planOf(shape(1, { gauge: 'pegs', spread: 'a spread' })), gauges: [own] })
    expect([back.gauges, back.notes, stiltsOf(back)[0].gauge, stiltsOf(back)[0].spread]).toEqual([[own], [], 'pegs', undefined])
  })
  it('keep what several tips share, and braces, once', () => {
    const plan = planOf(shape(1), shape(3))
    const [, knee1, foot1] = plan.nodes.slice(0, 3), [, knee2, foot2] = plan.nodes.slice(3)
    // the second stands on the knee of the first, and is braced to it
    const [, shaft2] = plan.beams.slice(2)
    shaft2.to = knee1.id
    plan.nodes = plan.nodes.filter(n => n.id !== foot2.id)
    plan.beams.push({ ...shaft2, id: 'brace', kind: 'brace', from: knee2.id, to: foot1.id })
    const back = read(plan)
    expect([back.nodes.length, back.beams.length, back.stilts]).toEqual([5, 5, 2])
    expect(stiltsOf(back).map(s => [s.nodes.length, s.alone])).toEqual([[3, 3], [4, 2]])
  })
  it('keep props, which stand on feet of their own', () => {
    const plan = planOf(shape(1, { path: [[1, 0, 9], [1, 0, 6.5], [3, 0, 3], [3, 0, 0]] })), [, , joint, foot] = plan.nodes
    plan.nodes.push({ ...foot, id: 'other foot', at: [6, 0, 0] })
    plan.beams.push({ ...plan.beams[1], id: 'prop', kind: 'brace', from: joint.id, to: 'other foot' })
    const back = read(plan)
    expect([back.nodes.filter(n => n.kind === 'foot').length, back.beams.filter(b => b.kind === 'brace').length, back.stilts]).toEqual([2, 1, 1])
    stiltsOf(back)
  })
  it('are refused with numbers that nothing can have, and are never written with such', () => {
    for (const far of [1e30, 1e300, -1e6]) expect(PlanFileSchema.safeParse(planOf(shape(1, { path: [[far, 0, 9], [far, 0, 6], [far, 0, 0]] }))).success).toBe(false)
    const wrong = solidOfStilts([shape(1)])
    wrong.positions[4] = NaN
    expect(() => writeStl(wrong, 'x')).toThrow(/no place that can be written/)
  })
  it('know what they were made for', () => {
    const plan: AnyPlanFile = planOf(shape(1)), older: AnyPlanFile = { format: PLAN_FORMAT, version: 2, pose: null, nodes: [], beams: [], madeFor }
    expect(fitOfPlan(plan, target)).toBe('same')
    expect(fitOfPlan(plan, { ...target, meshHash: 'c'.repeat(64) })).toBe('alike')
    expect(fitOfPlan(older, { ...target, sizeMm: [30, 20, 10.005] })).toBe('alike')
    expect(fitOfPlan(older, { ...target, sizeMm: [30, 20, 10.1] })).toBe('other')
    expect(fitOfPlan({ ...older, version: 1 }, target)).toBe('unknown')
  })
})

describe('plans of older versions', () => {
  /** One stilt as version 1 and 2 wrote it. */
  const older = (at: (p: Vec3) => Vec3): { nodes: OlderNode[]; beams: OlderBeam[] } => {
    const p = (v: Vec3): [number, number, number] => [...at(v)] as [number, number, number]
    return {
      nodes: [
        { id: '5.tip', stilt: 5, at: p([2, 1, 8]), kind: 'tip', contact: { point: [2, 1, 0], normal: [0, 0, -1] }, gauge: 'light', role: 'detail', diameterMm: 0.44, penetrationMm: 0.1, byHand: ['tipDiameterMm', 'footDiameterMm', 'unknown'] },
        { id: '5.knee', stilt: 5, at: p([2, 1, 5.5]), kind: 'knee' }, { id: '5.joint1', stilt: 5, at: p([3, 1, 4]), kind: 'joint' },
        { id: '5.foot', stilt: 5, at: p([3, 1, 0]), kind: 'foot', on: 'plate', diameterMm: 4, heightMm: 0.8 },
      ],
      beams: [
        { id: '5.cone', stilt: 5, from: '5.tip', to: '5.knee', fromDiameterMm: 0.44, toDiameterMm: 0.9 }, { id: '5.shaft1', stilt: 5, from: '5.knee', to: '5.joint1', fromDiameterMm: 0.9, toDiameterMm: 0.95 },
        { id: '5.shaft2', stilt: 5, from: '5.joint1', to: '5.foot', fromDiameterMm: 0.95, toDiameterMm: 1.1 },
      ],
    }
  }
  it('version 1 in, the same stilt out: way, sizes, and which of them were set by hand', () => {
    const back = read({ format: PLAN_FORMAT, version: 1, pose: { tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm: 8 }, ...older(p => p) })
    expect(stiltsOf(back)).toMatchObject([{
      number: 5, gauge: 'light', role: 'detail', foot: 'plate', footPinned: false, anchor: { point: [2, 1, 0], normal: [0, 0, -1] }, path: [[2, 1, 8], [2, 1, 5.5], [3, 1, 4], [3, 1, 0]],
      sizes: { tipDiameterMm: 0.44, penetrationMm: 0.1, coneLengthMm: 2.5, kneeDiameterMm: 0.9, shaftFootDiameterMm: 1.1, footDiameterMm: 4, footHeightMm: 0.8, footPenetrationMm: 0 }, own: { tipDiameterMm: 0.44, footDiameterMm: 4 },
    }])
    expect(stiltsOf(back)[0].own).not.toHaveProperty('unknown')
  })
  it('made on a part that was turned, they stand under it as they did', () => {
    const pose = { tiltXDeg: 20, tiltYDeg: -10, turnDeg: 33, liftMm: 8 }
    const then = motionOfPose(mesh.positions, pose, 0.05), stand = standOf(mesh.positions, pose, 0.05)
    const was: Vec3 = [2, 1, 8], back = read({ format: PLAN_FORMAT, version: 2, madeFor, pose, ...older(p => p) })
    expect([back.turnDeg, back.pose]).toEqual([33, { tiltXDeg: 20, tiltYDeg: -10, liftMm: 8 }])
    const tip = back.nodes.find(n => n.kind === 'tip')
    const under = movePointBack(then, was)
    movePointBack(stand, tip?.at ?? [0, 0, 0]).forEach((v, i) => expect(v).toBeCloseTo(under[i], 4))
    // turned as its copy is, it comes to lie where it lay, but for the centring by whole pixels
    const plate = movePoint(plateOf({ xMm: 0, yMm: 0, turnDeg: 33 }), tip?.at ?? [0, 0, 0]), foot = back.nodes.find(n => n.kind === 'foot')
    expect([plate[2], foot?.at[2]]).toEqual([expect.closeTo(was[2], 4), expect.closeTo(0, 9)])
  })
  it('keep a stick on the face that it stood on', () => {
    const stick = older(p => p)
    const foot = stick.nodes[3] as Extract<OlderNode, { kind: 'foot' }>
    stick.nodes[3] = { ...foot, on: 'model', penetrationMm: 0.2 }
    const [s] = stiltsOf(read({ format: PLAN_FORMAT, version: 1, pose: { tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm: 8 }, ...stick }))
    expect([s.foot, s.sizes.footPenetrationMm, s.footAnchor?.point]).toEqual(['model', 0.2, [3, 1, -8]])
    const lost = older(p => p)
    lost.nodes[3] = { ...foot, on: 'none' }
    expect(stiltsOf(read({ format: PLAN_FORMAT, version: 1, pose: null, ...lost }))).toMatchObject([{ foot: 'lost', lostFor: expect.stringMatching(/found no way down/) }])
  })
})
