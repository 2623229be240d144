import type { Anchor, Gauge, Role, StandPoint } from '../contract'
import { between, distance, dot, radians, sub, type Vec3 } from '../mesh'
import { inverseOf, movePoint, normalToSource, plateOf, toSource, type PlateShift } from '../pose'
import { beamsOfShape, type Beam, type Others } from './clearance'
import { neckOf } from './contact'
import { GAP_FLOOR_MM, LANDING_LIMIT_DEG, PENETRATION_SHARE, TIP_LEFT_OUT_MM } from './gauges'
import { gapOfLeg, spreadFoot } from './legs'
import { diametersOf, shaftOf, sizesOf, thickened, type OwnSizes, type StiltShape, type StiltSizes, type WantedSizes } from './stilt'
import { GAP_CEILING_MM, type Surface, type SurfacePoint } from './surface'

/** Why no stilt can stand at a point. */
export type RouteProblem = 'faces-up' | 'too-low' | 'blocked' | 'off-plate' | 'too-deep' | 'too-near' | 'off-limits'

/** A stilt that can stand, with what was measured on the way. */
export interface Route {
  readonly ok: true
  readonly foot: 'plate' | 'model'
  readonly path: readonly Vec3[]
  readonly sizes: StiltSizes
  /** Smallest gap between cone, shaft or foot and the model, leaving out the tip's own last millimetre; at most 5 mm. */
  readonly gapMm: number
  readonly leanDeg: number
  readonly lengthMm: number
  /** The gap is under what the gauge asks for, though not so small that both must fuse. */
  readonly tight: boolean
  /** Normal of the face that a foot on the model stands on. */
  readonly landing?: Vec3
  /** Further points of the model that it stands on, where its foot is spread. */
  readonly legs?: readonly { readonly at: Vec3; readonly normal: Vec3 }[]
}

export interface NoRoute {
  readonly ok: false
  readonly problem: RouteProblem
  /** A sentence that says why and what would work. */
  readonly reason: string
}

/** The printable plate, mm, and how the stand of the part lies on it; centred on the plate where that is left out. */
export interface Plate {
  readonly widthMm: number
  readonly depthMm: number
  readonly shift?: PlateShift
}

/** Of a thick tip so much beyond its radius is left out when gaps are measured, mm. */
const BEYOND_RADIUS_MM = 0.5
/** The least straight shaft between knee and foot, mm. */
export const LEAST_SHAFT_MM = 0.2
/** A face that looks up by more than this cannot rest on a tip, degrees above the horizontal. */
const UP_LIMIT_DEG = 15

/** Share of a foot's height up to which it is as wide as at the plate, about. */
const FOOT_RIM_SHARE = 0.4

const DETOURS_MM = [1.2, 2, 3, 4.5, 6.5, 9, 12, 16, 21, 28]
const AZIMUTHS = 16
/** A shaft that leans less stands upright, degrees. */
const LEAST_LEAN_DEG = 1
/** Ways that are measured in search of a wider gap once one that is tight was found. */
const MORE_WAYS = 9
/** Ways that may come too near to other stilts before the search is given up. */
const MOST_TOO_NEAR = 100
/** Only every seventh of them, so that they reach out to wider detours. */
const EVERY = 7

/** Why no tip can stand at a point, whatever the way down; null where one can. */
export function tipRefused(surface: Surface, point: Vec3, normal: Vec3, tipDiameterMm: number): NoRoute | null {
  if (normal[2] > Math.sin(radians(UP_LIMIT_DEG))) {
    return { ok: false, problem: 'faces-up', reason: 'This face looks up, and a tip can only hold what faces down. Choose a point on the underside.' }
  }
  if (surface.offLimitsWithin(point, tipDiameterMm / 2)) {
    return { ok: false, problem: 'off-limits', reason: 'This face is off limits: nothing may touch it. Choose a point beside it, or take its mark off in Pose.' }
  }
  return null
}

/**
 * Finds the way from a surface point to the plate: straight down from the knee; else leaning, and straight down again as soon
 * as there is room; the smallest detour first; else a stick down to the model. The knee tries the surface normal, then steeper and
 * other directions of the cone.
 * @param normal outward unit normal at the point
 * @param others stilts that it keeps clear of; it may stand through them where that is left out
 */
