import type { Vec3 } from '../../mesh'
import { addTransposed, BLOCK } from '../frame/block'
import { Grip, LAST } from './grip'
import type { Pieces } from './pieces'
import type { SupportFrame } from './supports'

/** What a support adds to how one piece is held where another, or itself, is moved. */
export interface GripShare {
  readonly p: number
  readonly q: number
  readonly block: Float64Array
}

/** An end of a support that holds by now, with what it is pressed with where each of some pieces is moved: a block of six by six at its place. */
export interface HoldingEnd {
  readonly support: number
  readonly end: number
  /** The piece that it holds. */
  readonly piece: number
  readonly presses: readonly (readonly [piece: number, blocks: Float64Array])[]
}

/** How the ends of a support resist being moved in some layers that follow each other. */
class GripState {
  /** Ends that hold. */
  readonly holding: readonly number[]
  /** The piece of each end. */
  readonly pieces: Int32Array
  /** By piece, what every end is pressed with where that piece alone is moved about the middle: a block an end. */
  readonly presses: ReadonlyMap<number, Float64Array>
  /** The lowest layer of them. */
  readonly downTo: number
  readonly #carried: readonly Float64Array[]
  #shares: readonly GripShare[] | null = null

  constructor({ holding, pieces, presses, next, carried }: Grip) {
    this.holding = holding
    this.pieces = pieces.slice()
    this.presses = new Map([...presses].map(([p, blocks]) => [p, blocks.slice()]))
    this.downTo = next
    this.#carried = carried
  }

  /** What it adds to how its pieces resist being moved, six by six for every pair of them. */
  get shares(): readonly GripShare[] {
    if (this.#shares) return this.#shares
    const out: GripShare[] = []
    for (const [q, presses] of this.presses) {
      const blocks = new Map<number, Float64Array>()
      for (const i of this.holding) {
        const p = this.pieces[i]
        let sum = blocks.get(p)
        if (!sum) blocks.set(p, (sum = new Float64Array(BLOCK)))
        addTransposed(1, this.#carried[i], 0, presses, BLOCK * i, sum, 0)
      }
      for (const [p, sum] of blocks) out.push({ p, q, block: sum })
    }
    return (this.#shares = out)
  }
}

/** All states of a support, from the last layer down, as far as anyone asked. */
interface States {
  readonly pieces: Pieces
  readonly middle: Vec3
  readonly list: GripState[]
  /** What the next one is made from; null where there is none. */
  left: Grip | null
}
/** A plan that grows asks for the same supports again and again, of which few change from one time to the next. */
const kept = new WeakMap<SupportFrame, States>()

function statesOf(support: SupportFrame, middle: Vec3, pieces: Pieces): States {
  const known = kept.get(support)
  if (known?.pieces === pieces && known.middle.every((m, i) => m === middle[i])) return known
  const grip = new Grip(support, middle, pieces)
  grip.downTo(LAST, pieces)
  const states: States = { pieces, middle, list: [new GripState(grip)], left: grip }
  kept.set(support, states)
  return states
}

/** How a support holds what it holds, in one layer after the other from the last one down. */
export class LayerGrip {
  readonly support: SupportFrame
  readonly size: number
  readonly #number: number
  readonly #states: States
  #at = 0
  #ends: readonly HoldingEnd[] | null = null

  /** @param number of the support, by which its ends tell it */
  constructor(support: SupportFrame, number: number, middle: Vec3, pieces: Pieces) {
    this.support = support
    this.size = support.holds.length
    this.#number = number
    this.#states = statesOf(support, middle, pieces)
  }

  get #now(): GripState {
    return this.#states.list[this.#at]
  }

  get holding(): readonly number[] {
    return this.#now.holding
  }

  get pieces(): Int32Array {
    return this.#now.pieces
  }

  get presses(): ReadonlyMap<number, Float64Array> {
    return this.#now.presses
  }

  get shares(): readonly GripShare[] {
    return this.#now.shares
  }

  /** Its ends that hold by now. */
  get ends(): readonly HoldingEnd[] {
    if (this.#ends) return this.#ends
    const { holding, pieces } = this.#now, presses = [...this.#now.presses]
    return (this.#ends = holding.map(end => ({ support: this.#number, end, piece: pieces[end], presses })))
  }

  /** Goes down to a layer: what is laid above it does not hold yet, and pieces are apart that have not come together yet. Gives whether anything changed. */
  downTo(layer: number): boolean {
    const states = this.#states, { list } = states, before = this.#at
    while (layer < list[this.#at].downTo) {
      if (this.#at + 1 === list.length) {
        const { left } = states
        if (!left) break
        left.downTo(list[this.#at].downTo - 1, states.pieces)
        list.push(new GripState(left))
        if (left.holding.length === 0) states.left = null
      }
      this.#at++
    }
    if (this.#at === before) return false
    this.#ends = null
    return true
  }
}
