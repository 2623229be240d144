/** Edge of a block, in cells. */
const EDGE = 8

/** Some blocks with what is in them, to be handed on. */
export interface FilledBlocks {
  /** The lowest cell of each, three numbers a block. */
  readonly places: Int32Array
  /** 512 numbers a block, as they lie in it; NaN where nobody set one. */
  readonly values: Float32Array
}

/** Numbers on a grid of which only some blocks of 8 × 8 × 8 are filled. */
export class Blocks<A extends Float32Array | Int32Array> {
  readonly #blocks = new Map<number, A>()
  readonly #empty: () => A
  readonly #alongY: number
  readonly #alongZ: number
  #last = -1
  #block: A

  /** @param size cells along x, y, z @param empty a block of 512 numbers that nobody has set yet */
  constructor(size: readonly [number, number, number], empty: () => A) {
    this.#alongY = (size[1] >> 3) + 1
    this.#alongZ = (size[2] >> 3) + 1
    this.#empty = empty
    this.#block = empty()
  }

  /** Takes blocks over as they are; where there is one already, only numbers that nobody has set in it. */
  take({ places, values }: FilledBlocks, make: (from: Float32Array) => A): void {
    for (let b = 0; 3 * b < places.length; b++) {
      const key = this.#key(places[3 * b], places[3 * b + 1], places[3 * b + 2]), from = values.subarray(A_BLOCK * b, A_BLOCK * (b + 1)), known = this.#blocks.get(key)
      if (!known) this.#blocks.set(key, make(from))
      else for (let n = 0; n < A_BLOCK; n++) if (Number.isNaN(known[n])) known[n] = from[n]
    }
    this.#last = -1
  }
  /** Forgets all blocks. */
  clear(): void {
    this.#blocks.clear()
    this.#last = -1
  }
  /** All blocks, to be handed on. */
  all(): FilledBlocks {
    const places = new Int32Array(3 * this.#blocks.size), values = new Float32Array(A_BLOCK * this.#blocks.size)
    let b = 0
    for (const [key, block] of this.#blocks) {
      const row = Math.floor(key / this.#alongZ)
      places.set([8 * Math.floor(row / this.#alongY), 8 * (row % this.#alongY), 8 * (key % this.#alongZ)], 3 * b)
      values.set(block, A_BLOCK * b++)
    }
    return { places, values }
  }
  #key(i: number, j: number, k: number): number {
    return ((i >> 3) * this.#alongY + (j >> 3)) * this.#alongZ + (k >> 3)
  }

  /** The block around a cell, which is made where there is none. */
  at(i: number, j: number, k: number): A {
    const key = this.#key(i, j, k)
    if (key === this.#last) return this.#block
    let block = this.#blocks.get(key)
    if (!block) this.#blocks.set(key, (block = this.#empty()))
    this.#last = key
    return (this.#block = block)
  }
  get(i: number, j: number, k: number): number {
    return this.at(i, j, k)[within(i, j, k)]
  }
  /** As `get`, without making a block: NaN where there is none. */
  peek(i: number, j: number, k: number): number {
    const key = this.#key(i, j, k)
    if (key === this.#last) return this.#block[within(i, j, k)]
    const block = this.#blocks.get(key)
    if (!block) return NaN
    this.#last = key
    this.#block = block
    return block[within(i, j, k)]
  }
  set(i: number, j: number, k: number, value: number): void {
    this.at(i, j, k)[within(i, j, k)] = value
  }
}

/** Numbers in a block. */
export const A_BLOCK = EDGE * EDGE * EDGE
/** Where a cell lies in its block. */
const within = (i: number, j: number, k: number): number => (i & 7) << 6 | (j & 7) << 3 | (k & 7)
