/** What hangs on an island: a few pixels, up to some mm³, more, or the whole part. */
export type IslandClass = 'flake' | 'detail' | 'limb' | 'body'

/** Limits of the classes (common practice, from memory). */
export const CLASS_LIMITS = { flakeAreaMm2: 0.03, flakeVolumeMm3: 0.01, detailVolumeMm3: 8 }

/** The class of an island by its largest layer and by what it gathers before it joins. */
export function classOfIsland(isBody: boolean, largestAreaMm2: number, volumeMm3: number): IslandClass {
  if (isBody) return 'body'
  if (largestAreaMm2 <= CLASS_LIMITS.flakeAreaMm2 && volumeMm3 <= CLASS_LIMITS.flakeVolumeMm3) return 'flake'
  return volumeMm3 <= CLASS_LIMITS.detailVolumeMm3 ? 'detail' : 'limb'
}
