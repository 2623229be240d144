import type { Mesh } from '../mesh'
import type { BandedBody } from './band-spans'
import type { Raster } from './body'
import { Int32List } from './growable'
import { joinLayers, type LayerExtra, type LayerSource, type LoneComponent, type LoneEdge } from './join-chunks'
import { ChunkBuilder, type LayerGraph } from './layer-graph'
import { labelLayer, newLabels } from './layer-labels'
import { Section } from './section'
import { orSpans, type BandSpans, type Frame } from './spans'

/** A layer in which model and supports were looked at together. */
interface SharedLayer extends LayerSource {
  /** For every component of the model in this layer the one that holds it together with the supports. */
  readonly ofModel: Int32Array
  /** The component of every entangled section of this layer that is in one piece. */
  readonly ofSection: ReadonlyMap<number, number>
}

/** Layers that are worked on at once. */
const RUN_LAYERS = 64

/**
 * The graph of model and supports, kept up to date. Where a support stands by itself, a layer is the model's own layer and one
 * component more; only layers in which supports touch something are put together pixel by pixel, and after a change only those
 * in which other supports touch something than before. The outcome is the same as that of a scan of everything at once.
 */
export class WholeGraph {
  readonly #model: BandedBody
  readonly #own: LayerGraph
  readonly #modelLayers: readonly LayerSource[]
  readonly #raster: Raster
  #sections: Section[] = []
  readonly #runs = new Int32List(1 << 12)
  #layers: (SharedLayer | null)[] = []
  #entangled: (readonly Section[])[] = []
  #meeting: (readonly Section[])[] = []
  #frame: Frame
  /** Layers that were put together again by the last update. */
  renewed = 0
  /** First layer and one past the last in which other supports meet the model than before the last update. */
  changedFrom = 0
  changedTo = 0

  constructor(model: BandedBody, own: LayerGraph, modelLayers: readonly LayerSource[], raster: Raster) {
    this.#model = model
    this.#own = own
    this.#modelLayers = modelLayers
    this.#raster = raster
    this.#frame = model.frame
  }

  /** Rows and layers of model and supports. */
  get frame(): Frame {
    return this.#frame
  }

  get sections(): readonly Section[] {
    return this.#sections
  }

  /** The component of model and supports, within layer k, that holds component `c` of the model's layer. */
  holderOf(k: number, c: number): number {
    const shared = this.#layers[k]
    return shared ? shared.ofModel[c] : c
  }