export function routeStilt(surface: Surface, point: Vec3, normal: Vec3, gauge: Gauge, plate: Plate, { onModel, ...wanted }: WantedSizes = sizesOf(gauge), others?: Others): Route | NoRoute {
  const refusedTip = tipRefused(surface, point, normal, wanted.tipDiameterMm)
  if (refusedTip) return refusedTip
  const room = point[2] - wanted.footHeightMm - LEAST_SHAFT_MM
  /** The widest of the gaps that were too small. */
  let tooNear = Infinity
  const isClear = (beams: readonly Beam[]): boolean => {
    const near = others?.field.nearest(beams, others.limitMm, others.but)
    if (near) tooNear = tooNear === Infinity ? near.gapMm : Math.max(tooNear, near.gapMm)
    return !near
  }
  const clearStick = (): Route | null => {
    const stick = routeStick(surface, point, normal, gauge, { ...wanted, onModel })
    return stick && isClear(beamsOfShape(stick)) ? stick : null
  }
  const shortest = Math.min(gauge.coneShortestMm, wanted.coneLengthMm)
  if (room < shortest) {
    const stick = clearStick()
    if (stick) return stick
    if (tooNear < Infinity) return nearOthers(tooNear, others as Others)
    const missing = shortest - room
    return { ok: false, problem: 'too-low', reason: `This point is ${point[2].toFixed(2)} mm above the plate, too low for this gauge. Lift the part by ${missing.toFixed(1)} mm or take a finer gauge.` }
  }
  let best: Route | null = null
  let offPlate = false
  let more = MORE_WAYS, passed = 0, refused = 0
  search: for (const [direction, coneLength] of cones(normal, wanted.coneLengthMm, shortest, room, gauge.leanLimitDeg)) {
    const knee: Vec3 = [point[0] + direction[0] * coneLength, point[1] + direction[1] * coneLength, point[2] + direction[2] * coneLength]
    const coneGap = gapOfCone(surface, point, knee, wanted, GAP_FLOOR_MM)
    if (coneGap < GAP_FLOOR_MM || (best && coneGap <= best.gapMm)) continue
    // all ways from this knee begin with this cone
    if (!isClear([{ from: point, to: knee, fromRadius: neckOf(wanted) / 2, toRadius: wanted.kneeDiameterMm / 2 }])) continue
    const fitted = fitPenetration(surface, point, direction, { ...wanted, coneLengthMm: coneLength })
    for (const rest of waysDown(surface, knee, direction, fitted, gauge)) {
      const sizes = thickened(gauge, fitted, shaftOf([point, knee, ...rest]).lengthMm)
      if (!onPlate(rest[rest.length - 1], sizes, plate)) {
        offPlate = true
        continue
      }
      if (best && passed++ % EVERY !== 0) continue
      if (best && more-- <= 0) break search
      const path = [point, knee, ...rest]
      if (!isClear(beamsOfShape({ path, sizes, foot: 'plate' }))) {
        if (++refused > MOST_TOO_NEAR) break search
        continue
      }
      const gapMm = Math.min(coneGap, gapOfShaft(surface, { path, sizes, foot: 'plate' }, best ? best.gapMm : GAP_FLOOR_MM))
      if (gapMm < GAP_FLOOR_MM || (best && gapMm <= best.gapMm)) continue
      best = { ok: true, foot: 'plate', path, sizes, gapMm, ...shaftNumbers(path), tight: gapMm < gauge.gapMm }
      if (!best.tight) return best
    }
  }
  if (best) return best
  const stick = clearStick()
  if (stick) return stick
  if (tooNear < Infinity) return nearOthers(tooNear, others as Others)
  if (offPlate) return { ok: false, problem: 'off-plate', reason: 'The only ways down end outside the plate. Turn or tilt the part.' }
  return { ok: false, problem: 'blocked', reason: `Every way down is blocked within ${gauge.leanLimitDeg}°, and no face below can carry a stick. Try a point beside it, a finer gauge, or another tilt.` }
}

function nearOthers(gapMm: number, { limitMm }: Others): NoRoute {
  const here = gapMm > 0 ? `would pass another stilt at ${gapMm.toFixed(2)} mm` : 'would run into another stilt'
  return { ok: false, problem: 'too-near', reason: `A stilt from here ${here}, and under ${limitMm.toFixed(2)} mm this resin webs between them. Try a point farther from it, or a finer gauge.` }
}

/** A way down that is measured. */
export type MeasuredWay = Pick<StiltShape, 'path' | 'sizes' | 'foot' | 'shared'> & { readonly legs?: readonly { readonly at: Vec3 }[] }

