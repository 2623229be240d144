import type { Gauge, PlanNode } from '../contract'
import { degrees, type Vec3 } from '../mesh'
import type { Stand } from '../pose'
import { gaugeFor } from './gauges'
import type { PlanIndex } from './plan-index'
import { goneUnder } from './reseat'
import { gapOfPath } from './route'
import type { Stilt, StiltShape } from './stilt'
import type { Surface } from './surface'

/** A shaft ends so far above its foot at least, mm. */
const LEAST_END_MM = 0.5
/** What comes nearer than this runs into the part, mm. */
const RUNS_INTO_MM = 0.02
/** Stands are turned alike where no number of their rotations differs by more. */
const ALIKE = 1e-9
/** The lean of a last stretch over its limit by less than this is as good as within it, degrees. */
const LEAN_SLACK_DEG = 0.5

/** How far what stands under a part moves, mm, where the part comes from one stand to another; null where it is turned otherwise then. */
export function shiftBetween(before: Stand, after: Stand): Vec3 | null {
  if ([0, 1, 2, 4, 5, 6, 8, 9, 10].some(i => Math.abs(before[i] - after[i]) > ALIKE)) return null
  return [after[3] - before[3], after[7] - before[7], after[11] - before[11]]
}

/**
 * The nodes of stilts that hang together, moved along with the part that they stand under; only feet on the plate stay at its height.
 * Null where they cannot stand so: what one touches or stands on is gone, one runs into the part, or has not the height it needs.
 * @param surface the part as it is and stands now @param group all stilts of the structure
 */
export function carriedAlong(surface: Surface, index: PlanIndex, group: readonly Stilt[], nodes: readonly string[], shift: Vec3, gauges: readonly Gauge[]): PlanNode[] | null {
  if (group.some(s => s.foot === 'lost' || !standsAt(surface, s, moved(s, shift), gauges))) return null
  return nodes.flatMap(id => index.nodes.get(id) ?? []).map(n => shifted(n, shift))
}

/** The nodes of a part that is raised: all move with it, and only feet on the plate stay. @param index the plan as it is */
export function raisedRows(index: PlanIndex, part: string, byMm: number): PlanNode[] {
  return [...index.nodes.values()].filter(n => n.part === part).map(n => shifted(n, [0, 0, byMm]))
}

function shifted(n: PlanNode, shift: Vec3): PlanNode {
  return { ...n, at: n.kind === 'foot' && n.on.kind === 'plate' ? [n.at[0] + shift[0], n.at[1] + shift[1], n.at[2]] : by(n.at, shift) }
}

function moved(stilt: Stilt, shift: Vec3): StiltShape {
  const last = stilt.path.length - 1
  return { ...stilt, path: stilt.path.map((p, i): Vec3 => (i === last && stilt.foot === 'plate' ? [p[0] + shift[0], p[1] + shift[1], p[2]] : by(p, shift))), ...(stilt.legs && { legs: stilt.legs.map(l => ({ ...l, at: by(l.at, shift) })) }) }
}
const by = (p: Vec3, s: Vec3): [number, number, number] => [p[0] + s[0], p[1] + s[1], p[2] + s[2]]

function standsAt(surface: Surface, before: Stilt, now: StiltShape, gauges: readonly Gauge[]): boolean {
  if (goneUnder(surface, now) || gapOfPath(surface, now) < RUNS_INTO_MM) return false
  const last = now.path.length - 1
  if (now.foot !== 'plate') return true
  const end = now.path[last - 1][2] - now.path[last][2]
  return end >= now.sizes.footHeightMm + LEAST_END_MM && endLean(now.path) <= Math.max(endLean(before.path), gaugeFor(before, gauges).leanLimitDeg) + LEAN_SLACK_DEG
}
/** How much the last stretch of a way leans, degrees. */
function endLean(path: readonly Vec3[]): number {
  const [a, b] = path.slice(-2)
  return degrees(Math.atan2(Math.hypot(a[0] - b[0], a[1] - b[1]), a[2] - b[2]))
}
