import type { Cup } from '../../contract'
import type { BandedBody } from '../graph/banded-body'
import { joinLayers, sourcesOf } from '../graph/join-layers'
import { ChunkBuilder, type LayerGraph } from '../graph/layer-graph'
import { labelLayer, newLabels } from '../graph/layer-labels'
import type { Raster } from '../raster/body'
import type { BandSpans, Frame } from '../raster/spans'
import type { Loads, ScanSettings } from '../settings'
import { findSuction, type CupRecord, type Suction } from '../sweeps/suction'
import { CoarseLayers, WindowOr } from './coarse-layers'

/** A space behind a passage that is too narrow for a vent, and the empty components of the model, through all layers, that belong to it. */
export interface NarrowVent {
  readonly cup: Cup
  readonly spaces: ReadonlySet<number>
}

/** A space behind a narrow vent is listed where it holds more than the cube itself: this many of them side by side. */
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
export function* findNarrowVents(model: BandedBody, suction: Suction, own: LayerGraph, raster: Raster, settings: ScanSettings, loads: Loads): Generator<number, NarrowVent[], void> {
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
  const cellArea = (cell * raster.pixelMm) ** 2, pixelArea = raster.pixelMm ** 2
  const least = Math.max(settings.cupAreaMm2, LEAST_CUBES * settings.ventMm * settings.ventMm)
  const out: NarrowVent[] = []
  const cube: CubePlace = { first, lead, cell, thick, n, m, pixel0: model.body.origin[0], row0: model.frame.row0 }
  for (const [id, c] of cups.entries()) {
    if (c.ends === 'open' && c.lastLayer - c.firstLayer < 1) continue
    // no larger than its places, each grown by the cube, could ever make it
    if ((Math.sqrt(c.peakPixels) + n) ** 2 * cellArea * 2 < least) continue
    if (!isNarrowVent(c, id, cupOf, graph, cube, model, own, suction)) continue
    const found = yield* measure(c, id, cupOf, graph, cube, kept, model, own)
    addCups(found, own, suction)
    const peakAreaMm2 = found.peak * pixelArea
    if (peakAreaMm2 < least || found.lastLayer - found.firstLayer + 1 < settings.cupLayers) continue
    out.push({
      spaces: found.spaces,
      cup: {
        id: -1, firstLayer: found.firstLayer, lastLayer: found.lastLayer, peakAreaMm2, peakLayer: found.peakLayer, volumeMm3: found.pixels * pixelArea * raster.layerMm, ends: c.ends,
        pullN: peakAreaMm2 * loads.cupVacuumNMm2, at: pointOf(c.peakComponent, c.peakLayer, graph, cube, raster), bySupports: false, narrowVent: true, vent: null,
      },
    })
  }
  return out
}

interface CubePlace {
  readonly first: number
  readonly lead: number
  readonly cell: number
  readonly thick: number
  readonly n: number
  readonly m: number
  readonly pixel0: number
  readonly row0: number
}

function fineLayer(k: number, p: CubePlace): number {
  return Math.max(0, p.first + (k - p.lead) * p.thick)
}

/** Middle of the cube at a place of a component; rows were moved by the cube so that they start at 0. */
function middleOf(component: number, graph: LayerGraph, p: CubePlace): { pixel: number; row: number } {
  return {
    pixel: p.pixel0 + graph.emptyInPixel[component] * p.cell + Math.floor((p.n * p.cell) / 2),
    row: p.row0 + (graph.emptyInRow[component] - (p.n - 1)) * p.cell + Math.floor((p.n * p.cell) / 2),
  }
}

function pointOf(component: number, layer: number, graph: LayerGraph, p: CubePlace, raster: Raster): [number, number, number] {
  const { pixel, row } = middleOf(component, graph, p)
  return [(pixel + 0.5) * raster.pixelMm, (row + 0.5) * raster.pixelMm, (fineLayer(layer, p) + Math.floor((p.m * p.thick) / 2) + 0.5) * raster.layerMm]
}

/** A slit that is open in more of the layers than this lets resin through all along its height: that does not choke. */
const SHUT_SHARE = 0.6
/** Layers that are looked at to tell. */
const SAMPLES = 24

