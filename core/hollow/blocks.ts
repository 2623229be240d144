/** Edge of a block, in cells. */
const EDGE = 8

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

  /** The block around a cell, which is made where there is none. */
  at(i: number, j: number, k: number): A {
    const key = ((i >> 3) * this.#alongY + (j >> 3)) * this.#alongZ + (k >> 3)
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
    const key = ((i >> 3) * this.#alongY + (j >> 3)) * this.#alongZ + (k >> 3)
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
