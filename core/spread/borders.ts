import { dot, sub, type Mesh, type Patches, type Vec3 } from '../mesh'
import { moveDirection, movePoint } from '../pose'
import type { Surface } from '../stilts'
import { cornersOf, type WayPoint } from './along'

/** A run of the border of faces, in order, the faces to the left of it. */
export interface BorderRun {
  readonly points: readonly WayPoint[]
  readonly closed: boolean
}

/** The normal of the face of a patch that lies along each side of its border. */
function normalsAlong(mesh: Mesh, patches: Patches, faces: readonly number[]): Map<string, Vec3> {
  const out = new Map<string, Vec3>(), { triangles: t } = mesh
  for (const f of faces) {
    const n = patches.normalOf(f)
    for (let c = 0; c < 3; c++) out.set(`${t[3 * f + c]} ${t[3 * f + ((c + 1) % 3)]}`, n)
  }
  return out
}

/** The borders of faces whole, in the stand. */
export function bordersOf(surface: Surface, patches: Patches, faces: readonly number[]): BorderRun[] {
  const { faces: mesh, stand } = surface, { positions: p } = mesh, normals = normalsAlong(mesh, patches, faces)
  return patches.loopsOf(faces).map(loop => ({
    closed: true,
    points: loop.map((v, i) => ({ point: movePoint(stand, [p[3 * v], p[3 * v + 1], p[3 * v + 2]]), normal: moveDirection(stand, normals.get(`${v} ${loop[(i + 1) % loop.length]}`) ?? [0, 0, -1]) })),
  }))
}

/** A border cut at its corners; itself where it has none. */
export function edgesOf(border: BorderRun): BorderRun[] {
  const { points } = border, n = points.length, corners = cornersOf(points.map(p => p.point), true)
  if (corners.length === 0) return [border]
  return corners.map((a, i) => {
    const b = i + 1 < corners.length ? corners[i + 1] : corners[0] + n, run = Array.from({ length: b - a + 1 }, (_, k) => points[(a + k) % n])
    // the last point is where the next edge begins, and looks as this one
    return { closed: false, points: run.map((p, k) => (k === run.length - 1 ? { ...p, normal: run[k - 1].normal } : p)) }
  })
}

/** How far a point is from a run, mm. */
export function distanceToRun({ points, closed }: BorderRun, at: Vec3): number {
  let nearest = Infinity
  for (let i = 0; i + (closed ? 0 : 1) < points.length; i++) {
    const a = points[i].point, along = sub(points[(i + 1) % points.length].point, a), l2 = dot(along, along), from = sub(at, a)
    const t = l2 > 0 ? Math.max(0, Math.min(1, dot(from, along) / l2)) : 0
    nearest = Math.min(nearest, Math.hypot(from[0] - t * along[0], from[1] - t * along[1], from[2] - t * along[2]))
  }
  return nearest
}
