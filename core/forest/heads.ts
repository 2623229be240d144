import type { Gauge, Role } from '../contract'
import { add, scale, type Vec3 } from '../mesh'
import { CARRIES_FROM_MM, coneDirections, fitPenetration, GAP_FLOOR_MM, gapOfCone, sizesOf, tipRefused, type StiltSizes, type Surface } from '../stilts'
import type { Room } from './room'
import { LEAN_DEG, type Head } from './twig'
import type { Ways } from './ways'

/** A knee is so many times as thick as its tip, and no thinner than that, mm. */
const KNEE_TIMES = 2, LEAST_KNEE_MM = 0.5
/** A shaft that stands by itself is no thicker than that where its gauge allows it, mm; and the widest foot. */
const LEAST_SHAFT_MM = 1
export const FOOT_MM = 3.2
/** Shares of the length of a cone that are tried, and how far a knee is from the plate at least, mm. */
const LENGTHS = [1, 0.6], LOWEST_KNEE_MM = 2.5

/** The place of a tip: on the skin, with its outward unit normal. */
export interface HeadSeat {
  readonly point: Vec3
  readonly normal: Vec3
  readonly gauges: readonly Gauge[]
  readonly role: Role
  /** Whether something begins there that nothing else holds: such tips have the first choice of ways. */
  readonly begins?: boolean
}

/** The sizes of a tip in a forest: those of its gauge, no thinner than what carries is commonly to be, and no thicker below than that asks for. */
export function slimSizes(gauge: Gauge, role: Role): StiltSizes {
  const tipDiameterMm = role === 'detail' ? gauge.tipDiameterMm : Math.max(gauge.tipDiameterMm, CARRIES_FROM_MM), kneeDiameterMm = Math.max(tipDiameterMm, Math.min(gauge.kneeDiameterMm, Math.max(LEAST_KNEE_MM, KNEE_TIMES * tipDiameterMm)))
  return { ...sizesOf(gauge), tipDiameterMm, kneeDiameterMm, shaftFootDiameterMm: Math.max(kneeDiameterMm, Math.min(gauge.shaftFootDiameterMm, LEAST_SHAFT_MM)), footDiameterMm: Math.min(gauge.footDiameterMm, FOOT_MM) }
}

/** A tip at a seat with a cone that keeps clear of the part and a way to the plate from its knee; or why there is none. */
export function headAt(surface: Surface, room: Room, ways: Ways, { point, normal, gauges, role, begins }: HeadSeat): Head | string {
  let reason = 'The part is all around it: no way leads from here to the plate.'
  // where none has room for the gap of its gauge, the least will do
  for (const { gauge, gapMm } of [...gauges.map(g => ({ gauge: g, gapMm: g.gapMm })), ...gauges.map(g => ({ gauge: g, gapMm: GAP_FLOOR_MM }))]) {
    const refused = tipRefused(surface, point, normal, gauge.tipDiameterMm)
    if (refused) {
      reason = refused.reason
      continue
    }
    const wanted = slimSizes(gauge, role), { kneeDiameterMm } = wanted
    for (const share of LENGTHS) {
      for (const direction of coneDirections(normal, LEAN_DEG)) {
        const cone = Math.min(Math.max(gauge.coneShortestMm, gauge.coneLengthMm * share), (point[2] - LOWEST_KNEE_MM) / -direction[2])
        if (cone < gauge.coneShortestMm * 0.6) continue
        const knee = add(point, scale(direction, cone))
        if (room.distanceAt(...knee) < kneeDiameterMm / 2 + gapMm || ways.costFrom(knee) === Infinity) continue
        const sizes = { ...wanted, coneLengthMm: cone }
        if (gapOfCone(surface, point, knee, sizes, GAP_FLOOR_MM, GAP_FLOOR_MM) < GAP_FLOOR_MM) continue
        return { point, normal, knee, gauge: gauge.id, role, gapMm, sizes: fitPenetration(surface, point, direction, sizes), ...(begins && { begins }) }
      }
    }
  }
  return reason
}
