import type { EdgeRuns } from '../edges'
import { halfEdgeEnds } from '../edges'
import type { Mesh } from '../triangle-mesh'
import { Places, type MeshFault } from './faults'

/** A face whose height over its longest edge is under this share of that edge is a sliver. */
const SLIVER = 1e-3

/** Faces so narrow that their direction is not to be trusted; those without any area count too. */
export function slivers(mesh: Mesh): MeshFault {
  const { positions: p, triangles: t } = mesh, places = new Places(mesh)
  let count = 0
  for (let i = 0; i < t.length; i += 3) {
    let longest = 0
    for (let c = 0; c < 3; c++) {
      const a = 3 * t[i + c], b = 3 * t[i + ((c + 1) % 3)]
      longest = Math.max(longest, (p[b] - p[a]) ** 2 + (p[b + 1] - p[a + 1]) ** 2 + (p[b + 2] - p[a + 2]) ** 2)
    }
    const a = 3 * t[i], b = 3 * t[i + 1], c = 3 * t[i + 2]
    const ux = p[b] - p[a], uy = p[b + 1] - p[a + 1], uz = p[b + 2] - p[a + 2], vx = p[c] - p[a], vy = p[c + 1] - p[a + 1], vz = p[c + 2] - p[a + 2]
    // twice the area is the height times the edge
    const doubled = Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx)
    if (doubled >= SLIVER * longest) continue
    count++
    places.face(t, i / 3)
  }
  return { kind: 'sliver', count, more: false, segments: places.taken() }
}

/** Edges that more than two faces share. */
export function manyFaced(mesh: Mesh, edges: EdgeRuns): MeshFault {
  const places = new Places(mesh)
  let count = 0
  for (let e = 0; e < edges.edgeCount; e++) {
    if (edges.starts[e + 1] - edges.starts[e] <= 2) continue
    count++
    places.edge(...halfEdgeEnds(mesh.triangles, edges.halfEdges[edges.starts[e]]))
  }
  return { kind: 'many-faced', count, more: false, segments: places.taken() }
}
