import Module from 'manifold-3d'
import { describe, expect, it } from 'vitest'
import { checkPlan, NO_RAFT, type Raft } from '../contract'
import { areaOf, distance, joinMeshes, prepareMesh, volumeOf, type Mesh, type Vec3 } from '../mesh'
import { moveMesh, standOf, toSource } from '../pose'
import { raftSolid, solidsOfPart } from '../raft'
import { ModelScan } from '../scan'
import { braceThese, gaugeOf, GAUGES, PlanDraft, PlanIndex, pickedStick, routeBranch, routeStilt, rowsOfBrace, rowsOfBranch, rowsOfStilt, shapeOfBranch, shapeOfRoute, Surface, type Stilt, type StiltShape } from '../stilts'
import { bunnyMesh } from '../testing/bunny'
import { random } from '../testing/random'
import { box, sphere } from '../testing/shapes'
import { findSupports, liftOut, recognise } from './index'
import { sectionsOf } from './sections'

const wasm = await Module()
wasm.setup()
const plate = { widthMm: 200, depthMm: 200 }
const volume = (mesh: Mesh): number => {
  const parts = new wasm.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles })
  parts.merge()
  return new wasm.Manifold(parts).volume()
}

/** A plan on a model: stilts of all gauges and both tips wherever one stands, some with branches, some braced; as rows and as the mesh of all. */
function planned(model: Mesh, seed: number, raft: Raft = NO_RAFT): { plan: PlanIndex; mesh: Mesh; stilts: readonly Stilt[] } {
  const surface = new Surface(model), draft = new PlanDraft(new PlanIndex(new Map(), new Map()), []), next = random(seed), gauges = GAUGES.map((g, i) => (i > 1 ? { ...g, tipShape: i === 3 ? ('ball' as const) : ('cone' as const) } : g))
  let number = 1
  const taken: Vec3[] = []
  for (let n = 0; n < 400 && number < 60; n++) {
    const at = surface.cast([-20 + 40 * next(), -20 + 40 * next(), -1], [0, 0, 1]), gauge = gauges[Math.floor(next() * 4)]
    if (!at || at.normal[2] > -0.2 || taken.some(t => Math.hypot(t[0] - at.point[0], t[1] - at.point[1]) < 2.5)) continue
    const r = routeStilt(surface, at.point, at.normal, gauge, plate)
    if (!r.ok || r.foot !== 'plate') continue
    taken.push(at.point, r.path[r.path.length - 1])
    draft.put(rowsOfStilt(shapeOfRoute(surface, gauge, 'detail', r, at.normal), { part: 'part', number: number++ }))
    const [host] = draft.index.stiltsOf('part').slice(-1), beside = surface.cast([at.point[0] + 1.5, at.point[1] + 0.5, -1], [0, 0, 1])
    const branch = n % 3 === 0 && beside ? routeBranch(surface, beside.point, beside.normal, gaugeOf('light'), [host]) : null
    if (!branch?.ok || !beside) continue
    taken.push(beside.point)
    draft.put(rowsOfBranch(draft.index, shapeOfBranch({ gauge: 'light', role: 'detail', anchor: { point: toSource(surface, beside.point), normal: [...beside.normal] } }, branch), branch.joint, number++))
  }
  for (const b of braceThese(surface, draft.index.stiltsOf('part').slice(0, 8), { spacingMm: 2, angleDeg: 45, reachMm: 12 }, s => gaugeOf(s.gauge).braceDiameterMm, () => undefined)) draft.put(rowsOfBrace(draft.index, b))
  return { plan: draft.index, stilts: draft.index.stiltsOf('part'), mesh: prepareMesh(joinMeshes([model, ...solidsOfPart(draft.index, 'part', raft)])).mesh }
}
/** What hangs, what is held, and how much is laid. */
function scanOf(part: Mesh, solids: readonly Mesh[]): unknown[] {
  const scan = new ModelScan(part, { pixelMm: 0.05, layerMm: 0.1 })
  scan.setStilts([...solids])
  const { islands, floating, layerCount, signals } = scan.runToEnd()
  return [islands.map(i => i.state), floating.length, layerCount, Math.round(signals.areaMm2.reduce((s, a) => s + a, 0) / 100)]
}

const lifted = (mesh: Mesh, mm: number): Mesh => moveMesh(mesh, standOf(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, liftMm: mm }, 0.05))
const bunny = (): Mesh => lifted(prepareMesh(bunnyMesh()).mesh, 8)
const blob = (): Mesh => lifted(joinMeshes([sphere([0, 0, 0], 9, 96), box([-4, -14, 2], [4, 14, 6])]), 7)