/** The smallest gap of a stilt where it stands, measured as in routing; of a branch down to where it joins. */
export function gapOfPath(surface: Surface, way: MeasuredWay): number {
  const { coneMm, shaftMm } = gapsOfPath(surface, way)
  return Math.min(coneMm, shaftMm)
}

/** The gaps of a stilt by themselves: of its cone, which has to come near to the skin that it touches, and of all below its knee. A stick has one. @param diameters of its segments at both ends, where they are not those of an even taper */
export function gapsOfPath(surface: Surface, way: MeasuredWay, diameters?: readonly (readonly [number, number])[]): { readonly coneMm: number; readonly shaftMm: number } {
  const { path, sizes } = way
  if (isStraightStick(way)) return { coneMm: GAP_CEILING_MM, shaftMm: gapOfStick(surface, path[0], path[path.length - 1], sizes) }
  return { coneMm: gapOfCone(surface, path[0], path[1], sizes), shaftMm: gapOfShaft(surface, way, -Infinity, diameters) }
}

/** Off a straight line by less than this is straight, mm. */
const STRAIGHT_MM = 1e-3

/** Whether it goes straight from the model to the model, as sticks are made. */
function isStraightStick({ path, foot, shared, legs }: MeasuredWay): boolean {
  return foot === 'model' && !shared && !legs?.length && path.slice(1, -1).every(p => offLine(p, path[0], path[path.length - 1]) < STRAIGHT_MM)
}
function offLine(p: Vec3, a: Vec3, b: Vec3): number {
  const along = sub(b, a), length2 = dot(along, along)
  return distance(p, length2 > 0 ? between(a, b, dot(sub(p, a), along) / length2) : a)
}

/** A route as a stilt; what it touches is kept in the source's coordinates. */
export function shapeOfRoute(surface: Surface, gauge: Gauge, role: Role, route: Route, normal: Vec3, own: OwnSizes = {}): StiltShape {
  const anchored = (point: StandPoint, outward: Vec3): Anchor => ({ point: toSource(surface, point), normal: [...normalToSource(surface, outward)] })
  return {
    gauge: gauge.id, role, sizes: route.sizes, own, path: route.path, foot: route.foot, footPinned: false, anchor: anchored(route.path[0], normal),
    ...(route.landing && { footAnchor: anchored(route.path[route.path.length - 1] as StandPoint, route.landing) }),
    ...(route.legs && { legs: route.legs.map(({ at, normal: n }) => ({ at, anchor: anchored(at as StandPoint, n) })) }),
  }
}

function shaftNumbers(path: readonly Vec3[]): { lengthMm: number; leanDeg: number } {
  const { lengthMm, leanDeg } = shaftOf(path)
  return { lengthMm, leanDeg }
}

/** Directions of the cone away from the surface, best first: along the normal within the lean limit, half way, straight down, aslant. */
export function coneDirections(normal: Vec3, limitDeg: number): Vec3[] {
  const limit = radians(limitDeg)
  const across = Math.hypot(normal[0], normal[1])
  const lean = Math.min(Math.atan2(across, -normal[2]), limit)
  const azimuth = Math.atan2(normal[1], normal[0])
  const at = (l: number, a: number): Vec3 => [Math.sin(l) * Math.cos(a), Math.sin(l) * Math.sin(a), -Math.cos(l)]
  const out: Vec3[] = []
  if (lean > 0.05) out.push(at(lean, azimuth), at(lean / 2, azimuth))
  out.push([0, 0, -1])
  // other sides of the cone's range, for points that sit in a nook
  for (let i = 0; i < 4; i++) out.push(at(limit, azimuth + (i * Math.PI) / 2))
  return out
}

/** Cones to try, best first: full length in all directions, then the shortest in the directions nearest to the normal. */
function* cones(normal: Vec3, wanted: number, shortest: number, room: number, limitDeg: number): Generator<[Vec3, number]> {
  const directions = coneDirections(normal, limitDeg)
  const longest = (d: Vec3): number => Math.min(wanted, room / -d[2])
  for (const d of directions) yield [d, longest(d)]
  for (const d of directions.slice(0, 3)) if (longest(d) > shortest + 0.3) yield [d, shortest]
}

