import RBush from 'rbush'
import type { Gauge, StiltVerdict } from '../contract'
import { OFF_LIMITS, PRIZED } from '../marks'
import { add, cross, distance, leanOf, scale, sub, unit, type Vec3 } from '../mesh'
import { normalFromSource } from '../pose'
import { contactOf, slantOf } from './contact'
import { GAP_FLOOR_MM } from './gauges'
import { BEAD_MM, gapsOfPath } from './route'
import type { PlanIndex } from './plan-index'
import { diametersOf, shaftOf, type Stilt, type StiltShape } from './stilt'
import type { Surface } from './surface'

/** What stilts are judged by besides the part. */
export interface Judging {
  readonly gauge: Gauge
  /** Whether a node is held by more than the stilt itself: a brace, or another stilt that joins there. */
  readonly isHeld?: (node: string) => boolean
  /** How thick its segments are at both ends in the plan, mm; as thick as an even taper makes them where left out. */
  readonly diameters?: readonly (readonly [number, number])[]
}

/** A lean over its limit by less than this is as good as within it, degrees. */
const LEAN_SLACK_DEG = 0.5

/** Places under a tip, by its radius. */
const AROUND = [[1, 0], [-1, 0], [0, 1], [0, -1]] as const
/** Ways across in which a part is measured beside a tip. */
const ACROSS = 6

/**
 * How thick that is what a tip holds, mm: along the tip, and across it a tip's width inside, whichever is less; so the edge of a blade is
 * as thick as the blade there, a film as thin as it is. Infinity where there is no other side.
 */
export function thicknessAt(surface: Surface, { path, sizes }: Pick<StiltShape, 'path' | 'sizes'>): number {
  const [tip, knee] = path, inward = unit(sub(tip, knee)), u = unit(cross(inward, Math.abs(inward[0]) < 0.8 ? [1, 0, 0] : [0, 1, 0])), v = cross(inward, u)
  // a tip at the very edge of something holds what is beside the edge: where it is thickest under the tip counts
  let along = surface.thickness(tip, inward), at = tip
  for (const [x, y] of AROUND) {
    const skin = surface.nearest(add(tip, add(scale(u, (x * sizes.tipDiameterMm) / 2), scale(v, (y * sizes.tipDiameterMm) / 2))), sizes.tipDiameterMm)
    const mm = skin ? surface.thickness(skin.point, scale(skin.normal, -1)) : 0
    if (skin && mm > along) {
      along = mm
      at = skin.point
    }
  }
  const middle = add(at, scale(inward, Math.min(sizes.tipDiameterMm, along / 2)))
  let least = along
  for (let i = 0; i < ACROSS; i++) {
    const a = (Math.PI * i) / ACROSS, way = add(scale(u, Math.cos(a)), scale(v, Math.sin(a)))
    least = Math.min(least, surface.thickness(middle, way) + surface.thickness(middle, scale(way, -1)))
  }
  return least
}

/** What there is to say about how near a stilt comes to the part; null where it keeps clear. */
export function gapVerdict(surface: Surface, stilt: StiltShape & Partial<Pick<Stilt, 'id'>>, { gapMm: wantedMm }: Pick<Gauge, 'gapMm'>, diameters?: Judging['diameters']): Extract<StiltVerdict, { kind: 'gap' }> | null {
  const { path, foot } = stilt
  if (foot === 'lost') return null
  const way = path.slice(0, stilt.shared ? stilt.shared.from + 1 : path.length), { coneMm, shaftMm } = gapsOfPath(surface, stilt, diameters), gapMm = Math.min(coneMm, shaftMm)
  // a cone comes near to the skin around its tip, whatever it does; below the knee there has to be room
  const limitMm = foot === 'model' || shaftMm >= wantedMm - 1e-6 ? GAP_FLOOR_MM : wantedMm
  return gapMm < limitMm - 1e-6 && !isBead(stilt) ? { kind: 'gap', at: middleOf(way), stilts: stilt.id === undefined ? [] : [stilt.id], gapMm, limitMm } : null
}

