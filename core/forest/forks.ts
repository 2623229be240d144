import RBush from 'rbush'
import { distance, type Vec3 } from '../mesh'
import type { Room } from './room'
import { entryOf, leastDiameter, LEAN_TAN, type IsFree, type Twig, type TwigEntry } from './twig'
import type { Ways } from './ways'

/** Twigs nearer than this to each other are joined first, then those that are farther apart, mm across. */
const REACHES_MM = [2.6, 3.6, 4.6, 6]
/** So many tips meet in a fork at the most. */
const MOST_TIPS = 8
/** Under a fork there is room for this at least, mm. */
const LEAST_HEIGHT_MM = 2.5
/** A fork is so much thicker than the thickest that meets in it. */
const THICKER = 1.12

/** Where two twigs can meet as high as their lean allows: both lean alike. Null where one lies under the other. */
export function meeting(a: Vec3, b: Vec3): Vec3 | null {
  const across = Math.hypot(a[0] - b[0], a[1] - b[1]), z = (a[2] + b[2] - across / LEAN_TAN) / 2
  if (z > Math.min(a[2], b[2]) - 0.05) return null
  const t = across > 1e-9 ? ((a[2] - z) * LEAN_TAN) / across : 0
  return [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, z]
}

/**
 * Joins twigs whose ends are near to each other, two and two, those that lose least height first, as long as there is room and a way to the
 * plate below. Gives what is left: forks, and twigs that found none.
 * @param isFree whether beams keep clear of what stands already, and of the part where a gap is given
 */
export function forked(twigs: readonly Twig[], room: Room, ways: Ways, isFree: IsFree): Twig[] {
  const live = new Set(twigs), tree = new RBush<TwigEntry>(), entries = new Map<Twig, TwigEntry>()
  for (const t of twigs) {
    const e = entryOf(t)
    entries.set(t, e)
    tree.insert(e)
  }
  for (const reachMm of REACHES_MM) {
    let pairs = [...live].flatMap(t => pairsOf(t, reachMm, tree, true)).sort(byDrop)
    while (pairs.length > 0) {
      const made: Twig[] = []
      for (const { a, b, at } of pairs) {
        if (!live.has(a) || !live.has(b)) continue
        const fork = joined(a, b, at)
        if (!fork || ways.costFrom(at) === Infinity || ![a, b].every(t => room.isClear(t.at, at, t.diameterMm / 2, fork.diameterMm / 2, t.gapMm) && isFree(t.at, at, t.diameterMm / 2, t.gapMm))) continue
        for (const t of [a, b]) {
          live.delete(t)
          tree.remove(entries.get(t) as TwigEntry)
        }
        live.add(fork)
        const e = entryOf(fork)
        entries.set(fork, e)
        tree.insert(e)
        made.push(fork)
      }
      pairs = made.filter(t => live.has(t)).flatMap(t => pairsOf(t, reachMm, tree, false)).sort(byDrop)
    }
  }
  return [...live]
}

interface Pair {
  readonly a: Twig
  readonly b: Twig
  readonly at: Vec3
  readonly drop: number
}
const byDrop = (p: Pair, q: Pair): number => p.drop - q.drop || p.at[0] - q.at[0] || p.at[1] - q.at[1] || p.at[2] - q.at[2]

function pairsOf(a: Twig, reachMm: number, tree: RBush<TwigEntry>, once: boolean): Pair[] {
  const [x, y] = a.at
  return tree.search({ minX: x - reachMm, minY: y - reachMm, maxX: x + reachMm, maxY: y + reachMm }).flatMap(({ twig: b }): Pair[] => {
    if (b === a || a.tips + b.tips > MOST_TIPS || (once && !comesFirst(a.at, b.at)) || Math.hypot(x - b.at[0], y - b.at[1]) > reachMm) return []
    const at = meeting(a.at, b.at)
    return at && at[2] >= LEAST_HEIGHT_MM ? [{ a, b, at, drop: Math.max(a.at[2], b.at[2]) - at[2] }] : []
  })
}
const comesFirst = (a: Vec3, b: Vec3): boolean => a[0] < b[0] || (a[0] === b[0] && (a[1] < b[1] || (a[1] === b[1] && a[2] < b[2])))

/** The fork of two twigs; null where one of them would be too slender for its length. */
function joined(a: Twig, b: Twig, at: Vec3): Twig | null {
  if ([a, b].some(t => leastDiameter(distance(t.at, at)) > t.diameterMm)) return null
  const [main, side] = a.diameterMm >= b.diameterMm ? [a, b] : [b, a]
  return { at, diameterMm: main.diameterMm * THICKER, tips: a.tips + b.tips, gapMm: Math.max(a.gapMm, b.gapMm), head: null, up: [main, side] }
}
