import type { Frame, PointIn, Quaternion } from '../contract'
import { radians, boundsOf, centerOf, sizeOf, type Box, type Mesh, type Vec3 } from '../mesh'

/**
 * How a part stands: one convention everywhere. rotation = Rz(turn) · Ry(tiltY) · Rx(tiltX), right-handed, degrees, about the
 * centre of the part's bounding box, which comes to lie over the centre of the plate; then the lowest point stands at `liftMm`
 * above the plate, and x and y are centred anew by a whole number of pixels, so that a quarter turn keeps every pixel. Build coordinates: mm, origin at the centre of the plate, z up, the plate at z = 0.
 */
export interface Pose {
  readonly tiltXDeg: number
  readonly tiltYDeg: number
  readonly turnDeg: number
  readonly liftMm: number
  /** The rotation that the tilts are measured from, done before them; absent where they are measured from the file. */
  readonly zero?: Quaternion
}

export const DEFAULT_POSE: Pose = { tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm: 5 }

/** Takes points of one frame to another: the upper three rows of a 4 × 4 matrix, row by row. */
export type RigidMotion<From extends Frame = Frame, To extends Frame = Frame> = readonly [number, number, number, number, number, number, number, number, number, number, number, number] & { readonly __from?: From; readonly __to?: To }
/** How a part stands by itself: stand = M · part. */
export type Stand = RigidMotion<'part', 'stand'>

/** Leaves every point where it is. */
export const AS_IS: RigidMotion<never, never> = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]

/** Sine and cosine of an angle in degrees; exact at quarter turns. */
function sinCos(degrees: number): [number, number] {
  const quarter = (((degrees % 360) + 360) % 360) / 90
  if (Number.isInteger(quarter)) return [[0, 1, 0, -1][quarter], [1, 0, -1, 0][quarter]]
  const r = radians(degrees)
  return [Math.sin(r), Math.cos(r)]
}

/** The nine numbers of Rz(turn) · Ry(tiltY) · Rx(tiltX) · zero, row by row. */
export function rotationOf(pose: Pose): readonly number[] {
  const [sx, cx] = sinCos(pose.tiltXDeg)
  const [sy, cy] = sinCos(pose.tiltYDeg)
  const [sz, cz] = sinCos(pose.turnDeg)
  const r = [
    cz * cy, cz * sy * sx - sz * cx, cz * sy * cx + sz * sx,
    sz * cy, sz * sy * sx + cz * cx, sz * sy * cx - cz * sx,
    -sy, cy * sx, cy * cx,
  ]
  if (!pose.zero) return r
  const [x, y, z, w] = pose.zero
  const q = [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w), 2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w), 2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)]
  return q.map((_, i) => r[3 * Math.floor(i / 3)] * q[i % 3] + r[3 * Math.floor(i / 3) + 1] * q[3 + (i % 3)] + r[3 * Math.floor(i / 3) + 2] * q[6 + (i % 3)])
}

/**
 * Where a part goes for a pose: rotated about the centre of its bounding box, settled to the lift, centred on the plate.
 * @param positions vertices of the part in mm
 * @param pixelMm the printer's pixel: the shift in x and y is a whole number of these
 */
export function motionOfPose(positions: Float32Array, pose: Pose, pixelMm: number): RigidMotion<'part', 'plate'> {
  const r = rotationOf(pose)
  const c = centerOf(boundsOf(positions))
  let minX = Infinity, maxX = -Infinity, minY = Infinity, maxY = -Infinity, minZ = Infinity
  for (let i = 0; i < positions.length; i += 3) {
    const x = positions[i] - c[0], y = positions[i + 1] - c[1], z = positions[i + 2] - c[2]
    const bx = r[0] * x + r[1] * y + r[2] * z
    const by = r[3] * x + r[4] * y + r[5] * z
    const bz = r[6] * x + r[7] * y + r[8] * z
    if (bx < minX) minX = bx
    if (bx > maxX) maxX = bx
    if (by < minY) minY = by
    if (by > maxY) maxY = by
    if (bz < minZ) minZ = bz
  }
  const shiftX = Math.round(-(minX + maxX) / 2 / pixelMm) * pixelMm
  const shiftY = Math.round(-(minY + maxY) / 2 / pixelMm) * pixelMm
  const tx = shiftX - (r[0] * c[0] + r[1] * c[1] + r[2] * c[2])
  const ty = shiftY - (r[3] * c[0] + r[4] * c[1] + r[5] * c[2])
  const tz = pose.liftMm - minZ - (r[6] * c[0] + r[7] * c[1] + r[8] * c[2])
  return [r[0], r[1], r[2], tx, r[3], r[4], r[5], ty, r[6], r[7], r[8], tz]
}

