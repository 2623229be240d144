import type { Gauge, PlanBeam, PlanNode } from '../contract'
import { between, degrees, distance, leanOf, type Vec3 } from '../mesh'
import { axisOf } from './axis'
import { branchLeanLimit, LEAST_RISE_DEG } from './branch'
import type { Others } from './clearance'
import { GAP_FLOOR_MM, TIP_LEFT_OUT_MM } from './gauges'
import { jointInto, type Joint } from './joint'
import type { PlanIndex } from './plan-index'
import { LEAST_SHAFT_MM, onPlate, type NoRoute, type Plate } from './route'
import type { PlanRows, Stilt, StiltShape } from './stilt'
import type { Surface } from './surface'

/** A node of a stilt somewhere else, with all that follows it, or why it cannot be there. */
export type MovedNode = { readonly ok: true; readonly rows: PlanRows; readonly shape: StiltShape; readonly gapMm: number; readonly leanDeg: number } | NoRoute

/** What a node that is moved has to do with. */
export interface MovingGround {
  readonly surface: Surface
  readonly index: PlanIndex
  readonly gauge: Gauge
  readonly plate: Plate
  /** Stilts that it keeps clear of; those that hang together with it are left out. */
  readonly others?: Others
  /** Lean limit and gap count for nothing: for who knows better. Nothing goes through the part all the same. */
  readonly force?: boolean
}

/** Off a straight line by less than this is on it, mm. */
const STRAIGHT_MM = 1e-3

/**
 * Moves the knee, a joint or the foot of a stilt. What only rides on a straight shaft beside it, such as the joint of a brace, goes
 * along; branches and braces that end there follow. Refused where a shaft would lean too much, come too near to the part or beside the
 * plate, a branch would not rise or a brace would lie.
 * @param i which node of the stilt's way; not its tip
 */
export function moveNode({ surface, index, gauge, plate, others, force = false }: MovingGround, stilt: Stilt, i: number, to: Vec3): MovedNode {
  const last = stilt.path.length - 1, place: Vec3 = i === last && stilt.foot === 'plate' ? [to[0], to[1], 0] : to
  const moves = new Map<string, Vec3>([[stilt.nodes[i], place]])
  for (const way of [-1, 1]) takeRiders(index, stilt, i, way, place, moves)
  const limitDeg = force ? 80 : gauge.leanLimitDeg, at = (id: string): Vec3 => moves.get(id) ?? (index.nodes.get(id) as PlanNode).at
  const beams = new Map<string, PlanBeam>([...moves.keys()].flatMap(id => index.beamsAt(id)).map(b => [b.id, b]))
  let gapMm = Infinity, steepest = 0
  for (const b of beams.values()) {
    const from = at(b.from), end = index.nodes.get(b.to) as PlanNode, foot = end.kind === 'foot' && end.on.kind === 'plate' ? end : null
    const target = foot ? ([at(b.to)[0], at(b.to)[1], foot.fitted.footHeightMm] as const) : at(b.to), wrong = wrongWith(b, from, target, limitDeg, gauge, !!foot)
    if (wrong) return wrong
    if (b.kind !== 'brace') steepest = Math.max(steepest, leanOf(from, target))
    const gap = gapOf(surface, b, from, target)
    const before = gapOf(surface, b, (index.nodes.get(b.from) as PlanNode).at, foot ? [end.at[0], end.at[1], foot.fitted.footHeightMm] : end.at)
    if (gap < (force ? 0 : Math.min(GAP_FLOOR_MM, before) - 1e-6)) return no('blocked', `${said(b)} would come ${gap < 0 ? 'through' : `within ${gap.toFixed(2)} mm of`} the part. Choose another place.`)
    gapMm = Math.min(gapMm, gap)
    if (foot && moves.has(b.to)) {
      if (!onPlate(at(b.to), { ...stilt.sizes, ...foot.fitted }, plate)) return no('off-plate', 'The foot would reach over the edge of the plate. Keep it farther inside.')
      gapMm = Math.min(gapMm, surface.gapOfDisc(at(b.to), foot.fitted.footDiameterMm / 2, foot.fitted.footHeightMm * 0.4))
      if (gapMm < (force ? 0 : GAP_FLOOR_MM)) return no('blocked', 'The foot would touch the part. Choose another place.')
    }
    const near = b.kind === 'brace' || force ? null : others?.field.nearest([{ from, to: target, fromRadius: b.fromDiameterMm / 2, toRadius: b.toDiameterMm / 2 }], others.limitMm, others.but)
    if (near) return no('too-near', `It would ${near.gapMm > 0 ? `pass another stilt at ${near.gapMm.toFixed(2)} mm` : 'run into another stilt'}, and under ${others?.limitMm.toFixed(2)} mm this resin webs between them.`)
  }
  const tip = index.nodes.get(stilt.id) as Extract<PlanNode, { kind: 'tip' }>, cone = distance(at(stilt.nodes[0]), at(stilt.nodes[1]))
  const nodes = [...moves].map(([id, p]): PlanNode => ({ ...(index.nodes.get(id) as PlanNode), at: [p[0], p[1], p[2]], ...(id === stilt.nodes[i] && i > 1 && { pinned: true }) }))
  // where the knee goes, the cone is as long as that makes it
  if (i === 1) nodes.push({ ...tip, own: { ...tip.own, coneLengthMm: round(cone) }, fitted: { ...tip.fitted, coneLengthMm: cone } })
  const shape = { ...stilt, path: stilt.nodes.map(at), sizes: i === 1 ? { ...stilt.sizes, coneLengthMm: cone } : stilt.sizes }
  return { ok: true, rows: { nodes, beams: [] }, shape, gapMm, leanDeg: steepest }
}

