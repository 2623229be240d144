/** The layer scan: dexel spans, the graph of what touches what, islands, suction and layer areas. */
export { bodyOf, type Body, type Raster } from './body'
export { CLASS_LIMITS, classOfIsland, type IslandClass } from './classes'
export type { CupEnd } from './suction'
export type { BandSpans, Frame } from './spans'
export { layerPicture, LAYER_CODES, type LayerPicture } from './layer-picture'
export { regionOf, type Region } from './region'
export { ModelScan, SUCTION_LIMITS, type Cup, type FindingState, type FloatingStilt, type Island, type ScanProgress, type ScanResult } from './scan'
