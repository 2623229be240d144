import type { Gauge, StandPoint } from '../contract'
import { add, degrees, distance, dot, leanOf, scale, sub, unit, type Vec3 } from '../mesh'
import { normalFromSource, normalToSource, toSource } from '../pose'
import { branchLeanLimit, branchSizes } from './branch'
import { beamsOfShape, type Others } from './clearance'
import { GAP_FLOOR_MM, PENETRATION_SHARE } from './gauges'
import { coneDirections, fitPenetration, gapOfPath, LEAST_SHAFT_MM, onPlate, ontoPlate, reachOverEdge, routeStilt, shapeOfRoute, stickBetween, tipRefused, type NoRoute, type Plate, type Route } from './route'
import { ownOn, shaftOf, sizesOf, thickened, wantedSizes, type FootSpread, type OwnSizes, type Stilt, type StiltShape, type StiltSizes } from './stilt'
import type { Surface } from './surface'

/** A stick is straight where its joint lies so near to the line of its cone, as a cosine. */
const STRAIGHT = 0.9995

/** A stilt to be changed; of one of a plan it is known from where on something depends on it. */
export type Editable = StiltShape & Partial<Pick<Stilt, 'bound'>>

/** Whether something joins a stilt or is braced to it, or it hangs on another one itself: then its lower end stays where it is. */
export function isTied({ path, bound, shared }: Editable): boolean {
  return shared !== undefined || (bound !== undefined && bound < path.length)
}

/** A stilt as it would be after an edit, or why it cannot be. */
export type Edited = { readonly ok: true; readonly shape: StiltShape; readonly gapMm: number } | NoRoute

/**
 * Gives a stilt new sizes. Its way down stays where it is as long as its gap allows; else, and for another cone length, it is routed
 * anew. Refused where it would come nearer to the model than it may, or go in deeper than the part's thickness allows.
 */
export function resizeStilt(surface: Surface, stilt: Editable, changes: Partial<StiltSizes>, gauge: Gauge, plate: Plate): Edited {
  const sizes = { ...stilt.sizes, ...changes }
  const own: OwnSizes = { ...stilt.own, ...changes }
  const normal = stiltNormal(surface, stilt)
  if (changes.penetrationMm !== undefined) {
    const [tip, knee] = stilt.path
    const thickness = surface.thickness(tip, [tip[0] - knee[0], tip[1] - knee[1], tip[2] - knee[2]])
    if (changes.penetrationMm > PENETRATION_SHARE * thickness + 1e-6) {
      return { ok: false, problem: 'too-deep', reason: `The part is ${thickness.toFixed(2)} mm thick here, and a tip goes in by at most 40 % of that: ${(PENETRATION_SHARE * thickness).toFixed(2)} mm.` }
    }
  }
  const wrong = stilt.foot === 'plate' && !stilt.shared ? misfit(stilt, sizes, plate) : null
  if (wrong) return { ok: false, problem: 'off-plate', reason: wrong }
  if (changes.coneLengthMm === undefined && stilt.foot !== 'lost') {
    const gapMm = gapOfPath(surface, { ...stilt, sizes })
    // what was tight already, such as a bead in a crevice, may stay as tight
    if (gapMm >= Math.min(GAP_FLOOR_MM, gapOfPath(surface, stilt)) - 1e-6) return { ok: true, shape: { ...stilt, sizes, own }, gapMm }
  }
  if (isTied(stilt)) return aboveItsEnd(surface, stilt, stilt.path[0], normal, { ...gauge, coneShortestMm: Math.min(gauge.coneShortestMm, sizes.coneLengthMm) }, sizes, own, 'cone')
  const route = routeStilt(surface, stilt.path[0], normal, { ...gauge, coneShortestMm: Math.min(gauge.coneShortestMm, sizes.coneLengthMm) }, plate, { ...sizes, onModel: wantedSizes(gauge, own, stilt.foot).onModel })
  return keepSpread(stilt, fromRoute(surface, { ...stilt, own }, route, normal, gauge))
}

