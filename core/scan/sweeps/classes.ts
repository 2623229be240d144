import type { IslandClass } from '../../contract'
import type { ScanSettings } from '../settings'

/** Whole pixels come as fractions of mm², whose last bit must not decide. */
const ROUNDING = 1 + 1e-9

/** The class of an island by its largest layer and by what it gathers before it joins. */
export function classOfIsland(isBody: boolean, largestAreaMm2: number, volumeMm3: number, limits: ScanSettings): IslandClass {
  if (isBody) return 'body'
  if (largestAreaMm2 <= limits.flakeAreaMm2 * ROUNDING && volumeMm3 <= limits.flakeVolumeMm3 * ROUNDING) return 'flake'
  return volumeMm3 <= limits.detailVolumeMm3 * ROUNDING ? 'detail' : 'limb'
}
