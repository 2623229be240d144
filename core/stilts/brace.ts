import { newId, type FootNode, type Gauge, type PlanBeam, type PlanNode } from '../contract'
import { between, degrees, distance, neighbourPairs, radians, type Vec3 } from '../mesh'
import { LEAST_RISE_DEG } from './branch'
import type { Others } from './clearance'
import { GAP_FLOOR_MM } from './gauges'
import { heightsOf, jointInto, jointsInto, placeAtHeight, placesOn, type Joint } from './joint'
import type { PlanIndex } from './plan-index'
import { onPlate, type NoRoute, type Plate } from './route'
import { shaftOf, sizesOf, type PlanRows, type Stilt, type StiltSizes } from './stilt'
import type { Surface } from './surface'

/** A brace that can stand between two shafts: from its lower end to its upper one. */
export interface Brace {
  readonly ok: true
  readonly lower: Joint
  readonly upper: Joint
  readonly diameterMm: number
  readonly gapMm: number
  readonly lengthMm: number
  /** Above level. */
  readonly riseDeg: number
}

/** How stilts are braced to each other. */
export interface Bracing {
  /** Between the end of one brace and the start of the next, mm. */
  readonly spacingMm: number
  /** Above level. */
  readonly angleDeg: number
  /** Shafts that are farther apart are no neighbours, mm. */
  readonly reachMm: number
}

/** The lowest brace starts so much above the foot, mm. */
const ABOVE_FOOT_MM = 1
/** Rises with which a join is tried, degrees above level, the usual one first. */
const JOIN_RISES_DEG = [30, 45, 20, LEAST_RISE_DEG]
/** Heights at which a join is tried at most. */
const MOST_HEIGHTS = 120

/**
 * A brace between two places. Refused where it would be printed nearly level, through the part or near to it, or where both are one
 * stilt.
 * @param wantedMm how thick it is to be; never thicker than the thinner shaft
 */
export function braceBetween(surface: Surface, a: Joint, b: Joint, wantedMm: number, others?: Others): Brace | NoRoute {
  const [lower, upper] = a.at[2] <= b.at[2] ? [a, b] : [b, a]
  if (lower.host.id === upper.host.id) return no('blocked', 'Both ends are on one stilt. Pick another stilt for the second end.')
  const across = Math.hypot(upper.at[0] - lower.at[0], upper.at[1] - lower.at[1]), riseDeg = degrees(Math.atan2(upper.at[2] - lower.at[2], across)), lengthMm = distance(lower.at, upper.at)
  if (lengthMm < 0.2) return no('blocked', 'These stilts touch here already. Pick places that are apart.')
  if (riseDeg < LEAST_RISE_DEG - 1e-6) return no('blocked', `This brace would rise by ${riseDeg.toFixed(0)}° only, and under ${LEAST_RISE_DEG}° it sags while it is printed. Pick a lower place for one end.`)
  const diameterMm = Math.min(wantedMm, thicknessAt(lower), thicknessAt(upper))
  const gapMm = surface.gapOfBeam(lower.at, upper.at, diameterMm / 2, diameterMm / 2)
  if (gapMm < GAP_FLOOR_MM) return no('blocked', `The brace would come ${gapMm < 0 ? 'through' : `within ${gapMm.toFixed(2)} mm of`} the part. Pick other places.`)
  const near = others?.field.nearest([{ from: lower.at, to: upper.at, fromRadius: diameterMm / 2, toRadius: diameterMm / 2 }], others.limitMm, others.but)
  if (near) return no('too-near', `The brace would ${near.gapMm > 0 ? `pass another stilt at ${near.gapMm.toFixed(2)} mm` : 'run into another stilt'}. Brace neighbours.`)
  return { ok: true, diameterMm, lower, upper, gapMm, lengthMm, riseDeg }
}

/** How thick a stilt is at a place, mm; estimated along its whole shaft. */
function thicknessAt({ host, at }: Joint): number {
  const [low, high] = [host.path[host.path.length - 1][2], host.path[1][2]], t = high > low ? (high - at[2]) / (high - low) : 0
  return host.sizes.kneeDiameterMm + (host.sizes.shaftFootDiameterMm - host.sizes.kneeDiameterMm) * Math.max(0, Math.min(1, t))
}

