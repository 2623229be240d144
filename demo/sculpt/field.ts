import { cross, dot, sub, unit, type Vec3 } from '@oak-stilts/core/mesh'

/** One carved piece: a distance that is negative inside, and the box outside which it is surely positive. mm. */
export interface Piece {
  readonly min: readonly [number, number, number]
  readonly max: readonly [number, number, number]
  /** About the distance to the surface; may be up to half too large or too small, never of the wrong sign. */
  distance(x: number, y: number, z: number): number
  /** Radius over which it is blended with pieces of the same group; 0 for a crisp joint. */
  readonly blend: number
  readonly group: number
  /** Cuts material away instead of adding it. */
  readonly cuts?: boolean
}

/** Smooth minimum of two distances over radius k (polynomial). */
export function softMin(a: number, b: number, k: number): number {
  if (k <= 0) return Math.min(a, b)
  const h = Math.max(k - Math.abs(a - b), 0) / k
  return Math.min(a, b) - h * h * k * 0.25
}

/** Combines pieces at a point: blends within groups, unites crisply between them, then cuts. */
export function combine(pieces: readonly Piece[], x: number, y: number, z: number, far: number): number {
  let united = far
  let group = -1, inGroup = far
  for (const p of pieces) {
    if (p.cuts) continue
    if (p.group !== group) {
      if (inGroup < united) united = inGroup
      group = p.group
      inGroup = far
    }
    inGroup = softMin(inGroup, p.distance(x, y, z), p.blend)
  }
  if (inGroup < united) united = inGroup
  for (const p of pieces) if (p.cuts) united = Math.max(united, -p.distance(x, y, z))
  return united
}

interface Options {
  readonly blend?: number
  readonly group?: number
  readonly cuts?: boolean
}

function boxAround(points: readonly Vec3[], radius: number): { min: [number, number, number]; max: [number, number, number] } {
  const min: [number, number, number] = [Infinity, Infinity, Infinity], max: [number, number, number] = [-Infinity, -Infinity, -Infinity]
  for (const p of points) {
    for (let a = 0; a < 3; a++) {
      min[a] = Math.min(min[a], p[a] - radius)
      max[a] = Math.max(max[a], p[a] + radius)
    }
  }
  return { min, max }
}

/** A piece from a distance function and the points that span it. */
export function piece(points: readonly Vec3[], radius: number, distance: Piece['distance'], options: Options = {}): Piece {
  return { ...boxAround(points, radius + (options.blend ?? 0)), distance, blend: options.blend ?? 0, group: options.group ?? 0, cuts: options.cuts }
}

/** A limb: a cone with round ends, radius r0 at a and r1 at b; `carve` may change the distance for relief. */
export function limb(a: Vec3, b: Vec3, r0: number, r1: number, options: Options & { carve?: (along: number, around: number, d: number) => number } = {}): Piece {
  const ab = sub(b, a)
  const length2 = dot(ab, ab)
  const axis = unit(ab)
  const side = unit(cross(axis, Math.abs(axis[2]) < 0.9 ? [0, 0, 1] : [1, 0, 0]))
  const up = cross(axis, side)
  const { carve } = options
  return piece([a, b], Math.max(r0, r1) + 0.3, (x, y, z) => {
    const px = x - a[0], py = y - a[1], pz = z - a[2]
    const t = Math.max(0, Math.min(1, (px * ab[0] + py * ab[1] + pz * ab[2]) / length2))
    const qx = px - ab[0] * t, qy = py - ab[1] * t, qz = pz - ab[2] * t
    const d = Math.hypot(qx, qy, qz) - (r0 + (r1 - r0) * t)
    if (!carve || d > 1.5) return d
    return carve(t * Math.sqrt(length2), Math.atan2(qx * up[0] + qy * up[1] + qz * up[2], qx * side[0] + qy * side[1] + qz * side[2]), d)
  }, options)
}

/** An ellipsoid with its own axes; the distance is scaled by the local gradient, so it blends evenly. */
export function mass(center: Vec3, radii: Vec3, long: Vec3 = [1, 0, 0], upHint: Vec3 = [0, 0, 1], options: Options = {}): Piece {
  const u = unit(long), v = unit(cross(upHint, u)), w = cross(u, v)
  return piece([center], Math.max(...radii), (x, y, z) => {
    const p: Vec3 = [x - center[0], y - center[1], z - center[2]]
    const a = dot(p, u) / radii[0], b = dot(p, v) / radii[1], c = dot(p, w) / radii[2]
    const k0 = Math.hypot(a, b, c)
    const k1 = Math.hypot(a / radii[0], b / radii[1], c / radii[2])
    return k1 < 1e-9 ? -Math.min(...radii) : (k0 * (k0 - 1)) / k1
  }, options)
}

