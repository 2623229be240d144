import type { Mesh } from '../triangle-mesh'
import { BoxTree } from './box-tree'

/** Pairs that are counted; with more the count says "over". */
export const MOST_CROSSINGS = 100_000
/** A corner this near to the plane of a face lies in it: a share of what its numbers can tell apart. */
const IN_PLANE = 1e-11

/** Faces that run through each other. */
export interface Crossings {
  /** Pairs of faces; `MOST_CROSSINGS` where there are as many or more. */
  readonly pairs: number
  /** Where the first of them cross: x, y, z of both ends of a segment, in the mesh's coordinates. */
  readonly segments: Float32Array
}

/**
 * Finds faces that run through each other: an edge of one pierces the inside of the other. Faces that only touch, lie in one plane, or
 * share an edge do not. By a tree of boxes against itself.
 * Source: segment against triangle by signs of volumes (Segura and Feito, "Algorithms to test ray–triangle intersection", WSCG 2001).
 * @param mostSegments of which the places are kept
 */
export function findCrossings(mesh: Mesh, mostSegments: number): Crossings {
  const { positions: p, triangles: t } = mesh
  const segments: number[] = [], ends: number[] = []
  let pairs = 0
  /** Notes where an edge of one face goes through another. */
  const pierce = (face: number, other: number): void => {
    const x = 3 * t[3 * other], y = 3 * t[3 * other + 1], z = 3 * t[3 * other + 2]
    for (let c = 0; c < 3; c++) {
      const a = 3 * t[3 * face + c], b = 3 * t[3 * face + (c === 2 ? 0 : c + 1)]
      const above = orientation(p, x, y, z, a), below = orientation(p, x, y, z, b)
      if (above === 0 || below === 0 || above > 0 === below > 0) continue
      const s = orientation(p, a, b, x, y), r = orientation(p, a, b, y, z), q = orientation(p, a, b, z, x)
      if (!((s > 0 && r > 0 && q > 0) || (s < 0 && r < 0 && q < 0))) continue
      const f = above / (above - below)
      for (let axis = 0; axis < 3; axis++) ends.push(p[a + axis] + (p[b + axis] - p[a + axis]) * f)
    }
  }
  new BoxTree(mesh).pairs((one, other) => {
    const corners = sharedCorners(t, one, other)
    if (corners > 1 || beside(p, t, one, other) || beside(p, t, other, one)) return false
    ends.length = 0
    pierce(one, other)
    pierce(other, one)
    if (ends.length === 0) return false
    pairs++
    // of two faces that share a corner the crossing begins there
    if (segments.length < 6 * mostSegments) segments.push(...ends.slice(0, 3), ...(ends.length >= 6 ? ends.slice(3, 6) : sharedCorner(p, t, one, other) ?? ends.slice(0, 3)))
    return pairs >= MOST_CROSSINGS
  })
  return { pairs, segments: Float32Array.from(segments) }
}

function sharedCorners(t: Uint32Array, i: number, j: number): number {
  const d = t[3 * j], e = t[3 * j + 1], f = t[3 * j + 2]
  let n = 0
  for (let k = 3 * i; k < 3 * i + 3; k++) if (t[k] === d || t[k] === e || t[k] === f) n++
  return n
}
function sharedCorner(p: Float32Array, t: Uint32Array, i: number, j: number): number[] | null {
  for (let a = 0; a < 3; a++) for (let b = 0; b < 3; b++) if (t[3 * i + a] === t[3 * j + b]) return [...p.subarray(3 * t[3 * i + a], 3 * t[3 * i + a] + 3)]
  return null
}

/** Whether a face lies on one side of the plane of another, or in it. */
function beside(p: Float32Array, t: Uint32Array, face: number, plane: number): boolean {
  const x = 3 * t[3 * plane], y = 3 * t[3 * plane + 1], z = 3 * t[3 * plane + 2]
  let above = 0, below = 0
  for (let c = 0; c < 3; c++) {
    const side = orientation(p, x, y, z, 3 * t[3 * face + c])
    if (side > 0) above++
    else if (side < 0) below++
  }
  return above === 0 || below === 0
}

/** Six times the volume between four vertices; 0 where it is nothing against the lengths it comes from. */
function orientation(p: Float32Array, a: number, b: number, c: number, d: number): number {
  const ax = p[a] - p[d], ay = p[a + 1] - p[d + 1], az = p[a + 2] - p[d + 2]
  const bx = p[b] - p[d], by = p[b + 1] - p[d + 1], bz = p[b + 2] - p[d + 2]
  const cx = p[c] - p[d], cy = p[c + 1] - p[d + 1], cz = p[c + 2] - p[d + 2]
  const x = by * cz - bz * cy, y = bz * cx - bx * cz, z = bx * cy - by * cx
  const volume = ax * x + ay * y + az * z
  const size = Math.abs(ax * x) + Math.abs(ay * y) + Math.abs(az * z)
  return Math.abs(volume) <= IN_PLANE * size ? 0 : volume
}