/** Never deeper than the share of the local thickness that a tip may take. */
export function fitPenetration(surface: Surface, point: Vec3, direction: Vec3, sizes: StiltSizes): StiltSizes {
  const most = PENETRATION_SHARE * surface.thickness(point, [-direction[0], -direction[1], -direction[2]])
  return most < sizes.penetrationMm ? { ...sizes, penetrationMm: Math.max(0.02, most) } : sizes
}

export function gapOfCone(surface: Surface, tip: Vec3, knee: Vec3, sizes: Parameters<typeof neckOf>[0] & Pick<StiltSizes, 'kneeDiameterMm'>, enoughBelowMm = -Infinity, atMostMm = GAP_CEILING_MM): number {
  const length = distance(knee, tip)
  const neck = neckOf(sizes), t = Math.min(1, Math.max(TIP_LEFT_OUT_MM, neck / 2 + BEYOND_RADIUS_MM) / length)
  const from: Vec3 = [tip[0] + (knee[0] - tip[0]) * t, tip[1] + (knee[1] - tip[1]) * t, tip[2] + (knee[2] - tip[2]) * t]
  const radius = (neck + (sizes.kneeDiameterMm - neck) * t) / 2
  // the left out end must still not run into the model: its axis stays outside
  const clear = surface.gapOfBeam(from, knee, radius, sizes.kneeDiameterMm / 2, enoughBelowMm, atMostMm)
  if (clear < enoughBelowMm) return clear
  const skin = 0.05
  const start: Vec3 = [tip[0] + ((knee[0] - tip[0]) * skin) / length, tip[1] + ((knee[1] - tip[1]) * skin) / length, tip[2] + ((knee[2] - tip[2]) * skin) / length]
  const blocked = surface.cast(start, [knee[0] - tip[0], knee[1] - tip[1], knee[2] - tip[2]], length - skin)
  return blocked ? -1 : clear
}

function gapOfShaft(surface: Surface, way: MeasuredWay, enoughBelowMm: number, diameters: readonly (readonly [number, number])[] = diametersOf(way)): number {
  const { path, sizes, foot: on, shared } = way, last = path.length - 1, foot = path[last]
  let gap = GAP_CEILING_MM
  for (let i = 1; i < (shared?.from ?? last); i++) {
    const [from, to] = diameters[i], end = path[i + 1]
    if (i + 1 === last && on === 'model') {
      // the cone of a foot on the model is a tip of its own
      gap = Math.min(gap, gapOfLeg(surface, path[i], end, from, to))
    } else gap = Math.min(gap, surface.gapOfBeam(path[i], i + 1 === last ? [foot[0], foot[1], sizes.footHeightMm] : end, from / 2, to / 2, enoughBelowMm))
    if (gap < enoughBelowMm) return gap
  }
  if (on === 'model' && !shared) for (const leg of way.legs ?? []) gap = Math.min(gap, gapOfLeg(surface, path[last - 1], leg.at, sizes.shaftFootDiameterMm, sizes.footDiameterMm))
  return shared || on === 'model' ? gap : Math.min(gap, surface.gapOfDisc(foot, sizes.footDiameterMm / 2, sizes.footHeightMm * FOOT_RIM_SHARE))
}

/** Ways from a knee to the plate, shortest detour first; each ends with a foot at z = 0. Those that a ray finds blocked are left out. */
function* waysDown(surface: Surface, knee: Vec3, coneDirection: Vec3, sizes: StiltSizes, gauge: Gauge): Generator<Vec3[]> {
  const free = (x: number, y: number, z: number): boolean => surface.cast([x, y, z], [0, 0, -1], z) === null
  if (free(knee[0], knee[1], knee[2])) yield [[knee[0], knee[1], 0]]
  const away = Math.atan2(coneDirection[1], coneDirection[0])
  for (const detour of DETOURS_MM) {
    for (const leanDeg of new Set([Math.min(gauge.preferredLeanDeg, gauge.leanLimitDeg), gauge.leanLimitDeg])) {
      if (leanDeg < LEAST_LEAN_DEG) continue
      const drop = detour / Math.tan(radians(leanDeg))
      const z = knee[2] - drop
      if (z < sizes.footHeightMm) continue
      for (let i = 0; i < AZIMUTHS; i++) {
        // alternate to both sides of the direction that leads away from the surface
        const a = away + ((i % 2 ? 1 : -1) * Math.ceil(i / 2) * 2 * Math.PI) / AZIMUTHS
        const x = knee[0] + detour * Math.cos(a), y = knee[1] + detour * Math.sin(a)
        if (!free(x, y, z)) continue
        if (surface.cast(knee, [x - knee[0], y - knee[1], z - knee[2]], Math.hypot(detour, drop))) continue
        const foot: Vec3 = [x, y, 0]
        yield z - sizes.footHeightMm < 0.5 ? [foot] : [[x, y, z], foot]
      }
    }
  }
}

