/** Finishing: what a recipe makes of a source, step by step: scaled, hollowed, drilled, cut. */
export { BEYOND_WALL, boreAt, boreFrom, type Bore } from './bore'
export { drainWays, opensBest, opensChamber, type WayOut } from './way-out'
export { type Openings } from './openings'
export { directionOf, FINISH_VERSION, finishKey, finishPart, finishParts, isFinished, partPoint, planeOf, stepPoint, type Finished, type FinishOptions, type FinishMemory, type FinishStep } from './finish'
