import type { Gauge } from '../contract'
import { add, distance, dot, leanOf, scale, sub, unit, type Vec3 } from '../mesh'
import type { Others } from './clearance'
import { neckOf } from './contact'
import { GAP_FLOOR_MM } from './gauges'
import { jointInto, placesOn, type Joint } from './joint'
import type { PlanIndex } from './plan-index'
import { coneDirections, fitPenetration, gapOfCone, tipRefused, type NoRoute } from './route'
import { diametersOf, rowsOfStilt, sizesOf, type PlanRows, type Stilt, type StiltShape, type StiltSizes } from './stilt'
import type { Surface } from './surface'

/** A branch rises at least so much above level, degrees (common practice): it is printed from its joint up, layer on layer. */
export const LEAST_RISE_DEG = 15
/** A branch is looked for within this way across from its tip, mm. */
export const BRANCH_REACH_MM = 15
/** Places along a shaft that are tried, in growing steps from the highest one down: to its end, however long it is. */
const MOST_TRIES = 10
/** Nearer than this nothing branches, mm. */
const SHORTEST_MM = 0.8
/** From the skin a branch leaves by at least this, as the cosine to its normal. */
const LEAST_LEAVING = 0.2

/** A branch that can stand. */
export interface Branch {
  readonly ok: true
  readonly joint: Joint
  /** Its own way: tip, knee, joint. */
  readonly path: readonly [Vec3, Vec3, Vec3]
  readonly sizes: StiltSizes
  readonly gapMm: number
  /** From vertical, the steeper of cone and shaft left out. */
  readonly leanDeg: number
  readonly lengthMm: number
  readonly tight: boolean
}

/** Sizes of a branch of a gauge. */
export function branchSizes(gauge: Gauge): StiltSizes {
  const tip = gauge.branchTipMm, base = gauge.branchBaseMm
  return { ...sizesOf(gauge), tipShape: 'cone', tipDiameterMm: tip, penetrationMm: Math.min(gauge.penetrationMm, tip), kneeDiameterMm: Math.max(tip, Math.min(gauge.kneeDiameterMm, base)), shaftFootDiameterMm: base }
}

/** How far from vertical a branch may lean, degrees. */
export function branchLeanLimit(gauge: Gauge): number {
  return Math.min(gauge.leanLimitDeg, 90 - LEAST_RISE_DEG)
}

/**
 * A branch from a point of the skin into one of some stilts: at the highest place from which it still rises within the lean limit, or
 * lower where there is no room; along the normal if it can, else straight. The shortest of those that keep the gauge's gap.
 * @param only `at`: only here, where the joint is given already; `reachMm`: how far across it may be
 */
export function routeBranch(surface: Surface, point: Vec3, normal: Vec3, gauge: Gauge, hosts: readonly Stilt[], wanted: StiltSizes = branchSizes(gauge), others?: Others, { at, reachMm = BRANCH_REACH_MM }: { readonly at?: Joint; readonly reachMm?: number } = {}): Branch | NoRoute {
  const refused = tipRefused(surface, point, normal, wanted.tipDiameterMm)
  if (refused) return refused
  const limitDeg = branchLeanLimit(gauge), facts = { gap: false, near: false }
  let best: Branch | null = null
  for (const host of hosts) {
    if (host.foot === 'lost') continue
    for (const way of ways(surface, point, normal, gauge, wanted, host, limitDeg, facts, at?.host.id === host.id ? at : undefined, others, reachMm)) {
      if (best && (best.tight ? way.tight && way.gapMm <= best.gapMm : way.tight || way.lengthMm >= best.lengthMm)) continue
      best = way
    }
  }
  if (best) return best
  const from = hosts.length === 1 ? `from stilt ${hosts[0].number}` : 'from the stilts around'
  if (facts.near) return { ok: false, problem: 'too-near', reason: `A branch ${from} would come too near to another stilt. Pick a point with more room, or let it go from another stilt.` }
  if (facts.gap) return { ok: false, problem: 'blocked', reason: `The part is in the way of a branch ${from}. Pick a point that looks toward it, or another stilt.` }
  return { ok: false, problem: 'blocked', reason: `A branch has to rise: within ${limitDeg}° from vertical none leads here ${from}. Pick a point higher up or nearer to it.` }
}

