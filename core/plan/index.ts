/** Automatic plans: what the program places by itself, as ordinary stilts. */
export { ROLE_BY_LOAD, rolesOfTips } from './roles'
export { holdOpenIslands, type HoldOptions, type HoldResult } from './hold'
export { spotsUnder, type NotHeld } from './targets'
export { holeCostOf } from './hole-cost'
export type { WeakTip } from './beside'
export { planForest, type ForestOptions, type GrowthWatch, type PlannedForest } from './forest'
export { gathered } from './gather'
export { remedyInWords, tiltFor, type TiltRemedy } from './remedy'