/**
 * Whether the space counts as behind a narrow vent: the plain sweep lets it out well before the cube gets out, and yet most of its layers enclose
 * it. Within the height of a cube it is only a brim that the cube does not get over at once.
 */
function isNarrowVent(c: CupRecord, id: number, cupOf: Int32Array, graph: LayerGraph, p: CubePlace, model: BandedBody, own: LayerGraph, suction: Suction): boolean {
  const isCup = (k: number): boolean => emptyAt(k, id, cupOf, graph, p, model, own, e => e >= 0 && suction.cupOf[e] >= 0)
  // the plain sweep knows it as a cup up to some layer, and lets it out from there on
  let low = c.firstLayer - 1, high = c.lastLayer
  while (low < high) {
    const middle = (low + high + 1) >> 1
    if (isCup(middle)) low = middle
    else high = middle - 1
  }
  if (c.lastLayer - low <= p.m + 1) return false
  const step = Math.max(1, Math.floor((c.lastLayer - c.firstLayer) / SAMPLES))
  let shut = 0, looked = 0
  for (let k = c.firstLayer; k <= c.lastLayer; k += step) {
    looked++
    if (emptyAt(k, id, cupOf, graph, p, model, own, e => e >= 0)) shut++
  }
  return shut >= looked * SHUT_SHARE
}

/** What holds for the empty component of the model, through all layers or −1 for the outside, in the middle of the cube in coarse layer k. */
function emptyAt(k: number, id: number, cupOf: Int32Array, graph: LayerGraph, p: CubePlace, model: BandedBody, own: LayerGraph, holds: (e: number) => boolean): boolean {
  let component = -1
  for (let e = graph.emptyStarts[k]; e < graph.emptyStarts[k + 1] && component < 0; e++) if (cupOf[e] === id) component = e
  if (component < 0) return false
  const layer = Math.min(model.frame.layerCount - 1, fineLayer(k, p))
  const { pixel, row } = middleOf(component, graph, p)
  return holds(emptySpaceAt(model, own, layer, row, pixel))
}

/** The empty component of the model, through all layers, that has a pixel of a layer; −1 for the outside, −2 for none. */
export function emptySpaceAt(model: BandedBody, own: LayerGraph, layer: number, row: number, pixel: number): number {
  const { rows, row0 } = model.frame
  const r = row - row0
  if (r < 0 || r >= rows || layer < 0 || layer >= own.layerCount) return -1
  const { spans, at } = model.layer(layer)
  labelLayer(spans.starts, at * rows, rows, spans.pairs, labels)
  return emptyInRow(spans, at * rows, r, own.emptyStarts[layer], pixel)
}

/** The same, in a layer whose gaps are labelled. */
function emptyInRow({ starts, pairs }: BandSpans, base: number, r: number, firstEmpty: number, pixel: number): number {
  const from = starts[base + r], to = starts[base + r + 1]
  for (let s = from; s < to; s++) {
    if (pixel < pairs[2 * s]) {
      const label = s === from ? -1 : labels.empty[s - starts[base]]
      return label < 0 ? -1 : firstEmpty + label
    }
    if (pixel < pairs[2 * s + 1]) return -2
  }
  return -1
}

const labels = newLabels(), placeLabels = newLabels()

interface Measured {
  /** Pixels of all layers, and of the widest one. */
  pixels: number
  peak: number
  peakLayer: number
  firstLayer: number
  lastLayer: number
  readonly spaces: Set<number>
}

/** Runs of places of a stuck cube in one coarse layer: row, first and end cell. */
type PlaceRuns = readonly (readonly [number, number, number])[]

/**
 * Measures the space in which a cube is stuck, layer by layer: all of what a layer encloses where the cube can be; and where the
 * layer is open, through the passage, only what the cube covers.
 */
