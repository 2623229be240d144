import type { PlanNode, Role } from '../contract'
import type { Vec3 } from '../mesh'
import type { StiltSizes } from '../stilts'

type TipNode = Extract<PlanNode, { kind: 'tip' }>

/** A place for a tip, and the cone that leads away from it. */
export interface Head {
  /** On the skin, and its outward unit normal there. */
  readonly point: Vec3
  readonly normal: Vec3
  readonly knee: Vec3
  readonly sizes: StiltSizes
  readonly gauge: string
  readonly role: Role
  /** Whether something begins there that nothing else holds. */
  readonly begins?: boolean
  /** How far what is below it keeps from the part, mm. */
  readonly gapMm: number
  /** The tip that stands there already, and stays what it is. */
  readonly tip?: TipNode
}

/** What hangs together above a place: one head whose knee that is, or several twigs that meet there. */
export interface Twig {
  readonly at: Vec3
  readonly diameterMm: number
  readonly tips: number
  readonly gapMm: number
  readonly head: Head | null
  /** Twigs that meet here, the one that goes on first. */
  readonly up: readonly Twig[]
}

/** From vertical, degrees: a little less than what is allowed, so that rounding never makes it more. */
export const LEAN_DEG = 43.5
export const LEAN_TAN = Math.tan((LEAN_DEG * Math.PI) / 180)
/** A beam is no more than so many times as long as its radius of gyration: a quarter of its diameter where it is round. */
export const MOST_SLENDER = 110

/** How thick a beam has to be for its length, mm. */
export function leastDiameter(lengthMm: number): number {
  return (4 * lengthMm) / MOST_SLENDER
}
/** What meets goes on as thick as all of it together, by its area. */
export function together(diameters: readonly number[]): number {
  return Math.sqrt(diameters.reduce((sum, d) => sum + d * d, 0))
}

/** A twig by its place across, to be searched for. */
export interface TwigEntry {
  readonly minX: number
  readonly minY: number
  readonly maxX: number
  readonly maxY: number
  readonly twig: Twig
}
export function entryOf(twig: Twig): TwigEntry {
  const [x, y] = twig.at
  return { minX: x, minY: y, maxX: x, maxY: y, twig }
}

/** Whether a beam keeps clear of what stands already; and where a gap is given, so far off the part, measured. */
export type IsFree = (from: Vec3, to: Vec3, radiusMm: number, gapMm?: number | null) => boolean
