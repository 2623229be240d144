import type { Mesh } from './triangle-mesh'

/**
 * Winding number of a point with respect to some triangles of a mesh, by counting signed crossings of a ray along +x.
 * The ray is shifted by an irrational fraction of a micrometre so that it does not run along an edge.
 * @param triangleSets lists of triangle numbers
 */
export function windingAlongX(mesh: Mesh, triangleSets: readonly (readonly number[] | Uint32Array)[], x: number, y: number, z: number): number {
  const { positions: p, triangles: t } = mesh
  const py = y + 1.6180339887e-4, pz = z + 2.2360679775e-4
  let winding = 0
  for (const set of triangleSets) {
    for (let i = 0; i < set.length; i++) {
      const a = 3 * t[3 * set[i]], b = 3 * t[3 * set[i] + 1], c = 3 * t[3 * set[i] + 2]
      const ay = p[a + 1] - py, az = p[a + 2] - pz
      const by = p[b + 1] - py, bz = p[b + 2] - pz
      const cy = p[c + 1] - py, cz = p[c + 2] - pz
      const wc = ay * bz - az * by, wa = by * cz - bz * cy, wb = cy * az - cz * ay
      if ((wa > 0 && wb > 0 && wc > 0) || (wa < 0 && wb < 0 && wc < 0)) {
        const total = wa + wb + wc
        const hit = (wa * p[a] + wb * p[b] + wc * p[c]) / total
        // leaving the solid along +x raises the winding of the point
        if (hit > x) winding += total > 0 ? 1 : -1
      }
    }
  }
  return winding
}
