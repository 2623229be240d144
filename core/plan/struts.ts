import RBush from 'rbush'
import { leastDiameter } from '../forest'
import { between, distance, type Vec3 } from '../mesh'
import { braceBetween, GAP_FLOOR_MM, placeNow, rowsOfBraces, type Joint, type PlanDraft, type PlanIndex, type Structure, type Surface } from '../stilts'
import { barStiffness, barVolume, eased, type MovingPlace, type Swaying } from './swaying'

/** A strut is so long at least and at the most, mm, and rises by this at least, as its tangent: 35°. */
const LEAST_LONG_MM = 2, LONGEST_MM = 18, RISES = 0.7
/** No strut is thinner than that, mm; nor by more than this share than its length asks for, where what it ends in is. */
const LEAST_MM = 0.8, SHARE_OF_WANTED = 0.95
/** Beams that come so near to an end of a strut meet it there, mm. */
const MEETS_MM = 2.5
/** So many struts are made before it is asked again what sways; their middles are so far apart, mm; and so many places are tried. */
const AT_ONCE = 20, APART_MM = 6, MOST_TRIED = 400
/** Tips that hang together over trunks and braces at the most: more of them cannot be cut off one after the other. */
export const MOST_TOGETHER = 48

interface Strut {
  readonly upper: Joint
  readonly lower: Joint
  readonly thickMm: number
  /** What it eases, by its resin. */
  readonly worth: number
}

/** Puts struts into a plan where they keep clear of all else and do not tie too many to each other. */
export class StrutMaker {
  readonly #surface: Surface
  readonly #draft: PlanDraft
  readonly #part: string
  readonly #webMm: number
  readonly #tips = new Map<Structure | undefined, number>()

  /** @param webMm how far a strut keeps from what it does not join */
  constructor(surface: Surface, draft: PlanDraft, part: string, webMm: number) {
    this.#surface = surface
    this.#draft = draft
    this.#part = part
    this.#webMm = webMm
  }

  /** Whether two stilts may be tied to each other. */
  mayTie(one: string, other: string): boolean {
    const { index } = this.#draft, [a, b] = [index.structureAt(one), index.structureAt(other)]
    return a === b || this.#tipsIn(a) + this.#tipsIn(b) <= MOST_TOGETHER
  }