/** Where a point comes to lie. */
export function movePoint<From extends Frame, To extends Frame>(m: RigidMotion<From, To>, p: PointIn<From>): PointIn<To> {
  return [
    m[0] * p[0] + m[1] * p[1] + m[2] * p[2] + m[3],
    m[4] * p[0] + m[5] * p[1] + m[6] * p[2] + m[7],
    m[8] * p[0] + m[9] * p[1] + m[10] * p[2] + m[11],
  ]
}

/** A direction, turned but not moved. */
export function moveDirection(m: RigidMotion, d: Vec3): [number, number, number] {
  return [m[0] * d[0] + m[1] * d[1] + m[2] * d[2], m[4] * d[0] + m[5] * d[1] + m[6] * d[2], m[8] * d[0] + m[9] * d[1] + m[10] * d[2]]
}

/** Where a point came from. */
export function movePointBack<From extends Frame, To extends Frame>(m: RigidMotion<From, To>, p: PointIn<To>): PointIn<From> {
  return moveDirectionBack(m, [p[0] - m[3], p[1] - m[7], p[2] - m[11]])
}

/** How a direction was before. */
export function moveDirectionBack(m: RigidMotion, d: Vec3): [number, number, number] {
  return [m[0] * d[0] + m[4] * d[1] + m[8] * d[2], m[1] * d[0] + m[5] * d[1] + m[9] * d[2], m[2] * d[0] + m[6] * d[1] + m[10] * d[2]]
}

/** A mesh where it comes to lie; the triangles are shared. */
export function moveMesh(mesh: Mesh, m: RigidMotion): Mesh {
  const p = mesh.positions
  const positions = new Float32Array(p.length)
  for (let i = 0; i < p.length; i += 3) {
    const x = p[i], y = p[i + 1], z = p[i + 2]
    positions[i] = m[0] * x + m[1] * y + m[2] * z + m[3]
    positions[i + 1] = m[4] * x + m[5] * y + m[6] * z + m[7]
    positions[i + 2] = m[8] * x + m[9] * y + m[10] * z + m[11]
  }
  return { ...mesh, positions }
}

/** The box of what is moved. */
export function movedBounds(positions: Float32Array, m: RigidMotion): Box {
  return boundsOf(moveMesh({ positions, triangles: new Uint32Array(0) }, m).positions)
}

/** How far above the lowest point a face still counts as part of what the file stands on, mm. */
const STANDING_SLACK_MM = 0.02
/** Share of the footprint that must lie on the lowest level for a file to count as standing. */
const STANDING_SHARE = 0.04
/** Or this much flat area, mm². */
const STANDING_AREA_MM2 = 20

/**
 * Whether the source's lowest part is a broad flat or a set of feet, so that it was made to stand: then "keep on the plate"
 * is offered. Judged by the area of downward faces within 0.02 mm of the lowest point.
 */
export function looksStanding(mesh: Mesh): boolean {
  const box = boundsOf(mesh.positions)
  const { positions: p, triangles: t } = mesh
  const limit = box.min[2] + STANDING_SLACK_MM
  let area = 0
  for (let i = 0; i < t.length; i += 3) {
    const a = 3 * t[i], b = 3 * t[i + 1], c = 3 * t[i + 2]
    if (p[a + 2] > limit || p[b + 2] > limit || p[c + 2] > limit) continue
    const signed = ((p[b] - p[a]) * (p[c + 1] - p[a + 1]) - (p[b + 1] - p[a + 1]) * (p[c] - p[a])) / 2
    if (signed < 0) area -= signed
  }
  const size = sizeOf(box)
  return area >= STANDING_AREA_MM2 || area >= STANDING_SHARE * size[0] * size[1]
}
