import type { Gauge } from '../contract'
import { degrees, distance, dot, scale, sub, type Vec3 } from '../mesh'
import { beamsOfShape, type Others } from './clearance'
import { LANDING_LIMIT_DEG } from './gauges'
import { stickBetween, type NoRoute, type Route } from './route'
import { sizesOf, type StiltSizes } from './stilt'
import type { Surface, SurfacePoint } from './surface'

/** Two points nearer than this need no stick, mm. */
const SHORTEST_MM = 0.4
/** A stick leaves the skin by at least this, as the cosine to its normal. */
const LEAST_LEAVING = 0.05

/** Where a stick touches: its normal, and how it meets it, degrees from straight on. */
export interface PickedStick extends Route {
  readonly landingDeg: number
  /** The end that holds: the higher one of the two. */
  readonly upper: Pick<SurfacePoint, 'point' | 'normal'>
}

/**
 * A stick between two picked points of the skin, into both by the penetration: its tip at the higher one, its foot at the lower. Refused
 * where it would be printed lying, run along the part, land nearly along the skin, or touch what is off limits.
 */
export function pickedStick(surface: Surface, a: Pick<SurfacePoint, 'point' | 'normal'>, b: SurfacePoint | Pick<SurfacePoint, 'point' | 'normal'>, gauge: Gauge, wanted: StiltSizes = sizesOf(gauge), others?: Others): PickedStick | NoRoute {
  const [upper, lower] = a.point[2] >= b.point[2] ? [a, b] : [b, a], length = distance(upper.point, lower.point)
  if (length < SHORTEST_MM) return no('blocked', 'Both ends are at one place. Pick the second point farther away.')
  const d = scale(sub(lower.point, upper.point), 1 / length), leanDeg = degrees(Math.acos(Math.max(-1, Math.min(1, -d[2]))))
  for (const { point } of [upper, lower]) {
    if (surface.offLimitsWithin(point, wanted.tipDiameterMm / 2)) return no('off-limits', 'One of its ends is off limits: nothing may touch it. Pick a point beside it, or take its mark off in Pose.')
  }
  if (leanDeg > gauge.leanLimitDeg + 1e-6) return no('blocked', `A stick between these would lean ${leanDeg.toFixed(0)}°; at most ${gauge.leanLimitDeg}° stands while it is printed. Pick a lower point, more below the first.`)
  if (dot(upper.normal, d) < LEAST_LEAVING) return no('blocked', 'From its upper end the stick would go into the part. Pick a point that looks toward the other.')
  const landingDeg = degrees(Math.acos(Math.max(-1, Math.min(1, -dot(lower.normal, d)))))
  if (landingDeg > LANDING_LIMIT_DEG) return no('blocked', `It would land ${landingDeg.toFixed(0)}° off straight, nearly along the skin; at most ${LANDING_LIMIT_DEG}° holds. Pick a point that looks more toward the first.`)
  const inTheWay = surface.cast(along(upper.point, d, Math.min(0.05, length / 4)), d, length - Math.min(0.1, length / 2))
  const stick = inTheWay ? null : stickBetween(surface, upper.point, { ...lower, distanceMm: length, face: 0 }, d, gauge, wanted)
  if (!stick) return no('blocked', inTheWay ? 'The part itself is in the way between these points. Pick points that see each other.' : `A stick between these would come nearer to the part than ${gauge.gapMm.toFixed(2)} mm along its way. Pick points with more room between them.`)
  const near = others?.field.nearest(beamsOfShape(stick), others.limitMm, others.but)
  if (near) return no('too-near', `The stick would ${near.gapMm > 0 ? `pass another stilt at ${near.gapMm.toFixed(2)} mm` : 'run into another stilt'}, and under ${others?.limitMm.toFixed(2)} mm this resin webs between them.`)
  return { ...stick, leanDeg, landingDeg, upper }
}

function along(p: Vec3, d: Vec3, mm: number): Vec3 {
  return [p[0] + d[0] * mm, p[1] + d[1] * mm, p[2] + d[2] * mm]
}
function no(problem: NoRoute['problem'], reason: string): NoRoute {
  return { ok: false, problem, reason }
}
