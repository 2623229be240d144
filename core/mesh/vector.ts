import type { Vec3 } from './triangle-mesh'

// Points and directions, x, y, z.

export function add(a: Vec3, b: Vec3): Vec3 {
  return [a[0] + b[0], a[1] + b[1], a[2] + b[2]]
}
export function sub(a: Vec3, b: Vec3): Vec3 {
  return [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
}
export function scale(v: Vec3, s: number): Vec3 {
  return [v[0] * s, v[1] * s, v[2] * s]
}
export function dot(a: Vec3, b: Vec3): number {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
}
export function cross(a: Vec3, b: Vec3): Vec3 {
  return [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
}
export function distance(a: Vec3, b: Vec3): number {
  return Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])
}
/** Of length 1; zero stays zero. */
export function unit(v: Vec3): Vec3 {
  const l = Math.hypot(v[0], v[1], v[2]) || 1
  return [v[0] / l, v[1] / l, v[2] / l]
}
/** Where a straight line from one point to another is after a share of it. */
export function between(a: Vec3, b: Vec3, t: number): Vec3 {
  return [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t]
}

export function radians(degrees: number): number {
  return (degrees * Math.PI) / 180
}
export function degrees(radians: number): number {
  return (radians * 180) / Math.PI
}
/** How far the line from an upper point down to a lower one leans from vertical, degrees; over 90 where it rises. */
export function leanOf(upper: Vec3, lower: Vec3): number {
  return degrees(Math.atan2(Math.hypot(lower[0] - upper[0], lower[1] - upper[1]), upper[2] - lower[2]))
}

/** Two directions across a third one of length 1, the three at right angles and right-handed. Source: Duff et al., "Building an Orthonormal Basis, Revisited", JCGT 6 (2017). */
export function axesAcross([x, y, z]: Vec3): readonly [Vec3, Vec3] {
  const s = z < 0 ? -1 : 1, a = -1 / (s + z), b = x * y * a
  return [[1 + s * x * x * a, s * b, -s * x], [b, s + y * y * a, -y]]
}
