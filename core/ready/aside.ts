import type { Gauge, PlanBeam, PlanNode } from '../contract'
import { add, distance, leanOf, scale, unit, type Vec3 } from '../mesh'
import { branchLeanLimit, gaugeFor, LEAST_RISE_DEG, type PlanDraft, type PlanIndex } from '../stilts'
import type { Space } from './grown-rows'

/** Knees and joints are moved so far at the most, in such steps, mm. */
const WAYS_MM = [0.15, 0.3, 0.5, 0.75, 1, 1.4, 1.9]
/** To the sides, and to the sides and down. */
const SIDES = 16, DIRECTIONS = [0, -1].flatMap(z => Array.from({ length: SIDES }, (_, i): Vec3 => unit([Math.cos((2 * Math.PI * i) / SIDES), Math.sin((2 * Math.PI * i) / SIDES), z])))
/** Beams that room is made for at once. Where there is none for all that a beam should grow by, it is made for some of it. */
const MOST_AT_ONCE = 12, SHARES = [1, 0.5]

type Places = ReadonlyMap<string, Vec3>

/** What is nearly as thick as it has to be needs no room. */
const NEARLY = 0.95

/**
 * Moves knees and joints a little aside where a beam has no room to be as thick as it has to be, as near as it has room, so that it can grow
 * there. What meets there keeps clear of all as it did, and leans no more than it may. Gives for how many beams room was made.
 * @param wanted beams as thick as they have to be, the most needed first
 * @param mine whether a row may be changed
 * @param spaceOf what room there is in the plan as it is
 */
export function movedAside(draft: Pick<PlanDraft, 'index' | 'put'>, part: string, wanted: readonly PlanBeam[], gauges: readonly Gauge[], mine: (id: string) => boolean, spaceOf: () => Space): number {
  if (wanted.length === 0) return 0
  const limits = leanLimits(draft.index, part, gauges)
  let done = 0, space = spaceOf()
  for (const thick of wanted.slice(0, MOST_AT_ONCE)) {
    const now = draft.index.beams.get(thick.id) as PlanBeam
    if (now.fromDiameterMm > NEARLY * thick.fromDiameterMm || space.hasRoom(thick)) continue
    const moves = SHARES.reduce<Places | null>((found, share) => found ?? roomier(draft.index, asThick(now, 1 + share * (thick.fromDiameterMm / now.fromDiameterMm - 1)), limits, mine, space), null)
    if (!moves) continue
    draft.put({ nodes: nodesAt(draft.index, moves) })
    space = spaceOf()
    done++
  }
  return done
}

/** A beam so many times as thick. */
export function asThick(beam: PlanBeam, times: number): PlanBeam {
  return { ...beam, fromDiameterMm: beam.fromDiameterMm * times, toDiameterMm: beam.toDiameterMm * times }
}

/** Where the ends of a beam have to go for it to have room; null where nowhere near. */
function roomier(index: PlanIndex, beam: PlanBeam, limits: ReadonlyMap<string, number>, mine: (id: string) => boolean, { hasRoom }: Space): Places | null {
  const free = [beam.to, beam.from].filter(id => isFree(index, id, mine)), around = free.map(id => index.beamsAt(id).filter(b => b.id !== beam.id)), choices = free.length === 2 ? [[0], [1], [0, 1]] : free.map((_, i) => [i])
  for (const mm of WAYS_MM) for (const direction of DIRECTIONS) for (const ends of choices) {
    const moved = new Map(ends.map((i): [string, Vec3] => [free[i], add((index.nodes.get(free[i]) as PlanNode).at, scale(direction, mm))]))
    const leans = (b: PlanBeam): boolean => leansNoMore(index, b, moved, limits.get(b.id) ?? 0), others = ends.flatMap(i => around[i])
    if (leans(beam) && others.every(leans) && hasRoom(beam, undefined, moved) && others.every(b => hasRoom(b, undefined, moved))) return moved
  }
  return null
}

/** Whether a node may be moved: a knee or a joint, and all that meets there. */
function isFree(index: PlanIndex, id: string, mine: (id: string) => boolean): boolean {
  const kind = index.nodes.get(id)?.kind
  return (kind === 'joint' || kind === 'knee') && mine(id) && index.beamsAt(id).every(b => mine(b.id))
}

/** Nodes somewhere else; a cone is as long as that makes it. */
function nodesAt(index: PlanIndex, moved: Places): PlanNode[] {
  return [...moved].flatMap(([id, at]) => {
    const node = index.nodes.get(id) as PlanNode, cone = node.kind === 'knee' ? index.beamsAt(id).find(b => b.kind === 'cone') : undefined, tip = index.nodes.get(cone?.from ?? ''), moves: PlanNode[] = [{ ...node, at: [...at] }]
    if (tip?.kind !== 'tip') return moves
    const coneLengthMm = distance(tip.at, at)
    return [...moves, { ...tip, own: { ...tip.own, coneLengthMm }, fitted: { ...tip.fitted, coneLengthMm } }]
  })
}

/** Whether a beam leans no more than it may, or than it did; a brace rises as it has to. */
function leansNoMore(index: PlanIndex, { kind, from, to }: PlanBeam, moved: Places, limitDeg: number): boolean {
  const a = (index.nodes.get(from) as PlanNode).at, b = (index.nodes.get(to) as PlanNode).at, isBrace = kind === 'brace', most = isBrace ? 90 - LEAST_RISE_DEG : limitDeg
  // a brace has no upper end
  const lean = (p: Vec3, q: Vec3): number => (isBrace ? Math.min(leanOf(p, q), leanOf(q, p)) : leanOf(p, q))
  return lean(moved.get(from) ?? a, moved.get(to) ?? b) <= Math.max(most, lean(a, b)) + 1e-6
}

/** How far beams of a part may lean by the gauges of what goes down them, degrees. */
function leanLimits(index: PlanIndex, part: string, gauges: readonly Gauge[]): Map<string, number> {
  const out = new Map<string, number>()
  for (const s of index.stiltsOf(part)) {
    const gauge = gaugeFor(s, gauges)
    for (const id of s.beams) {
      const mostDeg = index.beams.get(id)?.kind === 'branch' ? branchLeanLimit(gauge) : gauge.leanLimitDeg
      out.set(id, Math.min(out.get(id) ?? Infinity, mostDeg))
    }
  }
  return out
}
