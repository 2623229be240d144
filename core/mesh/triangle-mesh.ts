/** A triangle mesh as a structure of arrays, so that it can be handed to a worker as it is. */
export interface Mesh {
  /** x, y, z of every vertex in mm, three numbers a vertex. */
  readonly positions: Float32Array
  /** Three vertex indices a triangle, counter-clockwise seen from outside. */
  readonly triangles: Uint32Array
  /** Which triangle of its file each comes from, `NO_SOURCE` for skin that was made; where it is absent, every triangle is the file's of the same number. */
  readonly from?: Uint32Array
}

/** Stands for a triangle that no file has. */
export const NO_SOURCE = 0xffffffff

export type Vec3 = readonly [number, number, number]

/** An axis-aligned box in mm. */
export interface Box {
  readonly min: Vec3
  readonly max: Vec3
}

/** The box around all vertices; of an empty list, a box with `min` above `max`. */
export function boundsOf(positions: ArrayLike<number>): Box {
  const min: [number, number, number] = [Infinity, Infinity, Infinity]
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < positions.length; i += 3) {
    for (let a = 0; a < 3; a++) {
      const v = positions[i + a]
      if (v < min[a]) min[a] = v
      if (v > max[a]) max[a] = v
    }
  }
  return { min, max }
}

/** Edge lengths of a box in mm. */
export function sizeOf(box: Box): Vec3 {
  return [box.max[0] - box.min[0], box.max[1] - box.min[1], box.max[2] - box.min[2]]
}

/** Centre of a box in mm. */
export function centerOf(box: Box): Vec3 {
  return [(box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2, (box.min[2] + box.max[2]) / 2]
}

/**
 * Six times the signed volume of the tetrahedron between a reference point and one triangle, in mm³.
 * Summed over a closed mesh it is six times its volume (divergence theorem), whatever the reference point.
 */
export function sixVolumes(mesh: Mesh, triangle: number, reference: Vec3): number {
  const { positions: p, triangles: t } = mesh
  const a = 3 * t[3 * triangle], b = 3 * t[3 * triangle + 1], c = 3 * t[3 * triangle + 2]
  const [rx, ry, rz] = reference
  const ax = p[a] - rx, ay = p[a + 1] - ry, az = p[a + 2] - rz
  const bx = p[b] - rx, by = p[b + 1] - ry, bz = p[b + 2] - rz
  const cx = p[c] - rx, cy = p[c + 1] - ry, cz = p[c + 2] - rz
  return ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)
}

/** Area of one triangle in mm². */
export function triangleArea(mesh: Mesh, triangle: number): number {
  const { positions: p, triangles: t } = mesh
  const a = 3 * t[3 * triangle], b = 3 * t[3 * triangle + 1], c = 3 * t[3 * triangle + 2]
  const ux = p[b] - p[a], uy = p[b + 1] - p[a + 1], uz = p[b + 2] - p[a + 2]
  const vx = p[c] - p[a], vy = p[c + 1] - p[a + 1], vz = p[c + 2] - p[a + 2]
  return Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2
}

/** Area of all triangles in mm². */
export function areaOf(mesh: Mesh): number {
  let sum = 0
  for (let i = 0; i < mesh.triangles.length / 3; i++) sum += triangleArea(mesh, i)
  return sum
}

/** Signed volume of a closed mesh in mm³: positive where its faces look outward. */
export function volumeOf(mesh: Mesh): number {
  if (mesh.positions.length === 0) return 0
  const reference = centerOf(boundsOf(mesh.positions))
  let sum = 0
  for (let i = 0; i < mesh.triangles.length / 3; i++) sum += sixVolumes(mesh, i, reference)
  return sum / 6
}

/** Several meshes as one, vertices kept apart. */
export function joinMeshes(meshes: readonly Mesh[]): Mesh {
  let vertexValues = 0, indexValues = 0
  for (const m of meshes) {
    vertexValues += m.positions.length
    indexValues += m.triangles.length
  }
  const positions = new Float32Array(vertexValues)
  const triangles = new Uint32Array(indexValues)
  let v = 0, t = 0
  for (const m of meshes) {
    positions.set(m.positions, v)
    for (let i = 0; i < m.triangles.length; i++) triangles[t + i] = m.triangles[i] + v / 3
    v += m.positions.length
    t += m.triangles.length
  }
  return { positions, triangles }
}
