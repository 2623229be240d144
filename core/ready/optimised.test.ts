import { describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER, DEFAULT_RESIN, IMPROVEMENTS, NO_RAFT, type PlanBeam, type PlanNode } from '../contract'
import { joinMeshes, prepareMesh, type Mesh, type Vec3 } from '../mesh'
import { AS_IS } from '../pose'
import { ModelScan } from '../scan'
import { changeOfStilts, Clearance, GAUGES, gaugeOf, PlanDraft, PlanIndex, routeStilt, rowsOfStilt, shaftOf, shapeOfRoute, Surface } from '../stilts'
import { box } from '../testing/shapes'
import { areasAlone, makeReady, measuresOf, optimised, proved, type Optimised, type OptimiseMemory, type ToReady } from './index'

const raster = { pixelMm: 0.1, layerMm: 0.1 }
function partOf(mesh: Mesh, index: PlanIndex): ToReady {
  const skin = prepareMesh(mesh).mesh
  return { scan: new ModelScan(skin, raster, AS_IS), surface: new Surface(skin), part: 'part', index, raft: NO_RAFT, resin: DEFAULT_RESIN, gauges: GAUGES, plate: DEFAULT_PRINTER, onPlate: { overMm: 0, meets: 0, cups: 0 }, waivers: [] }
}
function all<T>(steps: Generator<string, T, void>): T {
  let step = steps.next()
  while (!step.done) step = steps.next()
  return step.value
}
const indexOf = (nodes: readonly PlanNode[], beams: readonly PlanBeam[]): PlanIndex => new PlanIndex(new Map(nodes.map(n => [n.id, n])), new Map(beams.map(b => [b.id, b])))
/** A part with stilts that each stand by itself. */
function curtainOf(mesh: Mesh): PlanIndex {
  const { nodes, beams } = all(makeReady(partOf(mesh, new PlanIndex(new Map(), new Map())))).proven.index
  return indexOf([...nodes.values()], [...beams.values()])
}
const slab = joinMeshes([box([-9, -6, 18], [9, 6, 20])])
const step = (r: Optimised, name: string) => r.steps.find(s => s.step === name)

