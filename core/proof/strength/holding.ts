import { carriedBy } from '../frame'
import { addTransposed, addTransposedTimes, addTimes, BLOCK, invert, multiply, SIZE } from '../frame/block'
import type { Vec3 } from '../../mesh'
import type { Pieces } from './pieces'
import { resistanceOf, type SupportFrame } from './supports'

/** Six numbers for some pieces: a force in N and a moment in N·mm about the middle; or displacements in mm and turns of it. */
export type ByPiece = ReadonlyMap<number, Float64Array>

/** What a support adds to how one piece is held where another, or itself, is moved. */
interface Share {
  readonly p: number
  readonly q: number
  readonly block: Float64Array
}

/** How the ends of one support frame that hold by now resist being moved. */
class Grip {
  readonly support: SupportFrame
  readonly size: number
  /** Six by six for every pair of ends, row by row. */
  readonly #stiffness: Float64Array
  /** Ends that hold by now. */
  holding: number[]
  /** For each end, how a body that is moved about the middle moves it. */
  readonly carried: readonly Float64Array[]
  /** The piece of each end by now. */
  readonly pieces: Int32Array
  /** By piece, what every end is pressed with where that piece alone is moved: a block an end. Null where it has to be found anew. */
  #presses: Map<number, Float64Array> | null = null
  /** What it adds to how its pieces resist being moved; null where it has to be found anew. */
  #shares: readonly Share[] | null = null

  constructor(support: SupportFrame, middle: Vec3) {
    this.support = support
    this.size = support.holds.length
    this.#stiffness = resistanceOf(support)
    this.holding = support.holds.map((_, i) => i)
    this.carried = support.holds.map(h => carriedBy(middle, h.at))
    this.pieces = Int32Array.from(support.holds, h => h.piece)
  }

  /** One end holds no more: what is left resists without it. */
  letGo(end: number): void {
    const k = this.#stiffness, n = SIZE * this.size
    this.#shares = null
    this.holding = this.holding.filter(i => i !== end)
    this.block(end, end, own)
    invert(own, 0, inverse, 0)
    for (const i of this.holding) {
      this.block(end, i, side)
      multiply(inverse, 0, side, 0, half, 0)
      for (const j of this.holding) {
        if (j > i) continue
        this.block(end, j, other)
        for (let r = 0; r < SIZE; r++) {
          for (let c = 0; c < SIZE; c++) {
            let sum = 0
            for (let s = 0; s < SIZE; s++) sum += other[SIZE * s + r] * half[SIZE * s + c]
            k[n * (SIZE * j + r) + SIZE * i + c] -= sum
            if (i !== j) k[n * (SIZE * i + c) + SIZE * j + r] -= sum
          }
        }
      }
    }
    for (const presses of this.#presses?.values() ?? []) {
      multiply(inverse, 0, presses, BLOCK * end, half, 0)
      for (const i of this.holding) {
        this.block(end, i, side)
        addTransposed(-1, side, 0, half, 0, presses, BLOCK * i)
      }
    }
    // a piece that none of its ends holds any more is none of its
    const piece = this.pieces[end]
    if (!this.holding.some(i => this.pieces[i] === piece)) this.#presses?.delete(piece)
  }

  /** Pieces are others by now. */
  renamed(): void {
    this.#presses = null
    this.#shares = null
  }

