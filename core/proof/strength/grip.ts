import type { Vec3 } from '../../mesh'
import { carriedBy } from '../frame'
import { addTransposed, BLOCK, invert, multiply, SIZE, transpose } from '../frame/block'
import type { Pieces } from './pieces'
import { resistanceOf, type SupportFrame } from './supports'

/** A direction is held where it keeps this share of what it resists by itself. */
export const LEAST_HELD = 1e-9
/** A layer above all others. */
export const LAST = Number.MAX_SAFE_INTEGER

/** How the ends of one support frame that hold by now resist being moved, from the last layer down. */
export class Grip {
  readonly support: SupportFrame
  readonly size: number
  /** Ends that hold by now. */
  holding: number[]
  /** The piece of each end by now. */
  readonly pieces: Int32Array
  /** By piece, what every end is pressed with where that piece alone is moved about the middle: a block an end. */
  readonly presses = new Map<number, Float64Array>()
  /** Blocks for every pair of ends, row by row. */
  readonly #stiffness: Float64Array
  /** What each end resisted in each direction while all held. */
  readonly #first: Float64Array
  /** For each end, how a body that is moved about the middle moves it. */
  readonly carried: readonly Float64Array[]
  /** The highest layer in which an end holds that lets go next, or in which a piece was joined: above it nothing changes. */
  #next: number

  constructor(support: SupportFrame, middle: Vec3, pieces: Pieces) {
    this.support = support
    this.size = support.holds.length
    this.#stiffness = resistanceOf(support)
    this.#first = Float64Array.from({ length: SIZE * this.size }, (_, i) => this.#stiffness[this.#at(Math.floor(i / SIZE), Math.floor(i / SIZE)) + (SIZE + 1) * (i % SIZE)])
    this.holding = support.holds.map((_, i) => i)
    this.carried = support.holds.map(h => carriedBy(middle, h.at))
    this.pieces = Int32Array.from(support.holds, h => (h.piece < 0 ? -1 : pieces.at(h.piece, LAST)))
    for (const i of [...this.holding]) if (this.pieces[i] < 0) this.#letGo(i)
    for (const piece of new Set(this.holding.map(i => this.pieces[i]))) this.presses.set(piece, this.#pressesOf(this.holding.filter(i => this.pieces[i] === piece)))
    this.#next = Infinity
  }

  /** Goes down to a layer: what is laid above it does not hold yet, and pieces are apart that have not come together yet. Gives whether anything changed. */
  downTo(layer: number, pieces: Pieces): boolean {
    if (layer >= this.#next) return false
    let changed = false, next = -1
    for (const i of [...this.holding]) {
      const { layer: laid, piece } = this.support.holds[i]
      if (laid > layer) {
        this.#letGo(i)
        changed = true
        continue
      }
      next = Math.max(next, laid)
      for (let p = piece; pieces.list[p].joinsIn <= layer; p = pieces.list[p].joins) next = Math.max(next, pieces.list[p].joinsIn)
    }
    if (this.#takeApart(layer, pieces)) changed = true
    this.#next = next
    return changed
  }

  get next(): number {
    return this.#next
  }

  /** One end holds no more: what is left resists without it. */
  #letGo(end: number): void {
    const k = this.#stiffness
    this.holding = this.holding.filter(i => i !== end)
    this.block(end, end, own)
    invert(own, 0, inverse, 0)
    const half = new Float64Array(BLOCK * this.size)
    for (const i of this.holding) multiply(inverse, 0, k, this.#at(end, i), half, BLOCK * i)
    for (const i of this.holding) {
      for (const j of this.holding) {
        if (j > i) break
        addTransposed(-1, k, this.#at(end, j), half, BLOCK * i, k, this.#at(j, i))
        if (i !== j) transpose(k, this.#at(j, i), k, this.#at(i, j))
      }
    }
    for (const presses of this.presses.values()) {
      multiply(inverse, 0, presses, BLOCK * end, block, 0)
      for (const i of this.holding) addTransposed(-1, k, this.#at(end, i), block, 0, presses, BLOCK * i)
    }
    // a piece that none of its ends holds any more is none of its
    const piece = this.pieces[end]
    if (!this.holding.some(i => this.pieces[i] === piece)) this.presses.delete(piece)
  }

  /** Tells the pieces apart that its ends hold by a layer. */
  #takeApart(layer: number, pieces: Pieces): boolean {
    const parts = new Map<number, Map<number, number[]>>()
    for (const i of this.holding) {
      const before = this.pieces[i], now = pieces.at(this.support.holds[i].piece, layer)
      if (now === before) continue
      const apart = parts.get(before) ?? new Map<number, number[]>(), ends = apart.get(now)
      if (ends) ends.push(i)
      else apart.set(now, [i])
      parts.set(before, apart)
      this.pieces[i] = now
    }
    for (const [before, apart] of parts) {
      const whole = this.presses.get(before) as Float64Array, stays = this.holding.some(i => this.pieces[i] === before)
      this.presses.delete(before)
      let rest = apart.size
      for (const [piece, ends] of apart) {
        // what is left of the whole in the end belongs to the last one
        const own = !stays && --rest === 0 ? whole : this.#pressesOf(ends)
        if (own !== whole) for (const i of this.holding) for (let e = BLOCK * i; e < BLOCK * (i + 1); e++) whole[e] -= own[e]
        this.presses.set(piece, own)
      }
      if (stays) this.presses.set(before, whole)
    }
    return parts.size > 0
  }

  /** What every end is pressed with where some ends are moved as one body about the middle. */
  #pressesOf(ends: readonly number[]): Float64Array {
    const out = new Float64Array(BLOCK * this.size)
    for (const j of ends) {
      for (const i of this.holding) {
        multiply(this.#stiffness, this.#at(i, j), this.carried[j], 0, block, 0)
        for (let e = 0; e < BLOCK; e++) out[BLOCK * i + e] += block[e]
      }
    }
    return out
  }

  /** Whether an end still resists in some direction; one of a stick whose other end holds no more does not. */
  resists(end: number): boolean {
    const now = this.#at(end, end)
    for (let d = 0; d < SIZE; d++) if (this.#stiffness[now + (SIZE + 1) * d] > LEAST_HELD * this.#first[SIZE * end + d]) return true
    return false
  }

  /** What two ends press on each other with, a block of six by six. */
  block(i: number, j: number, out: Float64Array): void {
    const at = this.#at(i, j)
    for (let e = 0; e < BLOCK; e++) out[e] = this.#stiffness[at + e]
  }

  #at(i: number, j: number): number {
    return BLOCK * (this.size * i + j)
  }
}
const own = new Float64Array(BLOCK), inverse = new Float64Array(BLOCK), block = new Float64Array(BLOCK)
