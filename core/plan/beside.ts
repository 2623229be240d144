import type { Gauge, Role } from '../contract'
import { headAt, type Head, type HeadSeat, type Room, type Ways } from '../forest'
import { distance, type Vec3 } from '../mesh'
import { islandBy, type ModelScan } from '../scan'
import type { Surface } from '../stilts'

/** A tip that bears more than it can and has no room to be thicker, and how many more are wanted beside it. */
export interface WeakTip {
  readonly at: Vec3
  readonly wanted: number
  /** How high the part is laid when it bears too much, mm. */
  readonly laidMm: number
}

/** Places are looked for so far to the side, in squares of this, and so far up, mm: on the same piece, higher up, where it is thicker and has a longer arm. */
const ASIDE_MM = 6, STEP_MM = 0.25, UP_MM = 9
/** From below a tip the skin is looked for, mm. */
const BELOW_MM = 0.6
/** Skin that a tip can stand under looks down by this at least. */
const LOOKS_DOWN = 0.2
/** The next one is wanted so much farther away than the one before, mm; no nearer than that to any tip, and where it is laid in time, than the least. */
const NEXT_MM = 2.5, APART_MM = 1.2, LEAST_APART_MM = 0.75
/** Skin under this much material takes a tip that carries; what is thinner a finer one, mm. */
const CARRIES_MM = 0.8
/** A place is laid so long before, mm, or it is no help when it is needed, and is tried last; what is lower is better, for it helps sooner. */
const LAID_MM = 0.1, TOO_LATE = 100
/** Places that are tried for each. */
const MOST_TRIED = 8
/** Of what is in no layer. */
const NOWHERE = -2

/** Where more may stand. */
export interface Beside {
  /** Only on the island of the tip itself, and not on what it has joined by then: where some findings were picked. */
  readonly ownOnly?: boolean
  /** Only where this is so. */
  readonly within?: (at: Vec3) => boolean
}

/** Finds places for more tips beside some that bear too much. @param tips where tips stand already */
export function besideWeak(scan: ModelScan, surface: Surface, room: Room, ways: Ways, weak: readonly WeakTip[], tips: readonly Vec3[], gaugesFor: (role: Role) => readonly Gauge[], { ownOnly = false, within }: Beside = {}): Head[] {
  const out: Head[] = [], standing = [...tips], tree = scan.modelTree?.tree
  // what the places belong to once the part is laid so high
  const islandsOf = (points: readonly Vec3[], laidMm: number): number[] => scan.laidAt(points).map(l => (l && tree ? islandBy(tree, tree.islandOf[l.component], Math.floor(laidMm / scan.raster.layerMm)) : NOWHERE))
  for (const { at, wanted, laidMm } of weak) {
    const byMm = ownOnly ? 0 : laidMm, [own] = islandsOf([at], byMm), seats: { readonly point: Vec3; readonly normal: Vec3; readonly thickMm: number }[] = []
    for (let y = -ASIDE_MM; y <= ASIDE_MM; y += STEP_MM) for (let x = -ASIDE_MM; x <= ASIDE_MM; x += STEP_MM) {
      if (x * x + y * y > ASIDE_MM * ASIDE_MM) continue
      const hit = surface.cast([at[0] + x, at[1] + y, at[2] - BELOW_MM], [0, 0, 1], UP_MM)
      if (!hit || hit.normal[2] > -LOOKS_DOWN || distance(hit.point, at) < LEAST_APART_MM) continue
      const through = surface.cast([hit.point[0], hit.point[1], hit.point[2] + 0.01], [0, 0, 1], UP_MM)
      seats.push({ point: hit.point, normal: hit.normal, thickMm: through ? through.point[2] - hit.point[2] : UP_MM })
    }
    const islands = islandsOf(seats.map(s => s.point), byMm), same = seats.filter(({ point }, i) => islands[i] === own && (!within || within(point)))
    for (let n = 1; n <= wanted; n++) {
      const off = n * NEXT_MM, better = same.map(s => {
        const isLate = s.point[2] > laidMm - LAID_MM
        return { s, apartMm: isLate ? APART_MM : LEAST_APART_MM, far: Math.abs(distance(s.point, at) - off) - Math.min(s.thickMm, 2) + s.normal[2] + Math.max(0, s.point[2] - at[2]) + (isLate ? TOO_LATE : 0) }
      }).sort((a, b) => a.far - b.far)
      let tried = 0
      for (const { s, apartMm } of better) {
        if (standing.some(t => distance(t, s.point) < apartMm)) continue
        if (++tried > MOST_TRIED) break
        const role: Role = s.thickMm >= CARRIES_MM ? 'structural' : 'detail', seat: HeadSeat = { point: s.point, normal: s.normal, gauges: gaugesFor(role), role }, head = headAt(surface, room, ways, seat)
        if (typeof head === 'string') continue
        out.push(head)
        standing.push(s.point)
        break
      }
    }
  }
  return out
}
