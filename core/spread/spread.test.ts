import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { SpreadSchema, type Spread } from '../contract'
import { runsOf } from '../marks'
import { distance, joinMeshes, Patches, prepareMesh, type Mesh, type Vec3 } from '../mesh'
import { shapedMesh, standOf, UNSHAPED } from '../pose'
import { BeamField, beamsOfShape, gapOfBeams, gaugeOf, GAUGES, Surface } from '../stilts'
import { box, sphere } from '../testing/shapes'
import { alongLine, anchorOf, bordersOf, byStrokes, edgesOf, overFaces, placeSpread, spotsOf, type Spot, type SpotWay, type SpreadOut } from './index'

const plate = { widthMm: 200, depthMm: 200 }, light = gaugeOf('light')
const down = (x: number, y: number, z: number): { point: Vec3; normal: Vec3 } => ({ point: [x, y, z], normal: [0, 0, -1] })
const prepared = (mesh: Mesh): Mesh => prepareMesh(mesh).mesh
const slab = prepared(box([-12, -8, 20], [12, 8, 23])), surface = new Surface(slab), patches = new Patches(slab)
/** The faces of the slab that look down. */
const underside = (of: Surface = surface): number[] => patches.flatAt((of.cast([0.1, 0.2, 0], [0, 0, 1])?.face) ?? 0).faces as number[]
const at = (way: SpotWay, more: Partial<Spread> = {}): Spread & { readonly way: SpotWay } => ({ ...SpreadSchema.parse({ id: 'one', part: 'part', gauge: 'light', spacingMm: 2, keepMm: 0, way, ...more }), way })
function placed(of: Surface, spread: Spread, tips: Vec3[] = [], limitMm = 0.5): SpreadOut {
  const steps = placeSpread(of, new Patches(of.faces), spread, { gauges: GAUGES, plate, tips, others: { field: new BeamField(), limitMm } })
  for (;;) {
    const step = steps.next()
    if (step.done) return step.value
  }
}
const nearest = (spots: readonly Spot[], p: readonly number[]): number => spots.reduce((best, s) => Math.min(best, Math.hypot(s.point[0] - p[0], s.point[1] - p[1])), Infinity)

describe('along a line', () => {
  it('of 20 mm at 2 mm stand 11, evenly, both ends among them', () => {
    const out = placed(surface, at({ kind: 'line', from: anchorOf(surface, down(-10, 0, 20)), to: anchorOf(surface, down(10, 0, 20)) }))
    expect(out.stilts.map(s => s.path[0][0])).toEqual(Array.from({ length: 11 }, (_, i) => expect.closeTo(-10 + 2 * i, 4) as number))
    expect([out.missed, out.kept]).toEqual([[], 0])
  })
  it('follow the skin, wherever its ends are', () => {
    const ball = new Surface(prepared(sphere([0, 0, 20], 9, 96)))
    fc.assert(fc.property(fc.double({ min: 0, max: 360, noNaN: true }), fc.double({ min: 5, max: 60, noNaN: true }), fc.double({ min: 0.5, max: 4, noNaN: true }), (azimuth, reach, spacing) => {
      const end = (side: number): { point: Vec3; normal: Vec3 } => {
        const a = (azimuth * Math.PI) / 180, e = (reach * Math.PI) / 180, n: Vec3 = [side * Math.sin(e) * Math.cos(a), side * Math.sin(e) * Math.sin(a), -Math.cos(e)]
        const hit = ball.cast([n[0] * 20, n[1] * 20, 20 + n[2] * 20], [-n[0], -n[1], -n[2]])
        if (!hit) throw new Error('no skin')
        return hit
      }
      const [from, to] = [end(1), end(-1)], spots = alongLine(ball, from, to, spacing)
      const length = distance(from.point, to.point)
      expect(spots).toHaveLength(length < spacing / 2 ? 1 : Math.max(1, Math.round(length / spacing)) + 1)
      for (const s of spots) expect(Math.abs(Math.hypot(s.point[0], s.point[1], s.point[2] - 20) - 9)).toBeLessThan(0.02)
    }), { numRuns: 60 })
  })
  it('is one tip where both ends are one', () => {
    expect(alongLine(surface, down(1, 1, 20), down(1, 1.4, 20), 2)).toHaveLength(1)
  })
})

