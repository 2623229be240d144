import { edgeRuns, halfEdgeEnds } from './edges'
import type { Mesh } from './triangle-mesh'

/** Whether every edge of a welded mesh is passed as often one way as the other, so that it bounds a body. */
export function isClosed({ positions, triangles }: Mesh): boolean {
  const { halfEdges, starts, edgeCount } = edgeRuns(triangles, positions.length / 3)
  for (let e = 0; e < edgeCount; e++) {
    let sum = 0
    for (let i = starts[e]; i < starts[e + 1]; i++) {
      const [a, b] = halfEdgeEnds(triangles, halfEdges[i])
      sum += a < b ? 1 : -1
    }
    if (sum !== 0) return false
  }
  return triangles.length > 0
}