/** The highest brace that can tie two stilts to each other. @returns why there is none otherwise */
export function joinHigh(surface: Surface, a: Stilt, b: Stilt, wantedMm: number, others?: Others): Brace | NoRoute {
  let refused: NoRoute | null = null, best: Brace | null = null
  for (const [low, high] of [[a, b], [b, a]]) {
    let tried = 0
    // the upper end goes down from the top; the lower one is where the rise asks for it
    for (const upper of placesOn(high)) {
      if (tried++ > MOST_HEIGHTS || (best && upper.at[2] <= best.upper.at[2])) break
      let found = false
      for (const rise of JOIN_RISES_DEG) {
        const lower = risingTo(low, upper.at, rise), brace = lower && braceBetween(surface, lower, upper, wantedMm, others)
        if (!brace) continue
        if (!brace.ok) {
          refused ??= brace
          continue
        }
        best = brace
        found = true
        break
      }
      if (found) break
    }
  }
  return best ?? refused ?? no('blocked', 'These stilts have no heights in common between their knees and their feet.')
}

/** The place of a stilt from which a brace rises by an angle to a point; null where there is none. */
export function risingTo(host: Stilt, to: Vec3, riseDeg: number): Joint | null {
  let z = to[2], place: Joint | null = null
  // shafts lean, so the way across depends on the height: a few steps settle it
  for (let n = 0; n < 6; n++) {
    const [x, y] = (place as Joint | null)?.at ?? axisNear(host, z)
    const next = to[2] - Math.hypot(x - to[0], y - to[1]) * Math.tan(radians(riseDeg))
    place = placeAtHeight(host, next)
    if (!place) return null
    if (Math.abs(next - z) < 1e-4) break
    z = next
  }
  return place
}
function axisNear(host: Stilt, z: number): Vec3 {
  return placeAtHeight(host, z)?.at ?? host.path[1]
}

/** Pairs of stilts with feet of their own that stand beside each other, seen from above at the middle of their shafts: edges of the Delaunay triangulation no longer than a reach. */
export function neighboursOf(some: readonly Stilt[], reachMm: number): [Stilt, Stilt][] {
  // branches are held by what they hang on
  const stilts = some.filter(s => s.foot !== 'lost' && s.alone === s.nodes.length)
  const at = stilts.map(s => between(s.path[1], s.path[s.path.length - 1], 0.5))
  return neighbourPairs(at.map(([x, y]) => [x, y] as const), reachMm).map(([i, j]) => [stilts[i], stilts[j]])
}

/** A zigzag of braces between two stilts, from above their feet up, as far as there is room. */
export function zigzag(surface: Surface, a: Stilt, b: Stilt, { spacingMm, angleDeg }: Bracing, wantedMm: number, others?: Others): Brace[] {
  const ranges = [heightsOf(a), heightsOf(b)], out: Brace[] = []
  if (!ranges[0] || !ranges[1]) return out
  const low = Math.max(ranges[0][0], ranges[1][0]) + ABOVE_FOOT_MM, high = Math.min(ranges[0][1], ranges[1][1])
  const rise = Math.tan(radians(Math.max(LEAST_RISE_DEG, angleDeg)))
  for (let z = low, turn = 0; z < high; turn++) {
    const [from, to] = turn % 2 ? [b, a] : [a, b], lower = placeAtHeight(from, z)
    const upper = lower && raisedFrom(to, lower.at, rise)
    if (!lower || !upper) break
    const brace = braceBetween(surface, lower, upper, wantedMm, others)
    if (brace.ok) out.push(brace)
    z = upper.at[2] + spacingMm
  }
  return out
}

function raisedFrom(host: Stilt, from: Vec3, rise: number): Joint | null {
  let place: Joint | null = placeAtHeight(host, from[2])
  for (let n = 0; n < 6 && place; n++) {
    const next = from[2] + Math.hypot(place.at[0] - from[0], place.at[1] - from[1]) * rise
    if (Math.abs(next - place.at[2]) < 1e-4 && n > 0) break
    place = placeAtHeight(host, next)
  }
  return place
}

/** Braces between all neighbours of some stilts. @param wantedOf how thick a brace of a stilt is to be, mm */
export function braceThese(surface: Surface, stilts: readonly Stilt[], bracing: Bracing, wantedOf: (stilt: Stilt) => number, othersBut: (pair: readonly Stilt[]) => Others | undefined): Brace[] {
  return neighboursOf(stilts, bracing.reachMm).flatMap(([a, b]) => zigzag(surface, a, b, bracing, Math.min(wantedOf(a), wantedOf(b)), othersBut([a, b])))
}

/** The rows of braces, their joints put into the shafts, all at once. */
export function rowsOfBraces(index: PlanIndex, braces: readonly Pick<Brace, 'diameterMm' | 'lower' | 'upper'>[]): PlanRows {
  const { nodes, beams, joints } = jointsInto(index, braces.flatMap(b => [b.upper, b.lower]))
  const rows = braces.flatMap(({ diameterMm, lower }, i): PlanBeam[] => {
    const [from, to] = [joints[2 * i].id, joints[2 * i + 1].id]
    return from === to ? [] : [{ id: newId(), part: lower.host.part, kind: 'brace', from, to, fromDiameterMm: diameterMm, toDiameterMm: diameterMm }]
  })
  return { nodes, beams: [...beams, ...rows] }
}