/** Whether all of a foot stands on the plate. */
export function onPlate(foot: Vec3, sizes: StiltSizes, plate: Plate): boolean {
  return sizes.footDiameterMm / 2 <= reachOverEdge(foot, plate)
}

/** How far a point of the stand is from the edge of the plate, mm; negative outside. */
export function reachOverEdge(foot: Vec3, plate: Plate): number {
  const [x, y] = plate.shift ? movePoint(plateOf(plate.shift), foot) : foot
  return Math.min(plate.widthMm / 2 - Math.abs(x), plate.depthMm / 2 - Math.abs(y))
}

/** The place nearest to a point of the stand where a foot with this rim is all on the plate. */
export function ontoPlate(foot: Vec3, rimMm: number, plate: Plate): Vec3 {
  const there = plate.shift && plateOf(plate.shift)
  const [x, y, z] = there ? movePoint(there, foot) : foot
  const within = (v: number, half: number): number => Math.max(rimMm - half, Math.min(half - rimMm, v))
  const inside: Vec3 = [within(x, plate.widthMm / 2), within(y, plate.depthMm / 2), z]
  return there ? movePoint(inverseOf(there), inside) : inside
}

/** Longest stick to the model, mm: beyond it one from the plate is worth another tilt. */
const STICK_LONGEST_MM = 20
/** Where two faces are nearer than this, a stick between them is a bead that fuses with both, mm. */
const CREVICE_MM = 1

/** The shortest stick from a point down to a face of the model that looks up; null where there is none. Tried steepest first. */
function routeStick(surface: Surface, point: Vec3, normal: Vec3, gauge: Gauge, wanted: WantedSizes): Route | null {
  const start: Vec3 = [point[0] + normal[0] * 0.02, point[1] + normal[1] * 0.02, point[2] + normal[2] * 0.02]
  const away = Math.atan2(normal[1], normal[0])
  for (const leanDeg of [0, 12, 24, 36, gauge.leanLimitDeg]) {
    if (leanDeg > gauge.leanLimitDeg) continue
    let best: Route | null = null
    const turns = leanDeg === 0 ? 1 : 16
    for (let i = 0; i < turns; i++) {
      const a = away + (i * 2 * Math.PI) / turns, l = radians(leanDeg)
      const d: Vec3 = [Math.sin(l) * Math.cos(a), Math.sin(l) * Math.sin(a), -Math.cos(l)]
      if (normal[0] * d[0] + normal[1] * d[1] + normal[2] * d[2] < 0.2) continue
      const landing = surface.cast(start, d, STICK_LONGEST_MM)
      if (!landing) continue
      const meets = -(landing.normal[0] * d[0] + landing.normal[1] * d[1] + landing.normal[2] * d[2])
      if (meets < Math.cos(radians(LANDING_LIMIT_DEG))) continue
      if (surface.offLimitsWithin(landing.point, gauge.modelFootDiameterMm / 2)) continue
      const route = stickBetween(surface, point, landing, d, gauge, wanted)
      if (route && (!best || route.lengthMm < best.lengthMm)) best = route
    }
    if (best) return best
  }
  return null
}

/** The gap along a stick between its two cones, leaving out the last millimetre at both ends, or 40 % of a short one. */
function gapOfStick(surface: Surface, tip: Vec3, foot: Vec3, sizes: StiltSizes): number {
  const length = distance(foot, tip) || 1e-9
  const ends = Math.min(TIP_LEFT_OUT_MM, length * 0.4)
  const at = (s: number): Vec3 => [0, 1, 2].map(i => tip[i] + ((foot[i] - tip[i]) * s) / length) as unknown as Vec3
  const stops = [[0, neckOf(sizes)], [sizes.coneLengthMm, sizes.kneeDiameterMm], [length - sizes.footHeightMm, sizes.shaftFootDiameterMm], [length, sizes.footDiameterMm]]
  let gap = GAP_CEILING_MM
  for (let i = 0; i + 1 < stops.length; i++) {
    const [s0, d0] = stops[i], [s1, d1] = stops[i + 1]
    const from = Math.max(s0, ends), to = Math.min(s1, length - ends)
    if (to <= from || s1 <= s0) continue
    const diameter = (s: number): number => d0 + ((d1 - d0) * (s - s0)) / (s1 - s0)
    gap = Math.min(gap, surface.gapOfBeam(at(from), at(to), diameter(from) / 2, diameter(to) / 2))
  }
  return gap
}

