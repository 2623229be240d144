import { cross, joinMeshes, unit, type Mesh, type Vec3 } from '../mesh'

/** A sphere of latitudes and longitudes around a centre, radius in mm, facing outward. */
export function sphere(center: Vec3, radius: number, segments = 48): Mesh {
  const profile: [number, number][] = []
  const n = segments / 2
  for (let i = 0; i <= n; i++) profile.push([radius * Math.sin((Math.PI * i) / n), -radius * Math.cos((Math.PI * i) / n)])
  profile[0][0] = profile[n][0] = 0
  return lathe(profile, segments, center)
}

/** Turns a closed profile of (radius, height) points, listed from bottom to top along the outside, about the z axis. Ends on the axis. */
export function lathe(profile: readonly (readonly [number, number])[], segments: number, center: Vec3 = [0, 0, 0]): Mesh {
  const positions: number[] = [], triangles: number[] = []
  const ring: number[] = []
  for (const [r, z] of profile) {
    ring.push(positions.length / 3)
    const count = r === 0 ? 1 : segments
    for (let s = 0; s < count; s++) {
      const a = (2 * Math.PI * s) / segments
      positions.push(center[0] + r * Math.cos(a), center[1] + r * Math.sin(a), center[2] + z)
    }
  }
  for (let i = 0; i + 1 < profile.length; i++) {
    const pole = profile[i][0] === 0, nextPole = profile[i + 1][0] === 0
    for (let s = 0; s < segments; s++) {
      const t = (s + 1) % segments
      const a = ring[i] + (pole ? 0 : s), b = ring[i] + (pole ? 0 : t)
      const c = ring[i + 1] + (nextPole ? 0 : s), d = ring[i + 1] + (nextPole ? 0 : t)
      if (!pole) triangles.push(a, b, d)
      if (!nextPole) triangles.push(a, d, c)
    }
  }
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) }
}

/** A box between two corners, in mm. */
export function box(min: Vec3, max: Vec3): Mesh {
  const positions: number[] = []
  for (let i = 0; i < 8; i++) positions.push(i & 1 ? max[0] : min[0], i & 2 ? max[1] : min[1], i & 4 ? max[2] : min[2])
  const quads = [[0, 2, 3, 1], [4, 5, 7, 6], [0, 1, 5, 4], [2, 6, 7, 3], [0, 4, 6, 2], [1, 3, 7, 5]]
  const triangles = quads.flatMap(([a, b, c, d]) => [a, b, c, a, c, d])
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) }
}

/** The same surface inside out. */
export function reversed(mesh: Mesh): Mesh {
  const triangles = mesh.triangles.slice()
  for (let i = 0; i < triangles.length; i += 3) {
    const s = triangles[i + 1]
    triangles[i + 1] = triangles[i + 2]
    triangles[i + 2] = s
  }
  return { positions: mesh.positions, triangles }
}

/** Moved by a vector in mm. */
export function moved(mesh: Mesh, by: Vec3): Mesh {
  return { positions: mesh.positions.map((v, i) => v + by[i % 3]), triangles: mesh.triangles }
}

/** An upright bowl: outer radius, wall and floor thickness, height in mm; its underside at z. */
export function bowl(radius: number, wall: number, height: number, floor: number, z: number, segments = 96): Mesh {
  return lathe([[0, 0], [radius, 0], [radius, height], [radius - wall, height], [radius - wall, floor], [0, floor]], segments, [0, 0, z])
}

/** A closed tube around a (p, q) torus knot, facing outward: `along` × `around` quads. Radii in mm. */
export function knot(along: number, around: number, major: number, minor: number, tube: number, center: Vec3, p = 2, q = 3): Mesh {
  const positions = new Float32Array(along * around * 3)
  const triangles = new Uint32Array(along * around * 6)
  const point = (u: number): [number, number, number] => {
    const r = major + minor * Math.cos(q * u)
    return [r * Math.cos(p * u), r * Math.sin(p * u), minor * Math.sin(q * u) * 1.25]
  }
  for (let i = 0; i < along; i++) {
    const u = (2 * Math.PI * i) / along
    const a = point(u), b = point(u + 1e-4)
    const t = unit([b[0] - a[0], b[1] - a[1], b[2] - a[2]])
    const n = unit(cross(t, unit([a[0], a[1], a[2] + 2])))
    const m = cross(t, n)
    for (let j = 0; j < around; j++) {
      const v = (2 * Math.PI * j) / around, c = Math.cos(v) * tube, s = Math.sin(v) * tube
      for (let x = 0; x < 3; x++) positions[3 * (i * around + j) + x] = center[x] + a[x] + c * n[x] + s * m[x]
      const i2 = (i + 1) % along, j2 = (j + 1) % around
      triangles.set([i * around + j, i2 * around + j2, i2 * around + j, i * around + j, i * around + j2, i2 * around + j2], 6 * (i * around + j))
    }
  }
  return { positions, triangles }
}

/** A body between two curves over x, low and high at every x, from y0 to y1: one closed solid. */
export function curtain(xs: readonly number[], low: readonly number[], high: readonly number[], y0: number, y1: number): Mesh {
  const n = xs.length
  const positions: number[] = []
  for (let i = 0; i < n; i++) positions.push(xs[i], y0, low[i], xs[i], y1, low[i], xs[i], y0, high[i], xs[i], y1, high[i])
  const t: number[] = []
  const quad = (a: number, b: number, c: number, d: number): void => {
    t.push(a, b, c, a, c, d)
  }
  for (let i = 0; i + 1 < n; i++) {
    const a = 4 * i, b = a + 4
    quad(a, a + 1, b + 1, b)
    quad(a + 2, b + 2, b + 3, a + 3)
    quad(a, b, b + 2, a + 2)
    quad(a + 1, a + 3, b + 3, b + 1)
  }
  quad(0, 2, 3, 1)
  const e = 4 * (n - 1)
  quad(e, e + 1, e + 3, e + 2)
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(t) }
}

export { joinMeshes }