describe('along an edge', () => {
  it('of 24 mm at 3 mm stand 9, inside it by the tip’s radius; around the whole border, corners among them', () => {
    const [border] = bordersOf(surface, patches, underside()), edges = edgesOf(border)
    expect(edges).toHaveLength(4)
    const long = edges.find(e => Math.abs(distance(e.points[0].point, e.points[e.points.length - 1].point) - 24) < 1e-3 && e.points[0].point[1] > 0)
    if (!long) throw new Error('no edge')
    const way = { kind: 'edge' as const, points: long.points.map(p => anchorOf(surface, p)), closed: false }
    const spots = spotsOf(surface, patches, { way, spacingMm: 3 }, light)
    expect(spots).toHaveLength(9)
    for (const s of spots) {
      expect(8 - Math.abs(s.point[1])).toBeCloseTo(light.tipDiameterMm / 2 + 0.05, 4)
      expect(12 - Math.abs(s.point[0])).toBeGreaterThan(0.2)
      expect(s.normal[2]).toBeLessThan(-0.99)
    }
    const around = spotsOf(surface, patches, { way: { kind: 'edge', points: border.points.map(p => anchorOf(surface, p)), closed: true }, spacingMm: 4 }, light)
    // 6 and 4 steps on either side
    expect(around).toHaveLength(20)
    for (const [x, y] of [[12, 8], [-12, 8], [12, -8], [-12, -8]]) expect(nearest(around, [x, y])).toBeLessThan(0.4)
  })
  it('stays on its edge when the part is mirrored, scaled and tilted', () => {
    const [border] = bordersOf(surface, patches, underside()), way = { kind: 'edge' as const, points: border.points.map(p => anchorOf(surface, p)), closed: true }
    const shape = [-1.5, 1, 1] as const, mesh = shapedMesh(slab, shape), other = new Surface(mesh, { shape, stand: standOf(mesh.positions, { tiltXDeg: 20, tiltYDeg: -10, liftMm: 5 }, 0.05) })
    const spots = spotsOf(other, new Patches(mesh), { way, spacingMm: 4 }, light)
    expect(spots.length).toBeGreaterThan(20)
    // each on the face itself: a tip's radius and a little from its border
    for (const s of spots) {
      const { point } = anchorOf(other, s)
      expect(Math.min(12 - Math.abs(point[0]), 8 - Math.abs(point[1]))).toBeGreaterThan(0.1)
      expect(point[2]).toBeCloseTo(20, 3)
    }
  })
})

describe('over a face', () => {
  it('stands at its outline first, then within, and leaves nothing open', () => {
    fc.assert(fc.property(fc.constantFrom('hexagonal' as const, 'square' as const), fc.double({ min: 1, max: 5, noNaN: true }), fc.double({ min: 0.2, max: 1.5, noNaN: true }), (pattern, spacing, margin) => {
      const spots = overFaces(surface, patches, underside(), spacing, pattern, margin)
      // all of them inside the margin, and the corners of what is left hold first
      for (const s of spots) expect(Math.min(12 - Math.abs(s.point[0]), 8 - Math.abs(s.point[1]))).toBeGreaterThan(margin * 0.97)
      for (const [x, y] of [[1, 1], [1, -1], [-1, 1], [-1, -1]]) expect(nearest(spots.slice(0, 4), [x * (12 - margin), y * (8 - margin)])).toBeLessThan(1e-3)
      expect(spots.every((s, i) => spots.slice(0, i).every(o => distance(s.point, o.point) > spacing * 0.49))).toBe(true)
      let open = 0
      for (let x = -12 + margin; x <= 12 - margin; x += 0.7) for (let y = -8 + margin; y <= 8 - margin; y += 0.7) open = Math.max(open, nearest(spots, [x, y]))
      expect(open).toBeLessThan(1.1 * spacing)
    }), { numRuns: 30 })
  })
  it('has about as many tips as fit in its area, and fewer in a square', () => {
    // a hexagonal lattice of spacing s has one point on s²·√3/2 (closed form)
    const wide = prepared(box([-50, -50, 20], [50, 50, 23])), own = new Surface(wide), p = new Patches(wide), faces = p.flatAt(own.cast([1, 1, 0], [0, 0, 1])?.face ?? 0).faces
    const hexagonal = overFaces(own, p, faces, 4, 'hexagonal', 0.5).length, square = overFaces(own, p, faces, 4, 'square', 0.5).length
    expect(hexagonal / ((99 * 99) / (16 * (Math.sqrt(3) / 2)))).toBeGreaterThan(0.95)
    expect(hexagonal / ((99 * 99) / (16 * (Math.sqrt(3) / 2)))).toBeLessThan(1.2)
    expect(square).toBeLessThan(hexagonal)
  })
  it('goes around a hole, and gives one tip to faces too small for a margin', () => {
    const ring = prepared(joinMeshes([box([-12, -8, 20], [-4, 8, 23]), box([4, -8, 20], [12, 8, 23])])), own = new Surface(ring), p = new Patches(ring)
    const faces = [...p.flatAt(own.cast([-8, 0.1, 0], [0, 0, 1])?.face ?? 0).faces, ...p.flatAt(own.cast([8, 0.1, 0], [0, 0, 1])?.face ?? 0).faces]
    for (const s of overFaces(own, p, faces, 2, 'hexagonal', 0.5)) expect(Math.abs(s.point[0])).toBeGreaterThan(4.4)
    const pin = prepared(box([-0.2, -0.2, 9], [0.2, 0.2, 12])), small = new Surface(pin), q = new Patches(pin)
    const spots = overFaces(small, q, q.flatAt(small.cast([0.01, 0.02, 0], [0, 0, 1])?.face ?? 0).faces, 2, 'hexagonal', 0.5)
    expect(spots).toHaveLength(1)
    expect(Math.hypot(spots[0].point[0], spots[0].point[1])).toBeLessThan(0.01)
  })
  it('takes the side that looks down of skin that is closed in itself', () => {
    const ball = prepared(sphere([0, 0, 20], 6, 48)), own = new Surface(ball), spots = overFaces(own, new Patches(ball), [...Array(ball.triangles.length / 3).keys()], 2, 'hexagonal', 0.5)
    expect(spots.length).toBeGreaterThan(20)
    for (const s of spots) expect(s.normal[2]).toBeLessThan(0.1)
    // more of it looks up than down: what can be held is meant all the same
    const cap = [...Array(ball.triangles.length / 3).keys()].filter(f => [0, 1, 2].every(c => ball.positions[3 * ball.triangles[3 * f + c] + 2] > 16))
    const under = overFaces(own, new Patches(ball), cap, 2, 'hexagonal', 0.3)
    expect([under.length > 3, under.every(s => s.normal[2] < 0.1)]).toEqual([true, true])
  })
  it('is taken up by the triangles of the file', () => {
    const spread = at({ kind: 'face', runs: runsOf(underside().map(f => slab.from?.[f] ?? f)), pattern: 'hexagonal', marginMm: 0.5 })
    expect(spotsOf(surface, patches, spread, light)).toEqual(overFaces(surface, patches, underside(), 2, 'hexagonal', 0.5))
  })
})