/** Whether a stilt is a bead between two faces of the model, which fuses with both whichever way it leans. */
function isBead({ path, foot }: Pick<StiltShape, 'path' | 'foot'>): boolean {
  return foot === 'model' && distance(path[0], path[path.length - 1]) <= BEAD_MM
}

/** All there is to say about a stilt by itself as it stands; what is lost has nothing to be judged. */
export function judgeStilt(surface: Surface, stilt: StiltShape & Partial<Pick<Stilt, 'id' | 'nodes'>>, { gauge, isHeld, diameters }: Judging): StiltVerdict[] {
  if (stilt.foot === 'lost') return []
  const { path, sizes } = stilt, [tip, knee] = path, stilts = stilt.id === undefined ? [] : [stilt.id], out: StiltVerdict[] = []
  // what a branch hangs on is judged with the stilt that it belongs to
  const way = path.slice(0, stilt.shared ? stilt.shared.from + 1 : path.length), { lengthMm, leanDeg: shaftLean } = shaftOf(way)
  const gap = gapVerdict(surface, stilt, gauge, diameters)
  if (gap) out.push(gap)
  const slant = slantOf(path, normalFromSource(surface, stilt.anchor.normal)), contact = contactOf(sizes, slant)
  const thicknessMm = thicknessAt(surface, stilt)
  if (contact.diameterMm > thicknessMm) out.push({ kind: 'thick', at: tip, stilts, tipMm: contact.diameterMm, thicknessMm })
  const worth = surface.worthAt(tip)
  if (worth === PRIZED || worth === OFF_LIMITS) out.push({ kind: 'scar', at: tip, stilts, worth: worth === PRIZED ? 'prized' : 'off-limits', areaMm2: contact.areaMm2 })
  const coneLean = leanOf(tip, knee), leanDeg = Math.max(coneLean, shaftLean)
  if (leanDeg > gauge.leanLimitDeg + LEAN_SLACK_DEG && !isBead(stilt)) out.push({ kind: 'lean', at: knee, stilts, leanDeg, limitDeg: gauge.leanLimitDeg })
  const free = lengthMm > gauge.longestMm ? tooLong(way, diameters ?? diametersOf(stilt), gauge, stilt.nodes, isHeld) : null
  if (free) out.push({ kind: 'slender', at: free.at, stilts, freeMm: free.mm, limitMm: free.limitMm })
  if (stilt.forced !== undefined) out.push({ kind: 'forced', at: tip, stilts, because: stilt.forced })
  return out
}

function middleOf(path: readonly Vec3[]): Vec3 {
  const i = Math.floor((path.length - 1) / 2), a = path[i], b = path[i + 1]
  return [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2]
}

/** How long a shaft may be that nothing holds in between, mm: a thicker one than its gauge's in the same measure longer. */
export function longestFree({ longestMm, kneeDiameterMm }: Pick<Gauge, 'longestMm' | 'kneeDiameterMm'>, thinMm: number): number {
  return longestMm * Math.max(1, thinMm / kneeDiameterMm)
}

/** How thick a shaft has to be at least for a length that nothing holds in between to be no more than its gauge allows, mm; 0 where any thickness does. */
export function leastForFree({ longestMm, kneeDiameterMm }: Pick<Gauge, 'longestMm' | 'kneeDiameterMm'>, lengthMm: number): number {
  return lengthMm > longestMm ? (kneeDiameterMm * lengthMm) / longestMm : 0
}

/** A stretch of a shaft between two places where something holds it: the places in its way between which it lies, its length and its thinnest, mm. */
export interface FreeStretch {
  readonly from: number
  readonly to: number
  readonly lengthMm: number
  readonly thinMm: number
}
/** The stretches of what a stilt stands on alone, from its knee down. */
export function freeStretches(index: PlanIndex, { nodes, beams, path, alone }: Stilt): FreeStretch[] {
  const out: FreeStretch[] = []
  let from = 1, lengthMm = 0, thinMm = Infinity
  for (let i = 1; i < Math.min(alone, nodes.length - 1); i++) {
    const beam = index.beams.get(beams[i])
    lengthMm += distance(path[i], path[i + 1])
    thinMm = Math.min(thinMm, beam?.fromDiameterMm ?? Infinity, beam?.toDiameterMm ?? Infinity)
    if (i + 1 < nodes.length - 1 && !index.isHeld(nodes[i + 1])) continue
    out.push({ from, to: i + 1, lengthMm, thinMm })
    from = i + 1
    lengthMm = 0
    thinMm = Infinity
  }
  return out
}

