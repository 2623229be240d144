import { halfEdgeEnds, type EdgeRuns } from './edges'
import { triangleArea, type Mesh } from './triangle-mesh'

/**
 * Finds faces that are turned against their neighbours: over an edge of two faces, both run along it the same way. Of each piece that
 * hangs together over such edges the part of lesser area is turned; a piece that has one side only, as a Möbius band, is left alone.
 * @returns triangles to be turned, in order
 */
export function flippedFaces(mesh: Mesh, edges: EdgeRuns): Uint32Array {
  const { triangles: t } = mesh, count = t.length / 3
  const along = (halfEdge: number): number => halfEdgeEnds(t, halfEdge)[0]
  const pairs = (take: (a: number, b: number, against: boolean) => void): void => {
    for (let e = 0; e < edges.edgeCount; e++) {
      const from = edges.starts[e]
      if (edges.starts[e + 1] - from !== 2) continue
      const a = edges.halfEdges[from], b = edges.halfEdges[from + 1]
      take(a, b, along(a) === along(b))
    }
  }
  let wrong = 0
  pairs((_a, _b, against) => (wrong += against ? 1 : 0))
  if (wrong === 0) return new Uint32Array(0)
  // over each half-edge: the face beyond it, and whether that runs the wrong way
  const beyond = new Int32Array(3 * count).fill(-1), opposed = new Uint8Array(3 * count)
  pairs((a, b, against) => {
    beyond[a] = Math.floor(b / 3)
    beyond[b] = Math.floor(a / 3)
    opposed[a] = opposed[b] = against ? 1 : 0
  })
  const side = new Int8Array(count).fill(-1), flipped: number[] = []
  for (let root = 0; root < count; root++) {
    if (side[root] >= 0) continue
    const piece = [root], area = [0, 0]
    let oneSided = false
    side[root] = 0
    for (let i = 0; i < piece.length; i++) {
      const face = piece[i]
      area[side[face]] += triangleArea(mesh, face)
      for (let h = 3 * face; h < 3 * face + 3; h++) {
        const next = beyond[h]
        if (next < 0) continue
        const wanted = side[face] ^ opposed[h]
        if (side[next] < 0) {
          side[next] = wanted
          piece.push(next)
        } else if (side[next] !== wanted) oneSided = true
      }
    }
    if (oneSided || area[1] === 0) continue
    const lesser = area[1] <= area[0] ? 1 : 0
    for (const face of piece) if (side[face] === lesser) flipped.push(face)
  }
  return Uint32Array.from(flipped).sort()
}
