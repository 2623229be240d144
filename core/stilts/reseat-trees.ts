import type { Change, Gauge } from '../contract'
import { fromSource, normalFromSource } from '../pose'
import { braceBetween, propUnder, rowsOfBraces, rowsOfProp, type Brace } from './brace'
import { branchSizes, routeBranch, rowsOfBranch, shapeOfBranch } from './branch'
import { gaugeFor } from './gauges'
import { placeAtShare, shareOfPlace } from './joint'
import { PlanDraft } from './plan-draft'
import type { PlanIndex } from './plan-index'
import { goneUnder, reseatStilts } from './reseat'
import type { Plate } from './route'
import { rowsOfStilt, type Stilt } from './stilt'
import type { Surface } from './surface'

/** What came of seating anew what hangs together. */
export interface ReseatedTrees {
  readonly change: Pick<Change, 'put' | 'drop'>
  /** Tips that found no way down. */
  readonly lost: number
  /** Braces and props that have no room any more. */
  readonly braces: number
}

/** A brace as it is told by the stilts that it ties: how far down each of them it ends. */
interface Tie {
  readonly from: { readonly tip: string; readonly share: number }
  /** Null where it goes down to a foot of its own. */
  readonly to: { readonly tip: string; readonly share: number } | null
  readonly diameterMm: number
}

/**
 * Seats stilts anew that hang together, from where their tips are now on the posed part: first those that stand by themselves, then
 * the branches, each into the stilt that it hung on or another of those, or down by itself; then the braces, as far down each stilt as
 * they were. What has no way down is kept without a foot; braces without room go.
 * @param tips of the structures that are meant
 */
export function reseatTrees(surface: Surface, index: PlanIndex, tips: Iterable<string>, gauges: readonly Gauge[], plate: Plate): ReseatedTrees {
  const all = [...tips], draft = new PlanDraft(index, all), seen = new Set<string>()
  let lost = 0, braces = 0
  for (const tip of all) {
    const structure = index.structureAt(tip)
    if (!structure || seen.has(structure.id)) continue
    seen.add(structure.id)
    const stilts = [...structure.nodes].flatMap(id => (index.nodes.get(id)?.kind === 'tip' ? (index.stilt(id) ?? []) : [])).sort((a, b) => a.number - b.number)
    const ownerOf = (node: string): Stilt | undefined => stilts.find(s => s.nodes.slice(0, s.alone).includes(node))
    const ties = tiesOf(index, structure.beams, ownerOf)
    const parents = new Map(stilts.map(s => [s.id, s.alone < s.nodes.length ? ownerOf(s.nodes[s.alone]) : undefined]))
    draft.drop(structure.nodes, structure.beams)
    for (const s of byDepth(stilts, parents)) {
      const parent = parents.get(s.id)
      const now = parent && !goneUnder(surface, s) ? branchAnew(surface, draft, s, [parent, ...stilts.filter(o => o !== parent && o !== s)], gauges) : false
      if (now) continue
      const [shape] = reseatStilts(surface, [{ ...s, shared: undefined }], gauges, plate)
      if (shape.foot === 'lost') lost++
      draft.put(rowsOfStilt(shape, { part: s.part, number: s.number, nodes: s.nodes.slice(0, 2), ...(!parent && { foot: s.nodes[s.nodes.length - 1] }) }))
    }
    const again = ties.flatMap(tie => (tie.to ? (braceAnew(surface, draft, tie) ?? []) : []))
    draft.put(rowsOfBraces(draft.index, again))
    const props = ties.filter(tie => !tie.to && propAnew(surface, draft, tie, gauges, plate)).length
    braces += ties.length - again.length - props
  }
  const { put, drop } = draft.change('')
  return { change: { ...(put && { put }), ...(drop && { drop }) }, lost, braces }
}

function tiesOf(index: PlanIndex, beams: readonly string[], ownerOf: (node: string) => Stilt | undefined): Tie[] {
  return beams.flatMap((id): Tie[] => {
    const b = index.beams.get(id), from = b?.kind === 'brace' ? ownerOf(b.from) : undefined
    if (!b || !from) return []
    const end = (node: string, s: Stilt): { tip: string; share: number } => ({ tip: s.id, share: shareOfPlace(s, index.nodes.get(node)?.at ?? s.path[1]) })
    const to = ownerOf(b.to)
    if (!to && index.nodes.get(b.to)?.kind !== 'foot') return []
    return [{ from: end(b.from, from), to: to ? end(b.to, to) : null, diameterMm: b.fromDiameterMm }]
  })
}

/** What carries comes before what hangs on it. */
function byDepth(stilts: readonly Stilt[], parents: ReadonlyMap<string, Stilt | undefined>): Stilt[] {
  const depth = (s: Stilt): number => {
    let n = 0
    for (let p = parents.get(s.id); p && n < stilts.length; p = parents.get(p.id)) n++
    return n
  }
  const depths = new Map(stilts.map(s => [s, depth(s)]))
  return [...stilts].sort((a, b) => (depths.get(a) ?? 0) - (depths.get(b) ?? 0) || a.number - b.number)
}

function branchAnew(surface: Surface, draft: PlanDraft, s: Stilt, hosts: readonly Stilt[], gauges: readonly Gauge[]): boolean {
  const gauge = gaugeFor(s, gauges), point = fromSource(surface, s.anchor.point), normal = normalFromSource(surface, s.anchor.normal)
  for (const { id } of hosts) {
    const host = draft.index.nodes.get(id) ? draft.index.stilt(id) : null
    if (!host) continue
    const branch = routeBranch(surface, point, normal, gauge, [host], { ...branchSizes(gauge), ...s.own, shaftFootDiameterMm: s.sizes.shaftFootDiameterMm })
    if (!branch.ok) continue
    draft.put(rowsOfBranch(draft.index, shapeOfBranch(s, branch), branch.joint, s.number, { tip: s.nodes[0], knee: s.nodes[1] }))
    return true
  }
  return false
}

/** Where a brace is between the stilts as they stand now; null where there is no room for it. */
function braceAnew(surface: Surface, draft: PlanDraft, { from, to, diameterMm }: Tie): Brace | null {
  const a = draft.index.stilt(from.tip), upper = a && a.foot !== 'lost' ? placeAtShare(a, from.share) : null
  const b = to && draft.index.stilt(to.tip), lower = b && to && b.foot !== 'lost' ? placeAtShare(b, to.share) : null
  const ends = upper && lower && ([upper, lower] as const), brace = ends && braceBetween(surface, ...ends, diameterMm)
  return brace?.ok ? brace : null
}

function propAnew(surface: Surface, draft: PlanDraft, { from }: Tie, gauges: readonly Gauge[], plate: Plate): boolean {
  const s = draft.index.stilt(from.tip), prop = s && s.foot !== 'lost' ? propUnder(surface, s, gaugeFor(s, gauges), plate) : null
  if (!prop?.ok) return false
  draft.put(rowsOfProp(draft.index, prop))
  return true
}