/** A ring. */
export function torus(center: Vec3, axis: Vec3, radius: number, tube: number, options: Options = {}): Piece {
  const n = unit(axis)
  return piece([center], radius + tube, (x, y, z) => {
    const p: Vec3 = [x - center[0], y - center[1], z - center[2]]
    const h = dot(p, n)
    return Math.hypot(Math.sqrt(Math.max(0, dot(p, p) - h * h)) - radius, h) - tube
  }, options)
}

export interface VaneShape {
  /** Where the quill is rooted and where its tip ends. */
  readonly root: Vec3
  readonly tip: Vec3
  /** The direction that the vane's upper face looks in, roughly. */
  readonly face: Vec3
  readonly width: number
  readonly thickness: number
  /** How far the middle is arched out of the straight line from root to tip, mm. */
  readonly arch: number
  /** Barb pitch in mm; 0 for a plain blade. */
  readonly barbs: number
  /** Depth of the barb relief, mm. */
  readonly relief: number
  /** Amplitude and number of waves along the edge, for a ruffled blade. */
  readonly ruffle?: { readonly depth: number; readonly waves: number; readonly phase: number }
  /** Where the width peaks, 0 at the root to 1 at the tip. */
  readonly fullest?: number
  /** How pointed the tip is: larger is blunter. */
  readonly blunt?: number
}

/** A feather or a leaf: a thin arched blade with a quill, barb relief and a crisp edge. */
export function vane(s: VaneShape, options: Options = {}): Piece {
  const length = Math.hypot(...sub(s.tip, s.root))
  const u = unit(sub(s.tip, s.root))
  const v = unit(cross(s.face, u))
  const w = cross(u, v)
  const fullest = s.fullest ?? 0.6, blunt = s.blunt ?? 2.4
  const half = s.width / 2
  const outline = (t: number): number => {
    if (t <= 0 || t >= 1) return 0
    return t < fullest ? half * (0.28 + 0.72 * Math.sin((t / fullest) * (Math.PI / 2))) : half * (1 - ((t - fullest) / (1 - fullest)) ** blunt) ** 0.62
  }
  const reach = half + s.thickness + Math.abs(s.arch) + (s.ruffle?.depth ?? 0)
  return piece([s.root, s.tip], reach, (x, y, z) => {
    const px = x - s.root[0], py = y - s.root[1], pz = z - s.root[2]
    const a = px * u[0] + py * u[1] + pz * u[2], b = px * v[0] + py * v[1] + pz * v[2]
    let c = px * w[0] + py * w[1] + pz * w[2]
    const t = a / length, tc = Math.max(0, Math.min(1, t))
    c -= s.arch * 4 * tc * (1 - tc) - (b * b * 0.9) / (s.width * 1.4)
    const wide = outline(tc)
    const edge = Math.abs(b) / (wide + 0.2)
    if (s.ruffle) c -= s.ruffle.depth * Math.min(1, edge) ** 2 * Math.sin(tc * s.ruffle.waves * 2 * Math.PI + s.ruffle.phase + (b > 0 ? 0 : 2.1)) * Math.min(1, tc * 3)
    const inPlane = Math.max(Math.abs(b) - wide, (Math.abs(t - 0.5) - 0.5) * length)
    let thick = s.thickness * (1 - 0.35 * Math.min(1, edge) ** 2) * 0.5
    if (s.barbs > 0) {
      const phase = (a - Math.abs(b) * 0.9) / s.barbs
      const saw = phase - Math.floor(phase)
      thick -= s.relief * 0.5 * saw * Math.min(1, Math.abs(b) / 0.4)
    }
    // the quill stands a little above both faces
    const quill = Math.max(0, 1 - Math.abs(b) / (0.42 * (1.15 - tc)))
    thick += 0.16 * quill * (1 - tc * 0.8)
    // the rim is rounded over, so that a grid can follow it
    const r = 0.22
    const p = inPlane + r, q = (Math.abs(c) - thick) * 0.85 + r
    return p > 0 && q > 0 ? Math.hypot(p, q) - r : Math.max(p, q) - r
  }, options)
}
