import type { ModelScan, ScanResult } from '../model-scan'
import { mergedRuns } from '../raster/merged-runs'
import type { BandSpans, Frame } from '../raster/spans'
import { labelOf, layerOfLabel } from '../reach/reach-pieces'
import { layerPicture, LAYER_CODES } from './layer-picture'
import { regionOf } from './region'

/** The outline of the model in one layer as line segments: x, y, z of both ends, mm. */
export function contourOf(scan: ModelScan, layer: number): Float32Array {
  const { model } = scan.layerSpans(layer)
  return edgesOf(model, scan.frame, scan.raster.pixelMm, (layer + 0.5) * scan.raster.layerMm)
}

function edgesOf(spans: BandSpans, frame: Frame, pixelMm: number, z: number): Float32Array {
  const out: number[] = []
  const across = (y: number, a: number, b: number): void => {
    if (a < b) out.push(a * pixelMm, y * pixelMm, z, b * pixelMm, y * pixelMm, z)
  }
  for (let r = 0; r <= frame.rows; r++) {
    const y = r + frame.row0
    const i0 = r < frame.rows ? spans.starts[r] : 0, iEnd = r < frame.rows ? spans.starts[r + 1] : 0
    const j0 = r > 0 ? spans.starts[r - 1] : 0, jEnd = r > 0 ? spans.starts[r] : 0
    for (let i = i0; i < iEnd; i++) for (const x of [spans.pairs[2 * i], spans.pairs[2 * i + 1]]) out.push(x * pixelMm, y * pixelMm, z, x * pixelMm, (y + 1) * pixelMm, z)
    // where this row and the one below differ runs an edge
    let i = i0, j = j0, x = -Infinity, inI = false, inJ = false
    while (i < iEnd || j < jEnd) {
      const nextI = i < iEnd ? spans.pairs[2 * i + (inI ? 1 : 0)] : Infinity, nextJ = j < jEnd ? spans.pairs[2 * j + (inJ ? 1 : 0)] : Infinity
      const next = Math.min(nextI, nextJ)
      if (inI !== inJ) across(y, x, next)
      x = next
      if (nextI === next) {
        if (inI) i++
        inI = !inI
      }
      if (nextJ === next) {
        if (inJ) j++
        inJ = !inJ
      }
    }
  }
  return Float32Array.from(out)
}

/** The outline of what hangs in one layer: regions that nothing connects to the plate yet, and what is laid out of reach. */
export function hangingContour(scan: ModelScan, result: ScanResult, layer: number): Float32Array {
  const spans = layerPicture(scan, result, layer).spans
  const rows: (readonly [number, number, number])[] = []
  for (let i = 0; i < spans.length; i += 4) if (spans[i + 3] === LAYER_CODES.freshHanging || spans[i + 3] === LAYER_CODES.hanging) rows.push([spans[i], spans[i + 1], spans[i + 2]])
  if (rows.length === 0) return new Float32Array(0)
  const row0 = rows.reduce((a, r) => Math.min(a, r[0]), Infinity), end = rows.reduce((a, r) => Math.max(a, r[0] + 1), -Infinity)
  const merged = mergedRuns(Int32Array.from(rows.flatMap(([r, a, b]) => [r - row0, a, b])), layer, 1, end - row0)
  return edgesOf(merged, { row0, rows: end - row0, layerCount: 1 }, scan.raster.pixelMm, (layer + 0.5) * scan.raster.layerMm)
}

/** Layers of one finding that are outlined, at the most. */
const MOST_LAYERS = 240

/** The outline of what hangs of a finding, each pixel at the layer where it is laid: x, y, z of both ends of every segment, mm. */
export function hangingOutline(scan: ModelScan, labels: readonly number[]): Float32Array {
  const { pixelMm, layerMm } = scan.raster
  const cells = new Map<number, number>()
  const wanted = new Set(labels)
  const layers = [...new Set(labels.map(layerOfLabel))].slice(0, MOST_LAYERS)
  for (const layer of layers) {
    const runs = scan.reachLog[layer]?.runs ?? NO_RUNS
    for (let i = 0; i < runs.length; i += 4) {
      if (!wanted.has(labelOf(layer, runs[i + 3]))) continue
      for (let x = runs[i + 1]; x < runs[i + 2]; x++) if (!cells.has(cellOf(runs[i], x))) cells.set(cellOf(runs[i], x), layer)
    }
  }
  const out: number[] = []
  for (const [cell, layer] of cells) {
    const row = Math.floor(cell / WIDE) - HALF, x = (cell % WIDE) - HALF, z = (layer + 0.5) * layerMm
    const edge = (ax: number, ay: number, bx: number, by: number): void => {
      out.push(ax * pixelMm, ay * pixelMm, z, bx * pixelMm, by * pixelMm, z)
    }
    if (!cells.has(cellOf(row, x - 1))) edge(x, row, x, row + 1)
    if (!cells.has(cellOf(row, x + 1))) edge(x + 1, row, x + 1, row + 1)
    if (!cells.has(cellOf(row - 1, x))) edge(x, row, x + 1, row)
    if (!cells.has(cellOf(row + 1, x))) edge(x, row + 1, x + 1, row + 1)
  }
  return Float32Array.from(out)
}

/** The outline of an island's first layer. @param component its number within the layer */
export function islandOutline(scan: ModelScan, layer: number, component: number): Float32Array {
  const region = regionOf(scan, layer, component)
  const { pixelMm, layerMm } = scan.raster
  const out: number[] = []
  const z = layer * layerMm
  const has = (x: number, y: number): boolean => x >= 0 && y >= 0 && x < region.width && y < region.height && region.bits[y * region.width + x] === 1
  for (let y = 0; y < region.height; y++) {
    for (let x = 0; x < region.width; x++) {
      if (!has(x, y)) continue
      const ax = (x + region.pixel0) * pixelMm, ay = (y + region.row0) * pixelMm, bx = ax + pixelMm, by = ay + pixelMm
      if (!has(x - 1, y)) out.push(ax, ay, z, ax, by, z)
      if (!has(x + 1, y)) out.push(bx, ay, z, bx, by, z)
      if (!has(x, y - 1)) out.push(ax, ay, z, bx, ay, z)
      if (!has(x, y + 1)) out.push(ax, by, z, bx, by, z)
    }
  }
  return Float32Array.from(out)
}

const WIDE = 1 << 20, HALF = 1 << 19
const NO_RUNS = new Int32Array(0)
function cellOf(row: number, x: number): number {
  return (row + HALF) * WIDE + x + HALF
}
