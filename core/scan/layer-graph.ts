import { Float64List, Int32List } from './growable'
import { forOverlappingGaps, labelLayer, newLabels, OUTSIDE, type LayerLabels } from './layer-labels'
import { PairCounter } from './pair-counter'
import type { BandSpans, Frame } from './spans'

/**
 * What touches what, for all layers: solid and enclosed empty components with integer areas, and edges to the layer below.
 * Components are numbered through all layers, in each layer by their first span.
 */
export interface LayerGraph {
  readonly layerCount: number
  /** First solid component of every layer; one more entry ends the last. */
  readonly solidStarts: Int32Array
  readonly solidPixels: Int32Array
  /** Sums of pixel and of row numbers over the component, for its centre. */
  readonly solidSumX: Float64Array
  readonly solidSumY: Float64Array
  /** First row and first pixel of the component, absolute. */
  readonly solidRow: Int32Array
  readonly solidPixel: Int32Array
  /** Edges [edgeStarts[k], edgeStarts[k + 1]) go from components of layer k to those of layer k − 1 that they overlap. */
  readonly solidEdgeStarts: Int32Array
  readonly solidUpper: Int32Array
  readonly solidLower: Int32Array
  readonly solidOverlap: Int32Array
  readonly emptyStarts: Int32Array
  readonly emptyPixels: Int32Array
  readonly emptyRow: Int32Array
  readonly emptyPixel: Int32Array
  /** As for solid; an end of −1 is the outside. */
  readonly emptyEdgeStarts: Int32Array
  readonly emptyUpper: Int32Array
  readonly emptyLower: Int32Array
  /** Solid pixels of every layer. */
  readonly layerPixels: Int32Array
  readonly unclosedRows: number
}

/** Builds the graph from bands given in order; keeps only the layer before. */
export class LayerGraphBuilder {
  readonly #frame: Frame
  readonly #solidStarts = new Int32List()
  readonly #solidPixels = new Int32List()
  readonly #solidSumX = new Float64List()
  readonly #solidSumY = new Float64List()
  readonly #solidRow = new Int32List()
  readonly #solidPixel = new Int32List()
  readonly #solidEdgeStarts = new Int32List()
  readonly #solidUpper = new Int32List()
  readonly #solidLower = new Int32List()
  readonly #solidOverlap = new Int32List()
  readonly #emptyStarts = new Int32List()
  readonly #emptyPixels = new Int32List()
  readonly #emptyRow = new Int32List()
  readonly #emptyPixel = new Int32List()
  readonly #emptyEdgeStarts = new Int32List()
  readonly #emptyUpper = new Int32List()
  readonly #emptyLower = new Int32List()
  readonly #layerPixels = new Int32List()
  readonly #solidPairs = new PairCounter()
  readonly #emptyPairs = new PairCounter()
  #labels: LayerLabels = newLabels()
  #before: LayerLabels = newLabels()
  #starts: Int32Array = new Int32Array(1)
  #pairs: Int32Array = new Int32Array(0)
  #base = 0
  #layers = 0
  #unclosedRows = 0

  constructor(frame: Frame) {
    this.#frame = frame
  }

  /** Adds the next layers. */
  add(band: BandSpans): void {
    const rows = this.#frame.rows
    for (let l = 0; l < band.layers; l++) {
      this.#addLayer(band, l * rows)
      this.#unclosedRows += band.unclosedRows[l]
    }
  }

  #addLayer(band: BandSpans, base: number): void {
    const rows = this.#frame.rows
    const { starts, pairs } = band
    const solidBase = this.#solidPixels.length, emptyBase = this.#emptyPixels.length
    this.#solidStarts.push(solidBase)
    this.#emptyStarts.push(emptyBase)
    this.#solidEdgeStarts.push(this.#solidUpper.length)
    this.#emptyEdgeStarts.push(this.#emptyUpper.length)
    labelLayer(starts, base, rows, pairs, this.#labels)
    this.#measure(starts, base, pairs, solidBase, emptyBase)
    if (this.#layers > 0) this.#connect(starts, base, pairs, solidBase, emptyBase)
    const labels = this.#labels
    this.#labels = this.#before
    this.#before = labels
    this.#starts = starts
    this.#pairs = pairs
    this.#base = base
    this.#layers++
  }

  #measure(starts: Int32Array, base: number, pairs: Int32Array, solidBase: number, emptyBase: number): void {
    const rows = this.#frame.rows, first = starts[base]
    const { solid, empty, solidCount, emptyCount } = this.#labels
    for (let i = 0; i < solidCount; i++) {
      this.#solidPixels.push(0)
      this.#solidSumX.push(0)
      this.#solidSumY.push(0)
      this.#solidRow.push(0)
      this.#solidPixel.push(0)
    }
    for (let i = 0; i < emptyCount; i++) {
      this.#emptyPixels.push(0)
      this.#emptyRow.push(0)
      this.#emptyPixel.push(0)
    }
    const pixels = this.#solidPixels.data, sumX = this.#solidSumX.data, sumY = this.#solidSumY.data
    const enclosed = this.#emptyPixels.data
    let total = 0
    for (let r = 0; r < rows; r++) {
      const end = starts[base + r + 1]
      const y = r + this.#frame.row0
      for (let s = starts[base + r]; s < end; s++) {
        const from = pairs[2 * s], to = pairs[2 * s + 1], length = to - from
        const c = solidBase + solid[s - first]
        if (pixels[c] === 0) {
          this.#solidRow.data[c] = y
          this.#solidPixel.data[c] = from
        }
        pixels[c] += length
        sumX[c] += ((from + to - 1) * length) / 2
        sumY[c] += y * length
        total += length
        const e = empty[s - first]
        if (e >= 0) {
          const gapFrom = pairs[2 * s - 1]
          if (enclosed[emptyBase + e] === 0) {
            this.#emptyRow.data[emptyBase + e] = y
            this.#emptyPixel.data[emptyBase + e] = gapFrom
          }
          enclosed[emptyBase + e] += from - gapFrom
        }
      }
    }
    this.#layerPixels.push(total)
  }

