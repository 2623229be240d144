import type { Worth } from '@oak-stilts/core/contract'
import type { Mesh, Vec3 } from '@oak-stilts/core/mesh'
import type { DemoModel } from './jobs'
import { BORES } from './models/bracket'

/** A face by its middle, its outward normal, its corners. */
interface Face {
  readonly middle: Vec3
  readonly normal: Vec3
  readonly corners: readonly [Vec3, Vec3, Vec3]
}

/** What the workshop marks on its models: what each face is worth that is not plain. */
const WORTH_OF: Partial<Record<DemoModel, (face: Face) => Worth>> = {
  // head, breast and the upper side of the wings are seen; the post is not
  heron: ({ middle: [x, y, z], normal: [, , nz] }) => {
    if (z < 14.4 && Math.hypot(x, y) < 9) return 'spare'
    if (z > 55 && Math.abs(x) < 4) return 'prized'
    if (Math.abs(x) < 6.5) return y < -5 && z > 31 ? 'prized' : 'plain'
    return z > 30 && nz > -0.1 ? 'prized' : 'plain'
  },
  // what turns in a bore must fit; nobody sees the underside
  bracket: ({ corners, normal }) => {
    if (BORES.some(b => corners.every(([x, y, z]) => Math.abs((b.axis === 'y' ? Math.hypot(x - b.at[0], z - b.at[2]) : Math.hypot(x - b.at[0], y - b.at[1])) - b.radius) < 4e-3))) return 'off-limits'
    return normal[2] < -0.999 && corners.every(c => c[2] < 1e-4) ? 'spare' : 'plain'
  },
}

/** The faces of a demo model that are worth something else than usual, by the triangles of its file. */
export function marksOf(model: DemoModel, { positions: p, triangles: t }: Mesh): { readonly worth: Worth; readonly faces: number[] }[] {
  const worthOf = WORTH_OF[model], found = new Map<Worth, number[]>()
  if (!worthOf) return []
  for (let i = 0; i < t.length; i += 3) {
    const [a, b, c] = [0, 1, 2].map((k): Vec3 => [p[3 * t[i + k]], p[3 * t[i + k] + 1], p[3 * t[i + k] + 2]])
    const u = [b[0] - a[0], b[1] - a[1], b[2] - a[2]], v = [c[0] - a[0], c[1] - a[1], c[2] - a[2]]
    const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]], l = Math.hypot(n[0], n[1], n[2]) || 1
    const worth = worthOf({ middle: [(a[0] + b[0] + c[0]) / 3, (a[1] + b[1] + c[1]) / 3, (a[2] + b[2] + c[2]) / 3], normal: [n[0] / l, n[1] / l, n[2] / l], corners: [a, b, c] })
    if (worth === 'plain') continue
    const faces = found.get(worth)
    if (faces) faces.push(i / 3)
    else found.set(worth, [i / 3])
  }
  return [...found].map(([worth, faces]) => ({ worth, faces }))
}
