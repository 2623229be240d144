import type { Manifold } from 'manifold-3d'
import { boundsOf, findCrossings, InsideTest, meshOfFaces, piecesOf, volumeOf, type Box, type Mesh } from '../mesh'
import { CarveError } from './carve-error'
import { bodyOf, kernel, meshOfBodies } from './kernel'

/**
 * A part whose solids run into each other, or lie within each other, as one: faces that are hidden in it go. The mesh itself where there
 * are none. Skin keeps telling where it comes from.
 * @throws CarveError `not-sound` where a solid is not one
 */
export async function united(mesh: Mesh): Promise<Mesh> {
  const shells = piecesOf(mesh).map(faces => {
    const own = meshOfFaces(mesh, faces)
    return { mesh: own, solid: volumeOf(own) > 0, box: boundsOf(own.positions) }
  })
  const solids = shells.filter(s => s.solid), cavities = shells.filter(s => !s.solid)
  if (solids.length < 2 || !solids.some((s, i) => solids.some((o, j) => j < i && overlap(s.box, o.box)))) return mesh
  if (findCrossings(mesh, 1).pairs === 0 && !solids.some(s => solids.some(o => o !== s && holds(o.mesh, s.mesh)))) return mesh
  const wasm = await kernel(), made: Manifold[] = []
  const keep = (m: Manifold): Manifold => {
    made.push(m)
    return m
  }
  try {
    // a cavity is one of the solid around it, and may be filled by another
    const bodies = solids.map(s => [s, ...cavities.filter(c => holds(s.mesh, c.mesh))].map(part => ({ solid: part.solid, body: bodyOf(wasm, part.solid ? part.mesh : turned(part.mesh)) })))
    for (const { body } of bodies.flat()) keep(body.manifold)
    const whole = bodies.map(([outer, ...inner]) => inner.reduce((rest, c) => keep(rest.subtract(c.body.manifold)), outer.body.manifold)), all = keep(wasm.Manifold.union(whole))
    if (all.isEmpty()) throw new CarveError('not-sound', 'The solids of this part run into each other, and cannot be made one. Mend it first.')
    return meshOfBodies(all, bodies.flat().map(b => b.body))
  } finally {
    for (const m of made) m.delete()
  }
}

function overlap(a: Box, b: Box): boolean {
  return [0, 1, 2].every(k => a.min[k] < b.max[k] && b.min[k] < a.max[k])
}
/** Whether a shell lies within a solid: its first corner does. */
function holds(solid: Mesh, shell: Mesh): boolean {
  const [x, y, z] = shell.positions
  return new InsideTest(solid).winding(x, y, z) > 0
}
function turned(mesh: Mesh): Mesh {
  const triangles = mesh.triangles.slice()
  for (let i = 0; i < triangles.length; i += 3) [triangles[i + 1], triangles[i + 2]] = [triangles[i + 2], triangles[i + 1]]
  return { ...mesh, triangles }
}
