import type { Change, PlanBeam, PlanNode } from '../contract'
import type { PlanIndex } from './plan-index'
import { rowsOfStilt, type Stilt, type StiltShape } from './stilt'

/** What becomes of the stilts of a part in one change. */
export interface StiltChanges {
  /** New ones; they are numbered as they come. */
  readonly add?: readonly StiltShape[]
  /** Stilts as they are in the plan, and what they are to be. */
  readonly put?: readonly { readonly stilt: Stilt; readonly shape: StiltShape }[]
  readonly drop?: readonly Stilt[]
}

/**
 * The rows that a change of stilts puts and drops. What a stilt shares with others stays where it is: one that is given another way
 * leaves the shared one. Braces of what goes go with it.
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
    const own = ownRows(stilt), rows = rowsOfStilt(shape, { part: stilt.part, number: stilt.number, ...own })
    const kept = new Set([...rows.nodes, ...rows.beams].map(r => r.id))
    nodes.push(...rows.nodes)
    beams.push(...rows.beams)
    for (const id of [...own.nodes, ...(own.foot ? [own.foot] : [])]) if (!kept.has(id)) goneNodes.add(id)
    for (const id of own.beams) if (!kept.has(id)) goneBeams.add(id)
  }
  for (const stilt of drop) {
    const own = ownRows(stilt)
    for (const id of [...own.nodes, ...(own.foot ? [own.foot] : [])]) goneNodes.add(id)
    for (const id of own.beams) goneBeams.add(id)
  }
  dropSharedByAll(index, drop, goneNodes, goneBeams)
  for (const id of goneNodes) for (const b of index.beamsAt(id)) if (b.kind === 'brace') goneBeams.add(b.id)
  return {
    label,
    ...((nodes.length > 0 || beams.length > 0) && { put: { nodes, beams } }),
    ...((goneNodes.size > 0 || goneBeams.size > 0) && { drop: { nodes: [...goneNodes], beams: [...goneBeams] } }),
  }
}

/** The rows that a stilt has for itself. */
function ownRows({ nodes, beams, alone }: Stilt): { nodes: string[]; foot?: string; beams: string[] } {
  const whole = alone === nodes.length
  return { nodes: nodes.slice(0, whole ? -1 : alone), ...(whole && { foot: nodes[nodes.length - 1] }), beams: beams.slice(0, alone) }
}

/** What only stilts share that are all dropped goes as well. */
function dropSharedByAll(index: PlanIndex, drop: readonly Stilt[], goneNodes: Set<string>, goneBeams: Set<string>): void {
  const shared = new Set(drop.flatMap(s => s.nodes.slice(s.alone)))
  // from the top down: a node goes once nothing that stays hangs on it
  for (let more = shared.size > 0; more;) {
    more = false
    for (const id of shared) {
      if (goneNodes.has(id)) continue
      const around = index.beamsAt(id).filter(b => b.kind !== 'brace')
      if (around.some(b => b.to === id && !goneNodes.has(b.from))) continue
      goneNodes.add(id)
      for (const b of around) goneBeams.add(b.id)
      more = true
    }
  }
}