describe('an optimised plan', () => {
  const index = curtainOf(slab), result = all(optimised(partOf(slab, index), IMPROVEMENTS))
  it('has its stilts on shared trunks, with less resin and nothing opened; their tips stay what they are', () => {
    const gather = step(result, 'gather')
    expect(gather).toMatchObject({ taken: true, why: '' })
    const [b, a] = [gather?.before, gather?.after]
    expect([a && b && a.resinMm3 < 0.85 * b.resinMm3, a && b && a.feet < 0.8 * b.feet, a?.tips]).toEqual([true, true, b?.tips])
    const { index: now, result: scan } = result.proven
    const tip = (of: PlanIndex, id: string): unknown => of.stiltsOf('part').filter(s => s.id === id).map(({ number, gauge, anchor, path: [at], sizes: { tipDiameterMm } }) => ({ number, gauge, anchor, at, tipDiameterMm }))
    for (const s of now.stiltsOf('part')) expect(tip(now, s.id)).toEqual(tip(index, s.id))
    expect([...scan.islands, ...scan.ledges].filter(f => f.state === 'open' || f.state === 'partly')).toEqual([])
    expect(new Clearance(now).nearer('part', DEFAULT_RESIN.webMm)).toEqual([])
  })
  it('comes to what its steps say', () => {
    const { nodes, beams } = result.proven.index, of = partOf(slab, indexOf([...nodes.values()], [...beams.values()])), alone = all(areasAlone(of.scan)), { proof, proven } = all(proved(of)), last = result.steps.findLast(s => s.taken)
    expect(alone).toEqual(new ModelScan(prepareMesh(slab).mesh, raster, AS_IS).runToEnd().areaMm2)
    const found = measuresOf(proof, proven, alone)
    expect(found).toEqual({ ...last?.after, swayMm: expect.closeTo(last?.after?.swayMm ?? NaN, 9), weakest: expect.closeTo(last?.after?.weakest ?? NaN, 9) })
  })
  it('takes no step that is no gain', () => {
    const { nodes, beams } = result.proven.index, again = all(optimised(partOf(slab, indexOf([...nodes.values()], [...beams.values()])), ['gather', 'brace']))
    for (const s of again.steps) expect([s.step, s.taken, s.taken && s.after && s.step === 'gather' ? s.after.resinMm3 < s.before.resinMm3 : s.taken]).toEqual([s.step, s.taken, s.taken])
    for (const s of again.steps) expect(s.taken ? (s.after?.openIslands ?? 1) + (s.after?.openLedges ?? 1) : s.why !== '').toBe(s.taken ? 0 : true)
  })
  it('keeps what is pinned byte for byte, and goes around it', () => {
    const stilts = index.stiltsOf('part'), pinned = stilts[Math.floor(stilts.length / 2)], foot = pinned.nodes[pinned.nodes.length - 1], rows = [...index.nodes.values()].map(n => (n.id === foot ? { ...n, pinned: true } : n))
    const own = indexOf(rows, [...index.beams.values()]), { proven } = all(optimised(partOf(slab, own), IMPROVEMENTS))
    for (const id of pinned.nodes) expect(proven.index.nodes.get(id)).toEqual(own.nodes.get(id))
    for (const id of pinned.beams) expect(proven.index.beams.get(id)).toEqual(own.beams.get(id))
  })
  it('has stilts straight that went around something that is gone; their tips and numbers stay', () => {
    const stilts = index.stiltsOf('part'), bent = stilts.reduce((a, b) => (b.path[0][0] > a.path[0][0] ? b : a)), [tip, knee, ...rest] = bent.path, foot = rest[rest.length - 1], aside = { ...bent, path: [tip, knee, [knee[0] + 4, knee[1], knee[2] - 6], [foot[0] + 4, foot[1], 0]] as Vec3[] }
    const put = changeOfStilts(index, 'part', 'bend', { put: [{ stilt: bent, shape: aside }] }), draft = new PlanDraft(index, [...index.nodes.keys()])
    draft.apply(put)
    const straight = all(optimised(partOf(slab, draft.index), ['straighten'])), now = straight.proven.index.stiltsOf('part').find(s => s.id === bent.id)
    expect(draft.index.stiltsOf('part').find(s => s.id === bent.id)?.path).toHaveLength(4)
    expect(step(straight, 'straighten')).toMatchObject({ taken: true, count: 1 })
    expect([now?.path[0], now?.number, now?.sizes.tipDiameterMm]).toEqual([tip, bent.number, bent.sizes.tipDiameterMm])
    expect(shaftOf(now?.path ?? []).leanDeg).toBeLessThan(1)
    // all others are what they were
    for (const s of stilts) if (s.id !== bent.id) expect(straight.proven.index.stilt(s.id)?.path).toEqual(s.path)
    expect(all(optimised(partOf(slab, index), ['straighten'])).steps).toMatchObject([{ taken: false, count: 0 }])
  })
  it('has stilts hung on trunks that others share already', () => {
    // a stilt by itself beside a trunk of the gathered plan
    const { nodes, beams } = result.proven.index, gathered = indexOf([...nodes.values()], [...beams.values()]), of = partOf(slab, gathered), again = all(optimised(of, ['gather']))
    const others = { field: new Clearance(gathered).field('part'), limitMm: DEFAULT_RESIN.webMm }, places = Array.from({ length: 150 }, (_, i): Vec3 => [-7.5 + (i % 15), -4.7 + Math.floor(i / 15), 10])
    const [way] = places.flatMap(at => {
      const hit = of.surface.cast(at, [0, 0, 1]), route = hit && routeStilt(of.surface, hit.point, hit.normal, gaugeOf('light'), DEFAULT_PRINTER, undefined, others)
      return hit && route?.ok && !route.tight ? [{ hit, route }] : []
    })
    if (!way) throw new Error('no way')
    const more = rowsOfStilt(shapeOfRoute(of.surface, gaugeOf('light'), 'structural', way.route, way.hit.normal), { part: 'part', number: 998 }), own = indexOf([...nodes.values(), ...more.nodes], [...beams.values(), ...more.beams])
    const hung = all(optimised(partOf(slab, own), ['gather'])), now = hung.proven.index.stiltsOf('part').find(s => s.number === 998), before = own.stiltsOf('part').find(s => s.number === 998)
    expect(step(hung, 'gather')?.taken).toBe(true)
    expect(step(hung, 'gather')?.count).toBe((step(again, 'gather')?.count ?? 0) + 1)
    expect([before?.alone === before?.nodes.length, (now?.alone ?? 99) < (now?.nodes.length ?? 0), now?.id, now?.path[0], now?.sizes.tipDiameterMm]).toEqual([true, true, before?.id, before?.path[0], before?.sizes.tipDiameterMm])
  })
  it('is not measured again where it was measured already', () => {
    const of = partOf(slab, index), memory: OptimiseMemory = new Map(), first = all(optimised(of, IMPROVEMENTS, memory)), said: string[] = []
    const steps = optimised(of, IMPROVEMENTS.filter(i => i !== first.steps.find(s => !s.taken)?.step), memory)
    let next = steps.next()
    for (; !next.done; next = steps.next()) said.push(next.value)
    expect(said).toEqual([])
    expect(next.value.change).toEqual(first.change)
    expect(next.value.steps).toEqual(first.steps.filter(s => s.taken || s !== first.steps.find(o => !o.taken)))
    // what is left out of what was taken is
    expect(all(optimised(of, ['idle'], memory)).steps).toEqual(first.steps.slice(0, 1))
  })
  it('loses what bears nothing', () => {
    // one more stilt that only touches the side of a post on the plate
    const posts = joinMeshes([slab, box([20, -2, 0], [24, 2, 20])]), of = partOf(posts, index), hit = of.surface.cast([23, 0, 30], [0, 0, -1]), side = of.surface.cast([30, 0, 10], [-1, 0, 0])
    if (!hit || !side) throw new Error('no skin')
    const route = routeStilt(of.surface, side.point, side.normal, gaugeOf('medium'), DEFAULT_PRINTER)
    if (!route.ok) throw new Error(route.reason)
    const more = rowsOfStilt(shapeOfRoute(of.surface, gaugeOf('medium'), 'structural', route, side.normal), { part: 'part', number: 999 }), own = indexOf([...index.nodes.values(), ...more.nodes], [...index.beams.values(), ...more.beams])
    const idle = all(optimised(partOf(posts, own), ['idle']))
    expect(step(idle, 'idle')?.taken).toBe(true)
    expect(more.nodes.some(n => idle.proven.index.nodes.has(n.id))).toBe(false)
    expect(step(idle, 'idle')?.after?.openIslands).toBe(0)
  })
})
