import type { BandedBody } from '../graph/banded-body'
import { joinLayers, type LayerSource } from '../graph/join-layers'
import { ChunkBuilder, type LayerGraph } from '../graph/layer-graph'
import type { Frame } from '../raster/spans'
import { columnsOf } from './columns-of'
import { LayerLists } from './layer-lists'
import type { Section } from './support-section'
import { spansTogether } from './supported-spans'

/** A layer in which model and supports were looked at together. */
export interface SharedLayer extends LayerSource {
  /** For every component of the model in this layer the one that holds it together with the supports. */
  readonly ofModel: Int32Array
  /** The component of the first piece of every entangled section of this layer, and those of all pieces where there are several. */
  readonly ofSection: ReadonlyMap<number, number>
  readonly ofPieces: ReadonlyMap<number, Int32Array>
}

/** What is known of model and supports together. */
export interface SupportedState {
  readonly frame: Frame
  readonly sections: readonly Section[]
  /** Layers that were put together pixel by pixel; null where everything stands by itself. */
  readonly layers: readonly (SharedLayer | null)[]
  /** Null while there are no supports. */
  readonly lists: LayerLists | null
}

/** Layers that are worked on at once. */
const RUN_LAYERS = 64

/** One step from what was known to what holds with other sections. */
export class SupportedUpdate {
  readonly #model: BandedBody
  readonly #own: LayerGraph
  readonly #modelLayers: readonly LayerSource[]
  readonly #frame: Frame
  readonly #sections: readonly Section[]
  readonly #layers: (SharedLayer | null)[]
  #lists: LayerLists
  /** Layers that were put together again. */
  readonly #renewed = new Set<number>()
  /** Sections that are something else in some layer than before. */
  readonly #changed: Set<Section>
  readonly changedFrom: number
  readonly changedTo: number

