import type { BandedBody } from './band-spans'
import type { Raster } from './body'
import type { Cup } from './findings'
import { joinLayers, sourcesOf } from './join-chunks'
import { labelLayer, newLabels } from './layer-labels'
import { ChunkBuilder, type LayerGraph } from './layer-graph'
import { LOADS, type ScanSettings } from './settings'
import { orSpans, type BandSpans, type Frame } from './spans'
import { findSuction, type CupRecord, type Suction } from './suction'

/** A choked space is listed where it holds more than the cube itself: this many of them side by side. */
const LEAST_CUBES = 8
/** Cells that a cube must be wide at least, so that coarser cells may be taken. */
const LEAST_CELLS = 6

/**
 * Spaces that reach the outside only through passages in which a cube of the vent width gets stuck. The places where the cube's
 * corner may be are the empty space of the solid grown by the cube; the sweep for suction on these places tells where it cannot
 * get out. Cells of two pixels are taken where the cube is wide enough: a passage less than a cell wider than the cube may
 * count as too narrow. Looks at the model alone: gaps between stilts are no holes.
 * A generator: yields layers done, counted as pixels of height.
 */
export function* findChoked(model: BandedBody, suction: Suction, own: LayerGraph, raster: Raster, settings: ScanSettings): Generator<number, Cup[], void> {
  if (model.frame.rows === 0 || settings.ventMm <= 0) return []
  const ventPixels = Math.max(1, Math.round(settings.ventMm / raster.pixelMm)), ventLayers = Math.max(1, Math.round(settings.ventMm / raster.layerMm))
  const cell = ventPixels >= 2 * LEAST_CELLS ? 2 : 1, thick = ventLayers >= 2 * LEAST_CELLS ? 2 : 1
  const n = Math.ceil(ventPixels / cell), m = Math.ceil(ventLayers / thick)
  const first = Math.max(0, model.body.origin[2])
  const lead = Math.min(m, Math.floor(first / thick))
  const coarse = new CoarseLayers(model, first, cell, thick, n)
  const frame: Frame = { row0: 0, rows: coarse.rows + n - 1, layerCount: lead + coarse.layers }
  const builder = new ChunkBuilder(frame, 0)
  const kept: BandSpans[] = []
  const grown = new WindowOr(m, frame.rows, k => coarse.grownLayer(k - lead), frame.layerCount)
  for (let k = 0; k < frame.layerCount; k++) {
    const layer = grown.layer(k)
    kept.push(layer)
    builder.addLayer(layer, 0)
    if (k % 16 === 15) yield Math.min(model.frame.layerCount, first + (k - lead) * thick)
  }
  const graph = joinLayers(sourcesOf([builder.finish()]))
  const { cups, cupOf } = findSuction(graph)
  const cellArea = (cell * raster.pixelMm) ** 2
  const out: Cup[] = []
  const place: Place = { first, lead, cell, thick, n, m, pixel0: model.body.origin[0], row0: model.frame.row0 }
  cups.forEach((c, id) => {
    if (c.ends === 'open' && c.lastLayer - c.firstLayer < 1) return
    // no larger than its places, each grown by the cube, could ever make it
    if ((Math.sqrt(c.peakPixels) + n) ** 2 * cellArea * 2 < Math.max(settings.cupAreaMm2, LEAST_CUBES * settings.ventMm * settings.ventMm)) return
    if (!isChoked(c, id, cupOf, graph, place, model, own, suction)) return
    const areas = openedAreas(c, id, cupOf, graph, kept, frame, n)
    let peak = 0, peakAt = 0, volume = 0
    areas.forEach((a, i) => {
      volume += a
      if (a > peak) {
        peak = a
        peakAt = i
      }
    })
    // the cube's upper layers reach past its last place
    volume += areas[areas.length - 1] * (m - 1)
    const firstLayer = fineLayer(c.firstLayer, place), lastLayer = Math.min(model.frame.layerCount - 1, fineLayer(c.lastLayer + m, place) - 1)
    const peakAreaMm2 = peak * cellArea
    if (peakAreaMm2 < Math.max(settings.cupAreaMm2, LEAST_CUBES * settings.ventMm * settings.ventMm) || lastLayer - firstLayer + 1 < settings.cupLayers) return
    const peakLayer = Math.min(lastLayer, fineLayer(c.firstLayer + peakAt, place))
    out.push({
      id: -1, firstLayer, lastLayer, peakAreaMm2, peakLayer, volumeMm3: volume * cellArea * raster.layerMm * thick, ends: c.ends,
      pullN: peakAreaMm2 * LOADS.cupVacuum, at: pointOf(c.peakComponent, c.peakLayer, graph, place, raster), bySupports: false, choked: true, vent: null,
    })
  })
  return out
}

interface Place {
  readonly first: number
  readonly lead: number
  readonly cell: number
  readonly thick: number
  readonly n: number
  readonly m: number
  readonly pixel0: number
  readonly row0: number
}

