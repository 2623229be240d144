import { add, axesAcross, cross, distance, dot, NO_SOURCE, scale, sub, unit, type Mesh, type Vec3 } from '../mesh'
import { along, APART_MM, BEYOND_WALL, type Bore } from './bore'

/** Places that are tried at each end of a chamber, which is this share of its wall; so many diameters it stays from the others; so far they are off the wall, mm. */
const MOST_SPOTS = 8, END = 0.02, APART_FROM_HOLES = 2, OFF_WALL_MM = 0.15
/** How much of a wall each millimetre counts that leads to it through the open. */
const FAR_COUNTS = 0.2
/** A wall that is thinner than this share of what a hollow has is the edge of something else. */
const LEAST_WALL = 0.9

/** A way from a space within a part to the outside, where its wall is crossed once. */
export interface WayOut extends Bore {
  readonly wallMm: number
}

/**
 * Where a hole best opens a space from one of its points: of some ways, the one through the least wall, by what the skin is worth there.
 * Only ways that cross one wall and are outside then count. Null where there is none.
 */
export function opensBest(mesh: Mesh, from: Vec3, ways: readonly Vec3[], diameterMm: number, { costOf, leastWallMm = 0, may = () => true }: WayOutLimits): WayOut | null {
  const { positions: p, triangles: t } = mesh
  let best: WayOut | null = null, least = Infinity
  for (const way of ways) {
    const hits: number[] = []
    let last = 0, face = -1
    for (let i = 0; i < t.length; i += 3) {
      const hit = along(p, 3 * t[i], 3 * t[i + 1], 3 * t[i + 2], from, way)
      if (hit <= APART_MM) continue
      // an edge between two faces is met once
      if (hits.every(h => Math.abs(h - hit) > APART_MM)) hits.push(hit)
      if (hit > last) {
        last = hit
        face = i / 3
      }
    }
    const first = Math.min(...hits), wallMm = last - first, cost = hits.length === 2 && wallMm >= leastWallMm ? (wallMm + FAR_COUNTS * first) * costOf(face) : Infinity, at: Vec3 = [from[0] + last * way[0], from[1] + last * way[1], from[2] + last * way[2]]
    if (!(cost < least) || !may(at)) continue
    least = cost
    best = { at, into: scale(way, -1), depthMm: wallMm + BEYOND_WALL * diameterMm, wallMm }
  }
  return best
}

/** What limits a way out. */
export interface WayOutLimits {
  /** How many times its wall a way counts that comes out at a face of the mesh; Infinity for never. */
  readonly costOf: (face: number) => number
  readonly leastWallMm?: number
  /** Whether it may come out at a point. */
  readonly may?: (at: Vec3) => boolean
}

/** Ways that a drain may go: straight toward one end, and to all sides. @param up of length 1 */
export function drainWays(up: Vec3): Vec3[] {
  const [u, v] = axesAcross(up), ways: Vec3[] = [up]
  for (const rise of [60, 30, 5]) {
    const flat = Math.cos((rise * Math.PI) / 180), high = scale(up, Math.sin((rise * Math.PI) / 180))
    for (let i = 0; i < 12; i++) ways.push(add(high, add(scale(u, flat * Math.cos((i * Math.PI) / 6)), scale(v, flat * Math.sin((i * Math.PI) / 6)))))
  }
  return ways
}

/**
 * Where one more hole best opens a chamber of a hollowed part: at its highest or lowest end, whichever is farther from the holes that it
 * has, else where it is farthest from them. Null where no way leads out through one wall that may be drilled, apart from those holes.
 * @param box around the chamber @param holes where those begin @param up which way is up, of length 1 @param wallMm of the hollow
 */
export function opensChamber(mesh: Mesh, { min, max }: { readonly min: Vec3; readonly max: Vec3 }, holes: readonly Vec3[], up: Vec3, wallMm: number, diameterMm: number, costOf: (face: number) => number): WayOut | null {
  const spots = chamberSpots(mesh, min, max), byHeight = [...spots].sort((a, b) => dot(a, up) - dot(b, up))
  const farOf = (p: Vec3): number => holes.reduce((least, h) => Math.min(least, distance(p, h)), Infinity), share = Math.ceil(END * byHeight.length)
  // places at both ends, then those that are farthest from what there is
  const ends = [byHeight.slice(0, share), byHeight.slice(byHeight.length - share).reverse()].filter(e => e.length > 0).sort(([a], [b]) => farOf(b) - farOf(a)), apart = [...spots].sort((a, b) => farOf(b) - farOf(a)).slice(0, Math.ceil(spots.length / 2))
  const ways = [...drainWays(up), ...drainWays(scale(up, -1))], limits: WayOutLimits = { costOf, leastWallMm: LEAST_WALL * wallMm, may: at => farOf(at) > APART_FROM_HOLES * diameterMm }
  for (const spot of [...ends, apart].flatMap(some)) {
    const out = opensBest(mesh, spot, ways, diameterMm, limits)
    if (out) return out
  }
  return null
}

/** Some places of many, evenly among them. */
function some(places: readonly Vec3[]): Vec3[] {
  const step = Math.max(1, Math.floor(places.length / MOST_SPOTS))
  return places.filter((_, i) => i % step === 0).slice(0, MOST_SPOTS)
}

/** Points just inside a chamber, one for each face of its wall within a box. */
function chamberSpots({ positions: p, triangles: t, from }: Mesh, min: Vec3, max: Vec3): Vec3[] {
  const out: Vec3[] = [], corner = (v: number): Vec3 => [p[3 * v], p[3 * v + 1], p[3 * v + 2]]
  for (let i = 0; i < t.length; i += 3) {
    if (from?.[i / 3] !== NO_SOURCE) continue
    const [a, b, c] = [corner(t[i]), corner(t[i + 1]), corner(t[i + 2])], n = unit(cross(sub(b, a), sub(c, a))), middle = scale(add(a, add(b, c)), 1 / 3)
    if ([0, 1, 2].every(k => middle[k] >= min[k] - OFF_WALL_MM && middle[k] <= max[k] + OFF_WALL_MM)) out.push(add(middle, scale(n, OFF_WALL_MM)))
  }
  return out
}