/** Why a foot of these sizes cannot be under a stilt where it stands; null where it can. */
function misfit({ path }: StiltShape, sizes: StiltSizes, plate: Plate): string | null {
  const last = path.length - 1, room = path[last - 1][2] - path[last][2] - LEAST_SHAFT_MM
  if (sizes.footHeightMm > room) return `The shaft above this foot begins ${(room + LEAST_SHAFT_MM).toFixed(2)} mm above the plate, so the foot can be ${Math.max(0, room).toFixed(2)} mm high at most.`
  if (onPlate(path[last], sizes, plate)) return null
  const most = 2 * reachOverEdge(path[last], plate)
  return `A foot of ${sizes.footDiameterMm.toFixed(2)} mm would reach over the edge of the plate; here it can be ${Math.max(0, most).toFixed(2)} mm wide at most. Move the foot inward first.`
}

/** Gives a stilt another gauge; sizes that were changed by hand stay as they are. */
export function regaugeStilt(surface: Surface, stilt: Editable, gauge: Gauge, plate: Plate): Edited {
  const normal = stiltNormal(surface, stilt)
  if (isTied(stilt)) {
    const sizes = wantedOf(stilt, gauge), wrong = stilt.foot === 'plate' && !stilt.shared ? misfit(stilt, sizes, plate) : null
    return wrong ? { ok: false, problem: 'off-plate', reason: wrong } : keepSpread(stilt, aboveItsEnd(surface, { ...stilt, gauge: gauge.id }, stilt.path[0], normal, gauge, sizes, stilt.own, 'sizes'))
  }
  return keepSpread(stilt, fromRoute(surface, stilt, routeStilt(surface, stilt.path[0], normal, gauge, plate, wantedSizes(gauge, stilt.own, stilt.foot)), normal, gauge))
}

/**
 * Stands a stick on another number of points, or on points that are farther apart: as many as are asked for, or it is refused with how
 * many find a place. Its tip and its direction stay.
 */
export function spreadStick(surface: Surface, stilt: Editable, changes: Partial<FootSpread>, gauge: Gauge): Edited {
  const [tip, knee] = stilt.path, own: OwnSizes = { ...stilt.own, ...changes }, points = own.footPoints ?? gauge.modelFootPoints, wide = own.footSpreadMm ?? gauge.modelFootSpreadMm
  if (stilt.foot !== 'model' || stilt.shared) return { ok: false, problem: 'blocked', reason: 'Only the foot of a stick on the model stands on several points.' }
  if (isTied(stilt)) return { ok: false, problem: 'blocked', reason: 'Something joins this stick or is braced to it. Take that away first, then spread its foot.' }
  const d = unit(sub(knee, tip)), joint = stilt.path[stilt.path.length - 2], landing = surface.cast(joint, d, distance(tip, joint) + distance(joint, stilt.path[stilt.path.length - 1]) + wide)
  if (dot(d, unit(sub(joint, tip))) < STRAIGHT || !landing) return { ok: false, problem: 'blocked', reason: 'This stick is bent. Only a straight one can stand on another number of points.' }
  const route = stickBetween(surface, tip, landing, d, gauge, wantedSizes(gauge, own, 'model')), stands = 1 + (route?.legs?.length ?? 0)
  if (!route) return { ok: false, problem: 'blocked', reason: 'It would come too near to the part that way.' }
  if (stands < points) return { ok: false, problem: 'blocked', reason: `Where it lands only ${stands} of ${points} points ${wide.toFixed(2)} mm from their middle find a place. Bring them nearer together, or ask for fewer.` }
  const normal = stiltNormal(surface, stilt)
  return keepSpread(stilt, { ok: true, gapMm: route.gapMm, shape: { ...shapeOfRoute(surface, gauge, stilt.role, route, normal, own), gauge: stilt.gauge, anchor: stilt.anchor, ...(stilt.forced !== undefined && { forced: stilt.forced }) } })
}

/** A stilt that stays as it is although its gauge becomes another: what differs counts as set by hand from now on. */
export function keepSizes(stilt: StiltShape, before: Gauge, now: Gauge): StiltShape {
  const stick = stilt.foot === 'model', a = sizesOn(before, stick), b = sizesOn(now, stick), tapers = before.thickenDeg !== now.thickenDeg || before.thickestMm !== now.thickestMm
  const differ = (Object.keys(a) as (keyof OwnSizes)[]).filter(n => a[n] !== b[n] && stilt.own[n] === undefined)
  const own = Object.fromEntries(differ.map(n => [n, a[n]])) as OwnSizes
  return { ...stilt, own: { ...own, ...((tapers || own.shaftFootDiameterMm !== undefined) && { shaftFootDiameterMm: stilt.sizes.shaftFootDiameterMm }), ...stilt.own } }
}

