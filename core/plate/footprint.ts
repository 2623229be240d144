import type { Mesh, Vec3 } from '../mesh'
import { movePoint, plateOf, type PlateShift, type RigidMotion } from '../pose'

/** A point of the plate, mm. */
export type FlatPoint = readonly [number, number]

/** How a part with its stilts lies on the plate: the convex outline of all of it, counter-clockwise, and how high it is, mm; in its stand. */
export interface Footprint {
  readonly outline: readonly FlatPoint[]
  readonly topMm: number
}

/** Directions in which the farthest points are looked for first: what lies within those is no corner. */
const DIRECTIONS = 24

/** The footprint of bodies as they are placed. */
export function footprintOf(bodies: readonly { readonly mesh: Mesh; readonly motion: RigidMotion }[]): Footprint {
  let topMm = 0
  const placed = bodies.map(({ mesh: { positions: p }, motion: m }) => {
    const flat = new Float64Array((p.length / 3) * 2)
    for (let i = 0, k = 0; i < p.length; i += 3, k += 2) {
      const [x, y, z] = movePoint(m, [p[i], p[i + 1], p[i + 2]])
      flat[k] = x
      flat[k + 1] = y
      if (z > topMm) topMm = z
    }
    return flat
  })
  const sides = convexHull(farthest(placed))
  const points: FlatPoint[] = [...sides]
  for (const flat of placed) {
    for (let k = 0; k < flat.length; k += 2) {
      const p: FlatPoint = [flat[k], flat[k + 1]]
      if (sides.some((a, i) => turn(a, sides[(i + 1) % sides.length], p) < 0)) points.push(p)
    }
  }
  return { outline: convexHull(points), topMm }
}

/** The points that are farthest out in some directions. */
function farthest(placed: readonly Float64Array[]): FlatPoint[] {
  const best = new Float64Array(DIRECTIONS).fill(-Infinity), at: FlatPoint[] = []
  const ways = Array.from({ length: DIRECTIONS }, (_, d) => [Math.cos((2 * Math.PI * d) / DIRECTIONS), Math.sin((2 * Math.PI * d) / DIRECTIONS)] as const)
  for (const flat of placed) {
    for (let k = 0; k < flat.length; k += 2) {
      for (let d = 0; d < DIRECTIONS; d++) {
        const far = flat[k] * ways[d][0] + flat[k + 1] * ways[d][1]
        if (far > best[d]) {
          best[d] = far
          at[d] = [flat[k], flat[k + 1]]
        }
      }
    }
  }
  return at.filter(p => p !== undefined)
}

/** The convex outline of points, counter-clockwise (Andrew's monotone chain, from memory). */
export function convexHull(points: readonly FlatPoint[]): FlatPoint[] {
  const sorted = [...points].sort((a, b) => a[0] - b[0] || a[1] - b[1])
  const half = (list: readonly FlatPoint[]): FlatPoint[] => {
    const out: FlatPoint[] = []
    for (const p of list) {
      while (out.length > 1 && turn(out[out.length - 2], out[out.length - 1], p) <= 0) out.pop()
      out.push(p)
    }
    out.pop()
    return out
  }
  const hull = [...half(sorted), ...half(sorted.toReversed())]
  return hull.length > 0 ? hull : sorted.slice(0, 1)
}

function turn(a: FlatPoint, b: FlatPoint, c: FlatPoint): number {
  return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
}

/** An outline where a copy stands on the plate. */
export function outlineOnPlate({ outline }: Footprint, shift: PlateShift): FlatPoint[] {
  const m = plateOf(shift)
  return outline.map(([x, y]): FlatPoint => {
    const at: Vec3 = movePoint(m, [x, y, 0])
    return [at[0], at[1]]
  })
}

/** Whether two convex outlines share any area (separating axes). */
export function outlinesMeet(a: readonly FlatPoint[], b: readonly FlatPoint[]): boolean {
  for (const [p, q] of [[a, b], [b, a]]) {
    for (let i = 0; i < p.length; i++) {
      const [x0, y0] = p[i], [x1, y1] = p[(i + 1) % p.length]
      // everything of the other outline lies to the right of this edge
      if (q.every(([x, y]) => (x1 - x0) * (y - y0) - (y1 - y0) * (x - x0) <= 0)) return false
    }
  }
  return true
}