describe('by strokes', () => {
  const stroke = (pressure: number): { point: Vec3; normal: Vec3; pressure: number }[] => Array.from({ length: 81 }, (_, i) => ({ ...down(-10 + i / 4, 3, 20), pressure }))
  it('a distance is kept; where it is pressed more, they stand closer, or are thicker', () => {
    expect(byStrokes(surface, stroke(0.5), 2, 'nothing').map(s => s.point[0])).toEqual(Array.from({ length: 11 }, (_, i) => expect.closeTo(-10 + 2 * i, 6) as number))
    expect(byStrokes(surface, stroke(1), 2, 'spacing')).toHaveLength(21)
    const thick = placed(surface, at({ kind: 'strokes', points: stroke(1).map(p => ({ ...anchorOf(surface, p), pressure: p.pressure })), pressure: 'gauge' }, { spacingMm: 5 }))
    expect(thick.stilts.map(s => s.gauge)).toEqual(Array(5).fill('heavy'))
  })
  it('a fast pointer leaves no gaps', () => {
    expect(byStrokes(surface, [stroke(0.5)[0], stroke(0.5)[28], stroke(0.5)[56]], 2, 'nothing')).toHaveLength(8)
  })
})

describe('stilts of a spread', () => {
  const face = at({ kind: 'face', runs: runsOf(underside().map(f => slab.from?.[f] ?? f)), pattern: 'hexagonal', marginMm: 0.5 })
  it('keep their distance to tips that stand already, unless that is switched off', () => {
    const standing: Vec3[] = [[0, 0, 20], [5, 3, 20]], free = placed(surface, face, standing), kept = placed(surface, { ...face, keepMm: 1.5 }, standing)
    expect(free.kept).toBe(0)
    expect([kept.kept > 0, kept.stilts.length + kept.kept === free.stilts.length]).toEqual([true, true])
    for (const s of kept.stilts) for (const t of standing) expect(distance(s.path[0], t)).toBeGreaterThanOrEqual(1.5 - 1e-6)
  })
  it('keep clear of each other, and say of each that cannot stand why', () => {
    const all = placed(surface, face)
    let least = Infinity
    for (const [i, s] of all.stilts.entries()) for (const o of all.stilts.slice(Math.max(0, i - 20), i)) for (const a of beamsOfShape(s)) for (const b of beamsOfShape(o)) least = Math.min(least, gapOfBeams(a, b).gapMm)
    expect(least).toBeGreaterThanOrEqual(0.5)
    // half of the slab stands over a tub that no way leads out of
    const tub = joinMeshes([box([0, -9, 1], [13, 9, 2]), box([0, -9, 1], [1, 9, 19]), box([12, -9, 1], [13, 9, 19]), box([0, -9, 1], [13, -8, 19]), box([0, 8, 1], [13, 9, 19])])
    const both = new Surface({ positions: Float32Array.from([...slab.positions, ...tub.positions]), triangles: Uint32Array.from([...slab.triangles, ...tub.triangles.map(v => v + slab.positions.length / 3)]) })
    const some = placed(both, at({ kind: 'line', from: anchorOf(both, down(-10, 0, 20)), to: anchorOf(both, down(10, 0, 20)) }))
    expect([some.stilts.length > 4, some.stilts.length + some.missed.length, some.missed.every(m => m.at[0] > -1 && m.reason.length > 20)]).toEqual([true, 11, true])
  })
  it('are the same whenever they are placed anew', () => {
    expect(placed(surface, face)).toEqual(placed(surface, face))
    expect(new Surface(slab, { shape: UNSHAPED, stand: surface.stand }).stand).toEqual(surface.stand)
  })
})
