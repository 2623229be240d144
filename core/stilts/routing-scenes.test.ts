import { Triangle, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { OFF_LIMITS, PLAIN } from '../marks'
import { between, joinMeshes, leanOf, type Mesh, type Vec3 } from '../mesh'
import { box } from '../testing/shapes'
import { BeamField, beamsOfShape, gaugeOf, GAP_FLOOR_MM, moveFoot, routeStilt, shapeOfRoute, Surface, type NoRoute, type Route } from './index'

// Small rooms in which the way down is known: is it found where there is one within the limits, and said why where there is none?
const plate = { widthMm: 120, depthMm: 120 }, light = gaugeOf('light')
interface Scene {
  readonly mesh: Mesh
  /** Where a tip touches, on skin that looks straight down. */
  readonly at: Vec3
  readonly way: 'straight' | 'around' | 'stick' | 'none'
  /** Faces from this one on are off limits. */
  readonly offLimitsFrom?: number
}
const SCENES: Readonly<Record<string, Scene>> = {
  'under a table': { mesh: joinMeshes([box([-10, -10, 20], [10, 10, 22]), box([-10, -10, 0], [-8, -8, 20]), box([8, 8, 0], [10, 10, 20])]), at: [0, 0, 20], way: 'straight' },
  'beside a wall': { mesh: joinMeshes([box([-10, -10, 20], [10, 10, 22]), box([1.5, -10, 0], [3, 10, 20])]), at: [0.4, 0, 20], way: 'around' },
  'over a shelf whose edge is near': { mesh: joinMeshes([box([-10, -10, 30], [10, 10, 32]), box([-10, -10, 10], [2, 10, 11])]), at: [0, 0, 30], way: 'around' },
  'over a post': { mesh: joinMeshes([box([-10, -10, 30], [10, 10, 32]), box([-1, -1, 0], [1, 1, 12])]), at: [0, 0, 30], way: 'around' },
  'in a shaft that turns': { mesh: joinMeshes([box([-20, -20, 40], [20, 20, 42]), box([-20, -20, 16], [1, 20, 18]), box([12, -20, 0], [14, 20, 40]), box([-20, -20, 18], [-18, 20, 40]), box([-20, -20, 18], [20, -18, 40]), box([-20, 18, 18], [20, 20, 40])]), at: [0, 0, 40], way: 'around' },
  'inside a cup': { mesh: joinMeshes([box([-10, -10, 4], [10, 10, 6]), box([-10, -10, 6], [-8, 10, 20]), box([8, -10, 6], [10, 10, 20]), box([-10, -10, 6], [10, -8, 20]), box([-10, 8, 6], [10, 10, 20]), box([-10, -1, 18], [10, 1, 20])]), at: [0, 0, 18], way: 'stick' },
  'over a wide floor': { mesh: joinMeshes([box([-40, -40, 4], [40, 40, 6]), box([-1, -1, 16], [1, 1, 20])]), at: [0, 0, 16], way: 'stick' },
  'over a wide floor that is off limits': { mesh: joinMeshes([box([-1, -1, 16], [1, 1, 20]), box([-40, -40, 4], [40, 40, 6])]), at: [0, 0, 16], way: 'none', offLimitsFrom: 12 },
  'in a slit that is too narrow': { mesh: joinMeshes([box([-10, -10, 30], [10, 10, 32]), box([-10, -10, 0], [-0.6, 10, 28.6]), box([0.6, -10, 0], [10, 10, 28.6])]), at: [0, 0, 30], way: 'stick' },
}
/** The gap of a way and a mesh by trying points along it against every triangle (closest points: three.js), leaving out its tip's last millimetre, and that of a foot on the model. */
function gapByBruteForce({ positions: p, triangles: t }: Mesh, route: Route): number {
  const corner = (v: number): Vector3 => new Vector3(p[3 * v], p[3 * v + 1], p[3 * v + 2]), faces = Array.from({ length: t.length / 3 }, (_, f) => new Triangle(corner(t[3 * f]), corner(t[3 * f + 1]), corner(t[3 * f + 2])))
  const near = new Vector3(), beams = beamsOfShape(route), tip = route.path[0], foot = route.path[route.path.length - 1]
  let gap = Infinity
  for (const { from, to, fromRadius, toRadius } of beams) {
    for (let i = 0; i <= 60; i++) {
      const at = between(from, to, i / 60), q = new Vector3(...at), away = (o: Vec3): number => Math.hypot(at[0] - o[0], at[1] - o[1], at[2] - o[2])
      if (away(tip) < 1 || (route.foot === 'model' && away(foot) < 1)) continue
      const least = faces.reduce((m, f) => Math.min(m, f.closestPointToPoint(q, near).distanceTo(q)), Infinity)
      gap = Math.min(gap, least - fromRadius - (toRadius - fromRadius) * (i / 60))
    }
  }
  return gap
}

describe('a way down', () => {
  for (const [name, { mesh, at, way, offLimitsFrom }] of Object.entries(SCENES)) {
    it(`${name}: ${way === 'none' ? 'there is none, and why is said' : way}`, () => {
      const surface = new Surface(mesh)
      if (offLimitsFrom !== undefined) surface.setWorths(Uint8Array.from({ length: mesh.triangles.length / 3 }, (_, f) => (f >= offLimitsFrom ? OFF_LIMITS : PLAIN)))
      const route: Route | NoRoute = routeStilt(surface, at, [0, 0, -1], light, plate)
      if (way === 'none') {
        expect(route).toMatchObject({ ok: false, problem: 'blocked', reason: expect.stringMatching(/Every way down is blocked within 45°.*Try a point beside it/) as string })
        return
      }
      if (!route.ok) throw new Error(route.reason)
      expect(route.foot).toBe(way === 'stick' ? 'model' : 'plate')
      const foot = route.path[route.path.length - 1]
      if (way === 'straight') expect([foot[0], foot[1]]).toEqual([expect.closeTo(at[0], 1), expect.closeTo(at[1], 1)])
      if (way === 'around') expect(Math.hypot(foot[0] - at[0], foot[1] - at[1])).toBeGreaterThan(1)
      route.path.slice(1).forEach((p, i) => expect(leanOf(route.path[i], p)).toBeLessThanOrEqual(light.leanLimitDeg + 1e-6))
      const gap = gapByBruteForce(mesh, route)
      expect(gap).toBeGreaterThanOrEqual(GAP_FLOOR_MM - 0.02)
      if (!route.tight) expect(gap).toBeGreaterThanOrEqual(light.gapMm - 0.02)
    })
  }
  it('that only clashes with another stilt is cured by 4 to 5° of lean (common practice)', () => {
    const roof = box([-20, -20, 30], [20, 20, 32]), surface = new Surface(roof), field = new BeamField(), limitMm = 0.5
    const upright = (x: number): ReturnType<typeof shapeOfRoute> => {
      const r = routeStilt(surface, [x, 0, 30], [0, 0, -1], light, plate)
      if (!r.ok) throw new Error(r.reason)
      return shapeOfRoute(surface, light, 'detail', r, [0, 0, -1])
    }
    const one = upright(0), two = upright(1.45)
    field.put('one', beamsOfShape(one).map(beam => ({ owner: 'one', beam })))
    expect(field.nearest(beamsOfShape(two), limitMm)?.owner).toBe('one')
    for (const deg of [4, 5]) {
      const knee = two.path[1], moved = moveFoot(surface, two, knee[0] + (knee[2] - two.sizes.footHeightMm) * Math.tan((deg * Math.PI) / 180), 0, light, plate, light.gapMm)
      if (!moved.ok) throw new Error(moved.reason)
      expect(field.nearest(beamsOfShape(moved.shape), limitMm)).toBe(null)
    }
  })
})
