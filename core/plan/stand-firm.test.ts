import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER, DEFAULT_RESIN, type PlanBeam, type PlanNode } from '../contract'
import { Room, Ways } from '../forest'
import { distance, joinMeshes, prepareMesh, type Mesh, type Vec3 } from '../mesh'
import { AS_IS } from '../pose'
import { ALL, Frame, FrameFactor, type FrameBeam } from '../proof/frame'
import { ModelScan } from '../scan'
import { Clearance, gaugeFor, GAUGES, gaugeOf, judgeStilt, PlanDraft, PlanIndex, routeStilt, rowsOfStilt, shapeOfRoute, Surface, type Others, type Stilt } from '../stilts'
import { box } from '../testing/shapes'
import { TipsApart } from './apart'
import { besideWeak } from './beside'
import { legUnder } from './legs'
import { strutSlender } from './slender'
import { StrutMaker, strutted } from './struts'
import { barStiffness, eased, placesAlong, type Swaying } from './swaying'
import { bracesOfTrunks, topOf } from './trunk-braces'

const tipAt = (at: Vec3): TipsApart => new TipsApart(DEFAULT_RESIN.webMm, [{ at, diameterMm: 0.4 }])
/** A part on stilts that stand straight at some places under it. */
function standing(mesh: Mesh, places: readonly (readonly [number, number])[]): { surface: Surface; index: PlanIndex; stilts: readonly Stilt[]; others: Others; skin: Mesh } {
  const skin = prepareMesh(mesh).mesh, surface = new Surface(skin), nodes = new Map<string, PlanNode>(), beams = new Map<string, PlanBeam>()
  places.forEach(([x, y], i) => {
    const hit = surface.cast([x, y, 1], [0, 0, 1]), route = hit && routeStilt(surface, hit.point, hit.normal, gaugeOf('medium'), DEFAULT_PRINTER)
    if (!hit || !route?.ok) throw new Error('no way')
    const rows = rowsOfStilt(shapeOfRoute(surface, gaugeOf('medium'), 'structural', route, hit.normal), { part: 'part', number: i + 1 })
    for (const n of rows.nodes) nodes.set(n.id, n)
    for (const b of rows.beams) beams.set(b.id, b)
  })
  const index = new PlanIndex(nodes, beams)
  return { surface, index, stilts: index.stiltsOf('part'), others: { field: new Clearance(index).field('part'), limitMm: DEFAULT_RESIN.webMm }, skin }
}
const slab = (z: number): Mesh => box([-22, -8, z], [22, 8, z + 2])
const all = { mine: () => true, asks: () => true }

describe('braces between trunks', () => {
  it('tie tall ones to near neighbours, at 45°, below the top of both', () => {
    const { surface, index, stilts, others } = standing(slab(40), [[-4, 0], [4, 0], [21, 0]]), braces = bracesOfTrunks(surface, index, 'part', GAUGES, all, others)
    expect(braces.length).toBeGreaterThan(1)
    for (const b of braces) {
      // the third is too far away
      for (const { host } of [b.lower, b.upper]) expect(Math.abs(host.path[0][0])).toBeCloseTo(4, 1)
      expect(b.lower.host.id).not.toBe(b.upper.host.id)
      expect(b.riseDeg).toBeCloseTo(45, 0)
      expect(b.upper.at[2]).toBeLessThanOrEqual(stilts.reduce((least, s) => Math.min(least, topOf(s)), Infinity))
    }
  })
  it('are left out between low ones, and where nothing may be changed', () => {
    const low = standing(slab(20), [[-4, 0], [4, 0]]), high = standing(slab(40), [[-4, 0], [4, 0]])
    expect(bracesOfTrunks(low.surface, low.index, 'part', GAUGES, all, low.others)).toEqual([])
    for (const none of [{ mine: () => false }, { asks: () => false }]) expect(bracesOfTrunks(high.surface, high.index, 'part', GAUGES, { ...all, ...none }, high.others)).toEqual([])
  })
})

/** What sways so many times too far while the top of some stilts moves by so much, and all below it in proportion. */
function swayingTops(index: PlanIndex, moves: ReadonlyMap<string, Vec3>, times = 5, workNmm = 1e-4): Swaying {
  const moved = new Map<string, Float64Array>()
  for (const s of index.stiltsOf('part')) {
    const move = moves.get(s.id)
    if (move) s.nodes.forEach((id, i) => moved.set(id, Float64Array.from([...move, 0, 0, 0], v => (v * s.path[i][2]) / s.path[0][2])))
  }
  return { times, workNmm, moved }
}