/** What a gauge asks of a stilt, by where it stands. */
function sizesOn(gauge: Gauge, onModel: boolean): OwnSizes {
  const { footDiameterMm, footHeightMm, footPenetrationMm, ...sizes } = sizesOf(gauge)
  if (!onModel) return { ...sizes, footDiameterMm, footHeightMm, footPenetrationMm }
  return { ...sizes, footDiameterMm: gauge.modelFootDiameterMm, footPenetrationMm: gauge.modelFootPenetrationMm, footPoints: gauge.modelFootPoints, footSpreadMm: gauge.modelFootSpreadMm }
}

/** Moves a tip to another point of the surface and routes the stilt anew, clear of others; one that something depends on keeps its lower end. */
export function moveTip(surface: Surface, stilt: Editable, point: Vec3, normal: Vec3, gauge: Gauge, plate: Plate, others?: Others): Edited {
  if (isTied(stilt)) {
    const refused = tipRefused(surface, point, normal, stilt.sizes.tipDiameterMm)
    return refused ?? aboveItsEnd(surface, stilt, point, normal, gauge, wantedOf(stilt, gauge), stilt.own, 'tip', others)
  }
  return fromRoute(surface, stilt, routeStilt(surface, point, normal, gauge, plate, wantedSizes(gauge, stilt.own, stilt.foot), others), normal, gauge)
}

/**
 * Moves a foot on the plate. What is above the last joint stays as it is and the shaft leans from there; where that does not reach,
 * it leans from a joint higher up, at last from the knee, as far as lean limit and gap allow.
 */
export function moveFoot(surface: Surface, stilt: StiltShape, x: number, y: number, gauge: Gauge, plate: Plate, gapFloorMm: number): Edited {
  const [fx, fy] = ontoPlate([x, y, 0], stilt.sizes.footDiameterMm / 2, plate)
  let refused: NoRoute | null = null
  const last = stilt.foot === 'plate' ? stilt.path.length - 2 : 1
  for (let from = last; from >= 1; from--) {
    const path: Vec3[] = [...stilt.path.slice(0, from + 1), [fx, fy, 0]]
    const top = path[from], drop = top[2] - stilt.sizes.footHeightMm
    const leanDeg = degrees(Math.atan2(Math.hypot(fx - top[0], fy - top[1]), drop))
    if (leanDeg > gauge.leanLimitDeg) {
      refused ??= { ok: false, problem: 'blocked', reason: `The shaft would lean ${leanDeg.toFixed(0)}°; at most ${gauge.leanLimitDeg}° stands. Keep the foot nearer to the knee.` }
      continue
    }
    const sizes = thickened(gauge, { ...stilt.sizes, shaftFootDiameterMm: stilt.own.shaftFootDiameterMm ?? gauge.shaftFootDiameterMm }, shaftOf(path).lengthMm)
    const gapMm = gapOfPath(surface, { path, sizes, foot: 'plate' })
    if (gapMm >= gapFloorMm) return { ok: true, shape: { ...stilt, path, sizes, foot: 'plate', footPinned: true, footAnchor: undefined, legs: undefined, lostFor: undefined }, gapMm }
    refused = { ok: false, problem: 'blocked', reason: `The shaft would come ${gapMm < 0 ? 'through' : `within ${gapMm.toFixed(2)} mm of`} the model. Choose another place for the foot.` }
  }
  return refused ?? { ok: false, problem: 'blocked', reason: 'This stilt has no knee to lean from. Delete it and place it anew.' }
}

/** The sizes that a tied stilt is to have of a gauge. */
function wantedOf(stilt: StiltShape, gauge: Gauge): StiltSizes {
  const { footDiameterMm, footHeightMm, footPenetrationMm } = stilt.sizes
  if (stilt.shared) return { ...branchSizes(gauge), ...stilt.own, footDiameterMm, footHeightMm, footPenetrationMm }
  const wanted = wantedSizes(gauge, stilt.own)
  return stilt.foot === 'model' ? { ...wanted, footDiameterMm, footHeightMm, footPenetrationMm } : thickened(gauge, wanted, shaftOf(stilt.path).lengthMm)
}

/**
 * A tied stilt with another tip or cone: its knee goes where the cone ends, along the normal if it can; from its next joint on it stays.
 * @param what is asked for: another tip; another cone, exactly; or sizes, as far as there is room for a cone of that length
 */
