import Module, { type Manifold } from 'manifold-3d'
import { describe, expect, it } from 'vitest'
import { type Gauge } from '../contract'
import { radians, type Mesh, type Vec3 } from '../mesh'
import { box } from '../testing/shapes'
import { contactOf, gaugeOf, GAUGES, neckOf, proposeGauge, routeStilt, shapeOfRoute, sizesOf, slantOf, solidOfStilt, Surface, thickened, type StiltShape } from './index'

const wasm = await Module()
wasm.setup()
const solidOf = ({ positions, triangles }: Mesh): Manifold => {
  const mesh = new wasm.Mesh({ numProp: 3, vertProperties: positions, triVerts: triangles })
  mesh.merge()
  return new wasm.Manifold(mesh)
}
const medium = gaugeOf('medium'), plate = { widthMm: 100, depthMm: 100 }
/** A regular 16-gon beside the circle around it, as an area. */
const SIXTEEN = (16 * Math.sin((2 * Math.PI) / 16)) / (2 * Math.PI)

/** A stilt with a slanted tip under a plane at z = 20 whose outward normal leans by some degrees. */
function tipAt(sizes: Partial<StiltShape['sizes']>, leanDeg = 0): { shape: StiltShape; normal: Vec3 } {
  const a = radians(leanDeg), along: Vec3 = [Math.sin(a), 0, -Math.cos(a)], knee: Vec3 = [3 * along[0], 0, 20 + 3 * along[2]]
  const shape: StiltShape = {
    gauge: 'medium', role: 'detail', own: {}, anchor: { point: [0, 0, 20], normal: [0, 0, -1] }, foot: 'plate', footPinned: false,
    sizes: { ...sizesOf(medium), ...sizes }, path: [[0, 0, 20], knee, [knee[0], 0, 0]],
  }
  return { shape, normal: [0, 0, -1] }
}
/** The area that a stilt's solid leaves on the plane z = 20. */
const markOf = (shape: StiltShape): number => solidOf(solidOfStilt(shape)).slice(20).area()

describe('what a tip leaves', () => {
  it.each([
    ['cone', 0.5, 0.3, 0], ['cone', 0.12, 0.12, 0], ['cone', 0.8, 0.4, 30], ['ball', 0.5, 0.1, 0], ['ball', 0.5, 0.25, 0], ['ball', 0.8, 0.5, 0], ['ball', 0.5, 0.15, 40], ['ball', 0.8, 0.55, 30],
  ] as const)('a %s of %f mm that goes in by %f, at a slant of %i°, is what a cut through its solid shows', (tipShape, tipDiameterMm, penetrationMm, lean) => {
    const { shape, normal } = tipAt({ tipShape, tipDiameterMm, penetrationMm }, lean), { areaMm2 } = contactOf(shape.sizes, slantOf(shape.path, normal))
    // the solid is inscribed: 16 sides, and rings of the ball; a slant that is in nearly to the neck cuts a little of both
    expect(markOf(shape) / (areaMm2 * SIXTEEN)).toBeGreaterThan(0.93)
    expect(markOf(shape) / (areaMm2 * SIXTEEN)).toBeLessThan(1.07)
  })
  it('is more than nothing, whatever its shape, for 0.12 that goes in by 0.12', () => {
    for (const tipShape of ['cone', 'ball'] as const) {
      const { shape } = tipAt({ tipShape, tipDiameterMm: 0.12, penetrationMm: 0.12 })
      expect(contactOf(shape.sizes).diameterMm).toBeGreaterThanOrEqual(0.8 * 0.12 - 1e-9)
      expect(markOf(shape)).toBeGreaterThan(0.005)
    }
  })
  it('is 2·√(p·(d − p)) for a ball (geometry of the sphere), and its neck is 0.8 of it', () => {
    for (const p of [0.02, 0.1, 0.2, 0.3]) expect(contactOf({ tipShape: 'ball', tipDiameterMm: 0.4, penetrationMm: p }).diameterMm).toBeCloseTo(2 * Math.sqrt(p * (0.4 - p)), 9)
    expect([neckOf({ tipShape: 'ball', tipDiameterMm: 0.5 }), neckOf({ tipShape: 'cone', tipDiameterMm: 0.5 })]).toEqual([0.4, 0.5])
  })
})

