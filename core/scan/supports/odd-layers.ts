import { ChunkBuilder, type GraphChunk } from '../graph/layer-graph'
import { labelLayer, newLabels } from '../graph/layer-labels'
import type { BandSpans, Frame } from '../raster/spans'

/** Stretches of odd layers that are no farther from each other than that are looked at together. */
const TOGETHER = 8

/** Some layers of a support, one after the other, of which some are of several pieces or enclose something: they are looked at as closely as a model. Those next to them are among them, so that it is known what lies on what. */
export class OddLayers {
  /** The first layer of the support, and one past the last. */
  readonly from: number
  readonly to: number
  readonly chunk: GraphChunk
  /** By run of these layers, the piece within its layer. */
  readonly #pieceOfRun: Int32Array
  readonly #firstRun: number
  readonly #starts: Int32Array

  constructor(spans: BandSpans, frame: Frame, firstLayer: number, from: number, to: number) {
    this.from = from
    this.to = to
    const builder = new ChunkBuilder(frame, firstLayer + from), { rows } = frame
    this.#firstRun = spans.starts[from * rows]
    this.#pieceOfRun = new Int32Array(spans.starts[to * rows] - this.#firstRun)
    this.#starts = Int32Array.from({ length: to - from }, (_, i) => spans.starts[(from + i) * rows] - this.#firstRun)
    for (let l = from; l < to; l++) {
      builder.addLayer(spans, l)
      labelLayer(spans.starts, l * rows, rows, spans.pairs, labels)
      const first = spans.starts[l * rows], end = spans.starts[(l + 1) * rows]
      for (let i = first; i < end; i++) this.#pieceOfRun[i - this.#firstRun] = labels.solid[i - first]
    }
    this.chunk = builder.finish()
  }

  has(layer: number): boolean {
    return layer >= this.from && layer < this.to
  }

  /** How many pieces a layer has. */
  piecesIn(layer: number): number {
    const { solidStarts } = this.chunk, l = layer - this.from
    return solidStarts[l + 1] - solidStarts[l]
  }

  /** The component of the chunk that a piece of a layer is. */
  componentOf(layer: number, piece: number): number {
    return this.chunk.solidStarts[layer - this.from] + piece
  }

  /** The piece that run `i` of a layer belongs to. */
  pieceOfRun(layer: number, i: number): number {
    return this.#pieceOfRun[this.#starts[layer - this.from] + i]
  }

  /** Pieces of the layer below that a piece of a layer lies on; of the first layer they are not known here. */
  below(layer: number, piece: number): number[] {
    const { solidEdgeStarts, solidUpper, solidLower } = this.chunk, l = layer - this.from, lower: number[] = []
    // a chunk numbers the ends of its edges within their layers
    for (let e = solidEdgeStarts[l]; e < solidEdgeStarts[l + 1]; e++) if (solidUpper[e] === piece) lower.push(solidLower[e])
    return lower
  }
}
const labels = newLabels()

/** Takes the odd ones of the layers of a support together with those next to them. @param odd in order */
export function oddLayersOf(odd: readonly number[], layers: number, spans: BandSpans, frame: Frame, firstLayer: number): OddLayers[] {
  const out: OddLayers[] = []
  for (let i = 0; i < odd.length;) {
    let last = i
    while (last + 1 < odd.length && odd[last + 1] - odd[last] <= TOGETHER) last++
    out.push(new OddLayers(spans, frame, firstLayer, Math.max(0, odd[i] - 1), Math.min(layers, odd[last] + 2)))
    i = last + 1
  }
  return out
}