/** Branches of a host that could stand, one for each way that the cone may leave the skin. */
function* ways(surface: Surface, point: Vec3, normal: Vec3, gauge: Gauge, wanted: StiltSizes, host: Stilt, limitDeg: number, facts: { gap: boolean; near: boolean }, at: Joint | undefined, others: Others | undefined, reachMm: number): Generator<Branch, void, void> {
  const places = (at ? [at] : [...placesOn(host)]).filter(j => Math.hypot(point[0] - j.at[0], point[1] - j.at[1]) <= reachMm && distance(point, j.at) >= SHORTEST_MM)
  const limits = others && { ...others, but: new Set([...(others.but ?? []), host.id]) }, neck = neckOf(wanted) / 2, thick = wanted.kneeDiameterMm / 2
  for (const direction of [...coneDirections(normal, limitDeg).slice(0, 3), null]) {
    /** The gap of the cone by its length: most branches of one direction have the same. */
    const coneGaps = new Map<number, number>()
    let tried = 0
    for (let i = 0; i < places.length && tried < MOST_TRIES; i += tried === 0 ? 1 : 2 ** (tried - 1)) {
      const joint = places[i], cone = Math.min(wanted.coneLengthMm, distance(point, joint.at) * 0.6), d = direction ?? unit(sub(joint.at, point)), knee = add(point, scale(d, cone))
      if (dot(d, normal) < LEAST_LEAVING || leanOf(point, knee) > limitDeg + 1e-6 || leanOf(knee, joint.at) > limitDeg + 1e-6) {
        // below the first place from which it rises they are tried in growing steps
        if (tried > 0) tried++
        continue
      }
      tried++
      const beams = [{ from: point, to: knee, fromRadius: neck, toRadius: thick }, { from: knee, to: joint.at, fromRadius: thick, toRadius: wanted.shaftFootDiameterMm / 2 }]
      const key = direction ? cone : i
      if (!coneGaps.has(key)) coneGaps.set(key, gapOfCone(surface, point, knee, wanted, GAP_FLOOR_MM))
      const coneMm = coneGaps.get(key) as number
      if (coneMm < GAP_FLOOR_MM || surface.cast(knee, sub(joint.at, knee), distance(knee, joint.at))) {
        facts.gap = true
        // no joint of this direction and length is any better
        if (coneMm < GAP_FLOOR_MM && direction && cone === wanted.coneLengthMm) break
        continue
      }
      if (limits?.field.isNear(beams, limits.limitMm, limits.but)) {
        facts.near = true
        continue
      }
      const gapMm = Math.min(coneMm, surface.gapOfBeam(knee, joint.at, thick, wanted.shaftFootDiameterMm / 2, GAP_FLOOR_MM))
      if (gapMm < GAP_FLOOR_MM) {
        facts.gap = true
        continue
      }
      const sizes = fitPenetration(surface, point, d, { ...wanted, coneLengthMm: cone })
      yield { ok: true, joint, path: [point, knee, joint.at], sizes, gapMm, leanDeg: Math.max(leanOf(point, knee), leanOf(knee, joint.at)), lengthMm: cone + distance(knee, joint.at), tight: gapMm < gauge.gapMm }
      break
    }
  }
}

function branchWay(path: readonly Vec3[], sizes: StiltSizes, host: Stilt, joint: Joint): Pick<StiltShape, 'path' | 'sizes' | 'foot' | 'shared'> {
  const all = diametersOf(host)
  return { path: [...path, ...host.path.slice(joint.segment + 1)], sizes, foot: host.foot, shared: { from: 2, diameters: all.slice(joint.segment) } }
}

/** A branch as a stilt: its own way and, from the joint on, that of its host. */
export function shapeOfBranch(anchored: Pick<StiltShape, 'anchor' | 'gauge' | 'role'> & Partial<Pick<StiltShape, 'own' | 'spread'>>, { path, sizes, joint }: Branch): StiltShape {
  const { host } = joint
  return { own: {}, footPinned: false, ...(host.footAnchor && { footAnchor: host.footAnchor }), ...anchored, ...branchWay(path, sizes, host, joint) }
}

/** The rows that add a branch to a plan, or give a branch that is there already this way. @param names the rows of one that is there */
export function rowsOfBranch(index: PlanIndex, shape: StiltShape, joint: Joint, number: number, names: { readonly tip?: string; readonly knee?: string } = {}): PlanRows {
  const into = jointInto(index, joint)
  const from = shape.shared?.from ?? 2, path = [...shape.path.slice(0, from), into.at]
  const rows = rowsOfStilt({ ...shape, path: [...path, ...shape.path.slice(from + 1)] }, { part: joint.host.part, number, nodes: [...(names.tip === undefined ? [] : [names.tip]), ...(names.knee === undefined ? [] : [names.knee])] })
  const own = rows.nodes.slice(0, from), beams = rows.beams.slice(0, from), last = beams.length - 1
  beams[last] = { ...beams[last], to: into.id }
  return { nodes: [...into.nodes, ...own], beams: [...into.beams, ...beams] }
}
