import type { BandedBody } from '../graph/banded-body'
import { orSpans, type BandSpans } from '../raster/spans'

/** The model in coarse cells, solid where any pixel of a cell is, each layer grown by a square of n cells toward lower rows and pixels. */
export class CoarseLayers {
  readonly rows: number
  readonly layers: number
  readonly #model: BandedBody
  readonly #first: number
  readonly #cell: number
  readonly #thick: number
  readonly #n: number

  constructor(model: BandedBody, first: number, cell: number, thick: number, n: number) {
    this.#model = model
    this.#first = first
    this.#cell = cell
    this.#thick = thick
    this.#n = n
    this.rows = Math.ceil(model.frame.rows / cell)
    this.layers = Math.ceil((model.frame.layerCount - first) / thick)
  }

  /** A coarse layer, grown; its row r is the lowest row of the cube, moved up by n − 1. Null below the model. */
  grownLayer(k: number): BandSpans | null {
    if (k < 0 || k >= this.layers) return null
    let layer = this.#blocks(k)
    // windows of doubling height put together to one of n rows; a window of row r covers r to r + height − 1
    let height = 1
    while (height * 2 <= this.#n) {
      layer = orSpans(layer, shiftedUp(layer, height))
      height *= 2
    }
    if (height < this.#n) layer = orSpans(layer, shiftedUp(layer, this.#n - height))
    return layer
  }

  /** Cells of one coarse layer, stretched by n − 1 toward lower pixels, in rows moved up by n − 1. */
  #blocks(k: number): BandSpans {
    const rowsOut = this.rows + this.#n - 1, lead = this.#n - 1
    const starts = new Int32Array(rowsOut + 1)
    const { frame, body } = this.#model
    const cell = this.#cell, pixel0 = body.origin[0], n = this.#n
    let pairs: number[] = []
    const list = pairs
    const from = this.#first + k * this.#thick, to = Math.min(from + this.#thick, frame.layerCount)
    const views = Array.from({ length: to - from }, (_, i) => this.#model.layer(from + i))
    for (let r = 0; r < this.rows; r++) {
      const rowFirst = list.length
      for (const { spans, at } of views) {
        for (let y = r * cell; y < Math.min((r + 1) * cell, frame.rows); y++) {
          const a = spans.starts[at * frame.rows + y], b = spans.starts[at * frame.rows + y + 1]
          for (let s = a; s < b; s++) list.push(Math.floor((spans.pairs[2 * s] - pixel0) / cell) - (n - 1), Math.floor((spans.pairs[2 * s + 1] - 1 - pixel0) / cell) + 1)
        }
      }
      mergeTail(list, rowFirst)
      starts[r + lead + 1] = list.length >> 1
    }
    pairs = list
    return { firstLayer: k, layers: 1, starts, pairs: Int32Array.from(pairs), unclosedRows: new Int32Array(1) }
  }
}

/** Sorts and merges the pairs of a list from an index on. */
function mergeTail(list: number[], from: number): void {
  for (let i = from + 2; i < list.length; i += 2) {
    const a = list[i], b = list[i + 1]
    let j = i - 2
    while (j >= from && list[j] > a) {
      list[j + 2] = list[j]
      list[j + 3] = list[j + 1]
      j -= 2
    }
    list[j + 2] = a
    list[j + 3] = b
  }
  let n = from
  for (let i = from; i < list.length; i += 2) {
    const a = list[i], b = list[i + 1]
    if (n > from && list[n - 1] >= a) {
      if (b > list[n - 1]) list[n - 1] = b
    } else {
      list[n++] = a
      list[n++] = b
    }
  }
  list.length = n
}

/** The layer whose row r is row r + by of another. */
function shiftedUp(layer: BandSpans, by: number): BandSpans {
  const rows = layer.starts.length - 1
  const starts = new Int32Array(rows + 1)
  const skip = layer.starts[Math.min(by, rows)]
  for (let r = 0; r <= rows; r++) starts[r] = layer.starts[Math.min(rows, r + by)] - skip
  return { ...layer, starts, pairs: layer.pairs.subarray(2 * skip) }
}

/** OR of every m layers on end, by running ORs from both ends of blocks of m layers: three ORs a layer, whatever m is. */
export class WindowOr {
  readonly #m: number
  readonly #count: number
  readonly #source: (k: number) => BandSpans | null
  readonly #empty: BandSpans
  /** OR from layer k to the end of its block, and from the start of the next block to k. */
  #down: BandSpans[] = []
  #block = -1
  #next: BandSpans[] = []

  constructor(m: number, rows: number, source: (k: number) => BandSpans | null, count: number) {
    this.#m = m
    this.#source = source
    this.#count = count
    this.#empty = { firstLayer: 0, layers: 1, starts: new Int32Array(rows + 1), pairs: new Int32Array(0), unclosedRows: new Int32Array(1) }
  }

  /** Layers k to k + m − 1 in one; to be asked for in order. */
  layer(k: number): BandSpans {
    const m = this.#m, block = Math.floor(k / m)
    if (block !== this.#block) {
      const layers = this.#block === block - 1 && this.#next.length > 0 ? this.#nextRaw : this.#raw(block)
      this.#down = new Array<BandSpans>(m)
      let sum = this.#empty
      for (let i = m - 1; i >= 0; i--) this.#down[i] = sum = orSpans(layers[i], sum)
      this.#nextRaw = this.#raw(block + 1)
      this.#next = []
      let up = this.#empty
      for (const l of this.#nextRaw) this.#next.push((up = orSpans(up, l)))
      this.#block = block
    }
    const i = k - block * m
    return i === 0 ? this.#down[0] : orSpans(this.#down[i], this.#next[i - 1])
  }
  #nextRaw: BandSpans[] = []

  #raw(block: number): BandSpans[] {
    return Array.from({ length: this.#m }, (_, i) => {
      const k = block * this.#m + i
      return (k < this.#count ? this.#source(k) : null) ?? this.#empty
    })
  }
}
