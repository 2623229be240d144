import { neighbourPairs } from '../mesh'
import { gaugeFor, zigzag, type Brace, type Bracing, type Others, type PlanIndex, type Stilt, type Surface } from '../stilts'
import type { Gauge } from '../contract'
import { MOST_TOGETHER } from './struts'

/** Trunks higher than this are braced to a neighbour, and only those, mm. */
const TALL_MM = 24
/** A neighbour reaches so high at least, as a share of what is braced. */
const NEIGHBOUR_SHARE = 0.5
const BRACING: Bracing = { spacingMm: 3, angleDeg: 45, reachMm: 16 }
/** Neighbours that a trunk is braced to at the most. */
const MOST_NEIGHBOURS = 3

/**
 * Braces between trunks that are tall and their nearest neighbours, a few and a few.
 * @param which by the tip of a stilt, whether it may be braced, and whether it asks for that
 * @param others all that stands
 */
export function bracesOfTrunks(surface: Surface, index: PlanIndex, part: string, gauges: readonly Gauge[], which: { mine(id: string): boolean; asks(id: string): boolean }, others: Others): Brace[] {
  const trunks = index.stiltsOf(part).filter(s => s.foot === 'plate' && s.alone === s.nodes.length && which.mine(s.id)), tops = trunks.map(topOf), feet = trunks.map(({ path }) => path[path.length - 1])
  const asks = (i: number, j: number): boolean => which.asks(trunks[i].id) && tops[i] >= TALL_MM && tops[j] >= NEIGHBOUR_SHARE * tops[i]
  const groups = new Map(trunks.map(s => [s.id, new Set((index.structureAt(s.id)?.nodes ?? [s.id]).filter(id => index.nodes.get(id)?.kind === 'tip'))]))
  const apart = ([i, j]: readonly [number, number]): number => Math.hypot(feet[i][0] - feet[j][0], feet[i][1] - feet[j][1]), out: Brace[] = [], degree = new Map<string, number>()
  const pairs = neighbourPairs(feet.map(([x, y]) => [x, y] as const), BRACING.reachMm).filter(([i, j]) => asks(i, j) || asks(j, i)).sort((p, q) => apart(p) - apart(q))
  for (const [i, j] of pairs) {
    const [a, b] = [trunks[i], trunks[j]], one = groups.get(a.id) as Set<string>, other = groups.get(b.id) as Set<string>
    if ((degree.get(a.id) ?? 0) >= MOST_NEIGHBOURS || (degree.get(b.id) ?? 0) >= MOST_NEIGHBOURS || (one !== other && one.size + other.size > MOST_TOGETHER)) continue
    const most = Math.min(tops[i], tops[j]), made = zigzag(surface, a, b, BRACING, Math.min(gaugeFor(a, gauges).braceDiameterMm, gaugeFor(b, gauges).braceDiameterMm), { ...others, but: new Set([...one, ...other]) }).filter(brace => brace.upper.at[2] <= most)
    if (made.length === 0) continue
    out.push(...made)
    for (const { id } of [a, b]) degree.set(id, (degree.get(id) ?? 0) + 1)
    if (one === other) continue
    for (const id of other) one.add(id)
    for (const id of one) groups.set(id, one)
  }
  return out
}

/** How high the shaft of a stilt goes straight up from its foot, mm. */
export function topOf({ path }: Stilt): number {
  const foot = path[path.length - 1]
  let top = 0
  for (let i = path.length - 2; i > 0 && Math.hypot(path[i][0] - foot[0], path[i][1] - foot[1]) < 0.01; i--) top = path[i][2]
  return top
}
