import type { Gauge } from '../contract'
import { radians, type Vec3 } from '../mesh'
import { gapOfPath, LEAST_SHAFT_MM, onPlate, tipRefused, type NoRoute, type Plate, type Route } from './route'
import { shaftOf, sizesOf, type StiltSizes } from './stilt'
import type { Surface } from './surface'

/** The least height of a tip above the plate that anything can be put under, mm. */
const LEAST_HEIGHT_MM = 0.6
/** A cone that has less room than that is none, mm. */
const LEAST_CONE_MM = 0.2

/**
 * A stilt straight down from a point, whatever is in the way: for who knows better. Never on skin that is off limits, nor beside the
 * plate; its gap is measured all the same, and is negative where it runs through the part.
 */
export function forcedRoute(surface: Surface, point: Vec3, normal: Vec3, gauge: Gauge, plate: Plate, wanted: StiltSizes = sizesOf(gauge)): Route | NoRoute {
  const refused = tipRefused(surface, point, normal, wanted.tipDiameterMm)
  if (refused?.problem === 'off-limits') return refused
  if (point[2] < LEAST_HEIGHT_MM) return { ok: false, problem: 'too-low', reason: `This point is ${point[2].toFixed(2)} mm above the plate: nothing fits under it.` }
  // what looks up is held from above its own skin, straight down
  const across = Math.hypot(normal[0], normal[1]), lean = normal[2] < 0 ? Math.min(Math.atan2(across, -normal[2]), radians(gauge.leanLimitDeg)) : 0
  const direction: Vec3 = lean > 0 ? [(Math.sin(lean) * normal[0]) / across, (Math.sin(lean) * normal[1]) / across, -Math.cos(lean)] : [0, 0, -1]
  // where there is little room the foot gets lower first, then the cone shorter
  const footHeightMm = Math.min(wanted.footHeightMm, point[2] / 3), room = (point[2] - footHeightMm - LEAST_SHAFT_MM) / -direction[2], coneLengthMm = Math.max(LEAST_CONE_MM, Math.min(wanted.coneLengthMm, room))
  const knee: Vec3 = [point[0] + direction[0] * coneLengthMm, point[1] + direction[1] * coneLengthMm, point[2] + direction[2] * coneLengthMm]
  const sizes = { ...wanted, footHeightMm, coneLengthMm }, path = [point, knee, [knee[0], knee[1], 0] as Vec3]
  if (!onPlate(path[2], sizes, plate)) return { ok: false, problem: 'off-plate', reason: 'Straight down from here is beside the plate. Move or turn the part.' }
  const gapMm = gapOfPath(surface, { path, sizes, foot: 'plate' }), { lengthMm, leanDeg } = shaftOf(path)
  return { ok: true, foot: 'plate', path, sizes, gapMm, lengthMm, leanDeg, tight: gapMm < gauge.gapMm }
}