/** Two faces this near hold a bead between them, which fuses with both anyway, mm. */
export const BEAD_MM = 1
/** What is made thinner to keep a gap keeps it by this, mm. */
const THINNER_BY_MM = 0.001

/** A stick of a direction between a tip and where it lands; null where it comes too near to the part. */
export function stickBetween(surface: Surface, tip: Vec3, landing: SurfacePoint, d: Vec3, gauge: Gauge, { onModel, ...wanted }: WantedSizes): Route | null {
  const foot = landing.point
  const length = distance(foot, tip)
  const cone = Math.min(wanted.coneLengthMm, length * 0.4)
  // a short stick stays slender: it widens by at most a quarter of its length
  const footDiameter = onModel?.footDiameterMm ?? Math.min(gauge.modelFootDiameterMm, wanted.tipDiameterMm * 1.25)
  const middle = Math.min(wanted.kneeDiameterMm, Math.max(wanted.tipDiameterMm, footDiameter) + length * 0.25), lowest = onModel?.shaftFootDiameterMm ?? middle
  const deepest = onModel?.footPenetrationMm ?? gauge.modelFootPenetrationMm
  const at = (s: number): Vec3 => [tip[0] + d[0] * s, tip[1] + d[1] * s, tip[2] + d[2] * s]
  const fitted = fitPenetration(surface, tip, d, { ...wanted, coneLengthMm: cone })
  const footPenetrationMm = Math.min(deepest, PENETRATION_SHARE * surface.thickness(foot, d))
  const withShaft = (shaftMm: number): StiltSizes => ({ ...fitted, kneeDiameterMm: Math.min(shaftMm, middle), shaftFootDiameterMm: onModel ? lowest : Math.min(shaftMm, lowest), footDiameterMm: footDiameter, footHeightMm: cone, footPenetrationMm })
  const wide = withShaft(middle), wideGapMm = gapOfStick(surface, tip, foot, wide)
  // where it comes too near as thick as that, it is as thin as keeps the gap, though no thinner than its ends
  const sizes = wideGapMm >= GAP_FLOOR_MM || length <= BEAD_MM ? wide : withShaft(Math.max(wanted.tipDiameterMm, footDiameter, middle - 2 * (GAP_FLOOR_MM - wideGapMm) - THINNER_BY_MM)), gapMm = sizes === wide ? wideGapMm : gapOfStick(surface, tip, foot, sizes)
  // in a crevice both ends fuse with their faces anyway; a longer stick must not run along the model
  if (length > CREVICE_MM && gapMm < (length < 2 * TIP_LEFT_OUT_MM + 1 ? 0.02 : GAP_FLOOR_MM)) return null
  const path = [tip, at(cone), at(length - cone), foot]
  const spread = spreadFoot(surface, tip, landing, d, cone, lowest, { ...gauge, modelFootDiameterMm: footDiameter, modelFootPoints: onModel?.footPoints ?? gauge.modelFootPoints, modelFootSpreadMm: onModel?.footSpreadMm ?? gauge.modelFootSpreadMm })
  if (spread) {
    const [first, ...others] = spread.feet, way: Vec3[] = [tip, at(cone), spread.joint, first.point], deep = spread.feet.reduce((mm, f) => Math.min(mm, PENETRATION_SHARE * surface.thickness(f.point, sub(f.point, spread.joint))), deepest)
    const standing = { path: way, foot: 'model' as const, sizes: { ...sizes, footHeightMm: distance(spread.joint, first.point), footPenetrationMm: deep }, legs: others.map(({ point, normal }) => ({ at: point, normal })) }
    const wideMm = gapOfPath(surface, standing)
    if (wideMm >= GAP_FLOOR_MM) return { ok: true, ...standing, landing: first.normal, gapMm: wideMm, ...shaftNumbers(way), tight: wideMm < gauge.gapMm }
  }
  return { ok: true, foot: 'model', landing: landing.normal, path, sizes, gapMm, ...shaftNumbers(path), tight: gapMm < gauge.gapMm }
}
