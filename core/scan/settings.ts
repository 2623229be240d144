export { DEFAULT_SETTINGS, type ScanSettings } from '../contract'

/** What peel and pull are estimated from: stresses in N/mm², and how much more the first layers pull, which are cured longer. */
export interface Loads {
  readonly releaseStressNMm2: number
  readonly cupVacuumNMm2: number
  readonly bottomLayers: number
  readonly transitionLayers: number
  readonly bottomReleaseFactor: number
}

/** From memory, of a common resin and film; where nobody says which resin it is, bottom layers pull as the others do. */
export const DEFAULT_LOADS: Loads = { releaseStressNMm2: 0.02, cupVacuumNMm2: 0.03, bottomLayers: 0, transitionLayers: 0, bottomReleaseFactor: 1 }

/** Stress of releasing layer k from the film, N/mm²: that of bottom layers, going over evenly to that of all others. */
export function releaseStressAt({ releaseStressNMm2, bottomLayers, transitionLayers, bottomReleaseFactor }: Loads, k: number): number {
  const over = Math.max(0, Math.min(1, (k - bottomLayers + 1) / (transitionLayers + 1)))
  return releaseStressNMm2 * (bottomReleaseFactor + (1 - bottomReleaseFactor) * over)
}
