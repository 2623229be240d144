import { describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER, DEFAULT_RESIN, NO_RAFT, USUAL_OPTIONS, type PlanBeam, type PlanNode, type PlanOptions } from '../contract'
import { OFF_LIMITS, SPARE } from '../marks'
import { joinMeshes, prepareMesh, volumeOf, type Mesh } from '../mesh'
import type { PlanAim } from '../plan'
import { AS_IS } from '../pose'
import { solidsOfPart, stiltSolids } from '../raft'
import { ModelScan } from '../scan'
import { Clearance, GAUGES, gapVerdict, gaugeFor, gaugeOf, judgeStilt, PlanIndex, routeStilt, rowsOfStilt, shaftOf, shapeOfRoute, Surface } from '../stilts'
import { box, curtain, sphere } from '../testing/shapes'
import { makeReady, measuresOf, planned, type Ready, type ToReady } from './index'

const raster = { pixelMm: 0.1, layerMm: 0.1 }, EMPTY = new PlanIndex(new Map(), new Map())
function partOf(mesh: Mesh, index = EMPTY, mark?: (surface: Surface) => void): ToReady {
  const skin = prepareMesh(mesh).mesh, surface = new Surface(skin)
  mark?.(surface)
  return { scan: new ModelScan(skin, raster, AS_IS), surface, part: 'part', index, raft: NO_RAFT, resin: DEFAULT_RESIN, gauges: GAUGES, plate: DEFAULT_PRINTER, onPlate: { overMm: 0, meets: 0, cups: 0 }, waivers: [] }
}
function all(steps: Generator<string, Ready, void>): Ready {
  let step = steps.next()
  while (!step.done) step = steps.next()
  return step.value
}
const plan = (mesh: Mesh, index?: PlanIndex, mark?: (surface: Surface) => void, options: Partial<PlanOptions> = {}): Ready => all(planned({ ...partOf(mesh, index, mark), options: { ...USUAL_OPTIONS, ...options } }))
const planAim = (mesh: Mesh, aim: PlanAim): Ready => all(planned({ ...partOf(mesh), aim }))
/** A plan without its ids: where everything stands, and how thick. */
const shapeOfPlan = ({ proven: { index } }: Ready): unknown => {
  const place = new Map([...index.nodes.keys()].map((id, i) => [id, i]))
  return [[...index.nodes.values()].map(n => [n.kind, n.at, n.kind === 'tip' ? n.fitted : null]), [...index.beams.values()].map(b => [b.kind, place.get(b.from), place.get(b.to), b.fromDiameterMm, b.toDiameterMm])]
}
const table = joinMeshes([box([-12, -8, 20], [12, 8, 22]), box([-1, -1, 14], [1, 1, 20])])

