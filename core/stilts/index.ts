/** Stilts: gauges, the graph of nodes and beams, solids, clearance, routing and editing. */
export { gaugeFor, gaugeOf, GAP_FLOOR_MM, GAUGES, LEAN_LIMIT_DEG, PENETRATION_SHARE } from './gauges'
export { graphOfStilt, shaftOf, sizesOf, SIZE_NAMES, stiltsOfGraph, type PlanGraph, type SizeName, type Stilt, type StiltSizes } from './stilt'
export { axisOf, solidOfStilt, solidOfStilts } from './solid'
export { GAP_CEILING_MM, Surface, type SurfacePoint } from './surface'
export { gapOfPath, routeStilt, stiltOfRoute, type NoRoute, type Plate, type Route, type RouteProblem } from './route'
export { moveFoot, moveTip, regaugeStilt, resizeStilt, verdictOf, type Edited } from './edit'
export { reseatStilts, type Reseated } from './reseat'
export { isPlanFor, readStilts, shifted, type PlanTarget, type ReadPlan } from './read-plan'
