/** Printing: layers as pictures, how long they take, and the package that a printer is sent. */
export type { GreyRuns } from './png/grey-runs'
export { writePng } from './png/write-png'
export { growthOf, type PartToSlice, type PlateToSlice } from './slice/plate-to-slice'
export { PlateSlicer, SLICED_AT_ONCE, type SlicedLayer } from './slice/plate-slicer'
export { secondsOfLayers } from './time'
