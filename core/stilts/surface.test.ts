import { describe, expect, it } from 'vitest'
import { OFF_LIMITS, PLAIN } from '../marks'
import { boundsOf, cross, dot, sub, unit, type Vec3 } from '../mesh'
import { bunnyMesh } from '../testing/bunny'
import { between, random } from '../testing/random'
import { box, joinMeshes, moved, reversed, sphere } from '../testing/shapes'
import { gaugeOf } from './gauges'
import { routeStilt, type NoRoute, type Route } from './route'
import { seenFrom } from './seen'
import { GAP_CEILING_MM, Surface, type SurfacePoint } from './surface'

function allOf(steps: Generator<null, number[], void>): number[] {
  for (;;) {
    const step = steps.next()
    if (step.done) return step.value
  }
}

describe('a ray between two heights', () => {
  // two plates, at 2 to 3 and at 6 to 7
  const surface = new Surface(joinMeshes([box([-5, -5, 2], [5, 5, 3]), box([-5, -5, 6], [5, 5, 7])]))
  const down = (low: number, high: number): number | undefined => surface.castBetween([0, 0, 20], [0, 0, -2], [low, high])?.point[2]

  it('meets what is shown first, whatever is cut away above it', () => {
    expect(down(-Infinity, Infinity)).toBeCloseTo(7, 6)
    expect(down(-Infinity, 6.5)).toBeCloseTo(6, 6)
    expect(down(-Infinity, 5)).toBeCloseTo(3, 6)
    expect(down(-Infinity, 2.5)).toBeCloseTo(2, 6)
    expect(down(-Infinity, 1)).toBeUndefined()
  })
  it('does not go on below what is cut away', () => {
    expect(down(3.5, 5)).toBeUndefined()
    expect(down(2.5, 5)).toBeCloseTo(3, 6)
  })
  it('gives the distance from the eye also where the way is oblique', () => {
    const hit = surface.castBetween([20, 0, 12], [-1, 0, -0.5], [0, 4])
    expect(hit?.point[2]).toBeCloseTo(3, 6)
    expect(hit?.distanceMm).toBeCloseTo(Math.hypot(18, 9), 5)
  })
  it('sees a level ray only between the heights', () => {
    expect(surface.castBetween([20, 0, 2.5], [-1, 0, 0], [0, 4])?.point[0]).toBeCloseTo(5, 6)
    expect(surface.castBetween([20, 0, 2.5], [-1, 0, 0], [3, 4])).toBeNull()
  })
})

describe('what faces are worth', () => {
  const ball = sphere([0, 0, 12], 5, 48), plate = { widthMm: 100, depthMm: 100 }
  const below = (f: number): boolean => [0, 1, 2].every(c => ball.positions[3 * ball.triangles[3 * f + c] + 2] < 8)
  const worths = Uint8Array.from({ length: ball.triangles.length / 3 }, (_, f) => (below(f) ? OFF_LIMITS : PLAIN))
  const surface = new Surface(ball)
  const stiltAt = (x: number): Route | NoRoute => {
    const hit = surface.cast([x, 0, 12], [0, 0, -1]) as SurfacePoint
    return routeStilt(surface, hit.point, hit.normal, gaugeOf('light'), plate)
  }

  it('keeps tips off what is off limits, with the reason, also where only the edge of a tip reaches it', () => {
    expect(stiltAt(0).ok).toBe(true)
    surface.setWorths(worths)
    expect(stiltAt(0)).toMatchObject({ ok: false, problem: 'off-limits', reason: expect.stringMatching(/nothing may touch it/) as string })
    // the border of what is marked lies on the ring at 30°, 2.5 mm from the axis
    const edge = surface.cast([3.05, 0, 12], [0, 0, -1]) as SurfacePoint
    expect(surface.offLimitsWithin(edge.point, 0.01)).toBe(surface.worthOf(edge.face) === OFF_LIMITS)
    expect(surface.offLimitsWithin(edge.point, 0.9)).toBe(true)
    expect(stiltAt(4.2).ok).toBe(true)
    surface.setWorths(null)
    expect(stiltAt(0).ok).toBe(true)
  })

  it('lands no stick there', () => {
    const shelf = joinMeshes([box([-8, -8, 2], [8, 8, 3]), moved(ball, [0, 0, 2])]), own = new Surface(shelf), hit = own.cast([0, 0, 14], [0, 0, -1]) as SurfacePoint
    const route = (): Route | NoRoute => routeStilt(own, hit.point, hit.normal, gaugeOf('light'), { widthMm: 14, depthMm: 14 })
    expect(route()).toMatchObject({ ok: true, foot: 'model' })
    own.setWorths(Uint8Array.from({ length: shelf.triangles.length / 3 }, (_, f) => (f < 12 ? OFF_LIMITS : PLAIN)))
    expect(route().ok).toBe(false)
  })

  it('numbers faces as the mesh does', () => {
    for (const [x, z] of [[0, -1], [2, 1], [-3, -1], [1, 1]] as const) {
      const hit = surface.cast([x, 0.3, 12], [0, 0, z]) as SurfacePoint, [a, b, c] = [0, 1, 2].map(k => [...ball.positions.subarray(3 * ball.triangles[3 * hit.face + k], 3 * ball.triangles[3 * hit.face + k] + 3)] as unknown as Vec3)
      const n = unit(cross(sub(b, a), sub(c, a)))
      expect(Math.abs(dot(n, sub(hit.point, a)))).toBeLessThan(1e-4)
      expect(dot(n, hit.normal)).toBeCloseTo(1, 6)
      const near = surface.nearest([hit.point[0] + 0.2 * n[0], hit.point[1] + 0.2 * n[1], hit.point[2] + 0.2 * n[2]], 1)
      expect(near?.face).toBe(hit.face)
    }
  })

  it('is given to what a brush reaches and to what is seen, and not to the far side', () => {
    const hit = surface.cast([0, 0, 12], [0, 0, -1]) as SurfacePoint, brushed = surface.facesWithin(hit, 2)
    expect(brushed.length).toBeGreaterThan(20)
    const height = (f: number): number => [0, 1, 2].reduce((sum, c) => sum + ball.positions[3 * ball.triangles[3 * f + c] + 2], 0) / 3
    for (const f of brushed) expect(height(f)).toBeLessThan(7.5)
    // Closed form: of a ball all is seen from afar whose faces look at the eye: half of it
    const seen = allOf(surface.facesSeenFrom([0, 0, -1000]))
    expect(seen.length / worths.length).toBeCloseTo(0.5, 1)
    for (const f of seen) expect(height(f)).toBeLessThan(12.1)
  })
})

