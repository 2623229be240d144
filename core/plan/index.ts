/** Automatic plans: what the program places by itself, as ordinary stilts. */
export { holdOpenIslands, type HoldOptions, type HoldResult, type NotHeld } from './hold'
