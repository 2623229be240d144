import type { Vec3 } from '../../mesh'
import { carriedBy } from '../frame'
import { addTimes, addTransposedTimes, BLOCK, invert, SIZE } from '../frame/block'
import { Grip, LAST } from './grip'
import { LayerGrip, type HoldingEnd } from './grip-states'
import { Group, isHeld, type ByPiece } from './group'
import type { Pieces } from './pieces'
import type { SupportFrame } from './supports'

/** What holds, with one end let go. */
export interface LetGo {
  /** Whether what it held is still held in every direction. */
  readonly holds: boolean
  /** How pieces move then, by how they moved before. */
  motionsFrom(before: ByPiece): Map<number, Float64Array>
  /** What is added to what they push each end of the same support with, by how they moved before; as in `pushOn`. */
  addTo(push: Float64Array, before: ByPiece): void
}

/**
 * Which supports hold what, from the last layer down: each piece of the model is rigid, each support a frame of beams that has grown into
 * it. Going down lets the ends go that have not been laid yet, and takes the pieces apart that have not come together yet.
 */
export class Holding {
  readonly middle: Vec3
  readonly #pieces: Pieces
  readonly #grips: readonly LayerGrip[]
  /** Of those of which ends were let go: how each pair of ends presses on each other. */
  readonly #exact = new Map<number, Grip>()
  #layer = LAST
  #groups: ReadonlyMap<number, Group> | null = null
  #counts: ReadonlyMap<number, number> | null = null
  #ends: readonly HoldingEnd[] | null = null

  constructor(supports: readonly SupportFrame[], pieces: Pieces, middle: Vec3) {
    this.middle = middle
    this.#pieces = pieces
    this.#grips = supports.map((s, i) => new LayerGrip(s, i, middle, pieces))
  }

  /** How many supports there are. */
  get supports(): number {
    return this.#grips.length
  }

