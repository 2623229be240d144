import { MeshoptSimplifier } from 'meshoptimizer/simplifier'
import type { Mesh } from './triangle-mesh'

/** From this many times as many triangles on, they are first put together on a grid down to so many times as many: most of the time at little loss. */
const HEAVY = 10, GRID = 6

/**
 * A mesh of about as many triangles at most, near to the one it is made from; that one itself where it is light enough. Its triangles
 * are not those of the file any more, and thin walls may have gone: good for a rough look only.
 * Source: Garland and Heckbert, Surface Simplification Using Quadric Error Metrics (1997), as `meshoptimizer` has it.
 */
export async function lighterMesh(mesh: Mesh, most: number): Promise<Mesh> {
  const count = mesh.triangles.length / 3
  if (count <= most) return mesh
  await MeshoptSimplifier.ready
  const from = count > HEAVY * most ? compact(mesh, MeshoptSimplifier.simplifySloppy(mesh.triangles, mesh.positions, 3, null, 3 * GRID * most, 1)[0]) : mesh
  return compact(from, MeshoptSimplifier.simplify(from.triangles, from.positions, 3, 3 * most, 1)[0])
}

/** Some triangles of a mesh with the vertices that they use, in the order in which they are met. */
function compact(mesh: Mesh, triangles: Uint32Array): Mesh {
  // the triangles are numbered anew in place
  const [numbers, used] = MeshoptSimplifier.compactMesh(triangles), positions = new Float32Array(3 * used)
  for (let v = 0; v < numbers.length; v++) {
    if (numbers[v] !== NONE) positions.set(mesh.positions.subarray(3 * v, 3 * v + 3), 3 * numbers[v])
  }
  return { positions, triangles }
}
const NONE = 0xffffffff