/** The rows of one brace. */
export function rowsOfBrace(index: PlanIndex, brace: Pick<Brace, 'diameterMm' | 'lower' | 'upper'>): PlanRows {
  return rowsOfBraces(index, [brace])
}

/** A shaft of its own under a leaning one: a foot on the plate, and a joint in what it props up. */
export interface Prop {
  readonly ok: true
  readonly at: Joint
  readonly foot: Vec3
  readonly sizes: StiltSizes
  readonly gapMm: number
}
/** Detours of a prop's foot, mm; and to how many sides. */
const PROP_DETOURS_MM = [0, 1.5, 3, 5, 8], PROP_SIDES = 8

/** A prop under the middle of the longest leaning run of a shaft, straight down if it can, else leaning a little. */
export function propUnder(surface: Surface, stilt: Stilt, gauge: Gauge, plate: Plate, others?: Others): Prop | NoRoute {
  const { leanDeg } = shaftOf(stilt.path)
  if (stilt.foot === 'lost') return no('blocked', 'This stilt has no way down. Move its tip first.')
  if (leanDeg < 5) return no('blocked', 'This stilt stands upright; a prop helps under one that leans. Brace it instead.')
  let run = 1, longest = 0
  for (let i = 1; i + 1 < stilt.path.length; i++) {
    const across = Math.hypot(stilt.path[i + 1][0] - stilt.path[i][0], stilt.path[i + 1][1] - stilt.path[i][1])
    if (across > longest) [run, longest] = [i, across]
  }
  const top = [...placesOn(stilt)].filter(p => p.segment === run), middle = top[Math.floor(top.length / 2)]
  if (!middle) return no('blocked', 'This stilt has no shaft to prop up between knee and foot.')
  const thick = Math.min(gauge.shaftFootDiameterMm, Math.max(thicknessAt(middle), gauge.kneeDiameterMm)), sizes: StiltSizes = { ...sizesOf(gauge), shaftFootDiameterMm: thick }
  const field = others && { ...others, but: new Set([...(others.but ?? []), stilt.id]) }
  let refused: NoRoute = no('blocked', 'There is no way down to the plate under this shaft.')
  for (const detour of PROP_DETOURS_MM) {
    for (let side = 0; side < (detour === 0 ? 1 : PROP_SIDES); side++) {
      const a = (2 * Math.PI * side) / PROP_SIDES, foot: Vec3 = [middle.at[0] + detour * Math.cos(a), middle.at[1] + detour * Math.sin(a), 0], end: Vec3 = [foot[0], foot[1], sizes.footHeightMm]
      if (degrees(Math.atan2(detour, middle.at[2] - sizes.footHeightMm)) > gauge.leanLimitDeg) continue
      if (!onPlate(foot, sizes, plate)) {
        refused = no('off-plate', 'The foot of a prop would be outside the plate.')
        continue
      }
      const gapMm = Math.min(surface.gapOfBeam(middle.at, end, thick / 2, thick / 2), surface.gapOfDisc(foot, sizes.footDiameterMm / 2, sizes.footHeightMm * 0.4))
      if (gapMm < GAP_FLOOR_MM) continue
      if (field?.field.isNear([{ from: middle.at, to: end, fromRadius: thick / 2, toRadius: thick / 2 }], field.limitMm, field.but)) {
        refused = no('too-near', 'A prop here would come too near to another stilt.')
        continue
      }
      return { ok: true, at: middle, foot, sizes, gapMm }
    }
  }
  return refused
}

/** The rows of a prop: a joint in the shaft, a foot, and a beam between them that is no way down of its own. */
export function rowsOfProp(index: PlanIndex, { at, foot, sizes }: Prop): PlanRows {
  const into = jointInto(index, at), part = at.host.part, id = newId()
  const node: FootNode = {
    id, part, kind: 'foot', at: [foot[0], foot[1], foot[2]], pinned: false, on: { kind: 'plate' }, own: {},
    fitted: { shaftFootDiameterMm: sizes.shaftFootDiameterMm, footDiameterMm: sizes.footDiameterMm, footHeightMm: sizes.footHeightMm, footPenetrationMm: 0 },
  }
  const nodes: PlanNode[] = [...into.nodes, node]
  return { nodes, beams: [...into.beams, { id: newId(), part, kind: 'brace', from: into.id, to: id, fromDiameterMm: sizes.shaftFootDiameterMm, toDiameterMm: sizes.shaftFootDiameterMm }] }
}

function no(problem: NoRoute['problem'], reason: string): NoRoute {
  return { ok: false, problem, reason }
}
