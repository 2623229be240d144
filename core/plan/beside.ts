import type { Gauge, Role } from '../contract'
import { headAt, slimSizes, type Head, type Room, type Ways } from '../forest'
import { distance, type Vec3 } from '../mesh'
import { islandBy, type ModelScan } from '../scan'
import type { Surface } from '../stilts'
import type { TipsApart } from './apart'

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
/** The next one is wanted so much farther away than the one before, mm; none nearer than that to the tip itself. */
const NEXT_MM = 2.5, LEAST_APART_MM = 0.75
/** Skin under this much material takes a tip that carries; what is thinner a finer one, mm. */
const CARRIES_MM = 0.8
/** A place is laid so long before, mm, or it is no help when it is needed, and is tried last; what is lower is better, for it helps sooner. What is so near to another tip that the resin webs is so much worse, mm. */
const LAID_MM = 0.1, TOO_LATE = 100, NEAR = 1.5
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

/** Finds places for more tips beside some that bear too much. @param tips those that stand already; takes those that are found */
export function besideWeak(scan: ModelScan, surface: Surface, room: Room, ways: Ways, weak: readonly WeakTip[], tips: TipsApart, gaugesFor: (role: Role) => readonly Gauge[], { ownOnly = false, within }: Beside = {}): Head[] {
  const out: Head[] = [], tree = scan.modelTree?.tree
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
      const off = n * NEXT_MM, better = same.flatMap(({ point, normal, thickMm }) => {
        const role: Role = thickMm >= CARRIES_MM ? 'structural' : 'detail', gauges = gaugesFor(role), how = gauges.length === 0 ? 'taken' : tips.look(point, slimSizes(gauges[0], role).tipDiameterMm)
        if (how === 'taken' || how === 'refused') return []
        const far = Math.abs(distance(point, at) - off) - Math.min(thickMm, 2) + normal[2] + Math.max(0, point[2] - at[2]) + (point[2] > laidMm - LAID_MM ? TOO_LATE : 0) + (how === 'near' ? NEAR : 0)
        return [{ seat: { point, normal, gauges, role }, far }]
      }).sort((a, b) => a.far - b.far)
      for (const { seat } of better.slice(0, MOST_TRIED)) {
        const head = headAt(surface, room, ways, seat)
        if (typeof head === 'string') continue
        out.push(head)
        tips.add(head.point, head.sizes.tipDiameterMm)
        break
      }
    }
  }
  return out
}
