import type { FootNode, Gauge, PlanBeam, PlanNode } from '../contract'
import { distance } from '../mesh'
import type { Loaded, NearSway } from '../proof'
import { freeStretches, gaugeFor, GAUGES, leastForFree, type PlanIndex, type PlanRows } from '../stilts'
import { narrows } from './grown-rows'

/** What is made thinner keeps this share of the margin, for what it bears changes with it; and is no thinner at once than this share of what it was. */
const KEPT = 0.6, MOST_AT_ONCE = 0.7
/** No shaft and no brace is made thinner than that, mm. */
const LEAST_SHAFT_MM = 0.7, LEAST_BRACE_MM = 0.6
/** Stretches are no more than so many times as long as their radius of gyration; than that where both ends are braced; with so much to spare. */
const MOST_SLENDER = 110, MOST_SLENDER_BRACED = 150, SPARE = 1.02
/** What sways may come to this share of what it may; and stores no more than that beyond what it stores now, where it is as far already. */
const SWAY_AIM = 0.96, SWAY_MORE = 0.01
/** Less than that is not worth it, mm. */
const LITTLE_MM = 0.01

/**
 * The rows of beams that are thicker than they have to be: as thin as what they bear asks for, their length, and what sways on them; never
 * thinner than what they lead down, or than braces that end in them. Resin is least where all that is not held by a bound stores alike for its
 * volume (optimality criterion of structures of least weight under one displacement), so what stores least for its volume gets thinner most.
 * @param near pieces that sway, and what stores the work there @param limit the share of what it can that a beam may bear @param mine whether a row may be changed
 */
export function slimBeams(index: PlanIndex, part: string, { beams: strengths, stretches }: Pick<Loaded, 'beams' | 'stretches'>, near: readonly NearSway[], limit: number, swayMm: number, mine: (id: string) => boolean, gauges: readonly Gauge[] = GAUGES): PlanRows {
  const free = new Map<string, PlanBeam>()
  for (const s of index.stiltsOf(part)) {
    if (s.foot !== 'plate') continue
    for (const id of s.beams.slice(1)) if (mine(id)) free.set(id, index.beams.get(id) as PlanBeam)
  }
  // what a stick leads down stays as it is
  for (const s of index.stiltsOf(part)) if (s.foot !== 'plate') for (const id of s.beams) free.delete(id)
  const braces = [...index.beams.values()].filter(b => b.part === part && b.kind === 'brace' && mine(b.id) && index.nodes.get(b.to)?.kind !== 'foot')
  for (const b of braces) free.set(b.id, b)

  // the least share of its thickness that each may keep, by what it bears and by its length
  const least = new Map<string, number>(), atLeast = (id: string, share: number): void => void least.set(id, Math.min(1, Math.max(share, least.get(id) ?? 0)))
  const thinEnd = (b: PlanBeam): number => Math.min(b.fromDiameterMm, b.toDiameterMm)
  for (const [id, b] of free) atLeast(id, Math.max(MOST_AT_ONCE, (b.kind === 'brace' ? LEAST_BRACE_MM : LEAST_SHAFT_MM) / thinEnd(b)))
  for (const { id, share } of strengths) if (free.has(id)) atLeast(id, Math.cbrt(share / (KEPT * limit)))
  for (const { beams, share, stretch } of stretches) {
    const leastMm = (SPARE * 4 * stretch.lengthMm) / (stretch.ends.every(e => e === 'joint') ? MOST_SLENDER_BRACED : MOST_SLENDER)
    for (const id of beams) {
      const b = free.get(id)
      if (b) atLeast(id, Math.max((share / (KEPT * limit)) ** 0.25, leastMm / thinEnd(b)))
    }
  }
  for (const [id, mm] of thickForLength(index, part, gauges)) {
    const b = free.get(id)
    if (b) atLeast(id, (SPARE * mm) / thinEnd(b))
  }
  const wanted = new Map([...free.keys()].map(id => [id, least.get(id) ?? 1]))
  for (const sway of near) for (const [id, share] of sharesUnder(sway, free, least, index, swayMm)) wanted.set(id, Math.max(wanted.get(id) ?? 1, share))
  return rowsFor(index, free, wanted)
}

/** How thick beams have to be at least, mm, where a stretch that nothing holds is longer than the gauge of its stilt allows as thin as it is drawn. */
function thickForLength(index: PlanIndex, part: string, gauges: readonly Gauge[]): Map<string, number> {
  const out = new Map<string, number>()
  for (const s of index.stiltsOf(part)) for (const { from, to, lengthMm } of freeStretches(index, s)) {
    const mm = leastForFree(gaugeFor(s, gauges), lengthMm)
    if (mm > 0) for (const id of s.beams.slice(from, to)) out.set(id, Math.max(out.get(id) ?? 0, mm))
  }
  return out
}

/** Beams of stretches that nothing holds and that are longer than their gauge allows as thin as they are; with how thick they have to be, mm. */
export function tooLongOf(index: PlanIndex, part: string, gauges: readonly Gauge[]): Map<string, number> {
  return new Map([...thickForLength(index, part, gauges)].filter(([id, mm]) => {
    const b = index.beams.get(id)
    return b && Math.min(b.fromDiameterMm, b.toDiameterMm) < mm - LITTLE_MM
  }))
}