  /** Goes down to a layer: what is laid above it does not hold yet. Gives whether anything changed. */
  downTo(layer: number): boolean {
    this.#layer = layer
    const changed = new Set(this.#grips.filter(g => g.downTo(layer)))
    if (changed.size === 0 && this.#groups) return false
    this.#groups = grouped(this.#grips, this.#pieces, this.#groups, changed)
    this.#ends = this.#counts = null
    return true
  }

  /** Whether supports hold a piece in every direction by now; what lies on the plate is held by that. */
  holds(piece: number): boolean {
    return this.#pieces.list[piece].onPlate || (this.#groupOf(piece)?.holds ?? false)
  }

  /** How pieces move under loads. What nothing holds is left out, and so is what lies on the plate. */
  motionsUnder(loads: ByPiece): Map<number, Float64Array> {
    const groups = new Set([...loads.keys()].flatMap(p => this.#groupOf(p) ?? [])), cases = casesIn(loads)
    return new Map([...groups].flatMap(g => [...g.solve(loads, cases)]))
  }

  /** What the pieces push each end of a support with that holds by now: six numbers an end for each case, N and N·mm about the end; zero elsewhere. */
  pushOn(support: number, motions: ByPiece): Float64Array {
    const g = this.#grips[support], cases = casesIn(motions), out = new Float64Array(SIZE * cases * g.size)
    for (const [piece, presses] of g.presses) {
      const motion = motions.get(piece)
      if (motion) for (const i of g.holding) for (let c = 0; c < cases; c++) addTimes(1, presses, BLOCK * i, motion, SIZE * c, out, SIZE * (cases * i + c))
    }
    return out
  }

  /** All ends that hold by now. */
  get ends(): readonly HoldingEnd[] {
    if (this.#ends) return this.#ends
    const out: HoldingEnd[] = []
    for (const g of this.#grips) for (const e of g.ends) out.push(e)
    return (this.#ends = out)
  }

  /** Ends of a support that hold by now. */
  endsOf(support: number): readonly HoldingEnd[] {
    return this.#grips[support].ends
  }

  /** The piece that an end holds by now; −1 where it does not. */
  pieceOf(support: number, end: number): number {
    const g = this.#grips[support]
    return g.holding.includes(end) ? g.pieces[end] : -1
  }

  /** The same as it would be if one end that holds by now held no more (Woodbury's formula). */
  lettingGo(support: number, end: number): LetGo {
    const g = this.#exactly(support), group = this.#groupOf(g.pieces[end]), presses = new Map([...g.presses].map(([p, blocks]) => [p, blocks.subarray(BLOCK * end, BLOCK * (end + 1))]))
    const own = new Float64Array(BLOCK), left = new Float64Array(BLOCK), gives = new Float64Array(BLOCK)
    g.block(end, end, own)
    // how pieces move where the end is pushed: six cases; and what it still resists where they are free to
    const moved = group?.solve(presses, SIZE) ?? new Map<number, Float64Array>()
    left.set(own)
    for (const [p, press] of presses) {
      const motion = moved.get(p)
      if (motion) for (let r = 0; r < SIZE; r++) for (let s = 0; s < SIZE; s++) for (let d = 0; d < SIZE; d++) left[SIZE * r + s] -= press[SIZE * r + d] * motion[SIZE * s + d]
    }
    const resists = g.resists(end), holds = (group?.holds ?? false) && (!resists || isHeld(left, own))
    if (holds && resists) invert(left, 0, gives, 0)
    /** How the end gives, by how the pieces moved before; six numbers for each case. */
    const givenBy = (before: ByPiece): Float64Array => {
      const cases = casesIn(before), pressed = new Float64Array(SIZE * cases), out = new Float64Array(SIZE * cases)
      for (const [p, press] of presses) {
        const motion = before.get(p)
        for (let c = 0; motion && c < cases; c++) addTimes(1, press, 0, motion, SIZE * c, pressed, SIZE * c)
      }
      for (let c = 0; c < cases; c++) addTimes(1, gives, 0, pressed, SIZE * c, out, SIZE * c)
      return out
    }
    return {
      holds,
      motionsFrom: before => {
        const given = givenBy(before), cases = casesIn(before)
        return new Map((group?.pieces ?? []).map(p => {
          const motion = Float64Array.from(before.get(p) ?? new Float64Array(SIZE * cases)), more = moved.get(p)
          for (let c = 0; more && c < cases; c++) addTransposedTimes(1, more, 0, given, SIZE * c, motion, SIZE * c)
          return [p, motion]
        }))
      },
      addTo: (push, before) => {
        const given = givenBy(before), cases = casesIn(before)
        for (const i of g.holding) {
          g.block(i, end, block)
          for (let c = 0; c < cases; c++) addTimes(-1, block, 0, given, SIZE * c, push, SIZE * (cases * i + c))
        }
        push.fill(0, SIZE * cases * end, SIZE * cases * (end + 1))
      },
    }
  }

  /** Pieces that move with a piece since the same supports hold them; none where nothing does. */
  movesWith(piece: number): readonly number[] {
    return this.#groupOf(piece)?.pieces ?? []
  }

  /** How many ends hold each piece by now. */
  get endsByPiece(): ReadonlyMap<number, number> {
    if (this.#counts) return this.#counts
    const out = new Map<number, number>()
    for (const { holding, pieces } of this.#grips) for (const i of holding) out.set(pieces[i], (out.get(pieces[i]) ?? 0) + 1)
    return (this.#counts = out)
  }

  /** Supports that hold one of some pieces by now. */
  supportsOf(pieces: ReadonlySet<number>): number[] {
    return this.#grips.flatMap((g, s) => ([...g.presses.keys()].some(p => pieces.has(p)) ? [s] : []))
  }

  /** A force at a point as a load of a piece that it is laid on. */
  loadAt(at: Vec3, force: Vec3): Float64Array {
    const out = new Float64Array(SIZE)
    addTransposedTimes(1, carriedBy(this.middle, at), 0, Float64Array.of(...force, 0, 0, 0), 0, out, 0)
    return out
  }

  /** How a point of a piece is displaced in each case, mm. */
  displacementsAt(at: Vec3, motion: Float64Array): Vec3[] {
    const carried = carriedBy(this.middle, at), out = new Float64Array(SIZE)
    return Array.from({ length: motion.length / SIZE }, (_, c) => {
      addTimes(1, carried, 0, motion, SIZE * c, out.fill(0), 0)
      return [out[0], out[1], out[2]]
    })
  }

  #exactly(support: number): Grip {
    const known = this.#exact.get(support) ?? new Grip(this.#grips[support].support, this.middle, this.#pieces)
    this.#exact.set(support, known)
    known.downTo(this.#layer, this.#pieces)
    return known
  }

  #groupOf(piece: number): Group | undefined {
    return (this.#groups ??= grouped(this.#grips, this.#pieces, null, new Set())).get(piece)
  }
}
const block = new Float64Array(BLOCK)

/** Of how many cases forces or motions are told. */
function casesIn(of: ByPiece): number {
  for (const numbers of of.values()) return numbers.length / SIZE
  return 1
}

/**
 * Puts pieces together that the same supports hold; what lies on the plate moves with nothing.
 * @param known groups of before, which stay where none of their supports is among those that changed
 */
function grouped(grips: readonly LayerGrip[], { list }: Pieces, known: ReadonlyMap<number, Group> | null, changed: ReadonlySet<LayerGrip>): Map<number, Group> {
  const parent = new Int32Array(list.length).fill(-1)
  const find = (p: number): number => {
    let at = p
    while (parent[at] !== at) at = parent[at] = parent[parent[at]]
    return at
  }
  const firsts = grips.map(({ presses }) => {
    let first = -1
    for (const p of presses.keys()) {
      if (list[p].onPlate) continue
      if (parent[p] < 0) parent[p] = p
      if (first < 0) first = p
      else parent[find(p)] = find(first)
    }
    return first
  })
  const members = new Map<number, { readonly pieces: number[]; readonly grips: LayerGrip[] }>(), memberOf = (root: number): { pieces: number[]; grips: LayerGrip[] } => {
    let m = members.get(root)
    if (!m) members.set(root, (m = { pieces: [], grips: [] }))
    return m
  }
  for (let p = 0; p < parent.length; p++) if (parent[p] >= 0) memberOf(find(p)).pieces.push(p)
  grips.forEach((g, i) => firsts[i] >= 0 && memberOf(find(firsts[i])).grips.push(g))
  const out = new Map<number, Group>()
  for (const { pieces, grips: own } of members.values()) {
    const before = known?.get(pieces[0]), stays = before?.pieces.length === pieces.length && !own.some(g => changed.has(g)) && !before.grips.some(g => changed.has(g)) && pieces.every(p => known?.get(p) === before)
    const group = before && stays ? before : new Group(pieces, own)
    for (const p of pieces) out.set(p, group)
  }
  return out
}
