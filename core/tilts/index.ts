/** The search over tilts: measures all directions that can look up, coarsely and then by the real scan, and offers the few that are worth a look. */
export { angleBetween, fromDisc, onDisc, sphereLattice } from './directions'
export { measureCoarsely, measureFully, type TiltBasis, type TiltMeasures } from './measures'
export { AIMS, DEFAULT_WEIGHTS, figureOf, PRIZED_WEIGHTS, onScale, scalesOf, scoreOf, type Aim, type Scales, type TriedTilt, type Weights } from './rank'
export { cellOf, FIRST_ROUND, keyOf, LARGEST_CELL_MM, localMeter, OFFERED, TiltSearch, type SearchOptions, type TiltMeter } from './search'
export { Room } from './room'
export { SkinTable, scarOf } from './skin'
export { imagesOf, NO_SYMMETRY, symmetryOf, type Symmetry } from './symmetry'
export { islandsOf, whyOf } from './why'
