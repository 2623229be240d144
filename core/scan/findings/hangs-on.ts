import type { IslandClass } from '../../contract'
import type { Vec3 } from '../../mesh'
import type { BandedBody } from '../graph/banded-body'
import type { LayerGraph } from '../graph/layer-graph'
import { labelLayer, newLabels } from '../graph/layer-labels'
import type { Raster } from '../raster/body'
import type { JoinTree } from '../sweeps/join-tree'
import type { OwnReach } from './types'

/** What hangs on a point of the surface: an island by its class, a ledge of what stands or is held otherwise, or nothing of these. */
export type HangsOn = IslandClass | 'ledge' | 'nothing'

/** What is known of the model alone. */
export interface OwnEvidence {
  readonly raster: Raster
  readonly model: BandedBody
  readonly own: LayerGraph
  readonly tree: JoinTree
  /** Null while it is not known: then no ledge is told apart. */
  readonly ownReach: OwnReach | null
  /** Classes of islands by their number in the tree. */
  readonly classes: ReadonlyMap<number, IslandClass>
}

/** A point lies on the skin: its pixel is found within so many layers above and pixels around. */
const LAYERS_UP = 3, PIXELS_AROUND = 3

const labels = newLabels()

/** What hangs on points of the surface; each layer that is asked about is looked at once. */
export function hangsOn(e: OwnEvidence, points: readonly Vec3[]): HangsOn[] {
  const { pixelMm, layerMm } = e.raster
  const out: HangsOn[] = points.map(() => 'nothing')
  const byLayer = new Map<number, number[]>()
  points.forEach((p, i) => {
    const layer = Math.max(0, Math.floor(p[2] / layerMm))
    byLayer.set(layer, [...(byLayer.get(layer) ?? []), i])
  })
  for (const [layer, list] of byLayer) {
    let open = list
    for (let k = layer; k < Math.min(layer + LAYERS_UP, e.own.layerCount) && open.length > 0; k++) {
      const { spans, at } = e.model.layer(k), { rows, row0 } = e.model.frame, base = at * rows
      labelLayer(spans.starts, base, rows, spans.pairs, labels)
      open = open.filter(i => {
        const pixel = Math.floor(points[i][0] / pixelMm), row = Math.floor(points[i][1] / pixelMm) - row0
        const span = spanNear(spans.starts, spans.pairs, base, rows, row, pixel)
        if (span < 0) return true
        const island = e.tree.islandOf[e.own.solidStarts[k] + labels.solid[span - spans.starts[base]]]
        const ledge = jutsOut(e.ownReach, k, row + row0, pixel)
        out[i] = island < 0 ? (ledge ? 'ledge' : 'nothing') : ledge && e.classes.get(island) === 'body' && !beginsAt(e, island, k) ? 'ledge' : (e.classes.get(island) ?? 'flake')
        return false
      })
    }
  }
  return out
}

/** Whether a layer is one of the first of an island: what is over reach there is the island itself. */
function beginsAt({ tree, raster }: OwnEvidence, island: number, layer: number): boolean {
  return (layer - tree.islands[island].firstLayer) * raster.layerMm <= 1
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

/** Whether the model alone would lay a pixel, or one near it, out of reach of what holds it. */
function jutsOut(ownReach: OwnReach | null, layer: number, row: number, pixel: number): boolean {
  for (let k = Math.max(0, layer - 1); k <= layer + 1; k++) {
    const runs = ownReach?.log[k]?.runs
    for (let i = 0; runs && i < runs.length; i += 4) {
      if (Math.abs(runs[i] - row) <= PIXELS_AROUND && pixel >= runs[i + 1] - PIXELS_AROUND && pixel < runs[i + 2] + PIXELS_AROUND) return true
    }
  }
  return false
}
