const FAR = 1e20

/**
 * Distances within a layer: of every pixel to the nearest one that is set, and which that is. Source: Felzenszwalb and Huttenlocher,
 * "Distance Transforms of Sampled Functions", Theory of Computing 8 (2012): by columns, then by rows, exact.
 */
export class NearestInLayer {
  /** In pixels; 1e10 where nothing is set. */
  readonly distance: Float32Array
  /** Number of the nearest set pixel. */
  readonly nearest: Int32Array
  readonly #width: number
  readonly #height: number
  /** Of one line: what to transform, where parabolas lie, from where each is the lowest. */
  readonly #line: Float64Array
  readonly #at: Int32Array
  readonly #from: Float64Array
  readonly #row: Float64Array
  readonly #which: Int32Array

  constructor(width: number, height: number) {
    const most = Math.max(width, height)
    this.#width = width
    this.#height = height
    this.distance = new Float32Array(width * height)
    this.nearest = new Int32Array(width * height)
    this.#line = new Float64Array(most)
    this.#at = new Int32Array(most)
    this.#from = new Float64Array(most + 1)
    this.#row = new Float64Array(width * height)
    this.#which = new Int32Array(width * height)
  }

  /** @param set 1 where a pixel is set: rows of `width` */
  measure(set: Uint8Array): void {
    const w = this.#width, h = this.#height, line = this.#line, row = this.#row, which = this.#which
    // along y first: the nearest set pixel of a column by going up and down it
    for (let x = 0; x < w; x++) {
      let last = -1
      for (let y = 0; y < h; y++) {
        if (set[y * w + x]) last = y
        which[y * w + x] = last
      }
      last = -1
      for (let y = h - 1; y >= 0; y--) {
        const i = y * w + x
        if (set[i]) last = y
        const before = which[i]
        if (last >= 0 && (before < 0 || last - y < y - before)) which[i] = last
        row[i] = which[i] < 0 ? FAR : (which[i] - y) ** 2
      }
    }
    const at = this.#at, from = this.#from
    for (let y = 0; y < h; y++) {
      const o = y * w
      for (let x = 0; x < w; x++) line[x] = row[o + x]
      let k = 0
      at[0] = 0
      from[0] = -Infinity
      from[1] = Infinity
      for (let q = 1; q < w; q++) {
        let s = (line[q] + q * q - line[at[k]] - at[k] * at[k]) / (2 * (q - at[k]))
        while (s <= from[k]) {
          k--
          s = (line[q] + q * q - line[at[k]] - at[k] * at[k]) / (2 * (q - at[k]))
        }
        at[++k] = q
        from[k] = s
        from[k + 1] = Infinity
      }
      k = 0
      for (let x = 0; x < w; x++) {
        while (from[k + 1] < x) k++
        const a = at[k]
        this.distance[o + x] = Math.sqrt((x - a) ** 2 + line[a])
        this.nearest[o + x] = which[o + a] * w + a
      }
    }
  }
}
