import type { NeededEdges } from './caps'
import type { Mesh } from './triangle-mesh'

/** Coordinates of the same place may differ by this many steps of a 32-bit float at the size of the model. */
const STEPS = 24

/** Triangles that close seams without width. */
export interface Zipped {
  readonly triangles: Uint32Array
  /** For each of them the triangle of the mesh whose edge it splits. */
  readonly neighbours: Uint32Array
  /** Edges that were split at vertices which lie on them. */
  readonly edges: number
}

/**
 * Zips seams: where faces were cut into triangles one by one, a vertex of one may lie in the middle of an edge of the next (a
 * T-joint). Every unclosed edge that has such vertices gets a fan without width that splits it there, so that the parts on both
 * sides are the same edges and close each other.
 */
export function zipSeams({ positions: p }: Mesh, { from, to, owner }: NeededEdges): Zipped {
  const count = from.length
  const onBorder = new Set<number>()
  let far = 0, lengths = 0
  for (let i = 0; i < count; i++) {
    onBorder.add(from[i]).add(to[i])
    const a = 3 * from[i], b = 3 * to[i]
    lengths += Math.hypot(p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2])
    for (let x = 0; x < 3; x++) far = Math.max(far, Math.abs(p[a + x]))
  }
  const near = far * 2 ** -23 * STEPS
  const cell = Math.max(lengths / Math.max(1, count), 16 * near, 1e-9)
  const grid = new VertexGrid(p, onBorder, cell)
  const triangles: number[] = [], neighbours: number[] = []
  let edges = 0
  for (let i = 0; i < count; i++) {
    const found = onEdge(p, grid, to[i], from[i], near)
    if (found.length === 0) continue
    edges++
    // the mesh has the edge from u to v; the fan has it the other way round, and the parts of it in the same
    const chain = [to[i], ...found, from[i]]
    for (let c = 1; c + 1 < chain.length; c++) {
      triangles.push(chain[0], chain[c], chain[c + 1])
      neighbours.push(owner[i])
    }
  }
  return { triangles: Uint32Array.from(triangles), neighbours: Uint32Array.from(neighbours), edges }
}

/** Vertices that lie on the edge from u to v, in order. */
function onEdge(p: Float32Array, grid: VertexGrid, u: number, v: number, near: number): number[] {
  const ux = p[3 * u], uy = p[3 * u + 1], uz = p[3 * u + 2]
  const dx = p[3 * v] - ux, dy = p[3 * v + 1] - uy, dz = p[3 * v + 2] - uz
  const length = Math.hypot(dx, dy, dz)
  if (length <= 2 * near) return []
  const found = new Map<number, number>()
  const steps = Math.ceil(length / grid.cell) + 1
  for (let s = 0; s <= steps; s++) {
    grid.around(ux + (dx * s) / steps, uy + (dy * s) / steps, uz + (dz * s) / steps, w => {
      if (w === u || w === v || found.has(w)) return
      const wx = p[3 * w] - ux, wy = p[3 * w + 1] - uy, wz = p[3 * w + 2] - uz
      const along = (wx * dx + wy * dy + wz * dz) / length
      if (along <= near || along >= length - near) return
      const t = along / length
      if (Math.hypot(wx - dx * t, wy - dy * t, wz - dz * t) <= near) found.set(w, along)
    })
  }
  return [...found].sort((a, b) => a[1] - b[1] || a[0] - b[0]).map(f => f[0])
}

/** Vertices in cubes of an edge length. */
class VertexGrid {
  readonly cell: number
  readonly #cells = new Map<number, number[]>()

  constructor(p: Float32Array, vertices: Iterable<number>, cell: number) {
    this.cell = cell
    for (const v of vertices) {
      const key = keyOf(Math.floor(p[3 * v] / cell), Math.floor(p[3 * v + 1] / cell), Math.floor(p[3 * v + 2] / cell))
      const list = this.#cells.get(key)
      if (list) list.push(v)
      else this.#cells.set(key, [v])
    }
  }

  /** Vertices within half a cell of a point, and some more. */
  around(x: number, y: number, z: number, visit: (vertex: number) => void): void {
    const i = Math.floor(x / this.cell - 0.5), j = Math.floor(y / this.cell - 0.5), k = Math.floor(z / this.cell - 0.5)
    for (let n = 0; n < 8; n++) for (const v of this.#cells.get(keyOf(i + (n & 1), j + ((n >> 1) & 1), k + (n >> 2))) ?? NONE) visit(v)
  }
}

const NONE: readonly number[] = []

/** A number for a cube; two cubes that share one only cost time. */
function keyOf(i: number, j: number, k: number): number {
  return (Math.imul(i, 0x9e3779b1) ^ Math.imul(j, 0x85ebca77) ^ Math.imul(k, 0xc2b2ae3d)) | 0
}
