import type { Gauge } from '../contract'
import { add, between, cross, distance, dot, leanOf, radians, scale, sub, unit, type Vec3 } from '../mesh'
import { GAP_FLOOR_MM, LANDING_LIMIT_DEG, TIP_LEFT_OUT_MM } from './gauges'
import type { Surface, SurfacePoint } from './surface'

/** A foot on the model that is spread over several points: where its legs part, and where they stand, the straightest first. */
export interface SpreadFoot {
  readonly joint: Vec3
  readonly feet: readonly SurfacePoint[]
}

/** Shares of the wanted reach that are tried, and how high above the skin the legs part, by it. */
const REACHES = [1, 0.8, 0.6], RISE = 1.3
/** They part at most so far up the stick, as a share of its length. */
const HIGHEST_SHARE = 0.5
/** A flat is flat where its normal is level by less than this. */
const LEVEL = 1e-3

/**
 * Spreads the foot of a stick over two to four points of the skin around where it lands, each as far from the middle as its gauge has it
 * or nearer. Two stand on level with each other where the skin slopes. Null where fewer than two find a place: legs lean no more than
 * stilts, land no flatter than sticks, keep off what is off limits and clear of the part on their way.
 * @param d unit direction of the stick, down
 */
export function spreadFoot(surface: Surface, tip: Vec3, landing: SurfacePoint, d: Vec3, coneMm: number, legMm: number, gauge: Gauge): SpreadFoot | null {
  const { modelFootPoints: count, modelFootSpreadMm: wide } = gauge, length = distance(tip, landing.point), n = landing.normal
  if (count < 2) return null
  const level = Math.hypot(n[0], n[1]) > LEVEL ? unit(cross(n, [0, 0, 1])) : unit(cross(n, [0, 1, 0])), up = cross(n, level)
  for (const share of REACHES) {
    const reach = wide * share, rise = Math.min(length * HIGHEST_SHARE, length - coneMm, Math.max(coneMm, RISE * reach))
    if (rise < reach) continue
    const joint = add(tip, scale(d, length - rise)), feet: SurfacePoint[] = []
    for (let i = 0; i < count; i++) {
      const a = (2 * Math.PI * i) / count, target = add(landing.point, add(scale(level, reach * Math.cos(a)), scale(up, reach * Math.sin(a))))
      const foot = legTo(surface, joint, target, reach, legMm, gauge)
      if (foot) feet.push(foot)
    }
    if (feet.length >= 2) return { joint, feet: feet.sort((a, b) => leanOf(joint, a.point) - leanOf(joint, b.point)) }
  }
  return null
}

/** Where a leg toward a point stands; null where it cannot. */
function legTo(surface: Surface, joint: Vec3, target: Vec3, reach: number, legMm: number, gauge: Gauge): SurfacePoint | null {
  const way = unit(sub(target, joint)), hit = surface.cast(joint, way, distance(joint, target) + reach)
  if (!hit || distance(hit.point, target) > reach || -dot(hit.normal, way) < Math.cos(radians(LANDING_LIMIT_DEG))) return null
  if (leanOf(joint, hit.point) > gauge.leanLimitDeg || surface.offLimitsWithin(hit.point, gauge.modelFootDiameterMm / 2)) return null
  const { end, radius } = legWithout(joint, hit.point, legMm, gauge.modelFootDiameterMm)
  return surface.gapOfBeam(joint, end, legMm / 2, radius) < GAP_FLOOR_MM ? null : hit
}

/** A leg without its end, which has to come near to the skin. */
function legWithout(joint: Vec3, foot: Vec3, fromMm: number, toMm: number): { readonly end: Vec3; readonly radius: number } {
  const length = distance(joint, foot) || 1e-9, t = Math.max(0, 1 - TIP_LEFT_OUT_MM / length)
  return { end: between(joint, foot, t), radius: (fromMm + (toMm - fromMm) * t) / 2 }
}

/** The smallest gap of a leg and the model, leaving out its own end. */
export function gapOfLeg(surface: Surface, joint: Vec3, foot: Vec3, fromMm: number, toMm: number): number {
  const { end, radius } = legWithout(joint, foot, fromMm, toMm)
  return surface.gapOfBeam(joint, end, fromMm / 2, radius)
}