/** How much of the resin of the beams of a part some thinner ones save, as a share of it. */
export function resinSaved(index: PlanIndex, part: string, thinner: readonly PlanBeam[]): number {
  const volumeOf = ({ from, to, fromDiameterMm: a, toDiameterMm: b }: PlanBeam): number => distance((index.nodes.get(from) as PlanNode).at, (index.nodes.get(to) as PlanNode).at) * (a * a + a * b + b * b)
  const all = [...index.beams.values()].reduce((sum, b) => (b.part === part ? sum + volumeOf(b) : sum), 0)
  return all === 0 ? 0 : thinner.reduce((sum, b) => sum + volumeOf(index.beams.get(b.id) as PlanBeam) - volumeOf(b), 0) / all
}

/** What may be left of each beam for one piece that sways. */
function sharesUnder({ mm, stored }: NearSway, free: ReadonlyMap<string, PlanBeam>, least: ReadonlyMap<string, number>, index: PlanIndex, swayMm: number): Map<string, number> {
  const total = [...stored.values()].reduce((sum, e) => sum + e, 0), budget = total * Math.max(SWAY_MORE, (SWAY_AIM * swayMm) / mm - 1)
  const some = [...stored].flatMap(([id, work]) => {
    const b = free.get(id)
    if (!b || work <= 0) return []
    const length = distance((index.nodes.get(b.from) as PlanNode).at, (index.nodes.get(b.to) as PlanNode).at), d = (b.fromDiameterMm + b.toDiameterMm) / 2
    return [{ id, work, density: work / (length * d * d + 1e-9), floor: least.get(id) ?? 1 }]
  })
  const shareAt = ({ density, floor }: (typeof some)[number], even: number): number => Math.max(floor, Math.min(1, (density / even) ** (1 / 6)))
  const more = (even: number): number => some.reduce((sum, s) => sum + s.work * (shareAt(s, even) ** -4 - 1), 0)
  const densest = some.reduce((most, s) => Math.max(most, s.density), 1e-30)
  let low = Math.log(densest) - 60, high = Math.log(densest) + 10
  for (let i = 0; i < 60; i++) {
    const middle = (low + high) / 2
    if (more(Math.exp(middle)) > budget) high = middle
    else low = middle
  }
  const even = Math.exp(low)
  return new Map(some.map(s => [s.id, shareAt(s, even)]))
}

/** Rows of beams with such shares of their thickness: from the top down, so that none gets thinner all at once. */
function rowsFor(index: PlanIndex, free: ReadonlyMap<string, PlanBeam>, wanted: ReadonlyMap<string, number>): PlanRows {
  const nodeOf = (id: string): PlanNode => index.nodes.get(id) as PlanNode, beams: PlanBeam[] = [], nodes: PlanNode[] = [], above = new Map<string, number>()
  const leads = (node: string, mm: number): void => void above.set(node, Math.max(mm, above.get(node) ?? 0))
  const put = (b: PlanBeam, fromDiameterMm: number, toDiameterMm: number): void => {
    if (fromDiameterMm < b.fromDiameterMm - LITTLE_MM || toDiameterMm < b.toDiameterMm - LITTLE_MM) beams.push({ ...b, fromDiameterMm, toDiameterMm })
  }
  // braces first: what they end in is no thinner than they are
  for (const [id, b] of free) {
    if (b.kind !== 'brace') continue
    const share = wanted.get(id) ?? 1, from = share * b.fromDiameterMm, to = share * b.toDiameterMm
    put(b, from, to)
    leads(b.from, from)
    leads(b.to, to)
  }
  const ways = [...index.beams.values()].filter(b => b.kind !== 'brace' && b.kind !== 'cone').sort((a, b) => nodeOf(b.from).at[2] - nodeOf(a.from).at[2])
  for (const b of index.beams.values()) {
    if (b.kind === 'cone') leads(b.to, b.toDiameterMm)
    else if (b.kind === 'brace' && !free.has(b.id)) {
      leads(b.from, b.fromDiameterMm)
      leads(b.to, b.toDiameterMm)
    }
  }
  for (const b of ways) {
    if (!free.has(b.id)) {
      leads(b.to, b.toDiameterMm)
      continue
    }
    const share = wanted.get(b.id) ?? 1, from = Math.min(b.fromDiameterMm, Math.max(share * b.fromDiameterMm, above.get(b.from) ?? 0))
    const to = Math.min(b.toDiameterMm, Math.max(share * b.toDiameterMm, from - narrows(index, b), above.get(b.to) ?? 0))
    put(b, from, to)
    leads(b.to, to)
    const foot = nodeOf(b.to)
    if (foot.kind === 'foot' && foot.on.kind === 'plate' && to < b.toDiameterMm - LITTLE_MM) nodes.push(thinnerFoot(foot, to))
  }
  return { nodes, beams }
}

function thinnerFoot(foot: FootNode, shaftFootDiameterMm: number): FootNode {
  return { ...foot, own: { ...foot.own, shaftFootDiameterMm }, fitted: { ...foot.fitted, shaftFootDiameterMm } }
}