describe('a ball tip', () => {
  it('makes a closed solid that faces outward, as wide as its ball', () => {
    for (const penetrationMm of [0, 0.1, 0.3, 0.49]) {
      const { shape } = tipAt({ tipShape: 'ball', tipDiameterMm: 0.5, penetrationMm }), solid = solidOf(solidOfStilt(shape))
      expect([solid.status(), solid.volume() > 0, solid.decompose().length]).toEqual(['NoError', true, 1])
      // as wide as the ball at its middle, as the neck just below
      expect(Math.sqrt((4 * solid.slice(20 - 0.25 + penetrationMm).area()) / Math.PI / SIXTEEN)).toBeCloseTo(0.5, 1)
      expect(Math.sqrt((4 * solid.slice(20 - 0.4 + penetrationMm).area()) / Math.PI / SIXTEEN)).toBeCloseTo(0.4, 1)
    }
  })
})

describe('a shaft that thickens with its height', () => {
  const opening: Gauge = { ...medium, kneeDiameterMm: 0.6, shaftFootDiameterMm: 0.7, thickenDeg: 3, thickestMm: 2 }
  it('opens by its angle until it is as thick as it may be: from radius 0.3 by 3° to radius 1 after 13.36 mm', () => {
    const at = (mm: number): number => thickened(opening, sizesOf(opening), mm).shaftFootDiameterMm / 2
    // 0.7 / tan 3°
    expect(at(13.3568)).toBeCloseTo(1, 4)
    expect([at(0.1), at(6.678), at(40)]).toEqual([0.35, expect.closeTo(0.65, 3), 1])
    expect(thickened(opening, { ...sizesOf(opening), shaftFootDiameterMm: 0.9 }, 13).shaftFootDiameterMm).toBe(0.9)
  })
  it('is routed so, and keeps its gap', () => {
    const part = new Surface(box([-3, -3, 24], [3, 3, 30])), route = routeStilt(part, [0, 0, 24], [0, 0, -1], opening, plate)
    if (!route.ok) throw new Error(route.reason)
    const { sizes } = shapeOfRoute(part, opening, 'detail', route, [0, 0, -1])
    expect(sizes.shaftFootDiameterMm).toBeCloseTo(Math.min(2, 0.6 + 2 * route.lengthMm * Math.tan(radians(3))), 9)
  })
})

describe('the lean limit of a gauge', () => {
  it('decides which ways are taken', () => {
    // a shelf under the tip: straight down is blocked, and 20° is not enough to get around it
    const around = new Surface(box([-8, -8, 30], [8, 8, 34])), shelf = box([-6, -6, 14], [6, 6, 16])
    const both = new Surface({ positions: Float32Array.from([...around.faces.positions, ...shelf.positions]), triangles: Uint32Array.from([...around.faces.triangles, ...shelf.triangles.map(v => v + around.faces.positions.length / 3)]) })
    const upTo = (leanLimitDeg: number): string => {
      const r = routeStilt(both, [0, 0, 30], [0, 0, -1], { ...medium, leanLimitDeg, preferredLeanDeg: Math.min(35, leanLimitDeg) }, plate)
      return r.ok ? `${r.foot} ${r.leanDeg <= leanLimitDeg + 1e-6}` : r.problem
    }
    expect([upTo(45), upTo(5)]).toEqual(['plate true', 'model true'])
  })
})

describe('a gauge that is proposed', () => {
  const resin = { densityGMl: 1.1, releaseStressNMm2: 0.02, greenStrengthNMm2: 8, margin: 2 }, of = (widestMm2: number): string => proposeGauge(GAUGES, { volumeMm3: 12000, widestMm2 }, resin)?.gauge.id ?? ''
  it('grows with what the widest layer pulls, and what carries is never thin', () => {
    // by hand: 600 mm² pull 12 N; a sixth, twice, over 8 N/mm² is 0.5 mm², a tip of 0.80 mm
    expect(proposeGauge(GAUGES, { volumeMm3: 12000, widestMm2: 600 }, resin)?.reason).toMatch(/13 g.*600 mm², pulls 12\.0 N; 6 tips .* want 0\.80 mm/)
    expect([of(10), of(200), of(600), of(5000)]).toEqual(['medium', 'medium', 'heavy', 'heavy'])
    expect(proposeGauge(GAUGES, { volumeMm3: 12000, widestMm2: 5000 }, resin)?.reason).toMatch(/stand more/)
    expect(proposeGauge([], { volumeMm3: 1, widestMm2: 1 }, resin)).toBeNull()
  })
})
