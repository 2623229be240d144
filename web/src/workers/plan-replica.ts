import { NO_RAFT, type Change, type Part, type PlanBeam, type PlanNode, type Raft } from '@oak-stilts/core/contract'
import { joinMeshes, type Mesh, type Vec3 } from '@oak-stilts/core/mesh'
import { feetOf, raftOf, raftSolid } from '@oak-stilts/core/raft'
import { Clearance, PlanIndex, solidsOfStructure, type BeamField, type NearStilts, type PlanRows, type Stilt } from '@oak-stilts/core/stilts'

/** The rafts of some parts, as they count. */
type Rafts = readonly (readonly [part: string, raft: Raft])[]
/** All plans of a job. */
export type AllPlans = PlanRows & { readonly rafts: Rafts }
export const raftsOf = (parts: readonly Part[]): Rafts => parts.map(p => [p.id, raftOf(p)] as const)

/** The rows of plans that a change puts and drops. */
export interface PlanEdit {
  readonly rafts?: Rafts
  readonly put: PlanRows
  readonly drop: { readonly nodes: readonly string[]; readonly beams: readonly string[] }
}

/** What of a change concerns plans; null where nothing does. */
export function planEditOf({ put, drop }: Pick<Change, 'put' | 'drop'>): PlanEdit | null {
  const edit = { rafts: raftsOf(put?.parts ?? []), put: { nodes: put?.nodes ?? [], beams: put?.beams ?? [] }, drop: { nodes: drop?.nodes ?? [], beams: drop?.beams ?? [] } }
  return edit.rafts.length + edit.put.nodes.length + edit.put.beams.length + edit.drop.nodes.length + edit.drop.beams.length > 0 ? edit : null
}

/** A worker's own copy of all plans of a job. It is told of edits, and makes solids anew only of what they touched. */
export class PlanReplica {
  #nodes = new Map<string, PlanNode>()
  #beams = new Map<string, PlanBeam>()
  #index = new PlanIndex(this.#nodes, this.#beams)
  #clearance = new Clearance(this.#index)
  #rafts = new Map<string, Raft>()
  readonly #underneath = new Map<string, { readonly key: string; readonly solid: Mesh | null }>()
  readonly #solids = new Map<string, { readonly version: number; readonly solids: readonly Mesh[] }>()

  load({ nodes, beams, rafts }: AllPlans): void {
    this.#rafts = new Map(rafts)
    this.#underneath.clear()
    this.#nodes = new Map(nodes.map(n => [n.id, n]))
    this.#beams = new Map(beams.map(b => [b.id, b]))
    this.#index = new PlanIndex(this.#nodes, this.#beams)
    this.#clearance = new Clearance(this.#index)
    this.#solids.clear()
  }

  edit({ rafts = [], put, drop }: PlanEdit): void {
    for (const [part, raft] of rafts) this.#rafts.set(part, raft)
    for (const id of drop.nodes) this.#nodes.delete(id)
    for (const id of drop.beams) this.#beams.delete(id)
    for (const n of put.nodes) this.#nodes.set(n.id, n)
    for (const b of put.beams) this.#beams.set(b.id, b)
    const touched = this.#index.touch([...drop.nodes, ...put.nodes.map(n => n.id)], [...drop.beams, ...put.beams.map(b => b.id)])
    for (const id of touched.gone) this.#solids.delete(id)
    this.#clearance.touch(touched)
  }

  /** What a part stands on. */
  raftOf(part: string): Raft {
    return this.#rafts.get(part) ?? NO_RAFT
  }

  /** The graph of all plans. */
  get index(): PlanIndex {
    return this.#index
  }

  /** The tips of all that hangs together with a stilt. */
  tipsWith(tip: string): ReadonlySet<string> {
    return new Set((this.#index.structureAt(tip)?.nodes ?? []).filter(id => this.#index.nodes.get(id)?.kind === 'tip'))
  }

  /** Where the tips of a part's stilts touch, in its stand. */
  tips(part: string): { readonly id: string; readonly at: Vec3 }[] {
    return this.#index.stiltsOf(part).map(s => ({ id: s.id, at: s.path[0] }))
  }

  /** The stilts of a part. Those that no edit touched stay the same objects. */
  stilts(part: string): readonly Stilt[] {
    return this.#index.stiltsOf(part)
  }

  /** Whether a node is held by more than the one way that leads through it: by a brace, or where others join. */
  isHeld(node: string): boolean {
    return this.#index.isHeld(node)
  }

  /** The beams of a part's stilts, in its stand. */
  field(part: string): BeamField {
    return this.#clearance.field(part)
  }

  /** The same to be added to. */
  copyOfField(part: string): BeamField {
    return new Clearance(this.#index).field(part)
  }

  /** Stilts of a part that are nearer to each other than a limit. */
  nearer(part: string, limitMm: number): NearStilts[] {
    return this.#clearance.nearer(part, limitMm)
  }

  /** What stands under a part: its stilts, one mesh for each structure, and the raft that they stand on, null where there is none. */
  underneath(part: string): { readonly stilts: Mesh[]; readonly raft: Mesh | null } {
    return { stilts: this.#structures(part).map(joinMeshes), raft: this.#raft(part) }
  }

  /** Another text for every state of the stilts of a part. */
  stateOf(part: string): string {
    let count = 0, newest = 0
    for (const s of this.#index.structures().values()) {
      if (s.part !== part) continue
      count++
      newest = Math.max(newest, s.version)
    }
    return `${count} ${newest} ${JSON.stringify(this.#rafts.get(part))}`
  }

  /** The solids of a part's structures, each simple. Those that no edit touched stay the same objects. */
  solids(part: string): Mesh[] {
    const raft = this.#raft(part), out = this.#structures(part).flat()
    return raft ? [...out, raft] : out
  }

  /** The solids of each structure of a part. */
  #structures(part: string): (readonly Mesh[])[] {
    return [...this.#index.structures().values()].filter(s => s.part === part).map(structure => {
      let known = this.#solids.get(structure.id)
      if (known?.version !== structure.version) this.#solids.set(structure.id, (known = { version: structure.version, solids: solidsOfStructure(this.#index, structure) }))
      return known.solids
    })
  }

  /** The raft of a part; the same object as long as it and its feet are as they were. */
  #raft(part: string): Mesh | null {
    const raft = this.#rafts.get(part)
    if (!raft || raft.kind === 'none') return null
    const feet = feetOf(this.#nodes.values(), part), key = JSON.stringify([raft, feet])
    let known = this.#underneath.get(part)
    if (known?.key !== key) this.#underneath.set(part, (known = { key, solid: raftSolid(raft, feet) }))
    return known.solid
  }
}