describe('supports that a mesh arrives with', () => {
  it('are found one for one, with the diameters of their tips, and nothing else', () => {
    for (const [model, seed] of [[bunny(), 1], [blob(), 2], [blob(), 3]] as const) {
      const { mesh, stilts } = planned(model, seed), { supports, braces } = recognise(mesh), left = new Set(supports)
      let within = 0
      for (const s of stilts) {
        const hit = [...left].sort((a, b) => distance(a.tip.at, s.path[0]) - distance(b.tip.at, s.path[0]))[0]
        if (!hit || distance(hit.tip.at, s.path[0]) > 0.3) continue
        left.delete(hit)
        if (Math.abs(hit.tip.diameterMm / s.sizes.tipDiameterMm - 1) <= 0.1 && hit.tip.shape === s.sizes.tipShape) within++
      }
      expect(stilts.length).toBeGreaterThan(20)
      expect([left.size, within / stilts.length >= 0.95]).toEqual([0, true])
      expect(supports.filter(s => s.end.on === 'support').length).toBe(stilts.filter(s => s.alone < s.nodes.length).length)
      expect(braces.length).toBeGreaterThan(0)
    }
  })
  it('are not invented on models without any, however they lie', () => {
    const scenes = [prepareMesh(bunnyMesh()).mesh, joinMeshes([sphere([0, 0, 8], 5), box([-1, -1, 0], [1, 1, 6]), box([3, 3, 0], [4, 4, 12])]), joinMeshes([box([-8, -8, 10], [8, 8, 12]), ...[-6, 0, 6].map(x => box([x, -1, 0], [x + 1, 0, 11]))])]
    for (const mesh of scenes) for (const tiltXDeg of [0, 35, 90, 180]) expect(recognise(moveMesh(mesh, standOf(mesh.positions, { tiltXDeg, tiltYDeg: 0, liftMm: 0 }, 0.05))).supports).toEqual([])
  })
  it('may be sticks, from the model to the model', () => {
    const room = joinMeshes([box([-10, -10, 0], [10, 10, 3]), box([-10, 8, 2], [10, 10, 14]), box([-10, -10, 13], [10, 10, 16])]), surface = new Surface(room), light = gaugeOf('light')
    const stick = pickedStick(surface, { point: [0, 0, 13], normal: [0, 0, -1] }, { point: [2, 0, 3], normal: [0, 0, 1] }, light)
    if (!stick.ok) throw new Error(stick.reason)
    const shape: StiltShape = shapeOfRoute(surface, light, 'detail', stick, stick.upper.normal), { nodes, beams } = rowsOfStilt(shape, { part: 'part', number: 1 })
    const index = new PlanIndex(new Map(nodes.map(n => [n.id, n])), new Map(beams.map(b => [b.id, b])))
    const [found, ...more] = recognise(prepareMesh(joinMeshes([room, ...solidsOfPart(index, 'part', NO_RAFT)])).mesh).supports
    expect(more).toEqual([])
    expect([found.end.on, found.tip.diameterMm]).toEqual(['model', expect.closeTo(0.35, 2)])
  })
  it('are lifted out as stilts that make the same solid, with the model left as it was', () => {
    const model = blob(), { mesh, stilts } = planned(model, 5), found = recognise(mesh), out = liftOut(mesh, found, GAUGES, 0.05, 'part')
    expect([areaOf(out.model), volumeOf(out.model), out.pose.liftMm]).toEqual([expect.closeTo(areaOf(model), 2), expect.closeTo(volumeOf(model), 2), expect.closeTo(7, 3)])
    const nodes = new Map(out.nodes.map(n => [n.id, n])), beams = new Map(out.beams.map(b => [b.id, b])), index = new PlanIndex(nodes, beams)
    expect([checkPlan(nodes, beams), out.stilts, index.stiltsOf('part').length]).toEqual([[], stilts.length, stilts.length])
    // where the part is centred is a matter of whole pixels
    const stand = standOf(out.model.positions, out.pose, 0.05), again = joinMeshes([moveMesh(out.model, stand), ...solidsOfPart(index, 'part', NO_RAFT)])
    expect(volume(again) / volume(mesh)).toBeCloseTo(1, 2)
    // and so is the scan: what hangs, what is held, and how much is laid
    expect(scanOf(moveMesh(out.model, stand), solidsOfPart(index, 'part', NO_RAFT))).toEqual(scanOf(model, solidsOfPart(planned(model, 5).plan, 'part', NO_RAFT)))
  })
  it('may stand on a raft, which comes along', () => {
    const raft: Raft = { ...NO_RAFT, kind: 'plate', thicknessMm: 1 }, { mesh, stilts } = planned(blob(), 6, raft), found = recognise(mesh)
    expect([found.supports.length, found.raft]).toEqual([stilts.length, { thicknessMm: expect.closeTo(1, 3) as number, whole: true }])
    expect(liftOut(mesh, found, GAUGES, 0.05, 'part').raft).toMatchObject({ kind: 'plate', thicknessMm: 1 })
    expect(raftSolid(NO_RAFT, [])).toBe(null)
  })
})

/** Some solids grown into one surface, by a general-purpose library. */
function fused(meshes: readonly Mesh[]): Mesh {
  const all = meshes.flatMap(m => {
    const parts = new wasm.Mesh({ numProp: 3, vertProperties: m.positions, triVerts: m.triangles })
    parts.merge()
    return new wasm.Manifold(parts).decompose()
  })
  const { vertProperties, triVerts } = wasm.Manifold.union(all).getMesh()
  return prepareMesh({ positions: new Float32Array(vertProperties), triangles: new Uint32Array(triVerts) }).mesh
}