  /** Puts a strut between two places, if there is room for one as thick as that. */
  put(from: Joint, to: Joint, thickMm: number): boolean {
    // where it would really end: what was put in since may have moved that
    const { index } = this.#draft, lower = placeNow(index, from), upper = placeNow(index, to), leastMm = (thickMm * SHARE_OF_WANTED) / 2
    // most find no room beside the part, which is told soonest
    if (this.#surface.gapOfBeam(lower.at, upper.at, leastMm, leastMm, GAP_FLOOR_MM, GAP_FLOOR_MM) < GAP_FLOOR_MM) return false
    const but = new Set([upper, lower].flatMap(j => meetingAt(index, j))), brace = braceBetween(this.#surface, lower, upper, thickMm, { field: this.#draft.clearance.field(this.#part), limitMm: this.#webMm, but })
    if (!brace.ok || brace.diameterMm < thickMm * SHARE_OF_WANTED) return false
    this.#draft.put(rowsOfBraces(index, [brace]))
    return true
  }

  #tipsIn(structure: Structure | undefined): number {
    const known = this.#tips.get(structure) ?? (structure?.nodes ?? []).filter(n => this.#draft.index.nodes.get(n)?.kind === 'tip').length
    this.#tips.set(structure, known)
    return known
  }
}

/** Adds struts between places that move apart when something sways, those that ease most for their resin first; gives how many. */
export function strutted(make: StrutMaker, places: readonly MovingPlace[], swaying: readonly Swaying[], modulusNMm2: number): number {
  const middles: Vec3[] = []
  let tried = 0
  for (const { upper, lower, thickMm } of strutsBetween(places, swaying, modulusNMm2)) {
    if (middles.length >= AT_ONCE || tried > MOST_TRIED) break
    const middle = between(upper.at, lower.at, 0.5)
    if (middles.some(m => distance(m, middle) < APART_MM) || !make.mayTie(upper.host.id, lower.host.id)) continue
    tried++
    if (make.put(lower, upper, thickMm)) middles.push(middle)
  }
  return middles.length
}

/** How thick a strut of a length is, mm. */
export function strutDiameter(lengthMm: number): number {
  return Math.max(LEAST_MM, leastDiameter(lengthMm))
}

/** Pairs of places, a strut of which would be no flatter or longer than it may be. */
export function eachStrut<P extends { readonly joint: Joint }>(places: readonly P[], uppers: readonly P[], each: (upper: P, lower: P, lengthMm: number) => void): void {
  const tree = new RBush<{ minX: number; minY: number; maxX: number; maxY: number; place: P }>().load(places.map(place => ({ minX: place.joint.at[0], minY: place.joint.at[1], maxX: place.joint.at[0], maxY: place.joint.at[1], place })))
  const across = LONGEST_MM / Math.hypot(1, RISES)
  for (const upper of uppers) {
    const [x, y, z] = upper.joint.at
    for (const { place: lower } of tree.search({ minX: x - across, minY: y - across, maxX: x + across, maxY: y + across })) {
      const { at } = lower.joint, dx = x - at[0], dy = y - at[1], dz = z - at[2], square = dx * dx + dy * dy, lengthMm = Math.sqrt(square + dz * dz)
      if (dz > 0 && dz * dz >= square * RISES * RISES && lengthMm >= LEAST_LONG_MM && lengthMm <= LONGEST_MM && lower.joint.host.id !== upper.joint.host.id) each(upper, lower, lengthMm)
    }
  }
}

/** All struts between some places that would ease something, the best first. */
function strutsBetween(places: readonly MovingPlace[], swaying: readonly Swaying[], modulusNMm2: number): Strut[] {
  const out: Strut[] = []
  eachStrut(places, places, (upper, lower, lengthMm) => {
    const [x, y, z] = upper.joint.at, { at } = lower.joint, along: Vec3 = [(x - at[0]) / lengthMm, (y - at[1]) / lengthMm, (z - at[2]) / lengthMm], thickMm = strutDiameter(lengthMm), stiffness = barStiffness(modulusNMm2, thickMm, lengthMm)
    let all = 0
    for (let i = 0; i < swaying.length; i++) {
      const moves = upper.moved[i] ?? lower.moved[i], other = upper.moved[i] ? lower.moved[i] : null
      if (moves) all += eased(swaying[i], stiffness, along, moves, other)
    }
    if (all > 0) out.push({ upper: upper.joint, lower: lower.joint, thickMm, worth: all / barVolume(thickMm, lengthMm) })
  })
  return out.sort((a, b) => b.worth - a.worth)
}

/** Rows of beams that hang together with a place and come to it. */
export function meetingAt(index: PlanIndex, { host, at }: Joint): string[] {
  return (index.structureAt(host.id)?.beams ?? []).filter(id => {
    const beam = index.beams.get(id), from = beam && index.nodes.get(beam.from), to = beam && index.nodes.get(beam.to)
    return from && to && offSegment(at, from.at, to.at) < MEETS_MM
  })
}
function offSegment([x, y, z]: Vec3, [ax, ay, az]: Vec3, [bx, by, bz]: Vec3): number {
  const dx = bx - ax, dy = by - ay, dz = bz - az, square = dx * dx + dy * dy + dz * dz, t = square > 0 ? Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy + (z - az) * dz) / square)) : 0
  const px = x - ax - t * dx, py = y - ay - t * dy, pz = z - az - t * dz
  return Math.sqrt(px * px + py * py + pz * pz)
}
