/** Carving: exact booleans on closed meshes, whose triangles go on telling where they come from. */
export { CarveError, type CarveErrorCode } from './carve-error'
export { drilled, type Hole } from './holes'
