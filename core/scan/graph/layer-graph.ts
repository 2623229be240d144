import { Float64List, Int32List } from '../raster/growable'
import type { BandSpans, Frame } from '../raster/spans'
import type { Columns } from './columns'
import { FAR, labelLayer, newLabels, OUTSIDE, type LayerLabels } from './layer-labels'
import { PairCounter } from './pair-counter'

/**
 * What touches what in some consecutive layers: solid and enclosed empty components with integer areas, and edges to the layer
 * below. Components are numbered within their layer by their first span, so a chunk means the same wherever it is put together
 * with others, and it travels between workers as it is.
 */
export interface GraphChunk {
  readonly firstLayer: number
  readonly layers: number
  /** First solid component of every layer in the arrays of the chunk; one more entry ends the last. */
  readonly solidStarts: Int32Array
  readonly solidPixels: Int32Array
  /** Sums of pixel and of row numbers over the component, for its centre. */
  readonly solidSumX: Float64Array
  readonly solidSumY: Float64Array
  /** First row of the component and its first pixel there, absolute. */
  readonly solidRow: Int32Array
  readonly solidPixel: Int32Array
  /** Edges [edgeStarts[l], edgeStarts[l + 1]) go from components of layer l to those of the layer below that they overlap. */
  readonly solidEdgeStarts: Int32Array
  readonly solidUpper: Int32Array
  readonly solidLower: Int32Array
  readonly solidOverlap: Int32Array
  readonly emptyStarts: Int32Array
  readonly emptyPixels: Int32Array
  /** A pixel inside the space: the middle of its widest gap. */
  readonly emptyInRow: Int32Array
  readonly emptyInPixel: Int32Array
  /** Box of the space: first row, first and end pixel, end row. */
  readonly emptyRow: Int32Array
  readonly emptyFrom: Int32Array
  readonly emptyTo: Int32Array
  readonly emptyRowEnd: Int32Array
  /** As for solid; an end of −1 is the outside. */
  readonly emptyEdgeStarts: Int32Array
  readonly emptyUpper: Int32Array
  readonly emptyLower: Int32Array
  /** Solid pixels, and rows whose crossings do not cancel, of every layer. */
  readonly layerPixels: Int32Array
  readonly unclosedRows: Int32Array
}

/** The chunks of all layers in one; components are numbered through all layers. */
export interface LayerGraph extends Omit<GraphChunk, 'firstLayer' | 'layers' | 'unclosedRows'> {
  readonly layerCount: number
  readonly unclosedRows: number
  /** What stands by itself beside the components; their pixels count in `layerPixels`. */
  readonly columns: Columns
}

/** Buffers of a chunk, to be handed over instead of copied. */
export function buffersOf(chunk: GraphChunk): ArrayBuffer[] {
  return Object.values(chunk).filter(v => ArrayBuffer.isView(v)).map(v => v.buffer as ArrayBuffer)
}

/** Builds a chunk from layers given in order; keeps only the layer before. */
export class ChunkBuilder {
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
  readonly #emptyInRow = new Int32List()
  readonly #emptyInPixel = new Int32List()
  readonly #widest = new Int32List()
  readonly #emptyFrom = new Int32List()
  readonly #emptyTo = new Int32List()
  readonly #emptyRowEnd = new Int32List()
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
  #below = false
  readonly #firstLayer: number
  readonly #unclosedRows = new Int32List()

  constructor(frame: Frame, firstLayer: number) {
    this.#frame = frame
    this.#firstLayer = firstLayer
  }