describe('a bar between two places', () => {
  const E = 400, column = (h: number, r: number, bar?: { readonly at: number; readonly foot: Vec3; readonly r: number }): Frame => {
    const points: Vec3[] = [[0, 0, 0], [0, 0, bar?.at ?? h / 2], [0, 0, h], ...(bar ? [bar.foot] : [])], beam = (a: number, b: number, r: number): FrameBeam => ({ a, b, from: points[a], to: points[b], fromRadiusMm: r, toRadiusMm: r })
    return new Frame(points, [beam(0, 1, r), beam(1, 2, r), ...(bar ? [beam(3, 1, bar.r)] : [])], new Map([[0, ALL], ...(bar ? [[3, ALL] as const] : [])]), { modulusNMm2: E, poisson: 0.4 })
  }
  it('takes away as much of one spring as it adds to it', () => {
    // closed form: springs of k and of 3 k beside each other move a quarter as far as that of k
    expect(eased({ times: 2, workNmm: 0.5, moved: new Map() }, 3, [1, 0, 0], Float64Array.of(1, 0, 0, 0, 0, 0), null)).toBeCloseTo(0.75, 12)
  })
  it('eases no more than it is said to, by the frame with it', () => {
    fc.assert(fc.property(fc.double({ min: 15, max: 60, noNaN: true }), fc.double({ min: 0.2, max: 0.9, noNaN: true }), fc.double({ min: 3, max: 20, noNaN: true }), fc.double({ min: 0.2, max: 0.6, noNaN: true }), (h, share, across, r) => {
      const at = share * h, foot: Vec3 = [-across, 0, 0], without = column(h, 0.6, { at, foot, r: 1e-4 }), withBar = column(h, 0.6, { at, foot, r }), work = (frame: Frame): { readonly work: number; readonly moved: Float64Array } => {
        const load = new Float64Array(6 * frame.points.length)
        load[12] = 0.1
        const moved = new FrameFactor(frame).solve(load)
        return { work: frame.energy(moved), moved }
      }
      const { work: before, moved } = work(without), length = Math.hypot(across, at), said = eased({ times: 2, workNmm: before, moved: new Map() }, barStiffness(E, 2 * r, length), [across / length, 0, at / length], Float64Array.of(...moved.subarray(6, 9), 0, 0, 0), null)
      expect(1 - work(withBar).work / before).toBeLessThanOrEqual(said + 0.02)
    }), { endOnFailure: true })
  })
})

