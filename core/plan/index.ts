/** Automatic plans: what the program places by itself, as ordinary stilts. */
export { ROLE_BY_LOAD, rolesOfTips } from './roles'
export { holdOpenIslands, spotsUnder, type HoldOptions, type HoldResult, type NotHeld } from './hold'
export { holeCostOf } from './hole-cost'
