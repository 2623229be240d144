import { halfEdgeEnds, type EdgeRuns } from './edges'
import type { Mesh } from './triangle-mesh'

/** Directed edges that have to be added so that every edge of a mesh runs as often one way as the other. */
export interface NeededEdges {
  readonly from: Uint32Array
  readonly to: Uint32Array
  /** A triangle of the mesh that has the edge the other way round. */
  readonly owner: Uint32Array
}

/** The triangles that close a mesh, and where each belongs. */
export interface Caps {
  /** Vertices added at the centres of the loops, x, y, z in mm. */
  readonly positions: Float32Array
  /** Vertex indices; added vertices are counted on from the mesh's own. */
  readonly triangles: Uint32Array
  /** For each cap triangle, a triangle of the mesh that it closes. */
  readonly neighbours: Uint32Array
  /** Pairs of triangles of the mesh that border the same loop, and so belong together. */
  readonly united: Uint32Array
  readonly loops: number
}

/** The edges that a mesh lacks. */
export function neededEdges({ triangles: t }: Mesh, edges: EdgeRuns): NeededEdges {
  let count = 0
  const netOf = (e: number): number => {
    const from = edges.starts[e], to = edges.starts[e + 1]
    const [first] = halfEdgeEnds(t, edges.halfEdges[from])
    if (to - from === 2 && halfEdgeEnds(t, edges.halfEdges[from + 1])[0] !== first) return 0
    let net = 0
    for (let i = from; i < to; i++) net += halfEdgeEnds(t, edges.halfEdges[i])[0] === first ? 1 : -1
    return net
  }
  for (let e = 0; e < edges.edgeCount; e++) count += Math.abs(netOf(e))
  const needed = { from: new Uint32Array(count), to: new Uint32Array(count), owner: new Uint32Array(count) }
  let n = 0
  for (let e = 0; e < edges.edgeCount; e++) {
    const net = netOf(e)
    if (net === 0) continue
    const [a, b] = halfEdgeEnds(t, edges.halfEdges[edges.starts[e]])
    const owner = Math.floor(edges.halfEdges[edges.starts[e]] / 3)
    for (let i = 0; i < Math.abs(net); i++, n++) {
      needed.from[n] = net > 0 ? b : a
      needed.to[n] = net > 0 ? a : b
      needed.owner[n] = owner
    }
  }
  return needed
}

/**
 * Closes a mesh: directed-edge imbalance always forms cycles, and each simple cycle gets a cone to its centre.
 * With the caps every sample line crosses the mesh as often inward as outward, in every pose.
 */
export function capLoops(mesh: Mesh, { from, to, owner }: NeededEdges): Caps {
  const { positions: p } = mesh
  const vertices = p.length / 3, count = from.length
  // needed edges by the vertex that they leave: chained lists
  const head = new Int32Array(vertices).fill(-1), next = new Int32Array(count)
  for (let i = count - 1; i >= 0; i--) {
    next[i] = head[from[i]]
    head[from[i]] = i
  }
  // a cone has as many triangles as its loop has edges
  const positions = new Float32Array(count * 3), triangles = new Uint32Array(count * 3), neighbours = new Uint32Array(count), united = new Uint32Array(2 * count)
  let added = 0, made = 0, pairs = 0, loops = 0
  const emit = (loop: ArrayLike<number>): void => {
    loops++
    for (let i = 1; i < loop.length; i++) {
      united[pairs++] = owner[loop[0]]
      united[pairs++] = owner[loop[i]]
    }
    if (loop.length === 2) return
    if (loop.length === 3) {
      for (let i = 0; i < 3; i++) triangles[3 * made + i] = from[loop[i]]
      neighbours[made++] = owner[loop[0]]
      return
    }
    let x = 0, y = 0, z = 0
    for (let i = 0; i < loop.length; i++) {
      x += p[3 * from[loop[i]]]
      y += p[3 * from[loop[i]] + 1]
      z += p[3 * from[loop[i]] + 2]
    }
    positions.set([x / loop.length, y / loop.length, z / loop.length], 3 * added)
    const center = vertices + added++
    for (let i = 0; i < loop.length; i++) {
      triangles.set([from[loop[i]], to[loop[i]], center], 3 * made)
      neighbours[made++] = owner[loop[i]]
    }
  }
  // walk until a vertex repeats, cut that simple cycle off, go on with the rest
  const path = new Int32Array(count), placeOf = new Int32Array(vertices).fill(-1)
  for (let start = 0; start < vertices; start++) {
    while (head[start] >= 0) {
      let length = 0, vertex = start
      placeOf[vertex] = 0
      for (;;) {
        const edge = head[vertex]
        if (edge < 0) break
        head[vertex] = next[edge]
        path[length++] = edge
        vertex = to[edge]
        if (placeOf[vertex] < 0) {
          placeOf[vertex] = length
          continue
        }
        const seen = placeOf[vertex]
        emit(path.subarray(seen, length))
        for (let i = seen; i < length; i++) if (to[path[i]] !== vertex) placeOf[to[path[i]]] = -1
        length = seen
        if (length === 0) break
      }
      placeOf[start] = -1
      for (let i = 0; i < length; i++) placeOf[to[path[i]]] = -1
    }
  }
  return { positions: positions.slice(0, 3 * added), triangles: triangles.slice(0, 3 * made), neighbours: neighbours.slice(0, made), united: united.slice(0, pairs), loops }
}