function fineLayer(k: number, p: Place): number {
  return Math.max(0, p.first + (k - p.lead) * p.thick)
}

/** Middle of the cube at a place of a component; rows were moved by the cube so that they start at 0. */
function middleOf(component: number, graph: LayerGraph, p: Place): { pixel: number; row: number } {
  return {
    pixel: p.pixel0 + graph.emptyInPixel[component] * p.cell + Math.floor((p.n * p.cell) / 2),
    row: p.row0 + (graph.emptyInRow[component] - (p.n - 1)) * p.cell + Math.floor((p.n * p.cell) / 2),
  }
}

function pointOf(component: number, layer: number, graph: LayerGraph, p: Place, raster: Raster): [number, number, number] {
  const { pixel, row } = middleOf(component, graph, p)
  return [(pixel + 0.5) * raster.pixelMm, (row + 0.5) * raster.pixelMm, (fineLayer(layer, p) + Math.floor((p.m * p.thick) / 2) + 0.5) * raster.layerMm]
}

/** A slit that is open in more of the layers than this lets resin through all along its height: that does not choke. */
const SHUT_SHARE = 0.6
/** Layers that are looked at to tell. */
const SAMPLES = 24

/**
 * Whether the space counts as choked: the plain sweep lets it out where the cube stands last, so it does not know it as a cup
 * there, and yet most of its layers enclose it.
 */
function isChoked(c: CupRecord, id: number, cupOf: Int32Array, graph: LayerGraph, p: Place, model: BandedBody, own: LayerGraph, suction: Suction): boolean {
  if (emptyAt(c.lastLayer, id, cupOf, graph, p, model, own, e => e >= 0 && suction.cupOf[e] >= 0)) return false
  const step = Math.max(1, Math.floor((c.lastLayer - c.firstLayer) / SAMPLES))
  let shut = 0, looked = 0
  for (let k = c.firstLayer; k <= c.lastLayer; k += step) {
    looked++
    if (emptyAt(k, id, cupOf, graph, p, model, own, e => e >= 0)) shut++
  }
  return shut >= looked * SHUT_SHARE
}

/** What holds for the empty component of the model, through all layers or −1 for the outside, in the middle of the cube in coarse layer k. */
function emptyAt(k: number, id: number, cupOf: Int32Array, graph: LayerGraph, p: Place, model: BandedBody, own: LayerGraph, holds: (e: number) => boolean): boolean {
  let component = -1
  for (let e = graph.emptyStarts[k]; e < graph.emptyStarts[k + 1] && component < 0; e++) if (cupOf[e] === id) component = e
  if (component < 0) return false
  const layer = Math.min(model.frame.layerCount - 1, fineLayer(k, p))
  const { pixel, row } = middleOf(component, graph, p)
  const { spans, at } = model.layer(layer)
  const { rows, row0 } = model.frame
  const r = row - row0
  if (r < 0 || r >= rows) return false
  labelLayer(spans.starts, at * rows, rows, spans.pairs, labels)
  const from = spans.starts[at * rows + r], to = spans.starts[at * rows + r + 1]
  for (let s = from + 1; s < to; s++) {
    if (spans.pairs[2 * s - 1] > pixel || pixel >= spans.pairs[2 * s]) continue
    const label = labels.empty[s - spans.starts[at * rows]]
    return holds(label < 0 ? -1 : own.emptyStarts[layer] + label)
  }
  return holds(-1)
}

const labels = newLabels()

/** Cells that the stuck cube covers, layer by layer from the first on. */
function openedAreas(c: CupRecord, id: number, cupOf: Int32Array, graph: LayerGraph, kept: readonly BandSpans[], frame: Frame, n: number): number[] {
  const areas: number[] = []
  for (let k = c.firstLayer; k <= c.lastLayer; k++) {
    const { starts, pairs } = kept[k]
    labelLayer(starts, 0, frame.rows, pairs, labels)
    const runs: [number, number][][] = Array.from({ length: frame.rows + n }, () => [])
    for (let r = 0; r < frame.rows; r++) {
      for (let s = starts[r] + 1; s < starts[r + 1]; s++) {
        const label = labels.empty[s]
        if (label < 0 || cupOf[graph.emptyStarts[k] + label] !== id) continue
        for (let d = 0; d < n; d++) runs[r + d].push([pairs[2 * s - 1], pairs[2 * s] + n - 1])
      }
    }
    let area = 0
    for (const row of runs) {
      row.sort((a, b) => a[0] - b[0])
      let end = -Infinity
      for (const [a, b] of row) {
        area += Math.max(0, b - Math.max(a, end))
        end = Math.max(end, b)
      }
    }
    areas.push(area)
  }
  return areas
}

/** The model in coarse cells, solid where any pixel of a cell is, each layer grown by a square of n cells toward lower rows and pixels. */
class CoarseLayers {
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
class WindowOr {
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