  #connect(starts: Int32Array, base: number, pairs: Int32Array, solidBase: number, emptyBase: number): void {
    const rows = this.#frame.rows
    const below = this.#starts, belowPairs = this.#pairs, belowBase = this.#base
    const first = starts[base], belowFirst = below[belowBase]
    if (first === starts[base + rows] && belowFirst === below[belowBase + rows]) return
    const solid = this.#labels.solid, solidBelow = this.#before.solid
    const empty = this.#labels.empty, emptyBelow = this.#before.empty
    const solids = this.#solidPairs, empties = this.#emptyPairs
    const anyEmpty = this.#labels.emptyCount > 0 || this.#before.emptyCount > 0
    solids.clear()
    empties.clear()
    for (let r = 0; r < rows; r++) {
      const i0 = starts[base + r], iEnd = starts[base + r + 1]
      const j0 = below[belowBase + r], jEnd = below[belowBase + r + 1]
      let i = i0, j = j0
      while (i < iEnd && j < jEnd) {
        const iTo = pairs[2 * i + 1], jTo = belowPairs[2 * j + 1]
        const from = Math.max(pairs[2 * i], belowPairs[2 * j]), to = Math.min(iTo, jTo)
        if (from < to) solids.add(solid[i - first], solidBelow[j - belowFirst], to - from)
        if (iTo < jTo) i++
        else j++
      }
      if (anyEmpty && (iEnd - i0 > 1 || jEnd - j0 > 1)) {
        forOverlappingGaps(pairs, i0, iEnd, belowPairs, j0, jEnd, (a, b) => {
          const up = a === iEnd ? OUTSIDE : empty[a - first], down = b === jEnd ? OUTSIDE : emptyBelow[b - belowFirst]
          if (up !== OUTSIDE || down !== OUTSIDE) empties.add(up, down, 1)
        })
      }
    }
    const solidBelowBase = this.#solidStarts.data[this.#layers - 1], emptyBelowBase = this.#emptyStarts.data[this.#layers - 1]
    for (let e = 0; e < solids.length; e++) {
      this.#solidUpper.push(solidBase + solids.upper[e])
      this.#solidLower.push(solidBelowBase + solids.lower[e])
      this.#solidOverlap.push(solids.count[e])
    }
    for (let e = 0; e < empties.length; e++) {
      this.#emptyUpper.push(empties.upper[e] < 0 ? OUTSIDE : emptyBase + empties.upper[e])
      this.#emptyLower.push(empties.lower[e] < 0 ? OUTSIDE : emptyBelowBase + empties.lower[e])
    }
  }

  /** The graph of all layers added. */
  finish(): LayerGraph {
    this.#solidStarts.push(this.#solidPixels.length)
    this.#emptyStarts.push(this.#emptyPixels.length)
    this.#solidEdgeStarts.push(this.#solidUpper.length)
    this.#emptyEdgeStarts.push(this.#emptyUpper.length)
    return {
      layerCount: this.#layers,
      solidStarts: this.#solidStarts.toArray(),
      solidPixels: this.#solidPixels.toArray(),
      solidSumX: this.#solidSumX.toArray(),
      solidSumY: this.#solidSumY.toArray(),
      solidRow: this.#solidRow.toArray(),
      solidPixel: this.#solidPixel.toArray(),
      solidEdgeStarts: this.#solidEdgeStarts.toArray(),
      solidUpper: this.#solidUpper.toArray(),
      solidLower: this.#solidLower.toArray(),
      solidOverlap: this.#solidOverlap.toArray(),
      emptyStarts: this.#emptyStarts.toArray(),
      emptyPixels: this.#emptyPixels.toArray(),
      emptyRow: this.#emptyRow.toArray(),
      emptyPixel: this.#emptyPixel.toArray(),
      emptyEdgeStarts: this.#emptyEdgeStarts.toArray(),
      emptyUpper: this.#emptyUpper.toArray(),
      emptyLower: this.#emptyLower.toArray(),
      layerPixels: this.#layerPixels.toArray(),
      unclosedRows: this.#unclosedRows,
    }
  }
}
