import Module from 'manifold-3d'
import { describe, expect, it } from 'vitest'
import { PegBedSchema, type PegPattern } from '../contract'
import { prepareMesh, type Mesh } from '../mesh'
import { standOf } from '../pose'
import { contactOf, gapOfPath, Surface, type Stilt } from '../stilts'
import { bunnyMesh } from '../testing/bunny'
import { box, sphere } from '../testing/shapes'
import { patternOfStilts, pegGauge, pegsUnder, placeOfPeg, rowsOfPegs, touchOf, type BedPlace, type FoundPeg } from './index'

const plate = { widthMm: 200, depthMm: 200 }, AT: BedPlace = { xMm: 0, yMm: 0, turnDeg: 0 }
const peg = pegGauge(1.2, 3), prepared = (mesh: Mesh): Mesh => prepareMesh(mesh).mesh
const one = (xMm: number, yMm: number): PegPattern => ({ pegs: [{ xMm, yMm, gauge: 'peg', own: {} }], gauges: [peg] })
const rows = (widthMm: number, depthMm: number, spacingMm: number, pattern: 'hexagonal' | 'square' = 'square'): PegPattern => ({ pegs: rowsOfPegs({ widthMm, depthMm, spacingMm, pattern }, 'peg'), gauges: [peg] })
function under(surface: Surface, pattern: PegPattern, at = AT, more: Partial<Parameters<typeof pegsUnder>[3]> = {}): FoundPeg[] {
  const steps = pegsUnder(surface, pattern, at, { plate, tips: [], keepMm: 0, ...more })
  for (;;) {
    const step = steps.next()
    if (step.done) return step.value
  }
}
function standing(surface: Surface, pattern: PegPattern): Extract<FoundPeg, { ok: true }> {
  const [found] = under(surface, pattern)
  if (!found.ok) throw new Error(found.reason)
  return found
}
/** A thick plate whose underside rises along x by an angle; above the origin it is at 20 mm. */
function slope(deg: number, halfMm = 15): Mesh {
  const mesh = box([-halfMm, -10, 20], [halfMm, 10, 30]), k = Math.tan((deg * Math.PI) / 180)
  return { ...mesh, positions: mesh.positions.map((v, i) => (i % 3 === 2 ? v + mesh.positions[i - 2] * k : v)) }
}

describe('rows of pegs', () => {
  it('fill a rectangle about its middle, square or hexagonal', () => {
    expect(rowsOfPegs({ widthMm: 20, depthMm: 10, spacingMm: 5, pattern: 'square' }, 'peg')).toHaveLength(15)
    // rows 4.33 mm apart: one with 5, two with 4
    expect(rowsOfPegs({ widthMm: 20, depthMm: 10, spacingMm: 5, pattern: 'hexagonal' }, 'peg')).toHaveLength(13)
    const { pegs } = rows(31, 17, 3, 'hexagonal'), sum = pegs.reduce(([x, y], p) => [x + p.xMm, y + p.yMm], [0, 0])
    expect(Math.abs(sum[0])).toBeLessThan(1e-6)
    expect(Math.abs(sum[1])).toBeLessThan(1e-6)
    pegs.forEach((p, i) => pegs.slice(i + 1).forEach(q => expect(Math.hypot(p.xMm - q.xMm, p.yMm - q.yMm)).toBeGreaterThan(3 - 1e-9)))
    expect(rowsOfPegs({ widthMm: 500, depthMm: 500, spacingMm: 0.5, pattern: 'square' }, 'peg')).toEqual([])
  })
})

