import { isWay, sortedById, type FootNode, type PlanBeam, type PlanNode, type TipNode } from '../contract'
import type { Leg, Stilt } from './stilt'

/** Nodes that hang together, and their beams: what is made into one solid, scanned as one support and drawn at once. */
export interface Structure {
  /** The smallest of its nodes' ids. */
  readonly id: string
  /** Another one for every change of the structure. */
  readonly version: number
  readonly part: string
  readonly nodes: readonly string[]
  readonly beams: readonly string[]
}

/** Structures that a change made, or made anew, and those that are gone; ids. */
export interface TouchedStructures {
  readonly changed: readonly string[]
  readonly gone: readonly string[]
}

/** Longest way from a tip to its foot, nodes: what goes on longer is a circle. */
const LONGEST_WAY = 256

/**
 * The graph of all stilts of a job: what is beside what, which pieces hang together, and the stilts as people see them. It reads the
 * rows where they are kept and is told which ones changed; that costs what the touched pieces weigh.
 */
export class PlanIndex {
  readonly nodes: ReadonlyMap<string, PlanNode>
  readonly beams: ReadonlyMap<string, PlanBeam>
  readonly #beamsAt = new Map<string, Set<string>>()
  /** Ends of every beam as they are known here. */
  readonly #ends = new Map<string, readonly [string, string]>()
  readonly #structures = new Map<string, Structure>()
  readonly #structureOf = new Map<string, string>()
  readonly #stilts = new Map<string, Stilt | null>()
  readonly #byPart = new Map<string, readonly Stilt[]>()
  readonly #tips = new Map<string, Set<string>>()
  readonly #partOfTip = new Map<string, string>()
  #clock = 0

  constructor(nodes: ReadonlyMap<string, PlanNode>, beams: ReadonlyMap<string, PlanBeam>) {
    this.nodes = nodes
    this.beams = beams
    this.touch(nodes.keys(), beams.keys())
  }

