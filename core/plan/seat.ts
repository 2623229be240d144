import { OFF_LIMITS, PLAIN, PRIZED, SPARE } from '../marks'
import type { Vec3 } from '../mesh'
import type { Surface } from '../stilts'

/** A place for a tip, and what the skin there is worth. */
export interface Seat {
  readonly point: Vec3
  readonly normal: Vec3
  readonly worth: number
}

/** How gladly a tip is placed on skin of each worth. */
const RANK: Readonly<Record<number, number>> = { [SPARE]: 0, [PLAIN]: 1, [PRIZED]: 2, [OFF_LIMITS]: 3 }
/** Shares of what a tip holds by which it may be moved to better skin, and of that no more than this to skin that is spare. */
const MOVES = [0.3, 0.55, 0.8], SPARE_SHARE = 0.55
const MOVED_TO = 12
/** A tip that is moved stays at what begins there, mm. */
const MOVED_UP_MM = 0.5

/** The seat below a point, or one beside it on skin that is worth less, as near as can be: what hangs there is within reach of both. */
export function bestSeat(surface: Surface, inside: Vec3, holdMm: number): Seat | null {
  const own = seatBelow(surface, inside)
  if (!own || own.worth === SPARE || !surface.marked) return own
  let best = own
  for (const share of MOVES) {
    if (own.worth === PLAIN && share > SPARE_SHARE) break
    for (let i = 0; i < MOVED_TO; i++) {
      const a = (2 * Math.PI * i) / MOVED_TO, seat = seatBelow(surface, [inside[0] + share * holdMm * Math.cos(a), inside[1] + share * holdMm * Math.sin(a), inside[2]])
      if (seat && RANK[seat.worth] < RANK[best.worth] && Math.abs(seat.point[2] - own.point[2]) <= MOVED_UP_MM) best = seat
    }
    // what is nearest of its worth is taken, and nothing farther for a little better
    if (best !== own) break
  }
  return best
}

/** The lowest surface point under a point of the first layer, which lies within the model. */
function seatBelow(surface: Surface, inside: Vec3): Seat | null {
  const down = surface.cast(inside, [0, 0, -1], 1)
  if (!down) return null
  // a triangle seen edge on, or one of a crease, may look up by a hair; a tip may then stand under it all the same
  const normal: Vec3 = down.normal[2] > 0 ? [0, 0, -1] : down.normal
  return { point: down.point, normal, worth: surface.worthOf(down.face) }
}