  /** Takes the layer under the first one, for its edges; it is not part of the chunk. */
  prime(band: BandSpans, layer: number): void {
    const base = layer * this.#frame.rows
    labelLayer(band.starts, base, this.#frame.rows, band.pairs, this.#before)
    this.#starts = band.starts
    this.#pairs = band.pairs
    this.#base = base
    this.#below = true
  }

  /** Adds the next layers. */
  add(band: BandSpans): void {
    for (let l = 0; l < band.layers; l++) this.addLayer(band, l)
  }

  /** Adds layer `layer` of a band as the next one. */
  addLayer(band: BandSpans, layer: number): void {
    const rows = this.#frame.rows, base = layer * rows
    const { starts, pairs } = band
    this.#unclosedRows.push(band.unclosedRows[layer])
    const solidBase = this.#solidPixels.length, emptyBase = this.#emptyPixels.length
    this.#solidStarts.push(solidBase)
    this.#emptyStarts.push(emptyBase)
    this.#solidEdgeStarts.push(this.#solidUpper.length)
    this.#emptyEdgeStarts.push(this.#emptyUpper.length)
    labelLayer(starts, base, rows, pairs, this.#labels)
    this.#measure(starts, base, pairs, solidBase, emptyBase)
    if (this.#below) this.#connect(starts, base, pairs)
    const labels = this.#labels
    this.#labels = this.#before
    this.#before = labels
    this.#starts = starts
    this.#pairs = pairs
    this.#base = base
    this.#below = true
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
      this.#emptyInRow.push(0)
      this.#emptyInPixel.push(0)
      this.#widest.push(0)
      this.#emptyFrom.push(0)
      this.#emptyTo.push(0)
      this.#emptyRowEnd.push(0)
    }
    const pixels = this.#solidPixels.data, sumX = this.#solidSumX.data, sumY = this.#solidSumY.data
    const solidRow = this.#solidRow.data, solidPixel = this.#solidPixel.data, row0 = this.#frame.row0
    const enclosed = this.#emptyPixels.data, emptyRow = this.#emptyRow.data, emptyFrom = this.#emptyFrom.data, emptyTo = this.#emptyTo.data
    const emptyRowEnd = this.#emptyRowEnd.data, widest = this.#widest.data, inRow = this.#emptyInRow.data, inPixel = this.#emptyInPixel.data
    let total = 0
    for (let r = 0; r < rows; r++) {
      const end = starts[base + r + 1]
      const y = r + row0
      for (let s = starts[base + r]; s < end; s++) {
        const from = pairs[2 * s], to = pairs[2 * s + 1], length = to - from
        const c = solidBase + solid[s - first]
        if (pixels[c] === 0) {
          solidRow[c] = y
          solidPixel[c] = from
        }
        pixels[c] += length
        sumX[c] += ((from + to - 1) * length) / 2
        sumY[c] += y * length
        total += length
        if (empty[s - first] < 0) continue
        const e = emptyBase + empty[s - first], gapFrom = pairs[2 * s - 1]
        if (enclosed[e] === 0) {
          emptyRow[e] = y
          emptyFrom[e] = gapFrom
          emptyTo[e] = from
        }
        emptyRowEnd[e] = y + 1
        if (from - gapFrom > widest[e]) {
          widest[e] = from - gapFrom
          inRow[e] = y
          inPixel[e] = (gapFrom + from - 1) >> 1
        }
        if (gapFrom < emptyFrom[e]) emptyFrom[e] = gapFrom
        if (from > emptyTo[e]) emptyTo[e] = from
        enclosed[e] += from - gapFrom
      }
    }
    this.#layerPixels.push(total)
  }

  #connect(starts: Int32Array, base: number, pairs: Int32Array): void {
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
      if (anyEmpty && iEnd - i0 === 2 && jEnd - j0 === 2) {
        // the usual case, the two walls of a ring: one gap each, and what is around
        const up = empty[i0 + 1 - first], down = emptyBelow[j0 + 1 - belowFirst]
        if (up === OUTSIDE && down === OUTSIDE) continue
        const upFrom = pairs[2 * i0 + 1], upTo = pairs[2 * i0 + 2], downFrom = belowPairs[2 * j0 + 1], downTo = belowPairs[2 * j0 + 2]
        if (up !== OUTSIDE && upFrom < belowPairs[2 * j0]) empties.add(up, OUTSIDE, 1)
        if (down !== OUTSIDE && downFrom < pairs[2 * i0]) empties.add(OUTSIDE, down, 1)
        if (upFrom < downTo && downFrom < upTo) empties.add(up, down, 1)
        if (up !== OUTSIDE && upTo > belowPairs[2 * j0 + 3]) empties.add(up, OUTSIDE, 1)
        if (down !== OUTSIDE && downTo > pairs[2 * i0 + 3]) empties.add(OUTSIDE, down, 1)
      } else if (anyEmpty && (iEnd - i0 > 1 || jEnd - j0 > 1)) {
        // every two gaps of both rows that overlap; first and last gap reach to infinity
        let upFrom = -FAR, downFrom = -FAR
        for (let a = i0, b = j0; ;) {
          const upTo = a < iEnd ? pairs[2 * a] : FAR, downTo = b < jEnd ? belowPairs[2 * b] : FAR
          const up = a < iEnd ? empty[a - first] : OUTSIDE, down = b < jEnd ? emptyBelow[b - belowFirst] : OUTSIDE
          if ((up !== OUTSIDE || down !== OUTSIDE) && (upFrom > downFrom ? upFrom : downFrom) < (upTo < downTo ? upTo : downTo)) empties.add(up, down, 1)
          if (upTo <= downTo) {
            if (upTo === FAR) break
            upFrom = pairs[2 * a++ + 1]
          }
          if (downTo <= upTo) downFrom = belowPairs[2 * b++ + 1]
        }
      }
    }
    for (let e = 0; e < solids.length; e++) {
      this.#solidUpper.push(solids.upper[e])
      this.#solidLower.push(solids.lower[e])
      this.#solidOverlap.push(solids.count[e])
    }
    for (let e = 0; e < empties.length; e++) {
      this.#emptyUpper.push(empties.upper[e])
      this.#emptyLower.push(empties.lower[e])
    }
  }

  /** The solid component, within the layer added last, at a pixel; −1 where that is empty. */
  solidAt(row: number, pixel: number): number {
    const r = row - this.#frame.row0
    if (r < 0 || r >= this.#frame.rows) return -1
    const starts = this.#starts, pairs = this.#pairs, at = this.#base + r
    for (let s = starts[at]; s < starts[at + 1]; s++) {
      if (pairs[2 * s] <= pixel && pixel < pairs[2 * s + 1]) return this.#before.solid[s - starts[this.#base]]
    }
    return -1
  }

  /** The chunk of all layers added. */
  finish(): GraphChunk {
    this.#solidStarts.push(this.#solidPixels.length)
    this.#emptyStarts.push(this.#emptyPixels.length)
    this.#solidEdgeStarts.push(this.#solidUpper.length)
    this.#emptyEdgeStarts.push(this.#emptyUpper.length)
    return {
      firstLayer: this.#firstLayer,
      layers: this.#layers,
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
      emptyInRow: this.#emptyInRow.toArray(),
      emptyInPixel: this.#emptyInPixel.toArray(),
      emptyFrom: this.#emptyFrom.toArray(),
      emptyTo: this.#emptyTo.toArray(),
      emptyRowEnd: this.#emptyRowEnd.toArray(),
      emptyEdgeStarts: this.#emptyEdgeStarts.toArray(),
      emptyUpper: this.#emptyUpper.toArray(),
      emptyLower: this.#emptyLower.toArray(),
      layerPixels: this.#layerPixels.toArray(),
      unclosedRows: this.#unclosedRows.toArray(),
    }
  }
}