/** The stretch of a shaft that nothing holds for longest beyond what it may be; null where all are held soon enough. */
function tooLong(path: readonly Vec3[], diameters: readonly (readonly [number, number])[], gauge: Gauge, nodes: readonly string[] | undefined, isHeld: Judging['isHeld']): { readonly mm: number; readonly limitMm: number; readonly at: Vec3 } | null {
  let worst: { mm: number; limitMm: number; at: Vec3 } | null = null, length = 0, thinMm = Infinity, start = path[1]
  for (let i = 1; i + 1 < path.length; i++) {
    length += distance(path[i], path[i + 1])
    thinMm = Math.min(thinMm, ...diameters[i])
    const end = path[i + 1], limitMm = longestFree(gauge, thinMm)
    if (length > limitMm && length / limitMm > (worst ? worst.mm / worst.limitMm : 0)) worst = { mm: length, limitMm, at: [(start[0] + end[0]) / 2, (start[1] + end[1]) / 2, (start[2] + end[2]) / 2] }
    if (nodes && isHeld?.(nodes[i + 1])) {
      length = 0
      thinMm = Infinity
      start = end
    }
  }
  return worst
}

interface Touch {
  readonly minX: number
  readonly minY: number
  readonly maxX: number
  readonly maxY: number
  readonly at: Vec3
  readonly radius: number
  readonly id: string
}

/** Pairs of tips that leave less than a gap between them, nearest first: the resin webs there. */
export function judgeTips(stilts: readonly Stilt[], webMm: number): StiltVerdict[] {
  const touches = stilts.flatMap((s): Touch[] => {
    if (s.foot === 'lost') return []
    const at = s.path[0], radius = contactOf(s.sizes).diameterMm / 2
    return [{ minX: at[0] - radius, minY: at[1] - radius, maxX: at[0] + radius, maxY: at[1] + radius, at, radius, id: s.id }]
  })
  const tree = new RBush<Touch>().load(touches), out: Extract<StiltVerdict, { kind: 'tips' }>[] = []
  for (const a of touches) {
    for (const b of tree.search({ minX: a.minX - webMm, minY: a.minY - webMm, maxX: a.maxX + webMm, maxY: a.maxY + webMm })) {
      const gapMm = a.id < b.id ? distance(a.at, b.at) - a.radius - b.radius : Infinity
      if (gapMm < webMm - 1e-6) out.push({ kind: 'tips', at: [(a.at[0] + b.at[0]) / 2, (a.at[1] + b.at[1]) / 2, (a.at[2] + b.at[2]) / 2], stilts: [a.id, b.id], gapMm, limitMm: webMm })
    }
  }
  return out.sort((a, b) => a.gapMm - b.gapMm || (a.stilts[0] < b.stilts[0] ? -1 : 1))
}

/** Room that the jaws of a cutter need beside a tip, mm, and ways that they may come from. Our own choice. */
const CUTTER_MM = 6, WAYS = 12

/** Whether a cutter can come at the tip from some side: across its cone, half way to the knee. */
export function hasCutterRoom(surface: Surface, path: readonly Vec3[]): boolean {
  const [tip, knee] = path, along = unit(sub(knee, tip)), middle: Vec3 = [(tip[0] + knee[0]) / 2, (tip[1] + knee[1]) / 2, (tip[2] + knee[2]) / 2]
  const u = unit(cross(along, Math.abs(along[0]) < 0.8 ? [1, 0, 0] : [0, 1, 0])), v = cross(along, u)
  for (let i = 0; i < WAYS; i++) {
    const a = (2 * Math.PI * i) / WAYS
    if (!surface.cast(middle, add(scale(u, Math.cos(a)), scale(v, Math.sin(a))), CUTTER_MM)) return true
  }
  return false
}
