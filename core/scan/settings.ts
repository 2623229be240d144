export { DEFAULT_SETTINGS, type ScanSettings } from '../contract'

/** Stresses that peel and pull are estimated from, N/mm² (from memory, of a common resin and film). */
export const LOADS = { releaseStress: 0.02, cupVacuum: 0.03 }
