import { boundsOf, type Mesh, type Vec3 } from '../mesh'

/** Edge of a unit, in cells: the largest boxes, each of which is looked at by itself. */
export const A_UNIT = 64

/** Where the nodes of a grid lie, one cell and more around a mesh. */
export interface GridFrame {
  readonly origin: Vec3
  /** Edge of a cell, mm. */
  readonly cellMm: number
  /** Cells along x, y, z. */
  readonly size: readonly [number, number, number]
  /** Units along x, y, z. */
  readonly units: readonly [number, number, number]
}

export function frameAround({ positions }: Mesh, cellMm: number): GridFrame {
  const { min, max } = boundsOf(positions), units = [0, 1, 2].map(a => Math.ceil(((max[a] - min[a]) / cellMm + 2) / A_UNIT)) as [number, number, number]
  return { origin: [min[0] - cellMm, min[1] - cellMm, min[2] - cellMm], cellMm, units, size: [units[0] * A_UNIT, units[1] * A_UNIT, units[2] * A_UNIT] }
}
