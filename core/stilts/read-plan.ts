import type { Gauge, PlanFile } from '../contract'
import type { Vec3 } from '../mesh'
import { GAUGES, gaugeFor } from './gauges'
import { stiltsOfGraph, type Stilt } from './stilt'

/** The part and the raster that a plan is read for. */
export interface PlanTarget {
  readonly triangles: number
  readonly sizeMm: Vec3
  readonly pixelMm: number
}

/** What was read of a plan, and in sentences what was left out or mended. */
export interface ReadPlan {
  readonly stilts: Stilt[]
  readonly notes: string[]
}

/** A part's size may differ by this much and still be the same, mm. */
const SAME_SIZE_MM = 0.01
/** A foot this far from the plate's surface stands on it, mm. */
const ON_PLATE_MM = 0.05
/** Points nearer than this are one, mm. */
const SAME_POINT_MM = 1e-3

/** Whether a plan was made for this part; one that does not say is taken at its word. */
export function isPlanFor({ madeFor }: PlanFile, target: PlanTarget): boolean {
  return !madeFor || (madeFor.triangles === target.triangles && madeFor.sizeMm.every((v, i) => Math.abs(v - target.sizeMm[i]) <= SAME_SIZE_MM))
}

/** The stilts of a plan, without those that cannot be: incomplete, written twice, in one point, with a foot in the plate or above the tip. */
export function readStilts(plan: PlanFile, gauges: readonly Gauge[] = GAUGES): ReadPlan {
  const { stilts: all, broken } = stiltsOfGraph(plan)
  const notes: string[] = []
  const say = (count: number, what: string): void => {
    if (count > 0) notes.push(`${count === 1 ? '1 stilt' : `${count} stilts`} ${what}`)
  }
  say(broken, 'incomplete and left out.')
  const known = new Set<string>(), numbers = new Set<number>()
  let twice = 0, folded = 0, sunk = 0, renamed = 0
  let next = all.reduce((n, s) => Math.max(n, s.id), 0) + 1
  const stilts: Stilt[] = []
  for (const s of all) {
    const key = JSON.stringify([s.path, s.sizes])
    if (known.has(key)) {
      twice++
      continue
    }
    known.add(key)
    const foot = s.path[s.path.length - 1], tip = s.path[0]
    const length = s.path.slice(1).reduce((sum, p, i) => sum + Math.hypot(p[0] - s.path[i][0], p[1] - s.path[i][1], p[2] - s.path[i][2]), 0)
    if (length < SAME_POINT_MM || Math.hypot(s.path[1][0] - tip[0], s.path[1][1] - tip[1], s.path[1][2] - tip[2]) < SAME_POINT_MM || foot[2] >= tip[2]) {
      folded++
      continue
    }
    if (s.path.some(p => p[2] < -ON_PLATE_MM) || (s.foot === 'plate' && Math.abs(foot[2]) > ON_PLATE_MM)) {
      sunk++
      continue
    }
    const gauge = gaugeFor(s, gauges)
    if (gauge.id !== s.gauge) renamed++
    // of two stilts of one number the second gets a new one
    stilts.push({ ...s, gauge: gauge.id, id: numbers.has(s.id) ? next++ : s.id })
    numbers.add(s.id)
  }
  say(twice, 'written twice and taken once.')
  say(folded, 'without a length or with the foot above the tip, and left out.')
  say(sunk, 'with a foot that is not on the plate, and left out.')
  say(renamed, 'of a gauge that is not known here; the nearest one was taken.')
  return { stilts, notes }
}

/** Stilts moved along the plate. */
export function shifted(stilts: readonly Stilt[], dx: number, dy: number): Stilt[] {
  return dx === 0 && dy === 0 ? [...stilts] : stilts.map(s => ({ ...s, path: s.path.map(([x, y, z]): Vec3 => [x + dx, y + dy, z]) }))
}
