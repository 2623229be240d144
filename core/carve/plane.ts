import type { Mat4 } from 'manifold-3d'
import { axesAcross, cross, degrees, dot, radians, scale, type Vec3 } from '../mesh'

/** A plane: all points whose product with the normal, of length 1, is the offset. What the normal looks at is above it. */
export interface Plane {
  readonly normal: Vec3
  readonly offsetMm: number
}

/** Axes of a plane: its normal upward, two directions along it. */
export interface PlaneFrame {
  /** Columns of a matrix that takes points of the mesh to the plane's own coordinates, z = 0 on it. */
  readonly there: Mat4
  /** The way back. */
  readonly back: Mat4
  /** A point of the plane by its own two coordinates, in the frame of the mesh. */
  point(x: number, y: number): Vec3
}

export function frameOf({ normal: n, offsetMm }: Plane): PlaneFrame {
  const [u, v] = axesAcross(n)
  const foot = scale(n, offsetMm)
  return {
    there: [u[0], v[0], n[0], 0, u[1], v[1], n[1], 0, u[2], v[2], n[2], 0, 0, 0, -offsetMm, 1],
    back: [...u, 0, ...v, 0, ...n, 0, ...foot, 1],
    point: (p, q) => [foot[0] + p * u[0] + q * v[0], foot[1] + p * u[1] + q * v[1], foot[2] + p * u[2] + q * v[2]],
  }
}

/** A point of the plane in its own two coordinates. */
export function flatOf(plane: Plane, [x, y, z]: Vec3): [number, number] {
  const { there: t } = frameOf(plane)
  return [t[0] * x + t[4] * y + t[8] * z + t[12], t[1] * x + t[5] * y + t[9] * z + t[13]]
}

/** The plane through three points, which lie counter-clockwise seen from above it; null where they lie in line. */
export function planeThrough([ax, ay, az]: Vec3, b: Vec3, c: Vec3): Plane | null {
  const n = cross([b[0] - ax, b[1] - ay, b[2] - az], [c[0] - ax, c[1] - ay, c[2] - az]), long = Math.hypot(...n)
  if (!(long > 1e-9)) return null
  const normal = scale(n, 1 / long)
  return { normal, offsetMm: dot(normal, [ax, ay, az]) }
}

/** The direction upward, leaned about x and then about y, as a part is tilted. */
export function leaned(xDeg: number, yDeg: number): Vec3 {
  const x = radians(xDeg), y = radians(yDeg)
  return [Math.sin(y) * Math.cos(x), -Math.sin(x), Math.cos(y) * Math.cos(x)]
}

/** The two angles by which a direction is leaned, degrees. */
export function leansOf([x, y, z]: Vec3): [number, number] {
  return [degrees(-Math.asin(Math.max(-1, Math.min(1, y)))), Math.hypot(x, z) > 1e-9 ? degrees(Math.atan2(x, z)) : 0]
}