function aboveItsEnd(surface: Surface, stilt: Editable, point: Vec3, normal: Vec3, gauge: Gauge, sizes: StiltSizes, own: OwnSizes, what: 'tip' | 'cone' | 'sizes', others?: Others): Edited {
  const moves = what === 'tip'
  const rest = stilt.path.slice(stilt.bound === 1 ? 1 : 2), limitDeg = stilt.shared ? branchLeanLimit(gauge) : gauge.leanLimitDeg, next = rest[0], as = unit(sub(stilt.path[1], stilt.path[0]))
  const knees = stilt.bound === 1 ? [rest[0]] : (moves ? [...coneDirections(normal, limitDeg).slice(0, 3), unit(sub(next, point))] : [as]).flatMap(d => [...new Set([sizes.coneLengthMm, what === 'cone' ? sizes.coneLengthMm : Math.min(sizes.coneLengthMm, Math.max(gauge.coneShortestMm, distance(point, next) * 0.6))])].map(l => add(point, scale(d, l))))
  let best: { readonly shape: StiltShape; readonly gapMm: number } | null = null, refused: NoRoute | null = null
  const least = Math.min(GAP_FLOOR_MM, moves ? GAP_FLOOR_MM : gapOfPath(surface, stilt)) - 1e-6
  for (const knee of knees) {
    const path = stilt.bound === 1 ? [point, ...rest] : [point, knee, ...rest], leanDeg = Math.max(leanOf(path[0], path[1]), leanOf(path[1], path[2]))
    if (dot(sub(knee, point), normal) < 0 || leanDeg > limitDeg + 0.5) {
      refused ??= { ok: false, problem: 'blocked', reason: `From here it would lean ${leanDeg.toFixed(0)}° to where it is tied; at most ${limitDeg}° stands. Keep it nearer, or drag its joint down first.` }
      continue
    }
    const shape: StiltShape = { ...stilt, own, path, sizes: fitPenetration(surface, point, unit(sub(knee, point)), { ...sizes, coneLengthMm: distance(point, knee) }), anchor: moves ? { point: toSource(surface, path[0] as StandPoint), normal: [...normalToSource(surface, normal)] } : stilt.anchor, ...(moves && { spread: undefined, forced: undefined }) }
    const gapMm = gapOfPath(surface, shape)
    if (gapMm < least) {
      refused ??= { ok: false, problem: 'blocked', reason: `It would come ${gapMm < 0 ? 'through' : `within ${gapMm.toFixed(2)} mm of`} the part on its way to where it is tied.` }
      continue
    }
    if (others?.field.isNear(beamsOfShape(shape).slice(0, 2), others.limitMm, others.but)) {
      refused ??= { ok: false, problem: 'too-near', reason: 'It would come too near to another stilt.' }
      continue
    }
    if (!best || (best.gapMm < gauge.gapMm && gapMm > best.gapMm)) best = { shape, gapMm }
  }
  return best ? { ok: true, ...best } : (refused ?? { ok: false, problem: 'blocked', reason: 'There is no room for it above where it is tied.' })
}

function fromRoute(surface: Surface, stilt: StiltShape, route: Route | NoRoute, normal: Vec3, gauge: Gauge): Edited {
  if (!route.ok) return route
  return { ok: true, gapMm: route.gapMm, shape: shapeOfRoute(surface, gauge, stilt.role, route, normal, ownOn(stilt.own, stilt.foot, route.foot)) }
}

/** A stilt that stays where it is stays with its spread. */
function keepSpread({ spread }: StiltShape, edited: Edited): Edited {
  return edited.ok && spread !== undefined ? { ...edited, shape: { ...edited.shape, spread } } : edited
}

function stiltNormal(surface: Surface, stilt: StiltShape): Vec3 {
  return normalFromSource(surface, stilt.anchor.normal)
}

/** What a stilt's numbers say in one line: length, lean and gap. */
export function verdictOf(path: readonly Vec3[], gapMm: number): string {
  const { lengthMm, leanDeg } = shaftOf(path)
  return `${lengthMm.toFixed(1)} mm, ${leanDeg < 0.5 ? 'upright' : `lean ${leanDeg.toFixed(0)}°`}, gap ${gapMm >= 5 ? 'over 5' : Math.max(0, gapMm).toFixed(2)} mm`
}
