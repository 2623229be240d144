import { Int32List, type BandSpans } from '../../scan'
import type { GreyRuns } from '../png/grey-runs'

/**
 * The shades of a layer by how much of every pixel is solid, from spans of finer rows, columns and layers: along a row each span raises
 * the sum of what is covered where it begins and lowers it where it ends, in the share of the pixel that it has there.
 */
export class Coverage {
  readonly #width: number
  readonly #height: number
  /** Log2 of the finer columns of a pixel. */
  readonly #bits: number
  readonly #layers: number
  readonly #shades: Uint8Array
  readonly #delta: Int32Array
  /** Pixels at which the sum changes. */
  readonly #touched: Uint32Array
  readonly #pairs = new Int32List(1 << 14)
  #values = new Uint8Array(1 << 14)

  /** @param across finer rows and columns of a pixel, a power of two @param layers finer layers of a layer */
  constructor(width: number, height: number, across: number, layers: number) {
    this.#width = width
    this.#height = height
    this.#bits = Math.log2(across)
    this.#layers = layers
    const full = across * across * layers
    this.#shades = Uint8Array.from({ length: full + 1 }, (_, covered) => Math.round((255 * covered) / full))
    this.#delta = new Int32Array(width + 2)
    this.#touched = new Uint32Array((width + 2 + 31) >> 5)
  }

  /** @param spans rows of the picture from the top down, each in its finer rows, within its finer columns @param layer the first finer layer of it @param rowsFrom the picture's row that the spans begin with */
  picture({ starts, pairs, layers: held }: BandSpans, layer: number, fineRows: number, rowsFrom: number): GreyRuns {
    const across = 1 << this.#bits, mask = across - 1, bits = this.#bits, delta = this.#delta, touched = this.#touched, shades = this.#shades, out = this.#pairs
    const rowStarts = new Int32Array(this.#height + 1), rows = fineRows / across
    out.length = 0
    for (let y = 0; y < rows; y++) {
      let low = touched.length, high = -1
      for (let l = layer; l < Math.min(held, layer + this.#layers); l++) {
        const from = starts[l * fineRows + y * across], to = starts[l * fineRows + (y + 1) * across]
        for (let s = from; s < to; s++) {
          const a = pairs[2 * s], e = pairs[2 * s + 1], pa = a >> bits, pe = e >> bits, fa = a & mask, fe = e & mask
          delta[pa] += across - fa
          delta[pa + 1] += fa
          delta[pe] -= across - fe
          delta[pe + 1] -= fe
          touched[pa >> 5] |= 1 << (pa & 31)
          touched[(pa + 1) >> 5] |= 1 << ((pa + 1) & 31)
          touched[pe >> 5] |= 1 << (pe & 31)
          touched[(pe + 1) >> 5] |= 1 << ((pe + 1) & 31)
          if (pa >> 5 < low) low = pa >> 5
          if ((pe + 1) >> 5 > high) high = (pe + 1) >> 5
        }
      }
      let covered = 0, begun = 0
      const first = out.length
      for (let w = low; w <= high; w++) {
        let word = touched[w]
        touched[w] = 0
        while (word !== 0) {
          const bit = 31 - Math.clz32(word & -word), x = (w << 5) + bit, change = delta[x]
          word &= word - 1
          if (change === 0) continue
          delta[x] = 0
          if (covered > 0 && x > begun) this.#add(first, begun, x, shades[covered])
          covered += change
          begun = x
        }
      }
      rowStarts[rowsFrom + y + 1] = out.length >> 1
    }
    for (let r = rowsFrom + rows + 1; r <= this.#height; r++) rowStarts[r] = out.length >> 1
    const n = out.length >> 1
    return { width: this.#width, height: this.#height, starts: rowStarts, pairs: out.data.subarray(0, 2 * n), shades: this.#values.subarray(0, n) }
  }

  #add(first: number, from: number, to: number, shade: number): void {
    const { length, data } = this.#pairs, n = length >> 1
    if (length > first && data[length - 1] === from && this.#values[n - 1] === shade) {
      data[length - 1] = to
      return
    }
    if (n === this.#values.length) {
      const wider = new Uint8Array(2 * n)
      wider.set(this.#values)
      this.#values = wider
    }
    this.#values[n] = shade
    this.#pairs.push(from)
    this.#pairs.push(to)
  }
}
