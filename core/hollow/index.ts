/** Hollowing: the inner wall below the skin of a closed mesh, what it encloses, and what it has to keep to so that it carries itself. */
export { hollowed, LEAST_CELLS, type Chamber, type Hollowed, type HollowOptions } from './hollow'
export { HollowError, type HollowErrorCode } from './hollow-error'
export { innerWall, type InnerWallOptions } from './inner-wall'
export type { Carrying } from './carried'
export { wallHelp, type WallHelper, type WallTasks } from './wall-work'
export { handedOver } from './handed-over'