describe('pegs', () => {
  it('reach a plane whole, as deep as they go in', () => {
    const found = standing(new Surface(prepared(slope(0))), one(0, 0))
    expect(found.shape.path).toEqual([[0, 0, expect.closeTo(20, 4)], [0, 0, expect.closeTo(18.6, 4)], [0, 0, 0]])
    expect([found.shape.sizes.tipDiameterMm, found.shape.sizes.shaftFootDiameterMm]).toEqual([1.2, 3])
    expect(found.share).toBe(1)
    expect([found.meanMm, found.deepestMm]).toEqual([expect.closeTo(0.3, 4), expect.closeTo(0.3, 4)])
    expect(found.contactMm2).toBeCloseTo(contactOf({ tipShape: 'cone', tipDiameterMm: 1.2, penetrationMm: 0.3 }).areaMm2, 4)
  })
  it('touch a slope as a segment of their top does (area of a circular segment: r² (acos q − q √(1 − q²)))', () => {
    const r = 0.6, p = 0.3
    for (const deg of [10, 20, 30, 38]) {
      const surface = new Surface(prepared(slope(deg))), a = (deg * Math.PI) / 180, { share, contactMm2, deepestMm } = touchOf(surface, [0, 0, 20], { ...peg, coneLengthMm: 1 })
      const q = Math.min(1, p / Math.tan(a) / r), segment = r * r * (Math.acos(q) - q * Math.sqrt(1 - q * q)), whole = Math.PI * r * r
      expect(Math.abs(share - (whole - segment) / whole)).toBeLessThan(0.02)
      expect(Math.abs(contactMm2 - (whole - segment) / Math.cos(a))).toBeLessThan(0.03)
      expect(deepestMm).toBeLessThan(p + r * Math.tan(a))
      expect(deepestMm).toBeGreaterThan(p + 0.85 * r * Math.tan(a))
    }
  })
  it('touch a ball by its cap (area of a cap: 2 π R h)', () => {
    const R = 2, surface = new Surface(prepared(sphere([0, 0, 22], R, 256))), found = touchOf(surface, [0, 0, 20], { ...peg, penetrationMm: 0.05, coneLengthMm: 1 })
    expect(found.contactMm2).toBeGreaterThan(2 * Math.PI * R * 0.05 * 0.95)
    expect(found.contactMm2).toBeLessThan(2 * Math.PI * R * 0.05 * 1.05)
  })
  it('that stand half beside an edge touch by half', () => {
    const found = touchOf(new Surface(prepared(box([0, -5, 20], [10, 5, 25]))), [0, 0, 20], { ...peg, coneLengthMm: 1 })
    expect(found.share).toBeCloseTo(0.5, 2)
  })
  it('go in by as much as a general-purpose library says (manifold-3d: what a peg and the bunny have in common)', async () => {
    const library = await Module()
    library.setup()
    const { Manifold, Mesh: LibraryMesh } = library
    const mesh = prepared(bunnyMesh()), stand = standOf(mesh.positions, { tiltXDeg: 20, tiltYDeg: 10, liftMm: 8 }, 0.05)
    const posed: Mesh = { positions: mesh.positions.slice(), triangles: mesh.triangles }
    for (let i = 0; i < posed.positions.length; i += 3) {
      const [x, y, z] = [posed.positions[i], posed.positions[i + 1], posed.positions[i + 2]]
      for (let k = 0; k < 3; k++) posed.positions[i + k] = stand[k * 4] * x + stand[k * 4 + 1] * y + stand[k * 4 + 2] * z + stand[k * 4 + 3]
    }
    const solid = Manifold.ofMesh(new LibraryMesh({ numProp: 3, vertProperties: posed.positions, triVerts: posed.triangles.slice() }))
    const found = under(new Surface(posed), rows(60, 60, 6)).flatMap(f => (f.ok ? [f] : []))
    expect(found.length).toBeGreaterThan(8)
    for (const f of found) {
      const top = f.at[2] + f.shape.sizes.penetrationMm, r = f.shape.sizes.tipDiameterMm / 2
      const common = Manifold.cylinder(1 + f.shape.sizes.penetrationMm, r, r, 128).translate([f.at[0], f.at[1], f.at[2] - 1]).intersect(solid).volume()
      expect(top).toBeGreaterThan(f.at[2])
      expect(Math.abs(f.meanMm * f.share * Math.PI * r * r - common)).toBeLessThan(0.03 * common + 0.003)
    }
  })
  it('of every usual thickness stand under a plane, and leave it room beside them', () => {
    for (const [top, foot] of [[0.4, 1], [1, 3], [1.2, 3], [1.5, 3], [3, 6]]) {
      const gauge = pegGauge(top, foot), found = standing(new Surface(prepared(slope(0))), { pegs: [{ xMm: 0, yMm: 0, gauge: 'peg', own: {} }], gauges: [gauge] })
      expect([found.share, found.shape.sizes.tipDiameterMm]).toEqual([1, top])
      expect(gapOfPath(new Surface(prepared(slope(0))), found.shape)).toBeGreaterThan(gauge.gapMm)
    }
  })
  it('turn and shift as one', () => {
    const pattern = rows(30, 20, 5), at: BedPlace = { xMm: 3, yMm: -2, turnDeg: 90 }
    expect(placeOfPeg({ xMm: 10, yMm: 5 }, at)).toEqual([expect.closeTo(-2, 9), expect.closeTo(8, 9)])
    const found = under(new Surface(prepared(slope(0))), pattern, at)
    found.forEach(f => {
      const [x, y] = placeOfPeg(pattern.pegs[f.peg], at)
      expect([f.at[0], f.at[1]]).toEqual([expect.closeTo(x, 4), expect.closeTo(y, 4)])
      expect(f.ok).toBe(Math.abs(x) <= 15 && Math.abs(y) <= 10)
    })
  })
})