describe('struts', () => {
  const made = (places: readonly (readonly [number, number])[], move: Vec3): { struts: { lower: Vec3; upper: Vec3; mm: number }[]; count: number; stilts: readonly Stilt[] } => {
    const { surface, index, stilts } = standing(slab(40), places), draft = new PlanDraft(index, stilts.map(s => s.id)), swaying = [swayingTops(index, new Map([[stilts[0].id, move]]))]
    const count = strutted(new StrutMaker(surface, draft, 'part', DEFAULT_RESIN.webMm), placesAlong(draft.index, draft.index.stiltsOf('part'), swaying, () => true), swaying, 400)
    const struts = [...draft.index.beams.values()].filter(b => b.kind === 'brace').map(b => [draft.index.nodes.get(b.from)?.at as Vec3, draft.index.nodes.get(b.to)?.at as Vec3, b.fromDiameterMm] as const).map(([p, q, mm]) => (p[2] < q[2] ? { lower: p, upper: q, mm } : { lower: q, upper: p, mm }))
    // the plan is whole with its struts, and nothing of it comes near to what it does not join
    expect(draft.index.stiltsOf('part')).toHaveLength(places.length)
    expect(draft.clearance.nearer('part', DEFAULT_RESIN.webMm)).toEqual([])
    return { struts, count, stilts }
  }
  it('go to what stands in the direction in which something moves', () => {
    for (const [move, axis] of [[[0.5, 0, 0], 0], [[0, 0.5, 0], 1]] as const) {
      const { struts, count } = made([[0, 0], [7, 0], [0, 7]], move as Vec3)
      expect(count).toBeGreaterThan(0)
      expect(struts).toHaveLength(count)
      for (const { lower, upper, mm } of struts) {
        expect(Math.abs(lower[axis] - upper[axis])).toBeGreaterThan(5)
        expect((upper[2] - lower[2]) / Math.hypot(upper[0] - lower[0], upper[1] - lower[1])).toBeGreaterThanOrEqual(0.7 - 1e-9)
        // no more than 110 times its radius of gyration, a quarter of its diameter (rule of the trade for columns)
        expect((4 * distance(lower, upper)) / mm).toBeLessThanOrEqual(110 / 0.95 + 1e-9)
      }
    }
  })
  it('are none where nothing stands within reach, or nothing moves', () => {
    expect(made([[-12, 0], [12, 0]], [0.5, 0, 0]).count).toBe(0)
    expect(made([[0, 0], [7, 0]], [0, 0, 0]).count).toBe(0)
  })
  it('come to the middle of what is too slender for its length, from both sides until it is not', () => {
    const { surface, index, stilts } = standing(slab(60), [[0, 0], [7, 0]]), thin = [...index.beams.values()].map(b => (stilts[0].beams.includes(b.id) && b.kind === 'shaft' ? { ...b, fromDiameterMm: 1.2, toDiameterMm: 1.2 } : { ...b, fromDiameterMm: Math.max(b.fromDiameterMm, 2.3), toDiameterMm: Math.max(b.toDiameterMm, 2.3) }))
    const now = new PlanIndex(index.nodes, new Map(thin.map(b => [b.id, b]))), draft = new PlanDraft(now, stilts.map(s => s.id)), count = strutSlender(new StrutMaker(surface, draft, 'part', 0.5), draft, 'part', () => true), host = draft.index.stilt(stilts[0].id) as Stilt
    expect(count).toBeGreaterThanOrEqual(1)
    const held = host.path.filter((_, i) => i > 0 && (i === 1 || i + 1 === host.path.length || draft.index.isHeld(host.nodes[i]))).map(p => p[2])
    // rule of the trade for columns: 110 times the radius of gyration, 0.95 of it asks for no strut
    for (let i = 1; i < held.length; i++) expect((4 * (held[i - 1] - held[i])) / 1.2).toBeLessThanOrEqual(110 / 0.95)
    expect(strutSlender(new StrutMaker(surface, draft, 'part', 0.5), draft, 'part', () => true)).toBe(0)
  })
  it('come as well to what is longer than its gauge allows, where that is asked for', () => {
    const { surface, index, stilts } = standing(slab(44), [[0, 0], [7, 0]]), gauge = gaugeFor(stilts[0], GAUGES), mm = 1.62, beams = [...index.beams.values()].map(b => (b.kind === 'shaft' ? { ...b, fromDiameterMm: mm, toDiameterMm: mm } : b))
    const draft = new PlanDraft(new PlanIndex(index.nodes, new Map(beams.map(b => [b.id, b]))), stilts.map(s => s.id)), strut = (gauges?: typeof GAUGES): number => strutSlender(new StrutMaker(surface, draft, 'part', 0.5), draft, 'part', () => true, gauges)
    // no more than 110 times its radius of gyration, and longer than what the gauge has for its thickness
    const free = stilts[0].path[1][2]
    expect((4 * free) / mm).toBeLessThan(110)
    expect(free).toBeGreaterThan((gauge.longestMm * mm) / gauge.kneeDiameterMm)
    expect(strut()).toBe(0)
    expect(strut(GAUGES)).toBeGreaterThanOrEqual(1)
    for (const s of draft.index.stiltsOf('part')) expect(judgeStilt(surface, s, { gauge, isHeld: n => draft.index.isHeld(n), diameters: draft.index.diametersOf(s) }).filter(v => v.kind === 'slender')).toEqual([])
  })
})