describe('a planned part', () => {
  it('is held by one tip where it is a small ball, and by the rim first where it is flat', () => {
    const ball = plan(sphere([0, 0, 12], 1.2))
    expect(ball.placed).toBe(1)
    const flat = plan(box([-8, -5, 12], [8, 5, 14]))
    expect(flat.proof.checks.filter(c => c.kind === 'hangs' || c.kind === 'floating').map(c => c.state)).toEqual(['good', 'good'])
    // a tip holds 2 mm around itself: no fewer than the area asks for (covering bound), and not two and a half times as many, the tips that bear too much included
    expect(flat.placed).toBeGreaterThanOrEqual(160 / (Math.PI * 4))
    expect(flat.placed).toBeLessThan((2.5 * 160) / (Math.PI * 4))
  })
  it('has no shaft that is longer than its gauge allows, where there is nothing to brace it to', () => {
    const { proven: { index, surface } } = plan(sphere([0, 0, 44], 1.2)), [stilt] = index.stiltsOf('part')
    expect(shaftOf(stilt.path).lengthMm).toBeGreaterThan(gaugeFor(stilt, GAUGES).longestMm)
    expect(judgeStilt(surface, stilt, { gauge: gaugeFor(stilt, GAUGES), isHeld: id => index.isHeld(id), diameters: stilt.beams.map(id => [index.beams.get(id)?.fromDiameterMm ?? 0, index.beams.get(id)?.toDiameterMm ?? 0]) }).filter(v => v.kind === 'slender')).toEqual([])
  })
  it('stands clear of itself and bears what it has to, with less resin than stilts that stand each by itself', () => {
    const forest = plan(table), { index } = forest.proven, curtain = all(makeReady(partOf(table)))
    const states = new Map(forest.proof.checks.map(c => [c.kind, c.state]))
    for (const kind of ['hangs', 'floating', 'tips', 'beams', 'slender', 'sway'] as const) expect([kind, states.get(kind)]).toEqual([kind, 'good'])
    expect(new Clearance(index).nearer('part', DEFAULT_RESIN.webMm)).toEqual([])
    const resin = (r: Ready): number => solidsOfPart(r.proven.index, 'part', NO_RAFT).reduce((sum, s) => sum + volumeOf(s), 0), alone = new ModelScan(prepareMesh(table).mesh, raster, AS_IS).runToEnd().areaMm2
    const m = measuresOf(forest.proof, forest.proven, alone)
    expect(m.resinMm3).toBeLessThan(measuresOf(curtain.proof, curtain.proven, alone).resinMm3 * 0.75)
    expect(m).toMatchObject({ openIslands: 0, openLedges: 0, weakest: forest.proof.ends[0].share })
    // what overlaps is counted once, and what goes into the part not at all
    expect(m.resinMm3).toBeLessThan(resin(forest))
    expect(m.resinMm3).toBeGreaterThan(resin(forest) * 0.5)
    expect(m.tipsBySize.reduce((sum, t) => sum + t.count, 0)).toBe(forest.proven.index.stiltsOf('part').length)
  })
  it('keeps the gaps of its gauges where it goes through a grate', () => {
    const layer = (along: boolean, z: number): Mesh[] => [0, 1, 2, 3, 4].map(i => (along ? box([-8, 2 * i, z], [8, 2 * i + 0.6, z + 0.6]) : box([-7 + 3 * i, -0.5, z], [-6.4 + 3 * i, 10, z + 0.6])))
    const { notHeld, proven: { index, surface } } = plan(joinMeshes([...layer(true, 8), ...layer(false, 10.2)]))
    expect(notHeld).toEqual([])
    expect(index.stiltsOf('part').flatMap(s => gapVerdict(surface, s, gaugeFor(s, GAUGES), index.diametersOf(s)) ?? [])).toEqual([])
    expect(new Clearance(index).nearer('part', DEFAULT_RESIN.webMm)).toEqual([])
  })
  it('is scanned tube by tube as it is in one piece', () => {
    const { proven: { index } } = plan(table), found = [solidsOfPart(index, 'part', NO_RAFT), stiltSolids(index, 'part')].map(solids => {
      const scan = new ModelScan(prepareMesh(table).mesh, raster, AS_IS)
      scan.setStilts(solids)
      return { count: solids.length, result: scan.runToEnd() }
    })
    expect(found[0].count).toBeGreaterThan(2 * found[1].count)
    expect(found[0].result).toEqual(found[1].result)
  })
  it('is the same each time, whether one core made the layers or two', () => {
    expect(shapeOfPlan(plan(table))).toEqual(shapeOfPlan(plan(table)))
    const small = joinMeshes([sphere([0, 0, 12], 1.2), box([3, -2, 9], [6, 2, 10])]), once = shapeOfPlan(plan(small))
    for (let run = 0; run < 10; run++) {
      const of = partOf(small), other = new ModelScan(prepareMesh(small).mesh, raster, AS_IS)
      expect(of.scan.bands).toBeGreaterThan(1)
      // every second run has bands that another thread made
      for (let b = run % 2; run % 2 === 1 && b < of.scan.bands; b += 2) {
        const chunk = structuredClone(other.makeBand(b))
        of.scan.takeBand(b, chunk, structuredClone(other.handOverSpans(b)))
      }
      expect(shapeOfPlan(all(planned(of)))).toEqual(once)
    }
  })
  it('keeps what stands already as it is, byte for byte, and makes nothing through it', () => {
    const of = partOf(table), hit = of.surface.cast([8, 5, 1], [0, 0, 1]), route = hit && routeStilt(of.surface, hit.point, hit.normal, gaugeOf('heavy'), DEFAULT_PRINTER)
    if (!hit || !route?.ok) throw new Error('no way')
    const own = rowsOfStilt({ ...shapeOfRoute(of.surface, gaugeOf('heavy'), 'structural', route, hit.normal), footPinned: true }, { part: 'part', number: 7 })
    const index = new PlanIndex(new Map(own.nodes.map((n): [string, PlanNode] => [n.id, n])), new Map(own.beams.map((b): [string, PlanBeam] => [b.id, b]))), before = JSON.stringify([...index.nodes.values(), ...index.beams.values()])
    const { change, proven } = plan(table, index)
    expect(JSON.stringify([...index.nodes.values(), ...index.beams.values()])).toBe(before)
    for (const n of own.nodes) expect(proven.index.nodes.get(n.id)).toEqual(n)
    expect([change.drop, change.put?.nodes?.some(n => own.nodes.some(o => o.id === n.id))]).toEqual([undefined, false])
    expect(new Clearance(proven.index).nearer('part', DEFAULT_RESIN.webMm)).toEqual([])
  })
  it('touches nothing that is off limits, and says why something hangs', () => {
    const r = plan(box([-3, -3, 12], [3, 3, 14]), EMPTY, surface => surface.setWorths(new Uint8Array(surface.faces.triangles.length / 3).fill(OFF_LIMITS)))
    expect([r.placed, r.notHeld.map(n => n.reason)]).toEqual([0, [expect.stringMatching(/off limits/)]])
  })
  describe('asked for less than everything', () => {
    const tips = ({ proven: { index } }: Ready): (readonly number[])[] => index.stiltsOf('part').map(s => s.path[0])
    // two plates above each other on a post, the upper one reaching out farther; the upper one spare on one side
    const plates = joinMeshes([box([-4, -4, 10], [4, 4, 11]), box([-1, -1, 11], [1, 1, 18]), box([-10, -4, 18], [10, 4, 19])])
    it('holds first contacts and nothing above them, strongly', () => {
      const first = plan(plates, EMPTY, undefined, { what: 'first' }), everything = plan(plates)
      expect(tips(first).length).toBeGreaterThan(0)
      expect(Math.max(...tips(first).map(t => t[2]))).toBeLessThan(12)
      expect(tips(everything).some(t => t[2] > 17)).toBe(true)
      const low = (r: Ready): number => tips(r).filter(t => t[2] < 12).length
      expect(low(first)).toBeGreaterThan(low(everything))
      // what was not asked for is not among what could not be held
      expect(first.notHeld).toEqual([])
    })
    it('holds only what hangs over skin of a worth', () => {
      const faces = plan(plates, EMPTY, surface => {
        const { positions: p, triangles: t } = surface.faces
        surface.setWorths(Uint8Array.from({ length: t.length / 3 }, (_, f) => ([0, 1, 2].every(c => p[3 * t[3 * f + c] + 2] === 18) ? SPARE : 0)))
      }, { what: 'faces' })
      expect(tips(faces).length).toBeGreaterThan(0)
      expect(Math.min(...tips(faces).map(t => t[2]))).toBeGreaterThan(17)
    })
    it('holds the inside of a hollow by sticks, and not its outside', () => {
      // a closed box with walls of 1 mm, standing on the plate, and a brim that hangs outside
      const hollow = joinMeshes([box([-7, -7, 0], [7, 7, 1]), box([-7, -7, 1], [-6, 7, 9]), box([6, -7, 1], [7, 7, 9]), box([-6, -7, 1], [6, -6, 9]), box([-6, 6, 1], [6, 7, 9]), box([-13, -13, 9], [13, 13, 10])])
      const inside = plan(hollow, EMPTY, undefined, { what: 'inside' }), found = tips(inside)
      expect(found.length).toBeGreaterThan(3)
      for (const [x, y] of found) expect(Math.max(Math.abs(x), Math.abs(y))).toBeLessThan(6)
      expect(inside.proven.index.stiltsOf('part').every(s => s.foot !== 'plate')).toBe(true)
      expect(plan(hollow, EMPTY, undefined, { what: 'inside', sticks: false }).placed).toBe(0)
    })
    it('holds an island or a ledge that was chosen, and not the others', () => {
      // a post on a plate in the air, an arm to each side of it at another height
      const arms = joinMeshes([box([-3, -3, 10], [3, 3, 11]), box([-1, -1, 11], [1, 1, 20]), box([-9, -2, 15], [-1, 2, 16]), box([1, -2, 19], [9, 2, 20])])
      const { islands, ledges } = partOf(arms).scan.runToEnd(), right = ledges.filter(l => l.at[0] > 1)
      expect([islands.length, right.length, ledges.length > 1]).toEqual([1, 1, true])
      const island = planAim(arms, { islands }), ledge = planAim(arms, { ledges: right })
      expect(tips(island).length).toBeGreaterThan(0)
      expect(tips(ledge).length).toBeGreaterThan(0)
      for (const [x, , z] of tips(ledge)) expect([x > 0, z > 17]).toEqual([true, true])
      // the other ledges still hang, and are not told of
      expect([ledge.notHeld, ledge.proof.checks.find(c => c.kind === 'hangs')?.state]).toEqual([[], 'bad'])
    })
    it('makes what is chosen no thicker than the thickest gauge for a body that is not held yet, and all it takes where that is', () => {
      // a slab on a post in the air, and a peg below its rim
      const slab = joinMeshes([box([-14, -11, 20], [14, 11, 23]), box([-1.5, -1.5, 14], [1.5, 1.5, 20]), box([12, -0.5, 17], [13, 0.5, 20])]), { islands } = partOf(slab).scan.runToEnd(), thickest = ({ proven: { index } }: Ready): number => Math.max(...[...index.beams.values()].map(b => Math.max(b.fromDiameterMm, b.toDiameterMm)))
      const body = islands.filter(i => i.class === 'body'), peg = islands.filter(i => i.class !== 'body'), heavyMm = gaugeOf('heavy').shaftFootDiameterMm
      expect([body.length, peg.length]).toEqual([1, 1])
      const alone = planAim(slab, { islands: peg })
      expect(alone.placed).toBeGreaterThan(0)
      for (const [x] of tips(alone)) expect(x).toBeGreaterThan(11)
      expect(thickest(alone)).toBeLessThanOrEqual(heavyMm + 1e-6)
      // the post alone carries the whole slab, and is asked to
      expect(thickest(planAim(slab, { islands: body }))).toBeGreaterThan(heavyMm)
    })
    it('holds what hangs over faces that were picked', () => {
      const { positions: p, triangles: t } = partOf(plates).surface.faces
      const under = Array.from({ length: t.length / 3 }, (_, f) => f).filter(f => [0, 1, 2].every(c => p[3 * t[3 * f + c] + 2] === 18))
      expect(tips(planAim(plates, { faces: under })).map(at => at[2] > 17)).toEqual(tips(plan(plates)).map(at => at[2] > 17).filter(Boolean))
      expect(planAim(plates, { faces: [] }).placed).toBe(0)
    })
    it('sets tips closer, under flatter skin, without branches, where that is asked for', () => {
      const flat = box([-8, -5, 12], [8, 5, 14])
      expect(plan(flat, EMPTY, undefined, { holdMm: 1.2 }).placed).toBeGreaterThan(1.5 * plan(flat).placed)
      const alone = plan(flat, EMPTY, undefined, { branches: false }), { index } = alone.proven
      expect(index.stiltsOf('part').every(s => s.alone === s.nodes.length && s.foot === 'plate')).toBe(true)
      // an underside that rises by one in two from what stands on the plate, for so short a way that it carries itself
      const ramp = curtain([0, 4, 4.01, 5.7], [0, 0, 6, 6.85], [10, 10, 10, 10], -4, 4)
      expect([0, 20].map(slopeDeg => plan(ramp, EMPTY, undefined, { slopeDeg }).placed)).toEqual([0, 0])
      expect(plan(ramp, EMPTY, undefined, { slopeDeg: 40 }).placed).toBeGreaterThan(1)
    })
  })
})
