import type { Cup, Island } from '../contract'
import type { Mesh } from '../mesh'
import { AS_IS, type RigidMotion } from '../pose'
import { cupsOf, findHanging } from './findings/findings'
import { signalsOf, type Signals } from './findings/signals'
import { joinLayers, sourcesOf } from './graph/join-layers'
import { ChunkBuilder } from './graph/layer-graph'
import { allTriangles, bodyOf } from './raster/body'
import { frameOf, spansOfLayers, SpanScratch } from './raster/spans'
import { DEFAULT_LOADS, DEFAULT_SETTINGS, type Loads, type ScanSettings } from './settings'
import { joinTree } from './sweeps/join-tree'
import { findSuction } from './sweeps/suction'

/** What is told by the layers of a model and what touches what, without reach: islands, cups and the signals of area and load. */
export interface CoarseScan {
  readonly layerCount: number
  readonly islands: readonly Island[]
  readonly cups: readonly Cup[]
  readonly signals: Signals
}

/**
 * Scans a model alone on cubes of one size, in one go. Aims, ledges and vents are left out: meant for a raster much coarser than the
 * printer's.
 * @throws MeshError `too-big-to-scan`
 */
export function coarseScan(mesh: Mesh, cellMm: number, stand: RigidMotion = AS_IS, settings: ScanSettings = DEFAULT_SETTINGS, loads: Loads = DEFAULT_LOADS): CoarseScan {
  const raster = { pixelMm: cellMm, layerMm: cellMm }
  const body = bodyOf(mesh, raster, stand), frame = frameOf([body])
  const builder = new ChunkBuilder(frame, 0)
  if (frame.rows > 0) builder.add(spansOfLayers(body, allTriangles(body), 0, frame.layerCount, frame, new SpanScratch()))
  const own = joinLayers(sourcesOf([builder.finish()])), suction = findSuction(own)
  const { islands, hangingMm2 } = findHanging({ raster, settings, own, tree: joinTree(own), aims: [], grazing: new Set(), graph: own, whole: null, reach: [], ownReach: null })
  return { layerCount: own.layerCount, islands, cups: cupsOf(suction, own, own, raster, settings, loads).cups, signals: signalsOf(own, suction, hangingMm2, cellMm, loads) }
}
