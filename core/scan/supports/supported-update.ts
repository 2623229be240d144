import type { BandedBody } from '../graph/banded-body'
import { joinLayers, type LayerExtra, type LayerSource, type LoneComponent, type LoneEdge } from '../graph/join-layers'
import { ChunkBuilder, type LayerGraph } from '../graph/layer-graph'
import type { Frame } from '../raster/spans'
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
  /** Sections by layer: those that touch something, and those that meet the model. */
  readonly entangled: readonly (readonly Section[])[]
  readonly meeting: readonly (readonly Section[])[]
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
  readonly #meeting: readonly (readonly Section[])[]
  #entangled: readonly (readonly Section[])[]
  renewed = 0
  changedFrom: number
  changedTo = 0

  constructor(model: BandedBody, own: LayerGraph, modelLayers: readonly LayerSource[], before: SupportedState, sections: readonly Section[]) {
    this.#model = model
    this.#own = own
    this.#modelLayers = modelLayers
    this.#sections = sections
    this.#frame = frameOf(model.frame, sections)
    const { layerCount } = this.#frame
    this.#layers = Array.from({ length: layerCount }, (_, k) => before.layers[k] ?? null)
    this.#entangled = before.entangled
    this.#meeting = this.#list((s, k) => s.meetsModel(k))
    this.changedFrom = layerCount
    for (let k = 0; k < Math.max(layerCount, before.meeting.length); k++) {
      if (sameList(before.meeting[k] ?? NONE, this.#meeting[k] ?? NONE)) continue
      this.changedFrom = Math.min(this.changedFrom, k)
      this.changedTo = k + 1
    }
  }

  /** Puts together what has to be. Yields the share that is done. */
  *run(): Generator<number, void, void> {
    do {
      const now = this.#list((s, k) => s.entangled(k))
      yield* this.#renew(this.#entangled, now)
      this.#entangled = now
    } while (this.#findEnclosed())
  }

  get state(): SupportedState {
    return { frame: this.#frame, sections: this.#sections, layers: this.#layers, entangled: this.#entangled, meeting: this.#meeting }
  }

  #list(which: (s: Section, k: number) => boolean): (readonly Section[])[] {
    const lists: Section[][] = Array.from({ length: this.#frame.layerCount }, () => NONE as Section[])
    for (const s of this.#sections) {
      for (let k = s.first; k < s.first + s.layers; k++) {
        if (!s.has(k) || !which(s, k)) continue
        if (lists[k] === NONE) lists[k] = []
        lists[k].push(s)
      }
    }
    return lists
  }

  /** Puts the layers together again whose entangled sections, or those of the layer below, are not what they were. */
  *#renew(before: readonly (readonly Section[])[], now: readonly (readonly Section[])[]): Generator<number, void, void> {
    const { layerCount } = this.#frame
    let from = -1
    let changedBelow = false
    for (let k = 0; k <= layerCount; k++) {
      const changed = k < layerCount && !sameList(before[k] ?? NONE, now[k])
      // right above the model everything below is open to the air, which no chunk of the model says
      const top = k === this.#model.frame.layerCount && k > 0
      const dirty = changed || changedBelow || (top && !this.#layers[k])
      const shared = k < layerCount && (now[k].length > 0 || (k > 0 && now[k - 1].length > 0) || top)
      if (dirty && k < layerCount && !shared) this.#layers[k] = null
      if (dirty && shared && from < 0) from = k
      if (from >= 0 && (!(dirty && shared) || k - from >= RUN_LAYERS)) {
        this.#shareRun(from, k, now)
        yield k / layerCount
        from = dirty && shared ? k : -1
      }
      changedBelow = changed
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
    for (let k = from; k < to; k++) this.#layers[k] = { chunk, at: k - from, ...found[k - from] }
    this.renewed += to - from
  }

  /** Looks for sections that stand by themselves in a space which supports enclose; they count as entangled from then on. */
  #findEnclosed(): boolean {
    let found = false
    const alone = this.#list((s, k) => !s.entangled(k))
    for (const [k, shared] of this.#layers.entries()) {
      if (!shared || alone[k].length === 0) continue
      const { chunk, at } = shared
      for (let e = chunk.emptyStarts[at]; e < chunk.emptyStarts[at + 1]; e++) {
        for (const s of alone[k]) {
          if (s.enclosedBy(k, chunk.emptyFrom[e], chunk.emptyTo[e], chunk.emptyRow[e], chunk.emptyRowEnd[e])) found = true
        }
      }
    }
    return found
  }

  /** The graph of all layers. */
  join(): LayerGraph {
    const sources: (LayerSource | null)[] = []
    const extras: (LayerExtra | null)[] = []
    const alone = this.#list((s, k) => !s.entangled(k))
    let placesBelow = new Map<number, number>()
    for (const [k, shared] of this.#layers.entries()) {
      const source = shared ?? this.#modelLayers[k] ?? null
      sources.push(source)
      const count = source ? source.chunk.solidStarts[source.at + 1] - source.chunk.solidStarts[source.at] : 0
      const components: LoneComponent[] = [], edges: LoneEdge[] = []
      const places = new Map<number, number>()
      for (const s of alone[k]) {
        const lower = placesBelow.get(s.id)
        places.set(s.id, count + components.length)
        const overlap = s.overlap[k - s.first]
        if (lower !== undefined && overlap > 0) edges.push({ upper: count + components.length, lower, overlap })
        components.push(s.component(k))
      }
      if (shared) {
        for (const s of this.#entangled[k]) {
          const at = shared.ofSection.get(s.id) ?? -1
          places.set(s.id, at)
          // where the section stood by itself below, no chunk knows the edge down to it
          const lower = k > 0 && s.has(k - 1) && !s.entangled(k - 1) ? placesBelow.get(s.id) : undefined
          const overlap = s.overlap[k - s.first]
          if (lower !== undefined && overlap > 0) edges.push({ upper: at, lower, overlap })
        }
      }
      extras.push(components.length + edges.length > 0 ? { components, edges } : null)
      placesBelow = places
    }
    return joinLayers(sources, extras)
  }
}

const NONE: readonly Section[] = []

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

function sameList(a: readonly Section[], b: readonly Section[]): boolean {
  return a === b || (a.length === b.length && a.every((s, i) => s === b[i]))
}
