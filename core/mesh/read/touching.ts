import type { Box, Mesh, Vec3 } from '../triangle-mesh'

/** Cells along the longest side of what two boxes share; and the smallest that one gets, mm. */
const CELLS = 64, SMALLEST_MM = 0.05

/**
 * Whether two meshes come as near to each other as a cell of a grid over what their boxes share: a sixty-fourth of its longest side.
 * Errs towards touching.
 */
export function touching(a: Mesh, atA: Vec3, boxA: Box, b: Mesh, atB: Vec3, boxB: Box): boolean {
  const min = [0, 1, 2].map(c => Math.max(boxA.min[c], boxB.min[c])), max = [0, 1, 2].map(c => Math.min(boxA.max[c], boxB.max[c]))
  if (min.some((v, c) => v > max[c])) return false
  const cell = Math.max(SMALLEST_MM, Math.max(...max.map((v, c) => v - min[c])) / CELLS)
  const counts = max.map((v, c) => Math.floor((v - min[c]) / cell) + 1)
  const filled = new Uint8Array(counts[0] * counts[1] * counts[2])
  /** Goes over the cells that the boxes of triangles meet; ends where told to. */
  const over = ({ positions: p, triangles: t }: Mesh, at: Vec3, take: (cell: number) => boolean): boolean => {
    const low = [0, 0, 0], high = [0, 0, 0]
    for (let i = 0; i < t.length; i += 3) {
      let outside = false
      for (let c = 0; c < 3; c++) {
        const x = p[3 * t[i] + c], y = p[3 * t[i + 1] + c], z = p[3 * t[i + 2] + c]
        const from = Math.min(x, y, z) + at[c], to = Math.max(x, y, z) + at[c]
        if (from > max[c] || to < min[c]) outside = true
        low[c] = Math.max(0, Math.floor((from - min[c]) / cell))
        high[c] = Math.min(counts[c] - 1, Math.floor((to - min[c]) / cell))
      }
      if (outside) continue
      for (let z = low[2]; z <= high[2]; z++) {
        for (let y = low[1]; y <= high[1]; y++) for (let x = low[0]; x <= high[0]; x++) if (take((z * counts[1] + y) * counts[0] + x)) return true
      }
    }
    return false
  }
  over(a, atA, i => {
    filled[i] = 1
    return false
  })
  return over(b, atB, i => filled[i] === 1)
}