  /** Takes the supports as they are now, one solid each, and gives the graph. */
  update(solids: readonly Mesh[]): LayerGraph {
    this.#takeSolids(solids)
    this.#frame = this.#frameNow()
    const layerCount = this.#frame.layerCount
    const before = this.#entangled
    this.renewed = 0
    this.changedFrom = layerCount
    this.changedTo = 0
    this.#layers.length = Math.min(this.#layers.length, layerCount)
    while (this.#layers.length < layerCount) this.#layers.push(null)
    let known = before
    this.#noteMeeting(this.#listSections(layerCount, (s, k) => s.meetsModel(k)))
    for (;;) {
      const now = this.#listSections(layerCount, (s, k) => s.entangled(k))
      this.#renew(known, now, layerCount)
      known = now
      this.#entangled = now
      if (!this.#findEnclosed(layerCount)) break
    }
    return this.#join(layerCount)
  }

  #takeSolids(solids: readonly Mesh[]): void {
    const old = new Map<number, Section[]>()
    for (const s of this.#sections) {
      const key = s.mesh.positions.length
      const list = old.get(key)
      if (list) list.push(s)
      else old.set(key, [s])
    }
    const fresh = new Set<Section>()
    const next = solids.filter(m => m.triangles.length > 0).map(mesh => {
      const list = old.get(mesh.positions.length)
      const at = list ? list.findIndex(s => sameMesh(s.mesh, mesh)) : -1
      if (list && at >= 0) return list.splice(at, 1)[0]
      const section = new Section(mesh, this.#raster)
      section.meetModel(this.#model, this.#own, (k, row, pixel) => this.#shutAt(k, row, pixel))
      fresh.add(section)
      return section
    })
    const gone = [...old.values()].flat()
    this.#sections = next
    if (fresh.size === 0 && gone.length === 0) return
    const byX = [...next].sort((a, b) => a.extent[0] - b.extent[0])
    const changed = [...fresh, ...gone]
    const concerned = new Set(fresh)
    for (const c of changed) for (const s of byX) {
      if (s.extent[0] > c.extent[1] + 1) break
      if (s.near(c)) concerned.add(s)
    }
    for (const s of concerned) s.forgetOthers()
    for (const [i, a] of byX.entries()) {
      for (let j = i + 1; j < byX.length && byX[j].extent[0] <= a.extent[1] + 1; j++) {
        if ((concerned.has(a) || concerned.has(byX[j])) && a.near(byX[j])) a.meet(byX[j])
      }
    }
  }

  /** Whether a pixel of layer k that the model leaves empty belongs to a space which the model encloses there. */
  #shutAt(k: number, row: number, pixel: number): boolean {
    const { spans, at } = this.#model.layer(k)
    const { rows, row0 } = this.#model.frame
    const base = at * rows
    let empty = this.#emptyLabels.get(k)
    if (!empty) {
      labelLayer(spans.starts, base, rows, spans.pairs, labels)
      empty = labels.empty.slice(0, spans.starts[base + rows] - spans.starts[base])
      this.#emptyLabels.set(k, empty)
    }
    const r = base + row - row0
    for (let s = spans.starts[r]; s < spans.starts[r + 1]; s++) {
      if (pixel < spans.pairs[2 * s]) return empty[s - spans.starts[base]] >= 0
      // within the model: that is for others to tell
      if (pixel < spans.pairs[2 * s + 1]) return true
    }
    return false
  }
  readonly #emptyLabels = new Map<number, Int32Array>()

  #frameNow(): Frame {
    const m = this.#model.frame
    let row0 = m.rows > 0 ? m.row0 : Infinity, rowEnd = m.rows > 0 ? m.row0 + m.rows : -Infinity, layerCount = m.layerCount
    for (const s of this.#sections) {
      row0 = Math.min(row0, s.frame.row0)
      rowEnd = Math.max(rowEnd, s.frame.row0 + s.frame.rows)
      layerCount = Math.max(layerCount, s.frame.layerCount)
    }
    return rowEnd > row0 ? { row0, rows: rowEnd - row0, layerCount } : { row0: 0, rows: 0, layerCount: 0 }
  }

  #noteMeeting(now: (readonly Section[])[]): void {
    for (let k = 0; k < Math.max(now.length, this.#meeting.length); k++) {
      if (sameList(this.#meeting[k] ?? none, now[k] ?? none)) continue
      this.changedFrom = Math.min(this.changedFrom, k)
      this.changedTo = Math.max(this.changedTo, k + 1)
    }
    this.#meeting = now
  }

  #listSections(layerCount: number, which: (s: Section, k: number) => boolean): (readonly Section[])[] {
    const lists: Section[][] = Array.from({ length: layerCount }, () => none as Section[])
    for (const s of this.#sections) {
      for (let k = s.first; k < s.first + s.layers; k++) {
        if (!s.has(k) || !which(s, k)) continue
        if (lists[k] === none) lists[k] = []
        lists[k].push(s)
      }
    }
    return lists
  }

  /** Puts the layers together again whose entangled sections, or those of the layer below, are not what they were. */
  #renew(before: readonly (readonly Section[])[], now: readonly (readonly Section[])[], layerCount: number): void {
    let from = -1
    let changedBelow = false
    for (let k = 0; k <= layerCount; k++) {
      const changed = k < layerCount && !sameList(before[k] ?? none, now[k])
      // right above the model everything below is open to the air, which no chunk of the model says
      const top = k === this.#model.frame.layerCount && k > 0
      const dirty = changed || changedBelow || (top && !this.#layers[k])
      const shared = k < layerCount && (now[k].length > 0 || (k > 0 && now[k - 1].length > 0) || top)
      if (dirty && k < layerCount && !shared) this.#layers[k] = null
      if (dirty && shared) {
        if (from < 0) from = k
      }
      if (from >= 0 && (!(dirty && shared) || k - from >= RUN_LAYERS)) {
        this.#shareRun(from, k, now)
        from = dirty && shared ? k : -1
      }
      changedBelow = changed
    }
  }

  /** Puts layers [from, to) together pixel by pixel. */
  #shareRun(from: number, to: number, lists: readonly (readonly Section[])[]): void {
    const spans = this.#coreSpans(Math.max(0, from - 1), to, lists)
    const builder = new ChunkBuilder(this.#frame, from)
    const skip = from > 0 ? 1 : 0
    if (skip) builder.prime(spans, 0)
    const found: { ofModel: Int32Array; ofSection: Map<number, number> }[] = []
    const own = this.#own
    for (let k = from; k < to; k++) {
      builder.addLayer(spans, k - from + skip)
      const first = k < own.layerCount ? own.solidStarts[k] : 0, end = k < own.layerCount ? own.solidStarts[k + 1] : 0
      const ofModel = new Int32Array(end - first)
      for (let c = first; c < end; c++) ofModel[c - first] = builder.solidAt(own.solidRow[c], own.solidPixel[c])
      const ofSection = new Map<number, number>()
      for (const s of lists[k]) {
        const c = s.component(k)
        ofSection.set(s.id, builder.solidAt(c.row, c.pixel))
      }
      found.push({ ofModel, ofSection })
    }
    const chunk = builder.finish()
    for (let k = from; k < to; k++) this.#layers[k] = { chunk, at: k - from, ...found[k - from] }
    this.renewed += to - from
  }

  /** Spans of layers [from, to) of the model and of listed sections, in the rows of the whole. */
  #coreSpans(from: number, to: number, lists: readonly (readonly Section[])[]): BandSpans {
    const model = this.modelSpans(from, to)
    const supports = this.#sectionSpans(from, to, lists)
    return supports ? orSpans(model, supports) : model
  }

  /** Spans of a band of the model with the supports that meet it there, and of these supports alone. */
  bandWithSupports(band: number, bandLayers: number): { spans: BandSpans; supports: BandSpans | null } {
    const from = band * bandLayers, to = Math.min(from + bandLayers, this.#frame.layerCount), own = this.#model.frame
    const alone = own.row0 === this.#frame.row0 && own.rows === this.#frame.rows && to <= own.layerCount
    const model = alone ? this.#model.spans(band) : this.modelSpans(from, to)
    const supports = this.#sectionSpans(from, to, this.#meeting)
    return { spans: supports ? orSpans(model, supports) : model, supports }
  }

  /** Spans of layers [from, to) of the model alone, in the rows of the whole. */
  modelSpans(from: number, to: number): BandSpans {
    const { row0, rows } = this.#frame, own = this.#model.frame
    const shift = own.row0 - row0
    const starts = new Int32Array((to - from) * rows + 1)
    const unclosedRows = new Int32Array(to - from)
    const parts: Int32Array[] = []
    let n = 0
    for (let k = from; k < to; k++) {
      const base = (k - from) * rows
      if (k >= own.layerCount || own.rows === 0) {
        starts.fill(n, base, base + rows + 1)
        continue
      }
      const { spans, at } = this.#model.layer(k)
      const first = spans.starts[at * own.rows], end = spans.starts[(at + 1) * own.rows]
      starts.fill(n, base, base + shift + 1)
      for (let r = 0; r < own.rows; r++) starts[base + shift + r + 1] = n + spans.starts[at * own.rows + r + 1] - first
      n += end - first
      starts.fill(n, base + shift + own.rows, base + rows + 1)
      parts.push(spans.pairs.subarray(2 * first, 2 * end))
      unclosedRows[k - from] = spans.unclosedRows[at]
    }
    const pairs = new Int32Array(2 * n)
    let o = 0
    for (const p of parts) {
      pairs.set(p, o)
      o += p.length
    }
    return { firstLayer: from, layers: to - from, starts, pairs, unclosedRows }
  }

  /** Spans of all supports in layer k, in the rows of the whole; null where there are none. */
  supportSpans(k: number): BandSpans | null {
    return this.#sectionSpans(k, k + 1, { [k]: this.#sections.filter(s => s.has(k)) })
  }

  /** Spans of layers [from, to) of the sections listed for each, in the rows of the whole; null where there are none. */
  #sectionSpans(from: number, to: number, lists: { readonly [k: number]: readonly Section[] }): BandSpans | null {
    const { row0, rows } = this.#frame
    const runs = this.#runs
    runs.length = 0
    for (let k = from; k < to; k++) {
      // from left to right, so that the runs of a row come almost in order
      for (const s of [...(lists[k] ?? none)].sort((a, b) => a.leftOf(k) - b.leftOf(k))) {
        const own = s.runs(k), pixel0 = s.body.origin[0], base = (k - from) * rows + s.frame.row0 - row0
        runs.reserve(runs.length + own.length)
        const data = runs.data
        let n = runs.length
        for (let i = 0; i < own.length; i += 3) {
          data[n++] = base + own[i]
          data[n++] = own[i + 1] + pixel0
          data[n++] = own[i + 2] + pixel0
        }
        runs.length = n
      }
    }
    if (runs.length === 0) return null
    return mergedRuns(runs.data.subarray(0, runs.length), from, to - from, rows)
  }

  /** Looks for sections that stand by themselves in a space which supports enclose; they count as entangled from then on. */
  #findEnclosed(layerCount: number): boolean {
    let found = false
    const alone = this.#listSections(layerCount, (s, k) => !s.entangled(k))
    for (let k = 0; k < layerCount; k++) {
      const shared = this.#layers[k]
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

  #join(layerCount: number): LayerGraph {
    const sources: (LayerSource | null)[] = []
    const extras: (LayerExtra | null)[] = []
    const alone = this.#listSections(layerCount, (s, k) => !s.entangled(k))
    let placesBelow = new Map<number, number>()
    for (let k = 0; k < layerCount; k++) {
      const shared = this.#layers[k]
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

const labels = newLabels()
const none: readonly Section[] = []

function sameList(a: readonly Section[], b: readonly Section[]): boolean {
  return a.length === b.length && a.every((s, i) => s === b[i])
}

function sameMesh(a: Mesh, b: Mesh): boolean {
  if (a === b) return true
  const p = a.positions, q = b.positions
  if (p.length !== q.length || a.triangles.length !== b.triangles.length) return false
  for (let i = 0; i < p.length; i++) if (p[i] !== q[i]) return false
  for (let i = 0; i < a.triangles.length; i++) if (a.triangles[i] !== b.triangles[i]) return false
  return true
}

/** Runs (row of the band, first and end pixel) as spans; runs that overlap or touch become one. */
function mergedRuns(runs: Int32Array, firstLayer: number, layers: number, rows: number): BandSpans {
  const buckets = layers * rows
  const starts = new Int32Array(buckets + 1)
  for (let i = 0; i < runs.length; i += 3) starts[runs[i] + 1]++
  for (let b = 0; b < buckets; b++) starts[b + 1] += starts[b]
  const cursor = starts.slice(0, buckets)
  const raw = new Int32Array((runs.length / 3) * 2)
  for (let i = 0; i < runs.length; i += 3) {
    const at = cursor[runs[i]]++
    raw[2 * at] = runs[i + 1]
    raw[2 * at + 1] = runs[i + 2]
  }
  const pairs = new Int32Array(raw.length)
  let n = 0, from = 0
  for (let b = 0; b < buckets; b++) {
    const to = starts[b + 1]
    for (let i = from + 1; i < to; i++) {
      const a = raw[2 * i], e = raw[2 * i + 1]
      let j = i - 1
      while (j >= from && raw[2 * j] > a) {
        raw[2 * j + 2] = raw[2 * j]
        raw[2 * j + 3] = raw[2 * j + 1]
        j--
      }
      raw[2 * j + 2] = a
      raw[2 * j + 3] = e
    }
    const rowFirst = n
    for (let i = from; i < to; i++) {
      const a = raw[2 * i], e = raw[2 * i + 1]
      if (n > rowFirst && pairs[n - 1] >= a) {
        if (e > pairs[n - 1]) pairs[n - 1] = e
      } else {
        pairs[n++] = a
        pairs[n++] = e
      }
    }
    starts[b + 1] = n >> 1
    from = to
  }
  return { firstLayer, layers, starts, pairs: pairs.slice(0, n), unclosedRows: new Int32Array(layers) }
}
