import { halfEdgeEnds, type EdgeRuns } from './edges'
import type { Mesh } from './triangle-mesh'

/** The triangles that close a mesh, and where each belongs. */
export interface Caps {
  /** Vertices added at the centres of the loops, x, y, z in mm. */
  readonly positions: number[]
  /** Vertex indices; added vertices are counted on from the mesh's own. */
  readonly triangles: number[]
  /** For each cap triangle, a triangle of the mesh that it closes. */
  readonly neighbours: number[]
  /** Number of directed edges that no other edge runs against. */
  readonly unclosedEdges: number
  readonly loops: number
}

/**
 * Closes a mesh: directed-edge imbalance always forms cycles, and each simple cycle gets a cone to its centre.
 * With the caps every sample line crosses the mesh as often inward as outward, in every pose.
 */
export function capLoops(mesh: Mesh, edges: EdgeRuns): Caps {
  const { positions: p, triangles: t } = mesh
  const needFrom: number[] = [], needTo: number[] = [], needOf: number[] = []
  for (let e = 0; e < edges.edgeCount; e++) {
    const from = edges.starts[e], to = edges.starts[e + 1]
    if (to - from === 2) {
      const [a] = halfEdgeEnds(t, edges.halfEdges[from])
      const [b] = halfEdgeEnds(t, edges.halfEdges[from + 1])
      if (a !== b) continue
    }
    const [low, high] = ends(t, edges.halfEdges[from])
    let net = 0
    for (let i = from; i < to; i++) net += halfEdgeEnds(t, edges.halfEdges[i])[0] === low ? 1 : -1
    const owner = Math.floor(edges.halfEdges[from] / 3)
    for (; net > 0; net--) { needFrom.push(high); needTo.push(low); needOf.push(owner) }
    for (; net < 0; net++) { needFrom.push(low); needTo.push(high); needOf.push(owner) }
  }
  const out = new Map<number, number[]>()
  for (let i = needFrom.length - 1; i >= 0; i--) {
    const list = out.get(needFrom[i])
    if (list) list.push(i)
    else out.set(needFrom[i], [i])
  }
  const added: number[] = [], triangles: number[] = [], neighbours: number[] = []
  let loops = 0
  const emit = (loop: number[]): void => {
    loops++
    if (loop.length === 2) return
    if (loop.length === 3) {
      triangles.push(needFrom[loop[0]], needFrom[loop[1]], needFrom[loop[2]])
      neighbours.push(needOf[loop[0]])
      return
    }
    let x = 0, y = 0, z = 0
    for (const i of loop) {
      x += p[3 * needFrom[i]]
      y += p[3 * needFrom[i] + 1]
      z += p[3 * needFrom[i] + 2]
    }
    const center = (p.length + added.length) / 3
    added.push(x / loop.length, y / loop.length, z / loop.length)
    for (const i of loop) {
      triangles.push(needFrom[i], needTo[i], center)
      neighbours.push(needOf[i])
    }
  }
  const used = new Uint8Array(needFrom.length)
  for (let start = 0; start < needFrom.length; start++) {
    if (used[start]) continue
    // walk until a vertex repeats, cut that simple cycle off, go on with the rest
    const path: number[] = []
    const at = new Map<number, number>()
    let vertex = needFrom[start]
    at.set(vertex, 0)
    for (;;) {
      const list = out.get(vertex)
      let edge = -1
      while (list && list.length) {
        const candidate = list.pop() as number
        if (!used[candidate]) { edge = candidate; break }
      }
      if (edge < 0) break
      used[edge] = 1
      path.push(edge)
      vertex = needTo[edge]
      const seen = at.get(vertex)
      if (seen === undefined) at.set(vertex, path.length)
      else {
        const loop = path.splice(seen)
        for (const i of loop) if (needTo[i] !== vertex) at.delete(needTo[i])
        emit(loop)
        if (path.length === 0 && !(out.get(vertex) ?? []).some(i => !used[i])) break
      }
    }
  }
  return { positions: added, triangles, neighbours, unclosedEdges: needFrom.length, loops }
}

function ends(triangles: Uint32Array, halfEdge: number): [number, number] {
  const [a, b] = halfEdgeEnds(triangles, halfEdge)
  return a < b ? [a, b] : [b, a]
}
