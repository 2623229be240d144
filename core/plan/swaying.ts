import type { Vec3 } from '../mesh'
import type { Joint, PlanIndex, Stilt } from '../stilts'

/** A piece that sways too far under the side pull, and how all that holds it moves with it. */
export interface Swaying {
  /** How far it sways, in times of what it may. */
  readonly times: number
  /** The work that is stored along x and along y together, N·mm. */
  readonly workNmm: number
  /** By node of the plan, mm along x, y and z: three numbers under the pull along x, and three under that along y. */
  readonly moved: ReadonlyMap<string, Float64Array>
}

/** A place of a stilt, and how it moves with each piece that sways; null where it does not. */
export interface MovingPlace {
  readonly joint: Joint
  readonly moved: readonly (Float64Array | null)[]
}

/** Places along a beam are so far from each other, mm, and so high above the plate. */
const STEP_MM = 3, LOWEST_MM = 1.2

/** Places along what stilts have of their own, by what moves how. @param mine whether something may be joined to a stilt */
export function placesAlong(index: PlanIndex, stilts: readonly Stilt[], swaying: readonly Swaying[], mine: (stilt: Stilt) => boolean): MovingPlace[] {
  return stilts.filter(mine).flatMap(host => {
    const last = host.beams.length - 1, out: MovingPlace[] = []
    // a foot on the model has a cone of its own, which nothing joins
    for (let segment = 1; segment < Math.min(host.alone, host.foot === 'model' ? last : last + 1); segment++) {
      const beam = index.beams.get(host.beams[segment]), from = beam && index.nodes.get(beam.from), to = beam && index.nodes.get(beam.to)
      if (!from || !to) continue
      const [a, b] = [from.at, to.at], steps = Math.max(1, Math.round(Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]) / STEP_MM)), ends = swaying.map(({ moved }) => [moved.get(from.id), moved.get(to.id)] as const)
      for (let i = 0; i < steps; i++) {
        const share = i / steps, at: Vec3 = [a[0] + (b[0] - a[0]) * share, a[1] + (b[1] - a[1]) * share, a[2] + (b[2] - a[2]) * share]
        if (at[2] < LOWEST_MM) break
        out.push({ joint: { host, segment, share, at }, moved: ends.map(([p, q]) => (p && q ? part(p, q, share) : null)) })
      }
    }
    return out
  })
}

function part(from: Float64Array, to: Float64Array, share: number): Float64Array {
  const out = new Float64Array(from.length)
  for (let k = 0; k < out.length; k++) out[k] = from[k] + (to[k] - from[k]) * share
  return out
}

/**
 * How much of the sway of a piece a bar between two places takes away, at the most: with s, by how much they move apart along it, and the work W
 * that is stored, it is r / (1 + r) for r = k s² / 2W, for nothing gives less along a line than s² / 2W for each newton (Clapeyron and Castigliano,
 * as in any textbook of structures). So bars stand best where lines are stretched most (Michell 1904).
 * @param stiffness of the bar along it, N/mm; @param along its unit direction; @param lower null where that end does not move
 */
export function eased({ workNmm }: Swaying, stiffness: number, along: Vec3, upper: Float64Array, lower: Float64Array | null): number {
  const [x, y, z] = along, u = upper, l = lower
  const alongX = (u[0] - (l ? l[0] : 0)) * x + (u[1] - (l ? l[1] : 0)) * y + (u[2] - (l ? l[2] : 0)) * z
  const alongY = (u[3] - (l ? l[3] : 0)) * x + (u[4] - (l ? l[4] : 0)) * y + (u[5] - (l ? l[5] : 0)) * z, squares = alongX * alongX + alongY * alongY
  return easedBy(workNmm, stiffness, squares)
}

/** The same, by the square of how much its ends move apart along it, mm². */
export function easedBy(workNmm: number, stiffness: number, squares: number): number {
  const r = workNmm > 0 ? (stiffness * squares) / (2 * workNmm) : 0
  return r / (1 + r)
}

/** What a round bar resists along itself, N/mm. */
export function barStiffness(modulusNMm2: number, diameterMm: number, lengthMm: number): number {
  return (modulusNMm2 * (Math.PI / 4) * diameterMm ** 2) / lengthMm
}
export function barVolume(diameterMm: number, lengthMm: number): number {
  return (Math.PI / 4) * diameterMm ** 2 * lengthMm
}
