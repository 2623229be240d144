import { describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER, DEFAULT_RESIN, NO_RAFT, type PlanBeam, type PlanNode } from '../contract'
import { OFF_LIMITS } from '../marks'
import { joinMeshes, prepareMesh, volumeOf, type Mesh } from '../mesh'
import { AS_IS } from '../pose'
import { solidsOfPart } from '../raft'
import { ModelScan } from '../scan'
import { Clearance, GAUGES, gaugeOf, PlanIndex, routeStilt, rowsOfStilt, shapeOfRoute, Surface } from '../stilts'
import { box, sphere } from '../testing/shapes'
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
const plan = (mesh: Mesh, index?: PlanIndex, mark?: (surface: Surface) => void): Ready => all(planned(partOf(mesh, index, mark)))
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
  it('is the same each time', () => {
    expect(shapeOfPlan(plan(table))).toEqual(shapeOfPlan(plan(table)))
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
})
