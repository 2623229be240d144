import { BAND_LAYERS, type BandedBody } from '../graph/banded-body'
import type { LayerGraph } from '../graph/layer-graph'
import { labelLayer, newLabels } from '../graph/layer-labels'
import { depthOf } from '../raster/bitmap'
import type { Raster } from '../raster/body'
import type { JoinTree } from '../sweeps/join-tree'

type Point = readonly [number, number, number]

/** Cells that a component is looked at in, at the most, to find where it is deepest. */
const MOST_CELLS = 40_000

/** For every island the point to aim a tip at: on the surface, under the pixel of its first layer that lies deepest inside. */
export function aimsOf(model: BandedBody, own: LayerGraph, tree: JoinTree, raster: Raster): Point[] {
  const aims = new Array<Point>(tree.islands.length)
  const byLayer = new Map<number, number[]>()
  tree.islands.forEach((island, id) => {
    const list = byLayer.get(island.firstLayer)
    if (list) list.push(id)
    else byLayer.set(island.firstLayer, [id])
  })
  const labels = newLabels()
  const probes: Probe[] = []
  const { rows, row0 } = model.frame
  for (const [layer, ids] of byLayer) {
    const { spans, at } = model.layer(layer)
    const base = at * rows, first = spans.starts[base]
    labelLayer(spans.starts, base, rows, spans.pairs, labels)
    const wanted = new Map(ids.map(id => [tree.islands[id].component - own.solidStarts[layer], id]))
    const runs = new Map<number, [number, number, number][]>()
    for (let r = 0; r < rows; r++) {
      for (let s = spans.starts[base + r]; s < spans.starts[base + r + 1]; s++) {
        const id = wanted.get(labels.solid[s - first])
        if (id === undefined) continue
        const list = runs.get(id)
        if (list) list.push([r + row0, spans.pairs[2 * s], spans.pairs[2 * s + 1]])
        else runs.set(id, [[r + row0, spans.pairs[2 * s], spans.pairs[2 * s + 1]]])
      }
    }
    for (const [id, list] of runs) {
      const [row, pixel] = deepest(list)
      probes.push({ id, row, pixel, layer, z: -Infinity })
    }
  }
  findSurfaces(model, probes)
  for (const p of probes) {
    // a triangle flatter than a layer crosses no sample, so no band lists it; then the edge of the layer will do
    const z = p.z > p.layer - 1 ? p.z : p.layer - 0.5
    aims[p.id] = [(p.pixel + 0.5) * raster.pixelMm, (p.row + 0.5) * raster.pixelMm, (z + 0.5) * raster.layerMm]
  }
  return aims
}

/** The pixel of a component that is farthest from what lies outside; of several the one nearest to their middle. */
function deepest(runs: readonly (readonly [number, number, number])[]): [number, number] {
  if (runs.length === 1) return [runs[0][0], (runs[0][1] + runs[0][2] - 1) >> 1]
  let from = Infinity, to = -Infinity
  for (const r of runs) {
    from = Math.min(from, r[1])
    to = Math.max(to, r[2])
  }
  const row0 = runs[0][0], rows = runs[runs.length - 1][0] - row0 + 1
  // of a broad component every so many-th pixel is looked at
  const step = Math.max(1, Math.ceil(Math.sqrt(((to - from) * rows) / MOST_CELLS)))
  const width = Math.ceil((to - from) / step), height = Math.ceil(rows / step)
  const bits = new Uint8Array(width * height)
  for (const [row, a, b] of runs) {
    if ((row - row0) % step !== 0) continue
    const y = (row - row0) / step
    bits.fill(1, y * width + Math.ceil((a - from) / step), y * width + Math.ceil((b - from) / step))
  }
  const depth = depthOf({ width, height, bits })
  let most = 0, sumX = 0, sumY = 0, count = 0
  for (let i = 0; i < depth.length; i++) {
    if (depth[i] < most) continue
    if (depth[i] > most) {
      most = depth[i]
      sumX = sumY = count = 0
    }
    sumX += i % width
    sumY += Math.floor(i / width)
    count++
  }
  let best = -1, nearest = Infinity
  for (let i = 0; i < depth.length; i++) {
    if (depth[i] !== most) continue
    const d = (i % width - sumX / count) ** 2 + (Math.floor(i / width) - sumY / count) ** 2
    if (d >= nearest) continue
    nearest = d
    best = i
  }
  // it may be so thin that it falls between all of them
  return most > 0 ? [row0 + Math.floor(best / width) * step, from + (best % width) * step] : middleOfLongest(runs)
}

function middleOfLongest(runs: readonly (readonly [number, number, number])[]): [number, number] {
  const [row, from, to] = runs.reduce((a, b) => (b[2] - b[1] > a[2] - a[1] ? b : a))
  return [row, (from + to - 1) >> 1]
}

interface Probe {
  readonly id: number
  readonly row: number
  readonly pixel: number
  readonly layer: number
  /** Height of the highest surface at or below the layer's sample, in layers from sample to sample. */
  z: number
}

/** Looks for the surface under every probe among the triangles of its band and the one below; each band is gone through once. */
function findSurfaces(model: BandedBody, probes: readonly Probe[]): void {
  const byBand = new Map<number, Probe[]>()
  for (const p of probes) {
    const band = Math.floor(p.layer / BAND_LAYERS)
    for (const b of band > 0 ? [band - 1, band] : [band]) {
      const list = byBand.get(b)
      if (list) list.push(p)
      else byBand.set(b, [p])
    }
  }
  const { coords, triangles, origin } = model.body
  for (const [band, list] of byBand) {
    list.sort((a, b) => a.row - b.row)
    for (const t of model.index.listOf(band)) {
      const p = 3 * triangles[t], q = 3 * triangles[t + 1], r = 3 * triangles[t + 2]
      const low = Math.min(coords[p + 1], coords[q + 1], coords[r + 1]) + origin[1], high = Math.max(coords[p + 1], coords[q + 1], coords[r + 1]) + origin[1]
      for (let n = firstFrom(list, low); n < list.length && list[n].row <= high; n++) {
        const probe = list[n]
        const x = probe.pixel - origin[0], y = probe.row - origin[1]
        const ax = coords[p] - x, ay = coords[p + 1] - y, bx = coords[q] - x, by = coords[q + 1] - y, cx = coords[r] - x, cy = coords[r + 1] - y
        const u = bx * cy - by * cx, v = cx * ay - cy * ax, w = ax * by - ay * bx
        if (!((u >= 0 && v >= 0 && w >= 0) || (u <= 0 && v <= 0 && w <= 0)) || u + v + w === 0) continue
        const z = (u * coords[p + 2] + v * coords[q + 2] + w * coords[r + 2]) / (u + v + w) + origin[2]
        if (z <= probe.layer && z > probe.z) probe.z = z
      }
    }
  }
}

/** The first probe at a row or beyond, in a list sorted by rows. */
function firstFrom(list: readonly Probe[], row: number): number {
  let a = 0, b = list.length
  while (a < b) {
    const m = (a + b) >> 1
    if (list[m].row < row) a = m + 1
    else b = m
  }
  return a
}