describe('supports that are fused with the model (united by manifold-3d)', () => {
  it('are found one for one, with the diameters of their tips, and nothing else; the model is left whole', () => {
    for (const [model, seed] of [[bunny(), 1], [fused([blob()]), 2], [fused([blob()]), 3]] as const) {
      const { plan, stilts } = planned(model, seed), all = fused([model, ...solidsOfPart(plan, 'part', NO_RAFT)])
      expect(recognise(all).supports).toEqual([])
      const { mesh, found } = findSupports(all), left = new Set(found.supports)
      let within = 0, hits = 0
      for (const s of stilts) {
        const hit = [...left].sort((a, b) => distance(a.tip.at, s.path[0]) - distance(b.tip.at, s.path[0]))[0]
        if (!hit || distance(hit.tip.at, s.path[0]) > 0.3) continue
        left.delete(hit)
        hits++
        if (Math.abs(hit.tip.diameterMm / s.sizes.tipDiameterMm - 1) <= 0.1 && hit.tip.shape === s.sizes.tipShape) within++
      }
      expect([left.size, hits / stilts.length >= 0.95, within / stilts.length >= 0.95]).toEqual([0, true, true])
      expect(found.supports.filter(s => s.end.on === 'support').length).toBe(stilts.filter(s => s.alone < s.nodes.length).length)
      expect(found.raft).toBe(null)
      const out = liftOut(mesh, found, GAUGES, 0.05, 'part')
      expect([Math.abs(areaOf(out.model) / areaOf(model) - 1) < 0.002, Math.abs(volumeOf(out.model) / volumeOf(model) - 1) < 0.001, out.stilts]).toEqual([true, true, found.supports.length])
      const nodes = new Map(out.nodes.map(n => [n.id, n])), beams = new Map(out.beams.map(b => [b.id, b])), index = new PlanIndex(nodes, beams), stand = standOf(out.model.positions, out.pose, 0.05)
      expect(checkPlan(nodes, beams)).toEqual([])
      const solids = solidsOfPart(index, 'part', NO_RAFT)
      expect(Math.abs(volumeOf(fused([moveMesh(out.model, stand), ...solids])) / volumeOf(all) - 1)).toBeLessThan(0.01)
      // and the scan is the same, but for the little that feet which grew into each other differ by
      if (seed !== 2) continue
      const [before, after] = [scanOf(model, solidsOfPart(plan, 'part', NO_RAFT)), scanOf(moveMesh(out.model, stand), solids)]
      expect(after.slice(0, 3)).toEqual(before.slice(0, 3))
    }
  })
  it('may stand on a raft that is fused with them', () => {
    const model = fused([box([-8, -8, 8], [8, 8, 12])]), { plan, stilts } = planned(model, 4), raft: Raft = { ...NO_RAFT, kind: 'plate', thicknessMm: 1 }
    const { mesh, found } = findSupports(fused([model, ...solidsOfPart(plan, 'part', raft)]))
    expect([found.supports.length / stilts.length >= 0.9, found.raft?.whole]).toEqual([true, true])
    expect(volumeOf(liftOut(mesh, found, GAUGES, 0.05, 'part').model) / volumeOf(model)).toBeCloseTo(1, 2)
  })
  it('are not invented on models without any', () => {
    const scenes = [prepareMesh(bunnyMesh()).mesh, fused([sphere([0, 0, 8], 5), box([-1, -1, 0], [1, 1, 6]), box([3, 3, 0], [4, 4, 12])]), fused([box([-8, -8, 10], [8, 8, 12]), ...[-6, 0, 6].map(x => box([x, -1, 0], [x + 1, 0, 11]))])]
    for (const mesh of scenes) for (const tiltXDeg of [0, 35, 90, 180]) expect(findSupports(moveMesh(mesh, standOf(mesh.positions, { tiltXDeg, tiltYDeg: 0, liftMm: 0 }, 0.05))).found.supports).toEqual([])
  })
})

describe('sections', () => {
  it('have the area of what is cut, also aslant and with a hole', () => {
    const ball = sphere([0, 0, 0], 5, 128), all = Array.from({ length: ball.triangles.length / 3 }, (_, i) => i)
    const n = Math.SQRT1_2, [one, ...more] = sectionsOf(ball, all, [0, 0, 3 / n], [n, 0, n])
    expect([more.length, one.areaMm2 / (Math.PI * 16)]).toEqual([0, expect.closeTo(1, 2)])
    const two = joinMeshes([box([0, 0, 0], [2, 3, 4]), box([5, 0, 0], [6, 1, 4])])
    expect(sectionsOf(two, Array.from({ length: 24 }, (_, i) => i), [0, 0, 2], [0, 0, 1]).map(s => s.areaMm2).sort()).toEqual([expect.closeTo(1, 9), expect.closeTo(6, 9)])
  })
})
