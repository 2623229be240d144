import { leastDiameter } from '../forest'
import { between, distance, dot, sub, type Vec3 } from '../mesh'
import { braceBetween, risingTo, type Brace, type Joint, type Others, type Stilt, type Surface } from '../stilts'

/** A strut reaches so far across, mm, and rises by so much, degrees above level; first what is tried first. */
const LEAST_ACROSS_MM = 1.2, REACH_MM = 18, RISES_DEG = [45, 60, 35, 70]
/** No strut is thinner than that, mm. */
const LEAST_MM = 0.8
/** Beams that end so near to an end of a strut meet it there, mm. */
const MEETS_MM = 2.5
/** Struts of a place stand to other sides by this at least, degrees; so many of them. */
const APART_DEG = 50, MOST = 3
/** What a strut across the soft direction is worth beside one along it. */
const ACROSS_WORTH = 0.15

/**
 * Struts that keep a place from moving sideways: from what stands near up to it, to three sides at the most, the one that resists most for its length first.
 * @param softDeg the direction in which it gives most, degrees from x to y
 * @param mayTie whether a stilt may be tied to it; @param hangingWith all that hangs together with a stilt
 */
export function strutsTo(surface: Surface, upper: Joint, stilts: readonly Stilt[], softDeg: number, { field, limitMm }: Others, { mayTie, hangingWith }: { mayTie(host: Stilt): boolean; hangingWith(host: Stilt): readonly Stilt[] }): Brace[] {
  const [x, y, z] = upper.at, out: { brace: Brace; side: number }[] = []
  const near = stilts.filter(s => s.id !== upper.host.id && mayTie(s)).flatMap(host => {
    for (const rise of RISES_DEG) {
      const lower = risingTo(host, upper.at, rise)
      if (!lower) continue
      const across = Math.hypot(lower.at[0] - x, lower.at[1] - y)
      if (across > REACH_MM || across < LEAST_ACROSS_MM) continue
      const side = Math.atan2(lower.at[1] - y, lower.at[0] - x), length = Math.hypot(across, z - lower.at[2])
      return [{ lower, side, length, worth: (Math.abs(Math.cos(side - (softDeg * Math.PI) / 180)) + ACROSS_WORTH) / length }]
    }
    return []
  }).sort((a, b) => b.worth - a.worth)
  for (const { lower, side, length } of near) {
    if (out.some(o => Math.abs(Math.sin(side - o.side)) < Math.sin((APART_DEG * Math.PI) / 180))) continue
    const but = new Set([...meeting(hangingWith(upper.host), upper.at), ...meeting(hangingWith(lower.host), lower.at)]), brace = braceBetween(surface, lower, upper, Math.max(LEAST_MM, leastDiameter(length)), { field, limitMm, but })
    if (!brace.ok) continue
    out.push({ brace, side })
    if (out.length === MOST) break
  }
  return out.map(o => o.brace)
}

/** Stilts of some that come to a place, by their tips. */
function meeting(stilts: readonly Stilt[], at: Vec3): string[] {
  return stilts.filter(({ path }) => path.some((p, i) => i > 0 && offSegment(at, path[i - 1], p) < MEETS_MM)).map(s => s.id)
}
function offSegment(p: Vec3, a: Vec3, b: Vec3): number {
  const d = sub(b, a), square = dot(d, d), t = square > 0 ? Math.max(0, Math.min(1, dot(sub(p, a), d) / square)) : 0
  return distance(p, between(a, b, t))
}