  get presses(): ReadonlyMap<number, Float64Array> {
    if (this.#presses) return this.#presses
    const out = new Map<number, Float64Array>()
    for (const j of this.holding) {
      let presses = out.get(this.pieces[j])
      if (!presses) out.set(this.pieces[j], (presses = new Float64Array(BLOCK * this.size)))
      for (const i of this.holding) {
        this.block(i, j, side)
        multiply(side, 0, this.carried[j], 0, half, 0)
        for (let e = 0; e < BLOCK; e++) presses[BLOCK * i + e] += half[e]
      }
    }
    return (this.#presses = out)
  }

  /** What it adds to how its pieces resist being moved, six by six for every pair of them. */
  get shares(): readonly Share[] {
    if (this.#shares) return this.#shares
    const blocks = new Map<number, Map<number, Float64Array>>()
    for (const [q, presses] of this.presses) {
      for (const i of this.holding) {
        const p = this.pieces[i]
        let row = blocks.get(p)
        if (!row) blocks.set(p, (row = new Map()))
        let block = row.get(q)
        if (!block) row.set(q, (block = new Float64Array(BLOCK)))
        addTransposed(1, this.carried[i], 0, presses, BLOCK * i, block, 0)
      }
    }
    return (this.#shares = [...blocks].flatMap(([p, row]) => [...row].map(([q, block]) => ({ p, q, block }))))
  }

  /** What two ends press on each other with, a block of six by six. */
  block(i: number, j: number, out: Float64Array): void {
    const k = this.#stiffness, n = SIZE * this.size
    for (let r = 0; r < SIZE; r++) for (let c = 0; c < SIZE; c++) out[SIZE * r + c] = k[n * (SIZE * i + r) + SIZE * j + c]
  }
}
const own = new Float64Array(BLOCK), inverse = new Float64Array(BLOCK), side = new Float64Array(BLOCK), other = new Float64Array(BLOCK), half = new Float64Array(BLOCK)

/** An end of a support that holds by now, with what it is pressed with where each of some pieces is moved: a block of six by six at its place. */
export interface HoldingEnd {
  readonly support: number
  readonly end: number
  /** The piece that it holds. */
  readonly piece: number
  readonly presses: readonly (readonly [piece: number, blocks: Float64Array])[]
}

/** Pieces that are held by the same supports, and so move with each other. */
interface Group {
  readonly pieces: readonly number[]
  /** How they are held, six by six for every pair, row by row; and Cholesky's factor of it, null where nothing holds them in some direction. */
  readonly held: Float64Array
  readonly lower: Float64Array | null
}

/** What holds, with one end let go. */
export interface LetGo {
  /** Whether what it held is still held in every direction. */
  readonly holds: boolean
  /** How pieces move that moved with what it held. */
  motionsUnder(loads: ByPiece): Map<number, Float64Array>
  /** What they push each end of a support with, six numbers an end. */
  pushOn(support: number, motions: ByPiece): Float64Array
}

/**
 * Which supports hold what, from the last layer down: each piece of the model is rigid, each support a frame of beams that has grown into
 * it. Going down lets the ends go that have not been laid yet, and takes the pieces apart that have not come together yet.
 */
export class Holding {
  readonly middle: Vec3
  readonly #pieces: Pieces
  readonly #grips: readonly Grip[]
  #layer = Infinity
  #groups: readonly Group[] | null = null
  #groupOf = new Map<number, Group>()
  #ends: readonly HoldingEnd[] | null = null

  constructor(supports: readonly SupportFrame[], pieces: Pieces, middle: Vec3) {
    this.middle = middle
    this.#pieces = pieces
    this.#grips = supports.map(s => new Grip(s, middle))
    for (const g of this.#grips) for (const i of [...g.holding]) if (g.support.holds[i].piece < 0) g.letGo(i)
  }

  /** Goes down to a layer: what is laid above it does not hold yet. Gives whether anything changed. */
  downTo(layer: number): boolean {
    let changed = this.#layer === Infinity
    this.#layer = layer
    for (const g of this.#grips) {
      for (const i of [...g.holding]) {
        if (g.support.holds[i].layer <= layer) continue
        g.letGo(i)
        changed = true
      }
      let renamed = false
      for (const i of g.holding) {
        const piece = this.#pieces.at(g.support.holds[i].piece, layer)
        if (piece === g.pieces[i]) continue
        g.pieces[i] = piece
        renamed = true
      }
      if (renamed) g.renamed()
      changed ||= renamed
    }
    if (changed) this.#groups = this.#ends = null
    return changed
  }

  /** Whether supports hold a piece in every direction by now; what lies on the plate is held by that. */
  holds(piece: number): boolean {
    return this.#pieces.list[piece].onPlate || this.#groupFor(piece)?.lower != null
  }

  /** How pieces move under loads. What nothing holds is left out, and so is what lies on the plate. */
  motionsUnder(loads: ByPiece): Map<number, Float64Array> {
    const motions = new Map<number, Float64Array>()
    const groups = new Set([...loads.keys()].flatMap(p => this.#groupFor(p) ?? []))
    for (const { pieces, lower } of groups) if (lower) for (const [p, motion] of solved({ pieces, lower }, loads)) motions.set(p, motion)
    return motions
  }

  /** What the pieces push each end of a support with that holds by now, six numbers an end, N and N·mm about the end; zero elsewhere. */
  pushOn(support: number, motions: ByPiece, out = new Float64Array(SIZE * this.#grips[support].size)): Float64Array {
    const g = this.#grips[support]
    out.fill(0)
    for (const [piece, presses] of g.presses) {
      const motion = motions.get(piece)
      if (motion) for (const i of g.holding) addTimes(1, presses, BLOCK * i, motion, 0, out, SIZE * i)
    }
    return out
  }

  /** All ends that hold by now. */
  get ends(): readonly HoldingEnd[] {
    return (this.#ends ??= this.#grips.flatMap((g, support) => {
      const presses = [...g.presses]
      return g.holding.map((end): HoldingEnd => ({ support, end, piece: g.pieces[end], presses }))
    }))
  }

  /** The same as `pushOn` of one end, or only its force. Gives whether anything that presses it moves. */
  pushOnEnd({ end, presses }: HoldingEnd, motions: ByPiece, out: Float64Array, forceOnly: boolean): boolean {
    let moves = false
    out.fill(0)
    for (const [piece, blocks] of presses) {
      const motion = motions.get(piece)
      if (!motion) continue
      moves = true
      const from = BLOCK * end
      for (let r = 0; r < (forceOnly ? 3 : SIZE); r++) {
        let sum = 0
        for (let c = 0; c < SIZE; c++) sum += blocks[from + SIZE * r + c] * motion[c]
        out[r] += sum
      }
    }
    return moves
  }

  /** Ends of a support that hold by now. */
  holding(support: number): readonly number[] {
    return this.#grips[support].holding
  }

  /** The piece that an end holds by now. */
  pieceOf(support: number, end: number): number {
    return this.#grips[support].pieces[end]
  }

  /** The same as it would be if one end that holds by now held no more. */
  lettingGo(support: number, end: number): LetGo {
    const g = this.#grips[support], group = this.#groupFor(g.pieces[end]), presses = g.presses, gone = new Float64Array(BLOCK)
    g.block(end, end, own)
    invert(own, 0, gone, 0)
    /** By piece, how the end gives where the piece alone is moved. */
    const gives = new Map([...presses].map(([p, press]) => {
      const out = new Float64Array(BLOCK)
      multiply(gone, 0, press, BLOCK * end, out, 0)
      return [p, out]
    }))
    let lower: Float64Array | null = null
    if (group?.held) {
      const { pieces } = group, n = SIZE * pieces.length, rest = Float64Array.from(group.held), block = new Float64Array(BLOCK)
      pieces.forEach((p, row) => {
        const press = presses.get(p)
        if (press) pieces.forEach((q, column) => {
          const give = gives.get(q)
          if (!give) return
          addTransposed(1, press.subarray(BLOCK * end, BLOCK * (end + 1)), 0, give, 0, block.fill(0), 0)
          for (let r = 0; r < SIZE; r++) for (let c = 0; c < SIZE; c++) rest[n * (SIZE * row + r) + SIZE * column + c] -= block[SIZE * r + c]
        })
      })
      lower = factored(rest, n)
    }
    return {
      holds: lower !== null,
      motionsUnder: loads => (group && lower ? solved({ pieces: group.pieces, lower }, loads) : new Map()),
      pushOn: (s, motions) => {
        const out = this.pushOn(s, motions)
        if (s !== support) return out
        const given = new Float64Array(SIZE)
        for (const [p, give] of gives) {
          const motion = motions.get(p)
          if (motion) addTimes(1, give, 0, motion, 0, given, 0)
        }
        for (const i of g.holding) {
          g.block(i, end, side)
          addTimes(-1, side, 0, given, 0, out, SIZE * i)
        }
        return out.fill(0, SIZE * end, SIZE * (end + 1))
      },
    }
  }

  /** Pieces that move with a piece since the same supports hold them; none where nothing does. */
  movesWith(piece: number): readonly number[] {
    return this.#groupFor(piece)?.pieces ?? []
  }

  /** How many ends hold each piece by now. */
  endsByPiece(): Map<number, number> {
    const out = new Map<number, number>()
    for (const g of this.#grips) for (const i of g.holding) out.set(g.pieces[i], (out.get(g.pieces[i]) ?? 0) + 1)
    return out
  }

  /** Supports that hold one of some pieces by now. */
  supportsOf(pieces: ReadonlySet<number>): number[] {
    return this.#grips.flatMap((g, s) => (g.holding.some(i => pieces.has(g.pieces[i])) ? [s] : []))
  }

  /** A force at a point as a load of a piece that it is laid on. */
  loadAt(at: Vec3, force: Vec3): Float64Array {
    const out = new Float64Array(SIZE)
    addTransposedTimes(1, carriedBy(this.middle, at), 0, Float64Array.of(...force, 0, 0, 0), 0, out, 0)
    return out
  }

  /** How a point of a piece is displaced, mm. */
  displacementAt(at: Vec3, motion: Float64Array): Vec3 {
    const out = new Float64Array(SIZE)
    addTimes(1, carriedBy(this.middle, at), 0, motion, 0, out, 0)
    return [out[0], out[1], out[2]]
  }

  #groupFor(piece: number): Group | undefined {
    if (!this.#groups) this.#group()
    return this.#groupOf.get(piece)
  }

  /** Puts pieces together that the same supports hold. */
  #group(): void {
    const parent = new Map<number, number>()
    const find = (p: number): number => {
      let at = p
      for (let up = parent.get(at) as number; up !== at; up = parent.get(at) as number) at = up
      parent.set(p, at)
      return at
    }
    const moves = (p: number): boolean => !this.#pieces.list[p].onPlate
    for (const g of this.#grips) {
      let first = -1
      for (const i of g.holding) {
        const p = g.pieces[i]
        if (!moves(p)) continue
        if (!parent.has(p)) parent.set(p, p)
        if (first < 0) first = p
        else parent.set(find(p), find(first))
      }
    }
    const members = new Map<number, number[]>()
    for (const p of [...parent.keys()].sort((a, b) => a - b)) {
      const root = find(p), list = members.get(root)
      if (list) list.push(p)
      else members.set(root, [p])
    }
    const gripsOf = new Map<number, Grip[]>()
    for (const g of this.#grips) {
      const piece = g.holding.map(i => g.pieces[i]).find(moves)
      if (piece === undefined) continue
      const root = find(piece), list = gripsOf.get(root)
      if (list) list.push(g)
      else gripsOf.set(root, [g])
    }
    this.#groupOf = new Map()
    this.#groups = [...members].map(([root, pieces]) => {
      const resists = held(pieces, gripsOf.get(root) ?? []), group = { pieces, held: resists, lower: factored(resists, SIZE * pieces.length) }
      for (const p of pieces) this.#groupOf.set(p, group)
      return group
    })
  }
}
const NOTHING = new Float64Array(SIZE)

/** How pieces of a group move under loads. */
function solved({ pieces, lower }: { readonly pieces: readonly number[]; readonly lower: Float64Array }, loads: ByPiece): Map<number, Float64Array> {
  const n = SIZE * pieces.length, x = new Float64Array(n)
  pieces.forEach((p, i) => x.set(loads.get(p) ?? NOTHING, SIZE * i))
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < i; j++) x[i] -= lower[n * i + j] * x[j]
    x[i] /= lower[n * i + i]
  }
  for (let i = n - 1; i >= 0; i--) {
    for (let j = i + 1; j < n; j++) x[i] -= lower[n * j + i] * x[j]
    x[i] /= lower[n * i + i]
  }
  return new Map(pieces.map((p, i) => [p, x.slice(SIZE * i, SIZE * (i + 1))]))
}

/** How pieces resist being moved, held by some supports: six by six for every pair, row by row. */
function held(pieces: readonly number[], grips: readonly Grip[]): Float64Array {
  const n = SIZE * pieces.length, place = new Map(pieces.map((p, i) => [p, i])), out = new Float64Array(n * n)
  for (const { shares } of grips) {
    for (const { p, q, block } of shares) {
      const row = place.get(p), column = place.get(q)
      if (row === undefined || column === undefined) continue
      for (let r = 0; r < SIZE; r++) for (let c = 0; c < SIZE; c++) out[n * (SIZE * row + r) + SIZE * column + c] += block[SIZE * r + c]
    }
  }
  return out
}

/** A direction is held where it keeps this share of what it resists by itself. */
const LEAST_HELD = 1e-9

/** Cholesky's factor; null where nothing holds in some direction. */
function factored(a: Float64Array, n: number): Float64Array | null {
  const lower = new Float64Array(n * n)
  for (let i = 0; i < n; i++) {
    for (let j = 0; j <= i; j++) {
      let sum = (a[n * i + j] + a[n * j + i]) / 2
      for (let k = 0; k < j; k++) sum -= lower[n * i + k] * lower[n * j + k]
      if (i !== j) lower[n * i + j] = sum / lower[n * j + j]
      else if (sum > LEAST_HELD * a[n * i + i] && sum > 0) lower[n * i + i] = Math.sqrt(sum)
      else return null
    }
  }
  return lower
}
