import type { Vec3 } from '../../mesh'
import type { Raster } from '../raster/body'
import type { BandSpans } from '../raster/spans'
import type { BandedBody } from './banded-body'
import { labelLayer, newLabels } from './layer-labels'
import type { LayerGraph } from './layer-graph'

/** Where the skin at a point is laid: the layer, its pixel and the component there, through all layers. */
export interface LaidAt {
  readonly component: number
  readonly layer: number
  readonly row: number
  readonly pixel: number
}

/** A point lies on the skin: its pixel is found within so many layers above and pixels around. */
export const LAYERS_UP = 3, PIXELS_AROUND = 3

const labels = newLabels()

/** Tells the component, within a layer of a model, of its pixels: absolute row and pixel; −1 for none. The layer is labelled at the first question; good until another layer is asked about. */
export function componentsOf(model: BandedBody, layer: number): (row: number, pixel: number) => number {
  const { rows, row0 } = model.frame
  let spans: BandSpans | null = null, base = 0, first = 0
  return (row, pixel) => {
    if (!spans) {
      const found = model.layer(layer)
      spans = found.spans
      base = found.at * rows
      first = spans.starts[base]
      labelLayer(spans.starts, base, rows, spans.pairs, within)
    }
    const r = base + row - row0
    for (let s = spans.starts[r]; s < spans.starts[r + 1]; s++) if (spans.pairs[2 * s] <= pixel && pixel < spans.pairs[2 * s + 1]) return within.solid[s - first]
    return -1
  }
}
const within = newLabels()

/** The components that points of the skin lie in; null where none is near. Each layer that is asked about is looked at once. */
export function componentsAt(model: BandedBody, graph: LayerGraph, { pixelMm, layerMm }: Raster, points: readonly Vec3[]): (LaidAt | null)[] {
  const out: (LaidAt | null)[] = points.map(() => null), byLayer = new Map<number, number[]>()
  points.forEach((p, i) => {
    const layer = Math.max(0, Math.floor(p[2] / layerMm)), list = byLayer.get(layer)
    if (list) list.push(i)
    else byLayer.set(layer, [i])
  })
  for (const [layer, list] of byLayer) {
    let open = list
    for (let k = layer; k < Math.min(layer + LAYERS_UP, graph.layerCount) && open.length > 0; k++) {
      const { spans, at } = model.layer(k), { rows, row0 } = model.frame, base = at * rows
      labelLayer(spans.starts, base, rows, spans.pairs, labels)
      open = open.filter(i => {
        const pixel = Math.floor(points[i][0] / pixelMm), row = Math.floor(points[i][1] / pixelMm) - row0, span = spanNear(spans.starts, spans.pairs, base, rows, row, pixel)
        if (span < 0) return true
        out[i] = { component: graph.solidStarts[k] + labels.solid[span - spans.starts[base]], layer: k, row: row + row0, pixel }
        return false
      })
    }
  }
  return out
}

/** The span that a pixel lies in, or one near it; −1 for none. */
function spanNear(starts: Int32Array, pairs: Int32Array, base: number, rows: number, row: number, pixel: number): number {
  for (let n = 0; n <= 2 * PIXELS_AROUND; n++) {
    const r = row + (n % 2 ? 1 : -1) * Math.ceil(n / 2)
    if (r < 0 || r >= rows) continue
    for (let s = starts[base + r]; s < starts[base + r + 1]; s++) if (pixel >= pairs[2 * s] - PIXELS_AROUND && pixel < pairs[2 * s + 1] + PIXELS_AROUND) return s
  }
  return -1
}

/** A pixel of a layer that nothing fills. */
export interface EmptySpot {
  readonly layer: number
  readonly row: number
  readonly pixel: number
}

/** The components on both sides of empty pixels, along their rows, through all layers; −1 for none. Each layer that is asked about is looked at once. */
export function componentsBeside(model: BandedBody, graph: LayerGraph, spots: readonly EmptySpot[]): (readonly [number, number])[] {
  const out: [number, number][] = spots.map(() => [-1, -1]), byLayer = new Map<number, number[]>()
  spots.forEach(({ layer }, i) => {
    if (layer >= graph.layerCount) return
    const list = byLayer.get(layer)
    if (list) list.push(i)
    else byLayer.set(layer, [i])
  })
  for (const [k, list] of byLayer) {
    const { spans, at } = model.layer(k), { rows, row0 } = model.frame, base = at * rows
    labelLayer(spans.starts, base, rows, spans.pairs, labels)
    for (const i of list) {
      const row = spots[i].row - row0
      if (row < 0 || row >= rows) continue
      for (let s = spans.starts[base + row]; s < spans.starts[base + row + 1]; s++) {
        const component = graph.solidStarts[k] + labels.solid[s - spans.starts[base]]
        if (spans.pairs[2 * s + 1] <= spots[i].pixel) out[i][0] = component
        else if (out[i][1] < 0) out[i][1] = component
      }
    }
  }
  return out
}
