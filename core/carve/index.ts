/** Carving: exact booleans on closed meshes, whose triangles go on telling where they come from. */
export { CarveError, type CarveErrorCode } from './carve-error'
export { cutBy, piecesAt, sectionOf, type CutParts, type SectionPiece } from './cut'
export { drilled, type Hole } from './holes'
export { pegged, pegPlaces, type PegSizes } from './pegs'
export { united } from './unite'
export { planeThrough, type Plane } from './plane'
export { CutTrial } from './trial'
