import Module from 'manifold-3d'
import { describe, expect, it } from 'vitest'
import { OFF_LIMITS } from '../marks'
import { distance, joinMeshes, type Vec3 } from '../mesh'
import { box } from '../testing/shapes'
import { GAP_FLOOR_MM, gaugeOf, pickedStick, shapeOfRoute, sizesOf, solidOfStilt, Surface, type StiltSizes } from './index'
import { stickBetween } from './route'

const wasm = await Module()
wasm.setup()
const light = gaugeOf('light')
// a floor, a roof above it, and a wall beside
const room = joinMeshes([box([-20, -20, 0], [20, 20, 3]), box([-20, -20, 13], [20, 20, 16]), box([14, -20, 3], [17, 20, 13])]), surface = new Surface(room)
const roof = (x: number): { point: Vec3; normal: Vec3 } => ({ point: [x, 0, 13], normal: [0, 0, -1] }), floor = (x: number): { point: Vec3; normal: Vec3 } => ({ point: [x, 0, 3], normal: [0, 0, 1] })
const refused = (...ends: Parameters<typeof pickedStick> extends [unknown, infer A, infer B, ...unknown[]] ? [A, B] : never): string => {
  const r = pickedStick(surface, ends[0], ends[1], light)
  return r.ok ? 'stands' : r.reason
}

describe('a stick between two picked points', () => {
  it('goes from the higher to the lower one, whichever was picked first, into both by the penetration', () => {
    for (const ends of [[roof(0), floor(2)], [floor(2), roof(0)]] as const) {
      const r = pickedStick(surface, ends[0], ends[1], light)
      if (!r.ok) throw new Error(r.reason)
      expect([r.foot, r.path[0], r.path[3]]).toEqual(['model', [0, 0, 13], [2, 0, 3]])
      expect([r.leanDeg, r.landingDeg]).toEqual([expect.closeTo(11.31, 1), expect.closeTo(11.31, 1)])
      const shape = shapeOfRoute(surface, light, 'detail', r, r.upper.normal), mesh = solidOfStilt(shape), solid = new wasm.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles })
      solid.merge()
      const made = new wasm.Manifold(solid)
      expect([made.status(), made.volume() > 0]).toEqual(['NoError', true])
      // as long as it is between the skins, and so much more inside both
      const zs = [...mesh.positions].filter((_, i) => i % 3 === 2)
      expect(Math.max(...zs) - Math.min(...zs)).toBeGreaterThan(10 + 0.9 * (shape.sizes.penetrationMm + shape.sizes.footPenetrationMm) * Math.cos(0.2))
      expect(distance(shape.path[0], shape.path[3])).toBeCloseTo(Math.hypot(2, 10), 6)
    }
  })
  it('is thinner where it would come too near to its faces, though no thinner than its ends', () => {
    // faces so near that a stick of the usual thickness keeps less than the gap from them
    const near = new Surface(joinMeshes([box([-5, -5, 0], [5, 5, 3]), box([-5, -5, 4.4], [5, 5, 6])])), of = (skin: Surface, heightMm: number): Pick<StiltSizes, 'kneeDiameterMm' | 'tipDiameterMm'> & { readonly gapMm: number } => {
      const route = stickBetween(skin, [0, 0, 3 + heightMm], { point: [0, 0, 3], normal: [0, 0, 1], face: 0, distanceMm: heightMm }, [0, 0, -1], light, sizesOf(light))
      if (!route) throw new Error('It does not stand.')
      return { ...route.sizes, gapMm: route.gapMm }
    }
    const thin = of(near, 1.4), usual = of(surface, 10)
    expect(thin.kneeDiameterMm).toBeLessThan(usual.kneeDiameterMm)
    expect(thin.kneeDiameterMm).toBeGreaterThanOrEqual(thin.tipDiameterMm)
    expect(thin.gapMm).toBeGreaterThanOrEqual(GAP_FLOOR_MM - 1e-6)
  })
  it('says why not: too flat, into the part, along the skin, in the way, at one place, off limits', () => {
    expect(refused(roof(0), floor(12))).toMatch(/would lean 50°; at most 45°/)
    expect(refused({ point: [0, 0, 16], normal: [0, 0, 1] }, floor(0))).toMatch(/go into the part/)
    expect(refused(roof(10), { point: [14, 0, 6], normal: [-1, 0, 0] })).toMatch(/nearer to the part than 0\.35 mm/)
    expect(refused(roof(13), { point: [14, 0, 6], normal: [-1, 0, 0] })).toMatch(/nearly along the skin/)
    expect(refused(roof(0), { point: [0, 0, -6], normal: [0, 0, 1] })).toMatch(/in the way/)
    expect(refused(roof(0), { ...roof(0), point: [0.1, 0, 13] })).toMatch(/at one place/)
    const marked = new Surface(room)
    marked.setWorths(new Uint8Array(room.triangles.length / 3).fill(OFF_LIMITS))
    expect(pickedStick(marked, roof(0), floor(0), light)).toMatchObject({ ok: false, problem: 'off-limits' })
  })
})
