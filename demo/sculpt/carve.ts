import Module from 'manifold-3d'
import type { Mesh } from '@oak-stilts/core/mesh'
import type { Piece } from './field'
import { polygonize } from './polygonize'

/** How far thinning out triangles may move a surface, mm: well under a pixel. */
const THINNING_MM = 0.012

/** A sculpture as a closed mesh, with triangles that add nothing taken out again. Deterministic. */
export async function carve(pieces: readonly Piece[], cellMm: number): Promise<Mesh> {
  const raw = polygonize(pieces, cellMm)
  const wasm = await Module()
  wasm.setup()
  const solid = new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: raw.positions, triVerts: largestShell(raw) }))
  const simple = solid.simplify(THINNING_MM)
  const out = simple.getMesh()
  const positions = out.numProp === 3 ? out.vertProperties.slice() : Float32Array.from({ length: out.numVert * 3 }, (_, i) => out.vertProperties[Math.floor(i / 3) * out.numProp + (i % 3)])
  // what thinning out pinched off, as inside a seam, goes as well
  const mesh = used({ positions, triangles: largestShell({ positions, triangles: out.triVerts }) })
  solid.delete()
  simple.delete()
  return mesh
}

/** The triangles of the largest connected piece: blends can pinch off crumbs of a few cells. */
function largestShell(mesh: Mesh): Uint32Array {
  const parent = new Int32Array(mesh.positions.length / 3)
  for (let i = 0; i < parent.length; i++) parent[i] = i
  const find = (i: number): number => {
    while (parent[i] !== i) i = parent[i] = parent[parent[i]]
    return i
  }
  const t = mesh.triangles
  for (let i = 0; i < t.length; i += 3) {
    parent[find(t[i + 1])] = find(t[i])
    parent[find(t[i + 2])] = find(t[i])
  }
  const sizes = new Map<number, number>()
  for (let i = 0; i < t.length; i += 3) sizes.set(find(t[i]), (sizes.get(find(t[i])) ?? 0) + 1)
  let best = -1
  for (const [root, n] of sizes) if (best < 0 || n > (sizes.get(best) as number)) best = root
  return t.filter((_, i) => find(t[i - (i % 3)]) === best)
}

/** A mesh without the vertices that nothing uses. */
function used({ positions, triangles }: Mesh): Mesh {
  const numbers = new Int32Array(positions.length / 3).fill(-1), kept: number[] = [], out = new Uint32Array(triangles.length)
  for (let i = 0; i < triangles.length; i++) {
    const v = triangles[i]
    if (numbers[v] < 0) {
      numbers[v] = kept.length / 3
      kept.push(positions[3 * v], positions[3 * v + 1], positions[3 * v + 2])
    }
    out[i] = numbers[v]
  }
  return { positions: Float32Array.from(kept), triangles: out }
}