describe('the thickness of a part', () => {
  it('goes through skin of one solid inside another, and ends where all of them do', () => {
    const two = new Surface(joinMeshes([box([-5, -5, 10], [5, 5, 12]), box([-5, -5, 10.5], [5, 5, 15])]))
    expect(two.thickness([0.3, 0.2, 10], [0, 0, 1])).toBeCloseTo(5, 4)
    // through an edge that several faces share
    expect(two.thickness([0, 0, 10], [0, 0, 1])).toBeCloseTo(5, 4)
    const apart = new Surface(joinMeshes([box([-5, -5, 10], [5, 5, 12]), box([-5, -5, 13], [5, 5, 15])]))
    expect(apart.thickness([0.3, 0.2, 10], [0, 0, 1])).toBeCloseTo(2, 4)
  })
})

describe('seeing through', () => {
  // a room: a box with a box cut out of it
  const room = joinMeshes([box([-10, -10, 0], [10, 10, 20]), reversed(box([-8, -8, 2], [8, 8, 18]))])
  it('reaches the skin behind the nearest wall that looks at the eye, and the wall itself where there is none', () => {
    const surface = new Surface(room), at = (origin: Vec3, direction: Vec3): readonly number[] | undefined => surface.castBetween(origin, direction, [-Infinity, Infinity])?.point
    expect(at([0, -50, 10], [0, 1, 0])).toEqual([0, expect.closeTo(-10, 4), 10])
    surface.seeThrough = true
    expect(at([0, -50, 10], [0, 1, 0])).toEqual([0, expect.closeTo(8, 4), 10])
    // from below through the floor: the ceiling, on which a tip can stand
    expect(at([1, 2, -30], [0, 0, 1])).toEqual([1, 2, expect.closeTo(18, 4)])
    // through solid there is nothing to be seen
    expect(new Surface(box([0, 0, 0], [1, 1, 1])).castBetween([0.5, 0.5, -5], [0, 0, 1], [-Infinity, Infinity])?.point[2]).toBeCloseTo(0, 4)
    const solid = new Surface(box([0, 0, 0], [1, 1, 1]))
    solid.seeThrough = true
    expect(solid.castBetween([0.5, 0.5, -5], [0, 0, 1], [-Infinity, Infinity])?.point[2]).toBeCloseTo(0, 4)
    // what is cut away is not looked through
    expect(surface.castBetween([1, 2, 30], [0, 0, -1], [-Infinity, 10])?.point[2]).toBeCloseTo(2, 4)
  })
})

describe('marks on the skin', () => {
  it('are seen from an eye with nothing of the part between', () => {
    const hooked = new Surface(joinMeshes([box([-5, -5, 0], [5, 5, 2]), box([-5, -5, 2], [-4, 5, 12])]))
    const top: Vec3 = [0, 0, 2], under: Vec3 = [0, 0, 0], side: Vec3 = [5, 0, 1]
    expect(seenFrom(hooked, [0, 0, 80], [top, under, side])).toEqual([true, false, false])
    expect(seenFrom(hooked, [0, 0, -80], [top, under, side])).toEqual([false, true, false])
    // behind the wall that stands on it
    expect(seenFrom(hooked, [-80, 0, 20], [top, under, side])).toEqual([false, false, false])
    expect(seenFrom(hooked, [80, 0, 20], [top, under, side])).toEqual([true, false, true])
  })
})

describe('the gap between a beam and the skin', () => {
  it('is that of the nearest point along it, told no farther than is asked for (random even beams around the bunny; closest points of three-mesh-bvh)', () => {
    const surface = new Surface(bunnyMesh()), { min, max } = boundsOf(surface.faces.positions), r = random(7), point = (): Vec3 => [0, 1, 2].map(a => between(r, min[a] - 3, max[a] + 3)) as unknown as Vec3
    for (let n = 0; n < 60; n++) {
      const a = point(), b = point(), radius = between(r, 0.1, 1), steps = 400
      let least = GAP_CEILING_MM
      for (let i = 0; i <= steps; i++) {
        const t = i / steps, at: Vec3 = [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2])]
        least = Math.min(least, surface.distance(at, 20) - radius)
      }
      const gap = surface.gapOfBeam(a, b, radius, radius)
      // between two samples a distance changes by half a step at the most
      expect(gap).toBeLessThanOrEqual(least + 1e-9)
      expect(gap).toBeGreaterThan(least - (Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])) / (2 * steps) - 1e-9)
      expect(surface.gapOfBeam(a, b, radius, radius, -Infinity, 0.4)).toBeCloseTo(Math.min(gap, 0.4), 12)
    }
  })
})
