import { distance, type Vec3 } from '../mesh'
import type { Proof, Proven } from '../proof'
import type { ScanResult } from '../scan'
import type { PlanIndex, Stilt } from '../stilts'

/** What hangs without some stilts misses those whose tips are within so much of it, and with every try so much farther, mm; and the nearest few anyway. */
const NEAR_MM = 2.5, FARTHER_MM = 3, NEAREST = 2
/** What hangs within this of something that hung before is the same, mm. */
const SAME_MM = 0.5

/** A plan as it was proved. */
export interface ProvenPlan {
  readonly index: PlanIndex
  readonly proof: Proof
  readonly proven: Pick<Proven, 'result'>
}

/**
 * Takes away stilts that bear next to nothing: all of them at once, and where something hangs then, all but those that it misses; and so on. Yields between steps.
 * @param of `look` scans and proves the plan without some stilts; `worse` says why that is worse than it was, `misses` which of them have to stay for another reason than what hangs then
 * @returns the plan without them, or the last one that was tried and why it would not do; null where nothing bears next to nothing
 */
export function* withoutIdle<P extends ProvenPlan>(now: P, part: string, of: { readonly tries: number; mayGo?(s: Stilt): boolean; look(gone: readonly Stilt[]): Generator<string, P, void>; worse(next: P): string | null; misses?(next: P, gone: readonly Stilt[]): readonly Stilt[] }): Generator<string, { readonly next: P; readonly count: number; readonly why: string | null } | null, void> {
  const idle = new Set(now.proof.idle)
  let gone = now.index.stiltsOf(part).filter(s => idle.has(s.id) && !s.footPinned && s.nodes.every(id => !now.index.nodes.get(id)?.pinned) && (of.mayGo?.(s) ?? true))
  let last: { readonly next: P; readonly count: number; readonly why: string | null } | null = null
  for (let attempt = 0; attempt < of.tries && gone.length > 0; attempt++) {
    yield `Taking away what bears nothing: ${gone.length} ${gone.length === 1 ? 'stilt' : 'stilts'}`
    const next = yield* of.look(gone), why = of.worse(next)
    last = { next, count: gone.length, why }
    if (why === null) break
    const missed = new Set([...missedBy(now.proven.result, next.proven.result, gone, NEAR_MM + attempt * FARTHER_MM), ...(of.misses?.(next, gone) ?? [])])
    // where nothing hangs it bends or sways: then half of it stays
    gone = gone.filter((s, i) => (missed.size > 0 ? !missed.has(s) : i % 2 === 1))
  }
  return last
}

/** The share of all beams, by their resin, that only lead down from tips that bear next to nothing. @param tips by their ids */
export function shareOfIdle(index: PlanIndex, part: string, tips: readonly string[]): number {
  const idle = new Set(tips), needed = new Set<string>(), mm3 = new Map<string, number>()
  for (const s of index.stiltsOf(part)) s.beams.forEach((id, i) => {
    const b = index.beams.get(id), length = distance(s.path[i], s.path[i + 1])
    if (b) mm3.set(id, length * (b.fromDiameterMm ** 2 + b.fromDiameterMm * b.toDiameterMm + b.toDiameterMm ** 2))
    if (!idle.has(s.id)) needed.add(id)
  })
  const sum = (ids: Iterable<string>): number => [...ids].reduce((total, id) => total + (mm3.get(id) ?? 0), 0), all = sum(mm3.keys())
  return all > 0 ? 1 - sum(needed) / all : 0
}

/** Those of some stilts that were taken away which what hangs now misses. */
function missedBy(before: ScanResult, after: ScanResult, gone: readonly Stilt[], nearMm: number): Stilt[] {
  const hung = hangingAt(before), out = new Set<Stilt>()
  for (const at of hangingAt(after)) {
    if (hung.some(h => distance(h, at) < SAME_MM)) continue
    const near = gone.map(s => ({ s, mm: distance(s.path[0], at) })).sort((a, b) => a.mm - b.mm)
    for (const [i, { s, mm }] of near.entries()) if (i < NEAREST || mm <= nearMm) out.add(s)
  }
  return [...out]
}

function hangingAt({ islands, ledges }: ScanResult): Vec3[] {
  const open = ({ state }: { readonly state: string }): boolean => state === 'open' || state === 'partly'
  return [...islands.filter(open).map(i => i.aim), ...ledges.filter(open).flatMap(l => [l.at, l.worst])].map(([x, y, z]): Vec3 => [x, y, z])
}
