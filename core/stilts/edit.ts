import type { Gauge } from '../contract'
import type { Vec3 } from '../mesh'
import { GAP_FLOOR_MM, LEAN_LIMIT_DEG, PENETRATION_SHARE } from './gauges'
import { gapOfPath, routeStilt, stiltOfRoute, type NoRoute, type Plate, type Route } from './route'
import { shaftOf, sizesOf, type SizeName, type Stilt, type StiltSizes } from './stilt'
import type { Surface } from './surface'

export type Edited = { readonly ok: true; readonly stilt: Stilt; readonly gapMm: number } | NoRoute

/**
 * Gives a stilt new sizes. Its way down stays where it is as long as its gap allows; else, and for another cone length, it is routed
 * anew. Refused where it would come nearer to the model than it may, or go in deeper than the part's thickness allows.
 */
export function resizeStilt(surface: Surface, stilt: Stilt, changes: Partial<StiltSizes>, gauge: Gauge, plate: Plate): Edited {
  const sizes = { ...stilt.sizes, ...changes }
  const byHand = [...new Set([...stilt.byHand, ...(Object.keys(changes) as SizeName[])])]
  const normal = stiltNormal(surface, stilt)
  if (changes.penetrationMm !== undefined) {
    const [tip, knee] = stilt.path
    const thickness = surface.thickness(tip, [tip[0] - knee[0], tip[1] - knee[1], tip[2] - knee[2]])
    if (changes.penetrationMm > PENETRATION_SHARE * thickness + 1e-6) {
      return { ok: false, problem: 'too-deep', reason: `The part is ${thickness.toFixed(2)} mm thick here, and a tip goes in by at most 40 % of that: ${(PENETRATION_SHARE * thickness).toFixed(2)} mm.` }
    }
  }
  if (changes.coneLengthMm === undefined && stilt.foot !== 'none') {
    const gapMm = gapOfPath(surface, stilt.path, sizes, stilt.foot)
    // what was tight already, such as a bead in a crevice, may stay as tight
    if (gapMm >= Math.min(GAP_FLOOR_MM, gapOfPath(surface, stilt.path, stilt.sizes, stilt.foot)) - 1e-6) return { ok: true, stilt: { ...stilt, sizes, byHand }, gapMm }
  }
  const route = routeStilt(surface, stilt.path[0], normal, { ...gauge, coneShortestMm: Math.min(gauge.coneShortestMm, sizes.coneLengthMm) }, plate, sizes)
  return fromRoute(surface, stilt, route, normal, gauge, byHand)
}

/** Gives a stilt another gauge; sizes that were changed by hand stay as they are. */
export function regaugeStilt(surface: Surface, stilt: Stilt, gauge: Gauge, plate: Plate): Edited {
  const sizes: Record<SizeName, number> = { ...sizesOf(gauge) }
  for (const name of stilt.byHand) sizes[name] = stilt.sizes[name]
  const normal = stiltNormal(surface, stilt)
  return fromRoute(surface, { ...stilt, gauge: gauge.id }, routeStilt(surface, stilt.path[0], normal, gauge, plate, sizes), normal, gauge, stilt.byHand)
}

/** Moves a tip to another point of the surface and routes the stilt anew. */
export function moveTip(surface: Surface, stilt: Stilt, point: Vec3, normal: Vec3, gauge: Gauge, plate: Plate): Edited {
  const sizes: Record<SizeName, number> = { ...sizesOf(gauge) }
  for (const name of stilt.byHand) sizes[name] = stilt.sizes[name]
  return fromRoute(surface, stilt, routeStilt(surface, point, normal, gauge, plate, sizes), normal, gauge, stilt.byHand)
}

/** Moves a foot on the plate; the shaft leans there from the knee, as far as lean limit and gap allow. */
export function moveFoot(surface: Surface, stilt: Stilt, x: number, y: number, plate: Plate, gapFloorMm: number): Edited {
  const knee = stilt.path[1]
  const rim = stilt.sizes.footDiameterMm / 2
  const fx = Math.max(rim - plate.widthMm / 2, Math.min(plate.widthMm / 2 - rim, x))
  const fy = Math.max(rim - plate.depthMm / 2, Math.min(plate.depthMm / 2 - rim, y))
  const path: Vec3[] = [stilt.path[0], knee, [fx, fy, 0]]
  const drop = knee[2] - stilt.sizes.footHeightMm
  const leanDeg = (Math.atan2(Math.hypot(fx - knee[0], fy - knee[1]), drop) * 180) / Math.PI
  if (leanDeg > LEAN_LIMIT_DEG) return { ok: false, problem: 'blocked', reason: `The shaft would lean ${leanDeg.toFixed(0)}°; at most ${LEAN_LIMIT_DEG}° stands. Keep the foot nearer to the knee.` }
  const gapMm = gapOfPath(surface, path, stilt.sizes)
  if (gapMm < gapFloorMm) return { ok: false, problem: 'blocked', reason: `The shaft would come ${gapMm < 0 ? 'through' : `within ${gapMm.toFixed(2)} mm of`} the model. Choose another place for the foot.` }
  return { ok: true, stilt: { ...stilt, path, foot: 'plate' }, gapMm }
}

function fromRoute(surface: Surface, stilt: Stilt, route: Route | NoRoute, normal: Vec3, gauge: Gauge, byHand: readonly SizeName[]): Edited {
  if (!route.ok) return route
  return { ok: true, gapMm: route.gapMm, stilt: stiltOfRoute(surface, stilt.id, gauge, stilt.role, route, normal, byHand) }
}

function stiltNormal(surface: Surface, stilt: Stilt): Vec3 {
  const m = surface.placement, n = stilt.contact.normal
  return [m[0] * n[0] + m[1] * n[1] + m[2] * n[2], m[4] * n[0] + m[5] * n[1] + m[6] * n[2], m[8] * n[0] + m[9] * n[1] + m[10] * n[2]]
}

/** What a stilt's numbers say in one line: length, lean and gap. */
export function verdictOf(path: readonly Vec3[], gapMm: number): string {
  const { lengthMm, leanDeg } = shaftOf(path)
  return `${lengthMm.toFixed(1)} mm, ${leanDeg < 0.5 ? 'upright' : `lean ${leanDeg.toFixed(0)}°`}, gap ${gapMm >= 5 ? 'over 5' : Math.max(0, gapMm).toFixed(2)} mm`
}
