import { add, between, cross, distance, dot, scale, sub, unit, type Vec3 } from '../mesh'
import type { Surface } from '../stilts'

/** A place on the skin for a tip, in the stand. */
export interface Spot {
  readonly point: Vec3
  /** Outward unit normal. */
  readonly normal: Vec3
  /** Gauge by its place among those that are offered, from the one that was chosen; 0 where that is it. */
  readonly thicker?: number
}
/** A point of a way with the normal of the skin there. */
export type WayPoint = Pick<Spot, 'point' | 'normal'>

/** Where skin is looked for beside a straight line between two points of it: so many mm and half the line's length. */
const BESIDE_MM = 3
/** Turns of a way that are sharper than this are corners, degrees: tips stand there. */
const CORNER_DEG = 40

/** Into how many steps of about a spacing a length is cut: one at least. A line of 20 mm at 2 mm has 10 steps, and 11 tips. */
export function stepsIn(lengthMm: number, spacingMm: number): number {
  return Math.max(1, Math.round(lengthMm / spacingMm))
}

/** Spots along a straight line between two points of the skin, seen along the normals of both: evenly spaced, both ends among them. */
export function alongLine(surface: Surface, from: WayPoint, to: WayPoint, spacingMm: number): Spot[] {
  const length = distance(from.point, to.point), steps = length < spacingMm / 2 ? 0 : stepsIn(length, spacingMm)
  const spots: Spot[] = [{ point: from.point, normal: from.normal }]
  for (let i = 1; i < steps; i++) {
    const t = i / steps, spot = skinBeside(surface, between(from.point, to.point, t), turned(from.normal, to.normal, t), BESIDE_MM + length / 2)
    if (spot) spots.push(spot)
  }
  if (steps > 0) spots.push({ point: to.point, normal: to.normal })
  return spots
}

function turned(a: Vec3, b: Vec3, t: number): Vec3 {
  const mixed = between(a, b, t)
  return Math.hypot(...mixed) > 0.1 ? unit(mixed) : a
}

/** The nearest skin along a direction, to either side, that looks about along it. */
function skinBeside(surface: Surface, at: Vec3, normal: Vec3, withinMm: number): Spot | null {
  let best: Spot | null = null, nearest = Infinity
  for (const side of [1, -1]) {
    // from inside out and from outside in: what is met first, from a little beyond
    const start = add(at, scale(normal, -side * 0.01))
    const hit = surface.cast(start, scale(normal, side), withinMm)
    if (hit && dot(hit.normal, normal) > 0 && hit.distanceMm < nearest) {
      nearest = hit.distanceMm
      best = { point: hit.point, normal: hit.normal }
    }
  }
  return best
}

/**
 * Spots along a way on the skin such as an edge: evenly spaced from corner to corner, a little inside it so that a tip stands on skin.
 * @param points in order, what is held to the left as one looks at the skin; @param insetMm how far inside
 */
export function alongEdge(surface: Surface, points: readonly WayPoint[], closed: boolean, spacingMm: number, insetMm: number, mirrored = false): Spot[] {
  const n = points.length, spots: Spot[] = []
  const at = (i: number): WayPoint => points[((i % n) + n) % n]
  const corners = cornersOf(points.map(p => p.point), closed)
  const starts = closed ? (corners.length > 0 ? corners : [0]) : [0, ...corners, n - 1]
  const runs = closed ? starts.map((s, i) => [s, i + 1 < starts.length ? starts[i + 1] : starts[0] + n] as const) : starts.slice(1).map((e, i) => [starts[i], e] as const)
  const take = (point: Vec3, normal: Vec3, along: Vec3): void => {
    const inside = add(point, scale(cross(normal, along), mirrored ? -insetMm : insetMm)), hit = surface.nearest(inside, Math.max(0.5, 2 * insetMm))
    // beside a crease the nearest skin may be that beyond it
    if (hit) spots.push({ point: hit.point, normal: dot(hit.normal, normal) > 0.5 ? hit.normal : normal })
  }
  for (const [a, b] of runs) {
    let length = 0
    for (let i = a; i < b; i++) length += distance(at(i).point, at(i + 1).point)
    const steps = stepsIn(length, spacingMm), turns = closed && corners.length === 0, corner = Math.min(insetMm, length / 2)
    let passed = 0, next = 0
    for (let i = a; i < b; i++) {
      const p = at(i), q = at(i + 1), long = distance(p.point, q.point)
      if (long === 0) continue
      const along = unit(sub(q.point, p.point))
      // the end of a run is the start of the next one, or has one of its own
      const last = turns ? steps - 1 : steps
      for (; next <= last && (next * length) / steps <= passed + long + 1e-9; next++) {
        if (next === steps && (closed || b !== n - 1)) continue
        // at a corner it stands inside of both edges
        const back = turns ? 0 : next === 0 ? corner : next === steps ? -corner : 0
        take(add(between(p.point, q.point, Math.max(0, Math.min(1, ((next * length) / steps - passed) / long))), scale(along, back)), p.normal, along)
      }
      passed += long
    }
  }
  return spots
}

/** Places of a way where it turns sharply, its ends left out. */
export function cornersOf(points: readonly Vec3[], closed: boolean): number[] {
  const n = points.length, out: number[] = []
  for (let i = closed ? 0 : 1; i < (closed ? n : n - 1); i++) {
    const a = points[(i + n - 1) % n], b = points[i], c = points[(i + 1) % n]
    if (distance(a, b) === 0 || distance(b, c) === 0) continue
    if (dot(unit(sub(b, a)), unit(sub(c, b))) < Math.cos((CORNER_DEG * Math.PI) / 180)) out.push(i)
  }
  return out
}