  constructor(model: BandedBody, own: LayerGraph, modelLayers: readonly LayerSource[], before: SupportedState, sections: readonly Section[]) {
    this.#model = model
    this.#own = own
    this.#modelLayers = modelLayers
    this.#sections = sections
    this.#frame = frameOf(model.frame, sections)
    const { layerCount } = this.#frame
    this.#layers = Array.from({ length: layerCount }, (_, k) => before.layers[k] ?? null)
    this.#lists = new LayerLists(before.lists, sections, layerCount)
    this.#changed = new Set(this.#lists.changed)
    this.changedFrom = Math.min(layerCount, this.#lists.meetingFrom)
    this.changedTo = this.#lists.meetingTo
  }

  /** Puts together what has to be. Yields the share that is done. */
  *run(): Generator<number, void, void> {
    for (;;) {
      yield* this.#renew(this.#lists)
      if (!this.#findEnclosed()) return
      this.#lists = new LayerLists(this.#lists, this.#sections, this.#frame.layerCount)
      for (const s of this.#lists.changed) this.#changed.add(s)
    }
  }

  get state(): SupportedState {
    return { frame: this.#frame, sections: this.#sections, layers: this.#layers, lists: this.#lists }
  }

  /** How many layers were put together again. */
  get renewed(): number {
    return this.#renewed.size
  }

  /** Puts the layers together again whose entangled sections, or those of the layer below, are not what they were. */
  *#renew({ entangled, dirty: changed }: LayerLists): Generator<number, void, void> {
    const { layerCount } = this.#frame
    let from = -1
    for (let k = 0; k <= layerCount; k++) {
      // right above the model everything below is open to the air, which no chunk of the model says
      const top = k === this.#model.frame.layerCount && k > 0
      const dirty = changed.has(k) || changed.has(k - 1) || (top && !this.#layers[k])
      const shared = k < layerCount && (entangled[k].length > 0 || (k > 0 && entangled[k - 1].length > 0) || top)
      if (dirty && k < layerCount && !shared) this.#layers[k] = null
      if (dirty && shared && from < 0) from = k
      if (from >= 0 && (!(dirty && shared) || k - from >= RUN_LAYERS)) {
        this.#shareRun(from, k, entangled)
        yield k / layerCount
        from = dirty && shared ? k : -1
      }
    }
  }

  /** Puts layers [from, to) together pixel by pixel. */
  #shareRun(from: number, to: number, lists: readonly (readonly Section[])[]): void {
    const spans = spansTogether(this.#model, this.#frame, Math.max(0, from - 1), to, lists)
    const builder = new ChunkBuilder(this.#frame, from)
    const skip = from > 0 ? 1 : 0
    if (skip) builder.prime(spans, 0)
    const found: { ofModel: Int32Array; ofSection: Map<number, number>; ofPieces: Map<number, Int32Array> }[] = []
    const own = this.#own
    for (let k = from; k < to; k++) {
      builder.addLayer(spans, k - from + skip)
      const first = k < own.layerCount ? own.solidStarts[k] : 0, end = k < own.layerCount ? own.solidStarts[k + 1] : 0
      const ofModel = new Int32Array(end - first)
      for (let c = first; c < end; c++) ofModel[c - first] = builder.solidAt(own.solidRow[c], own.solidPixel[c])
      const ofSection = new Map<number, number>(), ofPieces = new Map<number, Int32Array>()
      for (const s of lists[k]) {
        const c = s.component(k)
        ofSection.set(s.id, builder.solidAt(c.row, c.pixel))
        const pixels = s.pixelsOfPieces(k)
        if (pixels.length > 2) ofPieces.set(s.id, Int32Array.from({ length: pixels.length / 2 }, (_, i) => builder.solidAt(pixels[2 * i], pixels[2 * i + 1])))
      }
      found.push({ ofModel, ofSection, ofPieces })
    }
    const chunk = builder.finish()
    for (let k = from; k < to; k++) {
      this.#layers[k] = { chunk, at: k - from, ...found[k - from] }
      this.#renewed.add(k)
    }
  }

  /** Looks for sections that stand by themselves in a space which supports enclose; they count as entangled from then on. */
  #findEnclosed(): boolean {
    let found = false
    for (const [k, shared] of this.#layers.entries()) {
      if (!shared) continue
      const { chunk, at } = shared
      if (chunk.emptyStarts[at] === chunk.emptyStarts[at + 1]) continue
      // in a layer that stayed as it was, those that stayed as they were have been looked at
      for (const s of this.#renewed.has(k) ? this.#sections : this.#changed) {
        if (!s.free(k)) continue
        for (let e = chunk.emptyStarts[at]; e < chunk.emptyStarts[at + 1]; e++) {
          if (s.enclosedBy(k, chunk.emptyFrom[e], chunk.emptyTo[e], chunk.emptyRow[e], chunk.emptyRowEnd[e])) found = true
        }
      }
    }
    return found
  }

  /** The graph of all layers. */
  join(): LayerGraph {
    const sources = this.#layers.map((shared, k) => shared ?? this.#modelLayers[k] ?? null)
    return joinLayers(sources, solidStarts => columnsOf(this.#sections, this.#layers, solidStarts, this.#lists.totals))
  }
}

/** Rows and layers of the model and of sections. */
function frameOf(model: Frame, sections: readonly Section[]): Frame {
  let row0 = model.rows > 0 ? model.row0 : Infinity, rowEnd = model.rows > 0 ? model.row0 + model.rows : -Infinity, { layerCount } = model
  for (const s of sections) {
    row0 = Math.min(row0, s.frame.row0)
    rowEnd = Math.max(rowEnd, s.frame.row0 + s.frame.rows)
    layerCount = Math.max(layerCount, s.frame.layerCount)
  }
  return rowEnd > row0 ? { row0, rows: rowEnd - row0, layerCount } : { row0: 0, rows: 0, layerCount: 0 }
}
