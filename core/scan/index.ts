/**
 * The layer scan, by stage: `raster` makes spans of pixels of a mesh, `graph` what touches what, `sweeps` facts of the graph alone, such
 * as what joins what and what encloses a space; `supports` puts stilts into the graph of the model, `reach` measures how far
 * material lies from what holds it, `findings` says what of all that a person has to look at, `pictures` draws layers. `model-scan`
 * runs the stages.
 */
export type { HangsOn } from './findings/hangs-on'
export type { Folded } from './findings/types'
export { outletOf, type HoleCost } from './findings/vents'
export { BAND_LAYERS, type MadeLayers } from './graph/banded-body'
export { allTriangles, BandIndex, bodyOf, type Body, type Raster } from './raster/body'
export { Int32List } from './raster/growable'
export { mergedRuns } from './raster/merged-runs'
export { frameOf, orSpans, spansOfLayers, SpanScratch } from './raster/spans'
export { classOfIsland } from './sweeps/classes'
export { coarseScan, type CoarseScan } from './coarse-scan'
export { firstLook, type FirstLook } from './first-look'
export { buffersOf, type GraphChunk, type LayerGraph } from './graph/layer-graph'
export type { BandSpans, Frame } from './raster/spans'
export { layerAreas } from './layer-areas'
export { layerPicture, LAYER_CODES, type LayerPicture } from './pictures/layer-picture'
export { contourOf, hangingContour, hangingOutline, islandOutline } from './pictures/outline'
export { labelOf as labelNumber, layerOfLabel, pieceOfLabel, type ReachPiece } from './reach/reach-pieces'
export { Covering, type LaidPixel } from './reach/covering'
export type { LoggedReach } from './reach/reach-run'
export { regionOf } from './pictures/region'
export { depthOf, type Bitmap } from './raster/bitmap'
export { ModelScan, type ScanProgress, type ScanResult, type ScanStage } from './model-scan'
export { DEFAULT_LOADS, DEFAULT_SETTINGS, releaseStressAt, type Loads, type ScanSettings } from './settings'
export { signalsCsv, signalsTogether, type Signals } from './findings/signals'
export { islandBy } from './sweeps/join-tree'
export type { Suction } from './sweeps/suction'
export { warmUp } from './warm-up'
