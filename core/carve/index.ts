/** Carving: exact booleans on closed meshes, whose triangles go on telling where they come from. */
export { CarveError, type CarveErrorCode } from './carve-error'
export { cutBy, type CutOptions, type CutParts } from './cut'
export { drilled, plugOf, type Hole } from './holes'
export { pegPlaces, type PegSizes, type PlacedPegs } from './pegs'
export { united } from './unite'
export { leaned, leansOf, planeThrough, type Plane } from './plane'
export { piecesAt, sectionOf, type SectionPiece } from './section'
export { CutTrial } from './trial'
