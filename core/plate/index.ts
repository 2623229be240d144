/** The plate: what of several parts and copies stands on it, reaches over its edge, or runs into each other. */
export { Body } from './body'
export { checkPlate, type PlateCheck, type StandingCopy, type StandingPart } from './check'
export { convexHull, footprintOf, outlineOnPlate, outlinesMeet, type Footprint, type FlatPoint } from './footprint'
export { freePlace, type PlateBox } from './free-place'
export { layOut, type LaidOut, type LayOutOptions, type ToLayOut } from './lay-out'
export { shadowOf, type Shadow } from './shadow'
export { proposeStagger, raisedPull, thinnestUnder, type Stagger } from './stagger'
export { scanPlate, type PlateScanResult, type ScannedPart } from './plate-scan'
