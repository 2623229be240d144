import type { Mesh, Vec3 } from '../mesh'

/** One closed outline of a section through a solid, as a piece of a plane. */
export interface Section {
  readonly areaMm2: number
  readonly center: Vec3
  /** Radius of the circle of its area, mm. */
  readonly radiusMm: number
  /** From its centre to its farthest corner, mm. */
  readonly reachMm: number
}

/**
 * Sections of some triangles of a closed mesh by a plane: one for each outline, in no order. Corners lie on edges of the mesh, by which
 * the outlines are followed, so nothing has to be matched by distance.
 * @param normal of length 1
 */
export function sectionsOf({ positions: p, triangles: t }: Mesh, some: ArrayLike<number>, point: Vec3, normal: Vec3): Section[] {
  const [nx, ny, nz] = normal, level = point[0] * nx + point[1] * ny + point[2] * nz
  const next = new Map<number, number>(), corners = new Map<number, Vec3>(), vertices = p.length / 3
  const height = (v: number): number => p[3 * v] * nx + p[3 * v + 1] * ny + p[3 * v + 2] * nz - level
  const corner = (a: number, b: number, ha: number, hb: number): number => {
    const key = a < b ? a * vertices + b : b * vertices + a
    if (!corners.has(key)) {
      const s = ha / (ha - hb)
      corners.set(key, [p[3 * a] + (p[3 * b] - p[3 * a]) * s, p[3 * a + 1] + (p[3 * b + 1] - p[3 * a + 1]) * s, p[3 * a + 2] + (p[3 * b + 2] - p[3 * a + 2]) * s])
    }
    return key
  }
  for (let i = 0; i < some.length; i++) {
    const n = 3 * some[i], a = t[n], b = t[n + 1], c = t[n + 2], ha = height(a), hb = height(b), hc = height(c)
    // a corner on the plane counts as above it
    const ua = ha >= 0, ub = hb >= 0, uc = hc >= 0
    if (ua === ub && ub === uc) continue
    // the one corner that is alone on its side, and the two edges from it
    const [v, w, x, hv, hw, hx] = ub === uc ? [a, b, c, ha, hb, hc] : ua === uc ? [b, c, a, hb, hc, ha] : [c, a, b, hc, ha, hb]
    const from = corner(v, w, hv, hw), to = corner(x, v, hx, hv)
    if (hv >= 0) next.set(from, to)
    else next.set(to, from)
  }
  const out: Section[] = []
  while (next.size > 0) {
    const [start] = next.keys(), loop: Vec3[] = []
    for (let key: number | undefined = start; key !== undefined; ) {
      loop.push(corners.get(key) as Vec3)
      const to: number | undefined = next.get(key)
      next.delete(key)
      key = to === start ? undefined : to
    }
    if (loop.length >= 3) out.push(sectionOf(loop, normal))
  }
  return out
}

function sectionOf(loop: readonly Vec3[], n: Vec3): Section {
  const [o] = loop
  let area = 0, x = 0, y = 0, z = 0
  for (let i = 1; i + 1 < loop.length; i++) {
    const a = loop[i], b = loop[i + 1]
    const ux = a[0] - o[0], uy = a[1] - o[1], uz = a[2] - o[2], vx = b[0] - o[0], vy = b[1] - o[1], vz = b[2] - o[2]
    const w = ((uy * vz - uz * vy) * n[0] + (uz * vx - ux * vz) * n[1] + (ux * vy - uy * vx) * n[2]) / 2
    area += w
    x += (w * (o[0] + a[0] + b[0])) / 3
    y += (w * (o[1] + a[1] + b[1])) / 3
    z += (w * (o[2] + a[2] + b[2])) / 3
  }
  const center: Vec3 = Math.abs(area) > 1e-12 ? [x / area, y / area, z / area] : o
  return { areaMm2: Math.abs(area), center, radiusMm: Math.sqrt(Math.abs(area) / Math.PI), reachMm: Math.max(...loop.map(q => Math.hypot(q[0] - center[0], q[1] - center[1], q[2] - center[2]))) }
}