  /** Takes over rows that were put or dropped. */
  touch(nodes: Iterable<string>, beams: Iterable<string>): TouchedStructures {
    const members = new Set<string>(), gone = new Set<string>()
    const take = (id: string): void => {
      const structure = this.#structureOf.get(id)
      if (structure === undefined) members.add(id)
      else gone.add(structure)
    }
    for (const id of nodes) {
      take(id)
      // a beam may have come before its end
      for (const b of this.#beamsAt.get(id) ?? []) for (const end of this.#ends.get(b) ?? []) take(end)
      this.#noteTip(id)
    }
    for (const id of beams) {
      for (const end of this.#ends.get(id) ?? []) {
        take(end)
        this.#beamsAt.get(end)?.delete(id)
      }
      this.#ends.delete(id)
      const beam = this.beams.get(id)
      if (!beam) continue
      this.#ends.set(id, [beam.from, beam.to])
      for (const end of [beam.from, beam.to]) {
        take(end)
        const list = this.#beamsAt.get(end)
        if (list) list.add(id)
        else this.#beamsAt.set(end, new Set([id]))
      }
    }
    for (const id of gone) {
      for (const n of this.#structures.get(id)?.nodes ?? []) {
        members.add(n)
        this.#structureOf.delete(n)
      }
      this.#structures.delete(id)
    }
    const changed = this.#gather(members)
    return { changed, gone: [...gone].filter(id => !this.#structures.has(id)) }
  }

  #noteTip(id: string): void {
    this.#stilts.delete(id)
    const before = this.#partOfTip.get(id), node = this.nodes.get(id)
    if (before !== undefined) {
      this.#tips.get(before)?.delete(id)
      this.#partOfTip.delete(id)
      this.#byPart.delete(before)
    }
    if (node?.kind !== 'tip') return
    this.#partOfTip.set(id, node.part)
    const tips = this.#tips.get(node.part)
    if (tips) tips.add(id)
    else this.#tips.set(node.part, new Set([id]))
    this.#byPart.delete(node.part)
  }

  /** Puts nodes into pieces that hang together. All that hangs together with one of them is among them. */
  #gather(members: ReadonlySet<string>): string[] {
    const changed: string[] = [], seen = new Set<string>()
    for (const start of members) {
      const first = this.nodes.get(start)
      if (!first) {
        if (this.#beamsAt.get(start)?.size === 0) this.#beamsAt.delete(start)
        continue
      }
      if (seen.has(start)) continue
      const nodes = [start], beams = new Set<string>()
      seen.add(start)
      let id = start
      for (let i = 0; i < nodes.length; i++) {
        if (nodes[i] < id) id = nodes[i]
        for (const b of this.#beamsAt.get(nodes[i]) ?? []) {
          const beam = this.beams.get(b)
          if (!beam || beams.has(b)) continue
          beams.add(b)
          const other = beam.from === nodes[i] ? beam.to : beam.from
          if (seen.has(other) || !this.nodes.has(other)) continue
          seen.add(other)
          nodes.push(other)
        }
      }
      this.#structures.set(id, { id, version: ++this.#clock, part: first.part, nodes, beams: [...beams] })
      this.#byPart.delete(first.part)
      for (const n of nodes) {
        this.#structureOf.set(n, id)
        this.#stilts.delete(n)
      }
      changed.push(id)
    }
    return changed
  }

  /** All structures by id. */
  structures(): ReadonlyMap<string, Structure> {
    return this.#structures
  }

  /** The structure that a node belongs to. */
  structureAt(node: string): Structure | undefined {
    return this.#structures.get(this.#structureOf.get(node) ?? '')
  }

  beamsAt(node: string): PlanBeam[] {
    return [...(this.#beamsAt.get(node) ?? [])].flatMap(id => this.beams.get(id) ?? [])
  }

  /** Whether a node is held by more than the one way that leads through it: by a brace, or where others join. */
  isHeld(node: string): boolean {
    const around = this.beamsAt(node)
    return around.some(b => b.kind === 'brace') || around.filter(b => b.to === node).length > 1
  }

  /** The stilt of a tip; null where it has no way to a foot. What a change left alone stays the same object. */
  stilt(tip: string): Stilt | null {
    const known = this.#stilts.get(tip)
    if (known !== undefined) return known
    const node = this.nodes.get(tip), made = node?.kind === 'tip' ? this.#viewOf(node) : null
    this.#stilts.set(tip, made)
    return made
  }

  /** The stilts of a part, by number; those without a way to a foot are left out. */
  stiltsOf(part: string): readonly Stilt[] {
    const known = this.#byPart.get(part)
    if (known) return known
    const stilts = [...(this.#tips.get(part) ?? [])].flatMap(id => this.stilt(id) ?? []).sort((a, b) => a.number - b.number)
    this.#byPart.set(part, stilts)
    return stilts
  }

  /** Tips of a part, with a way to a foot or without. */
  tipsOf(part: string): ReadonlySet<string> {
    return this.#tips.get(part) ?? NONE
  }

  /** The number that the next stilt of a part gets. */
  nextNumber(part: string): number {
    let most = 0
    for (const id of this.tipsOf(part)) most = Math.max(most, (this.nodes.get(id) as TipNode).number)
    return most + 1
  }

  /** How thick the segments of a stilt are at both ends, mm. */
  diametersOf({ beams }: Pick<Stilt, 'beams'>): [number, number][] {
    return beams.flatMap((id): [number, number][] => {
      const b = this.beams.get(id)
      return b ? [[b.fromDiameterMm, b.toDiameterMm]] : []
    })
  }

  /** The further feet of a stick whose foot is spread from a node. */
  #legsAt(node: string): Leg[] {
    return sortedById(this.beamsAt(node).filter(b => b.kind === 'leg' && b.from === node)).flatMap(b => {
      const foot = this.nodes.get(b.to)
      return foot?.kind === 'foot' && foot.on.kind === 'model' ? [{ at: foot.at, anchor: foot.on.anchor }] : []
    })
  }

  #viewOf(tip: TipNode): Stilt | null {
    const nodes: PlanNode[] = [tip], beams: PlanBeam[] = []
    let alone: number | null = null, bound: number | null = null
    let node: PlanNode = tip
    for (;;) {
      const around: PlanBeam[] = this.beamsAt(node.id), into: PlanBeam[] = around.filter(b => isWay(b) && b.to === node.id), i = nodes.length - 1
      if (i > 0 && alone === null && ownerOf(into).id !== beams[i - 1].id) alone = i
      if (bound === null && (into.length > 1 || around.some(b => b.kind === 'brace'))) bound = i
      if (node.kind === 'foot') break
      const { id }: PlanNode = node
      const down: PlanBeam | undefined = sortedById(around.filter(b => isWay(b) && b.from === id))[0], next: PlanNode | undefined = down && this.nodes.get(down.to)
      if (!next || nodes.length > LONGEST_WAY) return null
      beams.push(down)
      nodes.push(next)
      node = next
    }
    const foot = nodes[nodes.length - 1] as FootNode
    if (nodes.length < 3) return null
    const { on } = foot, legs = on.kind === 'model' && alone === null ? this.#legsAt(nodes[nodes.length - 2].id) : []
    return {
      id: tip.id, part: tip.part, number: tip.number, gauge: tip.gauge, role: tip.role, anchor: tip.anchor, path: nodes.map(n => n.at),
      sizes: { ...tip.fitted, ...foot.fitted, ...(alone !== null && { shaftFootDiameterMm: beams[alone - 1].toDiameterMm }) }, own: alone === null ? { ...tip.own, ...foot.own } : tip.own, foot: on.kind, footPinned: foot.pinned,
      ...(on.kind === 'model' && { footAnchor: on.anchor }), ...(legs.length > 0 && { legs }), ...(tip.spread !== undefined && { spread: tip.spread }), ...(tip.forced !== undefined && { forced: tip.forced }), ...(on.kind === 'lost' && { lostFor: on.reason }),
      ...(alone !== null && { shared: { from: alone, diameters: beams.slice(alone).map((b): [number, number] => [b.fromDiameterMm, b.toDiameterMm]) } }),
      nodes: nodes.map(n => n.id), beams: beams.map(b => b.id), alone: alone ?? nodes.length, bound: bound ?? nodes.length,
    }
  }
}

/** Of the beams that end at a node the one whose stilt goes on from there: no branch, and the oldest. */
function ownerOf(into: readonly PlanBeam[]): PlanBeam {
  return into.reduce((a, b) => ((a.kind === 'branch') !== (b.kind === 'branch') ? (b.kind === 'branch' ? a : b) : a.id < b.id ? a : b))
}

const NONE: ReadonlySet<string> = new Set()
