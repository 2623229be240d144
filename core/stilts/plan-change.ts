import { isWay, type Change, type FootNode, type PlanBeam, type PlanNode } from '../contract'
import { distance } from '../mesh'
import { PlanDraft } from './plan-draft'
import type { PlanIndex } from './plan-index'
import { FOOT_SIZES, OWN_FOOT_SIZES, rowsOfStilt, type Stilt, type StiltShape } from './stilt'
import { tidyJoints } from './tidy'

/** What becomes of the stilts of a part in one change. */
export interface StiltChanges {
  /** New ones; they are numbered as they come. */
  readonly add?: readonly StiltShape[]
  /** Stilts as they are in the plan, and what they are to be. */
  readonly put?: readonly { readonly stilt: Stilt; readonly shape: StiltShape }[]
  readonly drop?: readonly Stilt[]
}

/**
 * The rows that a change of stilts puts and drops. A stilt whose lower end stays where it is, from where something else depends on it,
 * is changed in place: what hangs on it or is braced to it stays with it. One that is given another way leaves what it shares to the
 * others, and its braces go. Joints that only what goes made necessary go as well.
 * @param part the part that new stilts belong to
 */
export function changeOfStilts(index: PlanIndex, part: string, label: string, { add = [], put = [], drop = [] }: StiltChanges): Change {
  const nodes: PlanNode[] = [], beams: PlanBeam[] = []
  const goneNodes = new Set<string>(), goneBeams = new Set<string>()
  let number = index.nextNumber(part)
  for (const shape of add) {
    const rows = rowsOfStilt(shape, { part, number: number++ })
    nodes.push(...rows.nodes)
    beams.push(...rows.beams)
  }
  for (const { stilt, shape } of put) {
    const rows = keepsItsEnd(stilt, shape) ? rowsInPlace(index, stilt, shape) : rowsOfNewWay(index, stilt, shape)
    nodes.push(...rows.nodes)
    beams.push(...rows.beams)
    for (const id of rows.goneNodes) goneNodes.add(id)
    for (const id of rows.goneBeams) goneBeams.add(id)
  }
  dropStilts(index, drop, goneNodes, goneBeams)
  for (const id of goneNodes) {
    for (const b of index.beamsAt(id)) {
      if (isWay(b)) continue
      goneBeams.add(b.id)
      // what only props up has nothing to do with what went, and a leg goes with its joint
      if (b.from === id && index.nodes.get(b.to)?.kind === 'foot') goneNodes.add(b.to)
    }
  }
  const change: Change = {
    label,
    ...((nodes.length > 0 || beams.length > 0) && { put: { nodes, beams } }),
    ...((goneNodes.size > 0 || goneBeams.size > 0) && { drop: { nodes: [...goneNodes], beams: [...goneBeams] } }),
  }
  return tidied(index, change, goneNodes, goneBeams)
}

/** The change that takes braces and their own feet away, and joints that they alone made necessary. */
export function changeWithout(index: PlanIndex, label: string, nodes: readonly string[], beams: readonly string[]): Change {
  return tidied(index, { label, drop: { nodes: [...nodes], beams: [...beams] } }, new Set(nodes), new Set(beams))
}

interface ChangedRows {
  readonly nodes: readonly PlanNode[]
  readonly beams: readonly PlanBeam[]
  readonly goneNodes: readonly string[]
  readonly goneBeams: readonly string[]
}

/** Whether a stilt on which something depends ends as it did, from there on where that depends on it. */
function keepsItsEnd({ path, bound, nodes, alone }: Stilt, shape: StiltShape): boolean {
  const kept = nodes.length - bound, from = shape.path.length - kept
  if (kept === 0 || from < 1 || (shape.shared ? shape.path.length - shape.shared.from !== nodes.length - alone : alone < nodes.length)) return false
  return path.slice(bound).every((p, i) => distance(p, shape.path[from + i]) < 1e-9)
}

