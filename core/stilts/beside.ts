import type { Gauge } from '../contract'
import { OFF_LIMITS, PLAIN, PRIZED, SPARE } from '../marks'
import { add, cross, distance, dot, scale, unit, type Vec3 } from '../mesh'
import { normalFromSource } from '../pose'
import { routeStilt, shapeOfRoute, type NoRoute, type Plate } from './route'
import type { Others } from './clearance'
import type { StiltShape } from './stilt'
import type { Surface } from './surface'

/** Places around a tip that are tried, by share of the distance at which tips of its gauge stand, and directions of each. */
const RINGS = [1, 0.7, 0.5, 1.5], DIRECTIONS = 12
/** A place is on the same face where the skin has turned no more than this from that under the tip, as a cosine. */
const SAME_FACE = Math.cos(Math.PI / 4)
/** How gladly skin of each worth is touched. */
const RANK: Readonly<Record<number, number>> = { [SPARE]: 0, [PLAIN]: 1, [PRIZED]: 2, [OFF_LIMITS]: 3 }

/**
 * One more stilt beside one that bears too much: on the same face, as far as tips of its gauge stand from each other, on skin that is worth
 * no more, and there where it is farthest from all other tips.
 * @param tips of all stilts, in the stand
 * @returns why there is none otherwise
 */
export function besideStilt(surface: Surface, { path: [tip], anchor, role }: Pick<StiltShape, 'path' | 'anchor' | 'role'>, gauge: Gauge, plate: Plate, tips: readonly Vec3[], others?: Others): StiltShape | NoRoute {
  const normal = normalFromSource(surface, anchor.normal), u = unit(cross(normal, Math.abs(normal[0]) < 0.8 ? [1, 0, 0] : [0, 1, 0])), v = cross(normal, u)
  let refused: NoRoute = { ok: false, problem: 'blocked', reason: 'There is no skin of the same face beside it. Place one by hand.' }
  for (const ring of RINGS) {
    const mm = ring * gauge.spacingMm, seats = Array.from({ length: DIRECTIONS }, (_, i) => {
      const a = (2 * Math.PI * i) / DIRECTIONS, seat = surface.nearest(add(tip, add(scale(u, mm * Math.cos(a)), scale(v, mm * Math.sin(a)))), mm)
      return seat && dot(seat.normal, normal) >= SAME_FACE ? [{ seat, worth: RANK[surface.worthOf(seat.face)], apart: tips.reduce((least, t) => Math.min(least, distance(t, seat.point)), Infinity) }] : []
    }).flat().filter(s => s.apart > 0.6 * mm && s.worth <= Math.max(RANK[PLAIN], RANK[surface.worthAt(tip) ?? PLAIN]))
    seats.sort((a, b) => a.worth - b.worth || b.apart - a.apart)
    for (const { seat } of seats) {
      const route = routeStilt(surface, seat.point, seat.normal[2] > 0 ? [0, 0, -1] : seat.normal, gauge, plate, undefined, others)
      if (route.ok) return shapeOfRoute(surface, gauge, role, route, seat.normal)
      refused = route
    }
  }
  return refused
}
