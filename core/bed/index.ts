/** Beds of pegs: a pattern that is kept and rises, upright, to whatever stands above it. */
export { PEG_GAUGE, patternOfStilts, pegGauge, placeOfPeg, rowsOfPegs, type BedPlace, type Rows } from './pattern'
export { pegsUnder, type BedSetting, type FoundPeg, type LeftOutPeg, type PegProblem, type StandingPeg } from './pegs'
export { touchOf, type Touch } from './touch'
