import { add, cross, degrees, dot, radians, scale, unit, type Vec3 } from '../mesh'

/** Even points on a sphere. Source: Swinbank and Purser, Fibonacci grids: a novel approach to global modelling (2006). */
export function sphereLattice(count: number): Vec3[] {
  const golden = Math.PI * (3 - Math.sqrt(5))
  return Array.from({ length: count }, (_, i): Vec3 => {
    const z = 1 - (2 * i + 1) / count, r = Math.sqrt(1 - z * z)
    return [r * Math.cos(golden * i), r * Math.sin(golden * i), z]
  })
}

/** The order in which each point is as far as can be from a start and from all points before it; ties by number. So a part of it covers the sphere evenly too. */
export function farthestFirst(points: readonly Vec3[], start: Vec3): Vec3[] {
  const nearest = points.map(p => 1 - dot(p, start)), out: Vec3[] = []
  for (let n = 0; n < points.length; n++) {
    let best = -1
    for (let i = 0; i < points.length; i++) if (nearest[i] >= 0 && (best < 0 || nearest[i] > nearest[best] + 1e-12)) best = i
    const chosen = points[best]
    out.push(chosen)
    nearest[best] = -1
    for (let i = 0; i < points.length; i++) if (nearest[i] >= 0) nearest[i] = Math.min(nearest[i], 1 - dot(points[i], chosen))
  }
  return out
}

/** A direction across another one. */
export function acrossOf(direction: Vec3): Vec3 {
  return unit(cross(direction, Math.abs(direction[0]) < 0.6 ? [1, 0, 0] : [0, 1, 0]))
}

/** Directions all around another one, so many degrees off. */
export function around(direction: Vec3, offDeg: number, count: number): Vec3[] {
  const u = acrossOf(direction), v = cross(direction, u), c = Math.cos(radians(offDeg)), s = Math.sin(radians(offDeg))
  return Array.from({ length: count }, (_, i) => {
    const a = (2 * Math.PI * i) / count
    return unit(add(scale(direction, c), add(scale(u, s * Math.cos(a)), scale(v, s * Math.sin(a)))))
  })
}

/** A direction turned about an axis. Source: Rodrigues' formula. */
export function turnedAbout(p: Vec3, axis: Vec3, angle: number): Vec3 {
  const c = Math.cos(angle), s = Math.sin(angle), q = cross(axis, p), along = dot(axis, p) * (1 - c)
  return [p[0] * c + q[0] * s + axis[0] * along, p[1] * c + q[1] * s + axis[1] * along, p[2] * c + q[2] * s + axis[2] * along]
}

/** Degrees between two directions. */
export function angleBetween(a: Vec3, b: Vec3): number {
  return degrees(Math.acos(Math.max(-1, Math.min(1, dot(a, b)))))
}

/**
 * Where a direction comes to lie on a disc of radius 1 on which equal areas of the sphere are equal: straight up in the middle, straight
 * down all around the edge.
 * Source: Snyder, Map Projections: A Working Manual (USGS 1395), Lambert azimuthal equal-area.
 */
export function onDisc([x, y, z]: Vec3): readonly [number, number] {
  // sin(θ/2), written so that it is exact near the middle
  const flat = Math.hypot(x, y), r = Math.sqrt(Math.max(0, (1 - z) / 2))
  return flat > 0 ? [(x / flat) * r, (y / flat) * r] : [r, 0]
}

/** The direction at a point of the disc; null outside it. */
export function fromDisc(x: number, y: number): Vec3 | null {
  const q = x * x + y * y
  if (q > 1) return null
  const across = 2 * Math.sqrt(1 - q)
  return [x * across, y * across, 1 - 2 * q]
}