describe('legs', () => {
  const leg = (mesh: Mesh, move: Vec3, times = 5): { found: boolean; at: Vec3; foot: Vec3; mm: number; trunk: Stilt; surface: Surface } => {
    const { surface, index, stilts: [stilt], skin } = standing(mesh, [[0, 0]]), draft = new PlanDraft(index, [stilt.id]), swaying = [swayingTops(index, new Map([[stilt.id, move]]), times)]
    const found = legUnder(surface, new Room(skin), draft, 'part', placesAlong(index, [stilt], swaying, () => true), swaying, { gauges: GAUGES, plate: DEFAULT_PRINTER, webMm: 0.5, modulusNMm2: 400 })
    const row = [...draft.index.beams.values()].find(b => b.kind === 'brace'), end = (id?: string): Vec3 => draft.index.nodes.get(id ?? '')?.at ?? [0, 0, 0]
    return { found, at: end(row?.from), foot: end(row?.to), mm: row?.fromDiameterMm ?? 0, trunk: stilt, surface }
  }
  it('lean against a trunk in the direction in which it moves, no flatter than 45°, and stand on the plate clear of its foot', () => {
    for (const [move, axis] of [[[0.8, 0, 0], 0], [[0, 0.8, 0], 1]] as const) {
      const { found, at, foot, mm, trunk } = leg(slab(40), move as Vec3), across = Math.hypot(foot[0] - at[0], foot[1] - at[1])
      expect(found).toBe(true)
      expect(Math.abs(foot[axis] - at[axis]) / across).toBeGreaterThan(0.99)
      expect(across).toBeLessThanOrEqual(at[2])
      expect([foot[2], at[2] < topOf(trunk)]).toEqual([0, true])
      expect(distance(foot, trunk.path[trunk.path.length - 1])).toBeGreaterThan(3)
      // no more than 110 times its radius of gyration, a quarter of its diameter (rule of the trade for columns)
      expect((4 * distance(foot, at)) / mm).toBeLessThanOrEqual(110 + 1e-9)
    }
  })
  it('keep clear of the part: a wall on one side leaves the other', () => {
    const { found, at, foot, mm, surface } = leg(joinMeshes([slab(40), box([1.6, -8, 0], [20, 8, 40.5])]), [0.8, 0, 0])
    expect(found).toBe(true)
    expect(foot[0]).toBeLessThan(1.6)
    expect(surface.gapOfBeam(at, [foot[0], foot[1], 0.6], mm / 2, mm / 2)).toBeGreaterThanOrEqual(0.25)
  })
  it('are only for what sways much too far, and only where they would help', () => {
    expect(leg(slab(40), [0.8, 0, 0], 2).found).toBe(false)
    expect(leg(slab(40), [0, 0, 0]).found).toBe(false)
  })
})

describe('more beside a weak tip', () => {
  it('stands on the same piece, away from it and from each other, and on skin that looks down', () => {
    const mesh = joinMeshes([box([-3, -3, 14], [3, 3, 20]), box([4, -3, 14], [9, 3, 20])]), { surface, skin } = standing(mesh, [[2, 0]]), scan = new ModelScan(skin, { pixelMm: 0.1, layerMm: 0.1 }, AS_IS)
    scan.runToEnd()
    const room = new Room(skin), ways = new Ways(room, 0.85, [60, 40]), at: Vec3 = [2, 0, 14], heads = besideWeak(scan, surface, room, ways, [{ at, wanted: 2, laidMm: 15 }], tipAt(at), () => [gaugeOf('light')])
    expect(heads).toHaveLength(2)
    for (const h of heads) {
      // the other block begins in the same layer, and is another island
      expect(h.point[0]).toBeLessThanOrEqual(3)
      expect(h.normal[2]).toBeLessThan(-0.2)
      expect(distance(h.point, at)).toBeGreaterThanOrEqual(1.2)
    }
    expect(distance(heads[0].point, heads[1].point)).toBeGreaterThanOrEqual(1.2)
    expect(besideWeak(scan, surface, room, ways, [{ at, wanted: 1, laidMm: 15 }], tipAt(at), () => [])).toEqual([])
  })
  it('stands on what its piece has joined by then, and not before', () => {
    // a thin leg, and 3 mm higher a slab that it goes into, which has a wide leg of its own
    const mesh = joinMeshes([box([-1, -0.2, 14], [-0.6, 0.2, 17.1]), box([0.5, -3, 14], [6, 3, 17.1]), box([-3, -3, 17], [6, 3, 20])]), { surface, skin } = standing(mesh, [[2, 0]]), scan = new ModelScan(skin, { pixelMm: 0.1, layerMm: 0.1 }, AS_IS)
    scan.runToEnd()
    const room = new Room(skin), ways = new Ways(room, 0.85, [60, 40]), at: Vec3 = [-0.8, 0, 14], besides = (laidMm: number, where = {}): Vec3[] => besideWeak(scan, surface, room, ways, [{ at, wanted: 1, laidMm }], tipAt(at), () => [gaugeOf('light')], where).map(h => h.point)
    expect(besides(16)).toEqual([])
    const [point] = besides(18)
    expect([point[0] > 0.4, point[2]]).toEqual([true, 14])
    expect(besides(18, { ownOnly: true })).toEqual([])
    expect(besides(18, { within: ([x]: Vec3) => x < 0 })[0][0]).toBeLessThan(0)
  })
})