function* measure(c: CupRecord, id: number, cupOf: Int32Array, graph: LayerGraph, p: CubePlace, kept: readonly BandSpans[], model: BandedBody, own: LayerGraph): Generator<number, Measured, void> {
  const found: Measured = { pixels: 0, peak: 0, peakLayer: 0, firstLayer: Infinity, lastLayer: -1, spaces: new Set() }
  const places = new Map<number, PlaceRuns>()
  const { rows, row0, layerCount } = model.frame
  const end = Math.min(layerCount, fineLayer(c.lastLayer + p.m, p))
  for (let layer = fineLayer(c.firstLayer, p); layer < end; layer++) {
    if (layer % 16 === 15) yield layer
    const k = Math.floor((layer - p.first) / p.thick) + p.lead
    const { spans, at } = model.layer(layer)
    labelLayer(spans.starts, at * rows, rows, spans.pairs, labels)
    const enclosed = new Set<number>()
    const outside: (readonly [number, number, number])[] = []
    // a cube in any of the last places below covers this layer
    for (let place = Math.max(c.firstLayer, k - p.m + 1); place <= Math.min(c.lastLayer, k); place++) {
      let runs = places.get(place)
      if (!runs) places.set(place, (runs = placesOf(kept[place], id, cupOf, graph.emptyStarts[place])))
      for (const run of runs) {
        const row = row0 + (run[0] - (p.n - 1)) * p.cell + Math.floor((p.n * p.cell) / 2), pixel = p.pixel0 + Math.floor(((run[1] + run[2] - 1) * p.cell) / 2) + Math.floor((p.n * p.cell) / 2)
        const space = row < row0 || row >= row0 + rows ? -1 : emptyInRow(spans, at * rows, row - row0, own.emptyStarts[layer], pixel)
        if (space >= 0) enclosed.add(space)
        else if (space === -1) outside.push(run)
      }
    }
    places.delete(k - p.m)
    let area = coveredCells(outside, p.n) * p.cell * p.cell
    for (const space of enclosed) {
      area += own.emptyPixels[space]
      found.spaces.add(space)
    }
    if (area === 0) continue
    found.pixels += area
    found.firstLayer = Math.min(found.firstLayer, layer)
    found.lastLayer = layer
    if (area <= found.peak) continue
    found.peak = area
    found.peakLayer = layer
  }
  return found
}

/** Adds what the cube does not reach of the plain cups in which it is stuck: corners, and the layers right above the floor. */
function addCups(found: Measured, own: LayerGraph, suction: Suction): void {
  const cups = new Set([...found.spaces].map(e => suction.cupOf[e]).filter(cup => cup >= 0))
  for (let k = 0; k < own.layerCount; k++) {
    for (let e = own.emptyStarts[k]; e < own.emptyStarts[k + 1]; e++) {
      if (found.spaces.has(e) || !cups.has(suction.cupOf[e])) continue
      found.spaces.add(e)
      found.pixels += own.emptyPixels[e]
      found.firstLayer = Math.min(found.firstLayer, k)
      found.lastLayer = Math.max(found.lastLayer, k)
    }
  }
}

function placesOf({ starts, pairs }: BandSpans, id: number, cupOf: Int32Array, firstEmpty: number): PlaceRuns {
  const rows = starts.length - 1, runs: [number, number, number][] = []
  labelLayer(starts, 0, rows, pairs, placeLabels)
  for (let r = 0; r < rows; r++) {
    for (let s = starts[r] + 1; s < starts[r + 1]; s++) {
      const label = placeLabels.empty[s]
      if (label >= 0 && cupOf[firstEmpty + label] === id) runs.push([r, pairs[2 * s - 1], pairs[2 * s]])
    }
  }
  return runs
}

/** Cells that squares of n cells at these places cover. */
function coveredCells(places: PlaceRuns, n: number): number {
  const byRow = new Map<number, [number, number][]>()
  for (const [r, from, to] of places) {
    for (let d = 0; d < n; d++) {
      const list = byRow.get(r + d)
      if (list) list.push([from, to + n - 1])
      else byRow.set(r + d, [[from, to + n - 1]])
    }
  }
  let cells = 0
  for (const row of byRow.values()) {
    row.sort((a, b) => a[0] - b[0])
    let end = -Infinity
    for (const [a, b] of row) {
      cells += Math.max(0, b - Math.max(a, end))
      end = Math.max(end, b)
    }
  }
  return cells
}
