import type { IslandClass } from '../../contract'
import type { Vec3 } from '../../mesh'
import type { BandedBody } from '../graph/banded-body'
import { componentsAt, PIXELS_AROUND } from '../graph/components-at'
import type { LayerGraph } from '../graph/layer-graph'
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

/** What hangs on points of the surface. */
export function hangsOn(e: OwnEvidence, points: readonly Vec3[]): HangsOn[] {
  return componentsAt(e.model, e.own, e.raster, points).map((laid): HangsOn => {
    if (!laid) return 'nothing'
    const island = e.tree.islandOf[laid.component], ledge = jutsOut(e.ownReach, laid.layer, laid.row, laid.pixel)
    return island < 0 ? (ledge ? 'ledge' : 'nothing') : ledge && e.classes.get(island) === 'body' && !beginsAt(e, island, laid.layer) ? 'ledge' : (e.classes.get(island) ?? 'flake')
  })
}

/** Whether a layer is one of the first of an island: what is over reach there is the island itself. */
function beginsAt({ tree, raster }: OwnEvidence, island: number, layer: number): boolean {
  return (layer - tree.islands[island].firstLayer) * raster.layerMm <= 1
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
