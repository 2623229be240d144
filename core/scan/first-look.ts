import type { Mesh } from '../mesh'
import { AS_IS, type RigidMotion } from '../pose'
import { cupsOf, findHanging } from './findings/findings'
import { joinLayers, sourcesOf } from './graph/join-layers'
import { ChunkBuilder } from './graph/layer-graph'
import { allTriangles, bodyOf } from './raster/body'
import { frameOf, spansOfLayers, SpanScratch } from './raster/spans'
import { DEFAULT_SETTINGS, type ScanSettings } from './settings'
import { joinTree } from './sweeps/join-tree'
import { findSuction } from './sweeps/suction'

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
  const raster = { pixelMm: COARSE_MM, layerMm: COARSE_MM }
  const body = bodyOf(mesh, raster, stand), frame = frameOf([body])
  const builder = new ChunkBuilder(frame, 0)
  if (frame.rows > 0) builder.add(spansOfLayers(body, allTriangles(body), 0, frame.layerCount, frame, new SpanScratch()))
  const own = joinLayers(sourcesOf([builder.finish()]))
  const { islands } = findHanging({ raster, settings, own, tree: joinTree(own), aims: [], grazing: new Set(), graph: own, whole: null, reach: [], ownReach: null })
  const open = islands.filter(i => i.state === 'open')
  return { islands: open.length, cups: cupsOf(findSuction(own), own, own, raster, settings).cups.length, at: open.map(i => i.center) }
}