describe('pegs that are left out', () => {
  const flat = new Surface(prepared(slope(0)))
  const problems = (surface: Surface, pattern: PegPattern, more: Parameters<typeof under>[3] = {}): string[] => under(surface, pattern, AT, more).map(f => (f.ok ? 'ok' : f.problem))
  it('find nothing above, or a part that is too low', () => {
    expect(problems(flat, one(16, 0))).toEqual(['nothing-above'])
    expect(problems(new Surface(prepared(box([-5, -5, 0.9], [5, 5, 6]))), one(0, 0))).toEqual(['too-low'])
    expect(problems(new Surface(prepared(box([-5, -5, 0], [5, 5, 6]))), one(0, 0))).toEqual(['too-low'])
  })
  it('meet a face that is off limits, by their rim as well', () => {
    const mesh = prepared(box([-5, -5, 20], [5, 5, 26])), surface = new Surface(mesh), hit = surface.cast([1, 0.5, 0], [0, 0, 1])
    const worths = new Uint8Array(mesh.triangles.length / 3)
    worths[hit?.face ?? 0] = 3
    surface.setWorths(worths)
    // the underside is two triangles that meet along its diagonal
    expect(problems(surface, one(1, 0.5))).toEqual(['off-limits'])
    expect(new Set(problems(surface, rows(8, 8, 2)))).toEqual(new Set(['ok', 'off-limits']))
  })
  it('run into the part, over the edge of the plate, or too near to what stands', () => {
    const beside = new Surface(prepared({ positions: Float32Array.from([...slope(0).positions, ...box([1.5, -5, 4], [6, 5, 12]).positions]), triangles: Uint32Array.from([...slope(0).triangles, ...[...box([0, 0, 0], [1, 1, 1]).triangles].map(v => v + 8)]) }))
    expect(problems(beside, one(0.2, 0))).toEqual(['beside-part'])
    expect(problems(flat, one(0, 0), { plate: { widthMm: 2, depthMm: 2 } })).toEqual(['off-plate'])
    expect(problems(flat, one(0, 0), { tips: [[0.5, 0, 20]], keepMm: 1 })).toEqual(['beside-tip'])
    expect(problems(flat, one(0, 0), { tips: [[1.5, 0, 20]], keepMm: 1 })).toEqual(['ok'])
  })
})

describe('a pattern of stilts', () => {
  it('dropped where it was saved stands under the same places, with the same sizes', () => {
    const surface = new Surface(prepared(slope(12))), found = under(surface, rows(24, 12, 4), { xMm: 2, yMm: 1, turnDeg: 30 }).flatMap(f => (f.ok ? [f] : []))
    const stilts = found.map(f => ({ ...f.shape, own: { tipDiameterMm: 1, footPenetrationMm: 0 } })) as unknown as Stilt[]
    const { pattern, middle } = patternOfStilts(stilts, [peg])
    expect(PegBedSchema.safeParse({ name: 'A bed', pattern }).success).toBe(true)
    const again = under(surface, pattern, { xMm: middle[0], yMm: middle[1], turnDeg: 0 })
    expect(again.map(f => f.at.map(v => Math.round(v * 1e4)))).toEqual(found.map(f => f.at.map(v => Math.round(v * 1e4))))
    for (const f of again) expect(f.ok && f.shape.sizes.tipDiameterMm).toBe(1)
  })
  it('has to have the gauges of its pegs', () => {
    expect(PegBedSchema.safeParse({ name: 'A bed', pattern: { ...one(0, 0), gauges: [{ ...peg, id: 'other' }] } }).success).toBe(false)
  })
})