/** Nodes on the straight shaft beside one that moves, to the next bend: each stays as far along as it is. */
function takeRiders(index: PlanIndex, { path, nodes, foot, sizes }: Stilt, i: number, way: number, to: Vec3, moves: Map<string, Vec3>): void {
  const axis = axisOf({ path, foot, sizes }), last = path.length - 1
  let end = i + way
  while (end > 1 && end < last && (index.nodes.get(nodes[end]) as PlanNode).kind === 'joint' && !(index.nodes.get(nodes[end]) as PlanNode).pinned && isBetween(axis[end], axis[i], axis[end + way])) end += way
  if (end < 1 || end > last) return
  const moved: Vec3 = i === last && foot === 'plate' ? [to[0], to[1], sizes.footHeightMm] : to, whole = distance(axis[i], axis[end])
  for (let k = i + way; k !== end; k += way) moves.set(nodes[k], between(moved, axis[end], distance(axis[i], axis[k]) / whole))
}

function isBetween(p: Vec3, a: Vec3, b: Vec3): boolean {
  return distance(a, p) + distance(p, b) - distance(a, b) < STRAIGHT_MM
}

function wrongWith(b: PlanBeam, from: Vec3, to: Vec3, limitDeg: number, gauge: Gauge, onFoot: boolean): NoRoute | null {
  const lean = leanOf(from, to)
  if (b.kind === 'brace' && !onFoot) {
    const rise = degrees(Math.atan2(Math.abs(from[2] - to[2]), Math.hypot(from[0] - to[0], from[1] - to[1])))
    return rise < LEAST_RISE_DEG - 1e-6 ? no('blocked', `A brace would rise by ${rise.toFixed(0)}° only there; under ${LEAST_RISE_DEG}° it sags.`) : null
  }
  if (from[2] - to[2] < (onFoot ? LEAST_SHAFT_MM : 0.05)) return no('blocked', `${said(b)} has to come down from its upper end. Keep it higher, or what is under it lower.`)
  const limit = b.kind === 'branch' ? Math.max(limitDeg, branchLeanLimit(gauge)) : limitDeg
  return lean > limit + 0.5 ? no('blocked', `${said(b)} would lean ${lean.toFixed(0)}°; at most ${limit}° stands.`) : null
}
function said({ kind }: PlanBeam): string {
  return kind === 'cone' ? 'The cone' : kind === 'branch' ? 'A branch' : kind === 'brace' ? 'A brace' : kind === 'leg' ? 'A leg of its foot' : 'The shaft'
}

function gapOf(surface: Surface, b: PlanBeam, from: Vec3, to: Vec3): number {
  const length = distance(from, to) || 1e-9, skip = b.kind === 'cone' ? Math.min(0.9, TIP_LEFT_OUT_MM / length) : 0
  return surface.gapOfBeam(between(from, to, skip), to, (b.fromDiameterMm + (b.toDiameterMm - b.fromDiameterMm) * skip) / 2, b.toDiameterMm / 2)
}

/** The rows that put a joint into a shaft by hand: it stays where it is whatever moves beside it. Null where there is one already. */
export function rowsOfJoint(index: PlanIndex, joint: Joint): (PlanRows & { readonly id: string }) | null {
  const into = jointInto(index, joint)
  if (into.nodes.length === 0) return null
  return { id: into.id, nodes: into.nodes.map(n => ({ ...n, pinned: true })), beams: into.beams }
}

function round(mm: number): number {
  return Math.round(mm * 1000) / 1000
}
function no(problem: NoRoute['problem'], reason: string): NoRoute {
  return { ok: false, problem, reason }
}
