import type { FlatPoint } from './footprint'

export interface PlateBox {
  readonly min: FlatPoint
  readonly max: FlatPoint
}

/** Step of the search and room that is left between neighbours, mm. */
const STEP_MM = 2, GAP_MM = 3

/**
 * Where the middle of something of this size can stand on the plate clear of what stands there already, as near to the plate's middle as
 * it gets; null where there is no room.
 */
export function freePlace(size: FlatPoint, taken: readonly PlateBox[], plate: { readonly widthMm: number; readonly depthMm: number }): FlatPoint | null {
  const roomX = (plate.widthMm - size[0]) / 2, roomY = (plate.depthMm - size[1]) / 2
  if (roomX < 0 || roomY < 0) return null
  let best: FlatPoint | null = null, nearest = Infinity
  const free = (x: number, y: number): boolean => taken.every(t => x - size[0] / 2 > t.max[0] + GAP_MM || x + size[0] / 2 < t.min[0] - GAP_MM || y - size[1] / 2 > t.max[1] + GAP_MM || y + size[1] / 2 < t.min[1] - GAP_MM)
  const steps = (room: number): number[] => Array.from({ length: 2 * Math.floor(room / STEP_MM) + 1 }, (_, i) => (i - Math.floor(room / STEP_MM)) * STEP_MM)
  for (const y of steps(roomY)) {
    for (const x of steps(roomX)) {
      const far = Math.hypot(x, y)
      if (far < nearest && free(x, y)) {
        best = [x, y]
        nearest = far
      }
    }
  }
  return best
}
