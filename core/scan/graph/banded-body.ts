import { BandIndex, type Body } from '../raster/body'
import { frameOf, spansOfBand, spansOfLayers, SpanScratch, type BandSpans, type Frame } from '../raster/spans'
import { ChunkBuilder, type GraphChunk } from './layer-graph'

/** Layers per band: crossings of one band keep within the cache. */
export const BAND_LAYERS = 32

/** Spans that are kept in memory, bytes; bands beyond are made again when they are asked for. */
const KEPT_BYTES = 192 * 1024 * 1024
/** Of those beyond, so many that were asked for last are kept all the same: who goes through layers asks for their neighbours, too. */
const RECENT_BANDS = 3

/** Layers that were made elsewhere, of a body whose faces nobody knows. */
export interface MadeLayers {
  readonly frame: Frame
  /** First pixel and first layer with anything in it, and how many pixels across. */
  readonly pixel0: number
  readonly firstLayer: number
  readonly columns: number
  /** Spans of some layers, in the rows of the frame. */
  spans(firstLayer: number, layers: number): BandSpans
}

/** One body in bands of layers: its spans, kept as far as memory allows, and the graph of every band. */
export class BandedBody {
  readonly body: Body
  readonly frame: Frame
  readonly index: BandIndex
  readonly #scratch = new SpanScratch()
  readonly #kept = new Map<number, BandSpans>()
  /** The latest last. */
  readonly #recent = new Map<number, BandSpans>()
  #keptBytes = 0

  readonly #made: MadeLayers | null

  /** @param made layers in place of those of the body */
  constructor(body: Body, made: MadeLayers | null = null) {
    this.body = body
    this.#made = made
    this.frame = made?.frame ?? frameOf([body])
    this.index = new BandIndex(body, BAND_LAYERS, this.frame.layerCount)
  }

  /** A body that is known by its layers alone. */
  static ofLayers(made: MadeLayers): BandedBody {
    const { frame: { row0, rows, layerCount }, pixel0, firstLayer, columns } = made
    return new BandedBody({ coords: new Float64Array(0), triangles: new Uint32Array(0), origin: [pixel0, row0, firstLayer], rows, layers: layerCount - firstLayer, columns }, made)
  }

  /** Bands in all; none for an empty body. */
  get bands(): number {
    return this.frame.rows > 0 ? this.index.bands : 0
  }

  /** Spans of one band. */
  spans(band: number): BandSpans {
    const kept = this.#kept.get(band) ?? this.#again(band)
    if (kept) return kept
    const first = band * BAND_LAYERS, spans = this.#made ? this.#made.spans(first, Math.min(BAND_LAYERS, this.frame.layerCount - first)) : spansOfBand(this.body, this.index, band, this.frame, this.#scratch)
    this.keep(band, spans)
    if (!this.#kept.has(band)) {
      this.#recent.set(band, spans)
      for (const oldest of this.#recent.keys()) if (this.#recent.size > RECENT_BANDS) this.#recent.delete(oldest)
    }
    return spans
  }
  #again(band: number): BandSpans | undefined {
    const spans = this.#recent.get(band)
    if (spans) {
      this.#recent.delete(band)
      this.#recent.set(band, spans)
    }
    return spans
  }

  /** Keeps spans that were made elsewhere, where there is room. */
  keep(band: number, spans: BandSpans): void {
    const bytes = spans.pairs.byteLength + spans.starts.byteLength
    if (this.#kept.has(band) || this.#keptBytes + bytes > KEPT_BYTES) return
    this.#kept.set(band, spans)
    this.#keptBytes += bytes
  }

  /** Spans of one band, no longer kept here. */
  release(band: number): BandSpans {
    const spans = this.spans(band)
    this.#recent.delete(band)
    if (this.#kept.delete(band)) this.#keptBytes -= spans.pairs.byteLength + spans.starts.byteLength
    return spans
  }

  /** One layer as a band that holds it and its place there. */
  layer(k: number): { spans: BandSpans; at: number } {
    const band = Math.floor(k / BAND_LAYERS)
    return { spans: this.spans(band), at: k - band * BAND_LAYERS }
  }

  /** The graph of one band, with its edges down to the band below. */
  chunk(band: number): GraphChunk {
    const builder = new ChunkBuilder(this.frame, band * BAND_LAYERS)
    if (band > 0) {
      const kept = this.#kept.get(band - 1)
      if (kept) builder.prime(kept, kept.layers - 1)
      else if (this.#made) builder.prime(this.#made.spans(band * BAND_LAYERS - 1, 1), 0)
      else builder.prime(spansOfLayers(this.body, this.index.listOf(band - 1), band * BAND_LAYERS - 1, 1, this.frame, this.#scratch), 0)
    }
    builder.add(this.spans(band))
    return builder.finish()
  }
}
