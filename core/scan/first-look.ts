import type { Mesh } from '../mesh'
import { AS_IS, type RigidMotion } from '../pose'
import { coarseScan } from './coarse-scan'
import { DEFAULT_SETTINGS, type ScanSettings } from './settings'

/** Pixel and layer of a first look, mm. */
const COARSE_MM = 0.3

/** What is seen of a model on a coarse raster: numbers to be taken as a guess until the scan has ended. */
export interface FirstLook {
  readonly islands: number
  readonly cups: number
  /** Where the islands are, in the stand. */
  readonly at: readonly (readonly [number, number, number])[]
}

/**
 * Looks at a model on pixels and layers of 0.3 mm: what is smaller is missed, what is nearer than that runs together.
 * @throws MeshError `too-big-to-scan`
 */
export function firstLook(mesh: Mesh, stand: RigidMotion = AS_IS, settings: ScanSettings = DEFAULT_SETTINGS): FirstLook {
  const { islands, cups } = coarseScan(mesh, COARSE_MM, stand, settings), open = islands.filter(i => i.state === 'open')
  return { islands: open.length, cups: cups.length, at: open.map(i => i.center) }
}