/** A stilt that is changed above the first node on which something depends; below it only thicknesses change. */
function rowsInPlace(index: PlanIndex, stilt: Stilt, shape: StiltShape): ChangedRows {
  const { nodes: ids, beams: beamIds, bound, part, number } = stilt, from = shape.path.length - (ids.length - bound)
  const own = (i: number): string | undefined => (i < Math.min(from, bound) ? ids[i] : undefined)
  const names = shape.path.map((_, i) => (i < from ? own(i) : ids[i - from + bound])) as string[]
  // the last of its own beams stays the one that ends where something depends on it
  const beamNames = shape.path.slice(1).map((_, i) => (i >= from - 1 ? beamIds[i - from + bound] : i < bound - 1 ? beamIds[i] : undefined)) as string[]
  // its legs stay where they are
  const rows = rowsOfStilt({ ...shape, legs: undefined }, { part, number, nodes: names.slice(0, -1), foot: names[names.length - 1], beams: beamNames })
  const foot = index.nodes.get(ids[ids.length - 1]) as FootNode, made = rows.nodes[rows.nodes.length - 1] as FootNode
  const footChanged = !shape.shared && (FOOT_SIZES.some(n => foot.fitted[n] !== made.fitted[n]) || OWN_FOOT_SIZES.some(n => foot.own[n] !== made.own[n]))
  const legs = footChanged ? index.beamsAt(ids[ids.length - 2]).filter(b => b.kind === 'leg') : [], ends = footChanged ? [foot, ...legs.map(b => index.nodes.get(b.to) as FootNode)].map(f => ({ ...f, own: made.own, fitted: made.fitted })) : []
  const beams = rows.beams.filter((b, i) => {
    const before = index.beams.get(b.id)
    return i < from || !before || before.fromDiameterMm !== b.fromDiameterMm || before.toDiameterMm !== b.toDiameterMm
  }).map(b => {
    const before = index.beams.get(b.id)
    return before ? { ...b, kind: before.kind } : b
  })
  return {
    nodes: [...rows.nodes.slice(0, from), ...ends], beams: [...beams, ...legs.map(b => ({ ...b, fromDiameterMm: shape.sizes.shaftFootDiameterMm, toDiameterMm: shape.sizes.footDiameterMm }))],
    goneNodes: ids.slice(Math.min(from, bound), bound), goneBeams: beamIds.slice(0, bound - 1).slice(Math.max(0, from - 1)),
  }
}

/** A stilt that is given another way: it uses the rows that it has for itself. */
function rowsOfNewWay(index: PlanIndex, stilt: Stilt, shape: StiltShape): ChangedRows {
  const { nodes: ids, beams: beamIds, part, number } = stilt
  // from the first node that other stilts join, the way stays for them
  const shares = ids.findIndex((id, i) => i > 0 && index.beamsAt(id).filter(b => isWay(b) && b.to === id).length > 1)
  const own = shares < 0 ? { nodes: ids.slice(0, -1), foot: ids[ids.length - 1] as string | undefined, beams: beamIds } : { nodes: ids.slice(0, shares), foot: undefined, beams: beamIds.slice(0, shares) }
  const rows = rowsOfStilt(shape, { part, number, ...own }), kept = new Set([...rows.nodes, ...rows.beams].map(r => r.id))
  // a brace that is left at a node which went elsewhere holds nothing there; legs are made anew
  const braces = own.nodes.flatMap(id => index.beamsAt(id)).filter(b => !isWay(b))
  return {
    ...rows, goneNodes: [...own.nodes, ...(own.foot === undefined ? [] : [own.foot]), ...braces.flatMap(b => (index.nodes.get(b.to)?.kind === 'foot' ? [b.to] : []))].filter(id => !kept.has(id)),
    goneBeams: [...own.beams.filter(id => !kept.has(id)), ...braces.map(b => b.id)],
  }
}

/** Stilts go with all that nothing else hangs on. */
function dropStilts(index: PlanIndex, drop: readonly Stilt[], goneNodes: Set<string>, goneBeams: Set<string>): void {
  const waiting = new Set(drop.flatMap(s => s.nodes))
  // from the top down: a node goes once nothing that stays hangs on it
  for (let more = waiting.size > 0; more;) {
    more = false
    for (const id of waiting) {
      const around = index.beamsAt(id).filter(isWay)
      if (around.some(b => b.to === id && !goneNodes.has(b.from))) continue
      waiting.delete(id)
      goneNodes.add(id)
      for (const b of around) goneBeams.add(b.id)
      more = true
    }
  }
}

/** A change that also takes joints away which it leaves in the middle of straight shafts. */
function tidied(index: PlanIndex, change: Change, goneNodes: ReadonlySet<string>, goneBeams: ReadonlySet<string>): Change {
  const left = new Set<string>()
  for (const id of goneBeams) {
    const b = index.beams.get(id)
    for (const end of b ? [b.from, b.to] : []) if (!goneNodes.has(end) && index.nodes.get(end)?.kind === 'joint') left.add(end)
  }
  if (left.size === 0) return change
  const draft = new PlanDraft(index, [...left, ...goneNodes, ...[...goneBeams].flatMap(id => index.beams.get(id)?.from ?? []), ...(change.put?.nodes ?? []).map(n => n.id)])
  draft.apply(change)
  tidyJoints(draft, left)
  return draft.change(change.label)
}
