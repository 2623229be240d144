import { MeshoptSimplifier } from 'meshoptimizer/simplifier'
import type { Mesh } from './triangle-mesh'

/**
 * A mesh of about as many triangles at most, near to the one it is made from; that one itself where it is light enough. Its triangles
 * are not those of the file any more, and thin walls may have gone: good for a rough look only.
 * Source: Garland and Heckbert, Surface Simplification Using Quadric Error Metrics (1997), as `meshoptimizer` has it.
 */
export async function lighterMesh(mesh: Mesh, most: number): Promise<Mesh> {
  if (mesh.triangles.length <= 3 * most) return mesh
  await MeshoptSimplifier.ready
  const [triangles] = MeshoptSimplifier.simplify(mesh.triangles, mesh.positions, 3, 3 * most, 1)
  // in place: vertices are numbered anew in the order in which they are met
  const [numbers, used] = MeshoptSimplifier.compactMesh(triangles)
  const positions = new Float32Array(3 * used)
  for (let v = 0; v < numbers.length; v++) {
    if (numbers[v] === 0xffffffff) continue
    positions.set(mesh.positions.subarray(3 * v, 3 * v + 3), 3 * numbers[v])
  }
  return { positions, triangles }
}
