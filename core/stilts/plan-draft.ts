import type { Change, PlanBeam, PlanNode } from '../contract'
import { Clearance } from './clearance'
import { PlanIndex } from './plan-index'
import type { PlanRows } from './stilt'

/** Structures of a plan to be changed step by step; at the end there is one change that does all of it. Costs what they weigh. */
export class PlanDraft {
  readonly #before: { readonly nodes: ReadonlyMap<string, PlanNode>; readonly beams: ReadonlyMap<string, PlanBeam> }
  readonly #nodes = new Map<string, PlanNode>()
  readonly #beams = new Map<string, PlanBeam>()
  /** The graph as it is after the steps so far. */
  readonly index: PlanIndex
  #clearance: Clearance | null = null

  /** @param around nodes of the structures that are to be changed */
  constructor(base: PlanIndex, around: Iterable<string>) {
    const seen = new Set<string>()
    for (const id of around) {
      const structure = base.structureAt(id)
      if (!structure || seen.has(structure.id)) continue
      seen.add(structure.id)
      for (const n of structure.nodes) this.#nodes.set(n, base.nodes.get(n) as PlanNode)
      for (const b of structure.beams) this.#beams.set(b, base.beams.get(b) as PlanBeam)
    }
    this.#before = { nodes: new Map(this.#nodes), beams: new Map(this.#beams) }
    this.index = new PlanIndex(this.#nodes, this.#beams)
  }

  /** What comes near to what after the steps so far. Nothing is put into its fields by whoever asks. */
  get clearance(): Clearance {
    return (this.#clearance ??= new Clearance(this.index))
  }

  put({ nodes = [], beams = [] }: Partial<PlanRows>): void {
    for (const n of nodes) this.#nodes.set(n.id, n)
    for (const b of beams) this.#beams.set(b.id, b)
    const touched = this.index.touch(nodes.map(n => n.id), beams.map(b => b.id))
    this.#clearance?.touch(touched)
  }

  drop(nodes: readonly string[], beams: readonly string[]): void {
    for (const id of nodes) this.#nodes.delete(id)
    for (const id of beams) this.#beams.delete(id)
    const touched = this.index.touch(nodes, beams)
    this.#clearance?.touch(touched)
  }

  /** Takes a change of these structures. */
  apply({ put, drop }: Pick<Change, 'put' | 'drop'>): void {
    this.drop(drop?.nodes ?? [], drop?.beams ?? [])
    this.put({ nodes: put?.nodes, beams: put?.beams })
  }

  /** All steps as one change. */
  change(label: string): Change {
    const put = { nodes: differing(this.#before.nodes, this.#nodes), beams: differing(this.#before.beams, this.#beams) }
    const drop = { nodes: missing(this.#before.nodes, this.#nodes), beams: missing(this.#before.beams, this.#beams) }
    return { label, ...(put.nodes.length + put.beams.length > 0 && { put }), ...(drop.nodes.length + drop.beams.length > 0 && { drop }) }
  }
}

function differing<R>(before: ReadonlyMap<string, R>, now: ReadonlyMap<string, R>): R[] {
  return [...now].flatMap(([id, row]) => (before.get(id) === row ? [] : [row]))
}
function missing<R>(before: ReadonlyMap<string, R>, now: ReadonlyMap<string, R>): string[] {
  return [...before.keys()].filter(id => !now.has(id))
}
