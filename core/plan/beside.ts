import type { Gauge, Role } from '../contract'
import { headAt, type Head, type HeadSeat, type Room, type Ways } from '../forest'
import { distance, type Vec3 } from '../mesh'
import type { ModelScan } from '../scan'
import type { Surface } from '../stilts'

/** A tip that bears more than it can and has no room to be thicker, and how many more are wanted beside it. */
export interface WeakTip {
  readonly at: Vec3
  readonly wanted: number
  /** How high the part is laid when it bears too much, mm. */
  readonly laidMm: number
}

/** Places are looked for so far to the side, in squares of this, and so far up, mm: on the same piece, higher up, where it is thicker and has a longer arm. */
const ASIDE_MM = 6, STEP_MM = 0.5, UP_MM = 9
/** From below a tip the skin is looked for, mm. */
const BELOW_MM = 0.6
/** Skin that a tip can stand under looks down by this at least. */
const LOOKS_DOWN = 0.2
/** The next one is wanted so much farther away than the one before, mm; and no nearer than that to any tip. */
const NEXT_MM = 2.5, APART_MM = 1.2
/** Skin under this much material takes a tip that carries; what is thinner a finer one, mm. */
const CARRIES_MM = 0.8
/** A place is laid so long before, mm, or it is no help when it is needed, and is tried last. */
const LAID_MM = 0.1, TOO_LATE = 100
/** Places that are tried for each. */
const MOST_TRIED = 8

/** Finds places for more tips beside some that bear too much. @param tips where tips stand already */
export function besideWeak(scan: ModelScan, surface: Surface, room: Room, ways: Ways, weak: readonly WeakTip[], tips: readonly Vec3[], gaugesFor: (role: Role) => readonly Gauge[]): Head[] {
  const out: Head[] = [], standing = [...tips], islandsOf = (points: readonly Vec3[]): number[] => scan.laidAt(points).map(l => (l ? (scan.modelTree?.tree.islandOf[l.component] ?? -2) : -2))
  for (const { at, wanted, laidMm } of weak) {
    const [own] = islandsOf([at]), seats: { readonly point: Vec3; readonly normal: Vec3; readonly thickMm: number }[] = []
    for (let y = -ASIDE_MM; y <= ASIDE_MM; y += STEP_MM) for (let x = -ASIDE_MM; x <= ASIDE_MM; x += STEP_MM) {
      if (x * x + y * y > ASIDE_MM * ASIDE_MM) continue
      const hit = surface.cast([at[0] + x, at[1] + y, at[2] - BELOW_MM], [0, 0, 1], UP_MM)
      if (!hit || hit.normal[2] > -LOOKS_DOWN || distance(hit.point, at) < APART_MM) continue
      const through = surface.cast([hit.point[0], hit.point[1], hit.point[2] + 0.01], [0, 0, 1], UP_MM)
      seats.push({ point: hit.point, normal: hit.normal, thickMm: through ? through.point[2] - hit.point[2] : UP_MM })
    }
    const islands = islandsOf(seats.map(s => s.point)), same = seats.filter((_, i) => islands[i] === own)
    for (let n = 1; n <= wanted; n++) {
      const off = n * NEXT_MM, better = same.map(s => ({ s, far: Math.abs(distance(s.point, at) - off) - Math.min(s.thickMm, 2) + s.normal[2] + (s.point[2] > laidMm - LAID_MM ? TOO_LATE : 0) })).sort((a, b) => a.far - b.far)
      let tried = 0
      for (const { s } of better) {
        if (standing.some(t => distance(t, s.point) < APART_MM)) continue
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
