import Flatbush from 'flatbush'
import { leastDiameter } from '../forest'
import { between, distance, type Vec3 } from '../mesh'
import { braceBetween, GAP_FLOOR_MM, placeNow, rowsOfBraces, type Joint, type PlanDraft, type PlanIndex, type Structure, type Surface } from '../stilts'
import { barStiffness, barVolume, easedBy, type MovingPlace, type Swaying } from './swaying'

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

/**
 * Adds struts between places that move apart when something sways, those that ease most for their resin first; gives how many.
 * @param refused where one found no room before; what is refused now is added
 */
export function strutted(make: StrutMaker, places: readonly MovingPlace[], swaying: readonly Swaying[], modulusNMm2: number, refused = new Set<string>()): number {
  const middles: Vec3[] = []
  let tried = 0
  for (const { upper, lower, thickMm } of strutsBetween(places, swaying, modulusNMm2)) {
    if (middles.length >= AT_ONCE || tried > MOST_TRIED) break
    const middle = between(upper.at, lower.at, 0.5)
    if (middles.some(m => distance(m, middle) < APART_MM) || !make.mayTie(upper.host.id, lower.host.id)) continue
    tried++
    const key = `${lower.at.join(' ')} ${upper.at.join(' ')}`
    if (refused.has(key)) continue
    if (make.put(lower, upper, thickMm)) middles.push(middle)
    else refused.add(key)
  }
  return middles.length
}

/** How thick a strut of a length is, mm. */
export function strutDiameter(lengthMm: number): number {
  return Math.max(LEAST_MM, leastDiameter(lengthMm))
}

/** Pairs of places, a strut of which would be no flatter or longer than it may be; each told by its place in the lists. */
export function eachStrut(lowers: readonly Joint[], uppers: readonly Joint[], each: (upper: number, lower: number, lengthMm: number) => void): void {
  const index = new Flatbush(Math.max(1, lowers.length)), hosts = new Map<string, number>(), xs = new Float64Array(lowers.length), ys = new Float64Array(lowers.length), zs = new Float64Array(lowers.length), of = new Int32Array(lowers.length)
  const numberOf = ({ host: { id } }: Joint): number => {
    const known = hosts.get(id) ?? hosts.size
    hosts.set(id, known)
    return known
  }
  lowers.forEach((l, i) => {
    ;[xs[i], ys[i], zs[i]] = l.at
    of[i] = numberOf(l)
    index.add(xs[i], ys[i])
  })
  if (lowers.length === 0) return
  index.finish()
  const across = LONGEST_MM / Math.hypot(1, RISES)
  uppers.forEach((upper, u) => {
    const [x, y, z] = upper.at, own = numberOf(upper)
    for (const l of index.search(x - across, y - across, x + across, y + across)) {
      const dx = x - xs[l], dy = y - ys[l], dz = z - zs[l]
      if (dz <= 0 || of[l] === own) continue
      const square = dx * dx + dy * dy, lengthMm = Math.sqrt(square + dz * dz)
      if (dz * dz >= square * RISES * RISES && lengthMm >= LEAST_LONG_MM && lengthMm <= LONGEST_MM) each(u, l, lengthMm)
    }
  })
}

/** So many struts are put in order at once: of all there are, few are asked for. */
const IN_ORDER = 4096

/** Struts between some places that would ease something, the best first. */
function* strutsBetween(places: readonly MovingPlace[], swaying: readonly Swaying[], modulusNMm2: number): Generator<Strut, void, void> {
  const count = swaying.length, moved = new Float64Array(6 * count * places.length)
  places.forEach(({ moved: of }, p) => of.forEach((m, i) => m && moved.set(m, 6 * (count * p + i))))
  const uppers: number[] = [], lowers: number[] = [], worths: number[] = [], thick: number[] = [], work = swaying.map(s => s.workNmm), joints = places.map(p => p.joint)
  eachStrut(joints, joints, (upper, lower, lengthMm) => {
    const a = joints[upper].at, b = joints[lower].at, x = (a[0] - b[0]) / lengthMm, y = (a[1] - b[1]) / lengthMm, z = (a[2] - b[2]) / lengthMm, thickMm = strutDiameter(lengthMm), stiffness = barStiffness(modulusNMm2, thickMm, lengthMm)
    let all = 0
    for (let i = 0, u = 6 * count * upper, l = 6 * count * lower; i < count; i++, u += 6, l += 6) {
      const alongX = (moved[u] - moved[l]) * x + (moved[u + 1] - moved[l + 1]) * y + (moved[u + 2] - moved[l + 2]) * z
      const alongY = (moved[u + 3] - moved[l + 3]) * x + (moved[u + 4] - moved[l + 4]) * y + (moved[u + 5] - moved[l + 5]) * z
      all += easedBy(work[i], stiffness, alongX * alongX + alongY * alongY)
    }
    if (all <= 0) return
    uppers.push(upper)
    lowers.push(lower)
    worths.push(all / barVolume(thickMm, lengthMm))
    thick.push(thickMm)
  })
  const sorted = Float64Array.from(worths).sort()
  for (let left = sorted.length, above = Infinity; left > 0;) {
    // equal ones stay together
    const least = sorted[Math.max(0, left - IN_ORDER)], next: number[] = []
    for (let i = 0; i < worths.length; i++) if (worths[i] >= least && worths[i] < above) next.push(i)
    for (const i of next.sort((a, b) => worths[b] - worths[a])) yield { upper: joints[uppers[i]], lower: joints[lowers[i]], thickMm: thick[i] }
    left -= next.length
    above = least
  }
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
