import type { CutStep } from '../contract'
import type { Hole, Plane } from '../carve'
import type { Hollowed } from '../hollow'
import { boundsOf, dot, InsideTest, sizeOf, type Mesh, type Vec3 } from '../mesh'

/** What opens a chamber, in the frame of the part. */
export interface Openings {
  readonly volumeMm3: number
  /** A point of the chamber. */
  readonly at: Vec3
  readonly box: { readonly min: Vec3; readonly max: Vec3 }
  /** How often it is open to the outside: a hole that goes right through it opens it twice. */
  readonly count: number
  /** The holes that do: which of those that are drilled, from 0. */
  readonly holes: readonly number[]
}

/** Places along a hole at which it is asked whether it is in a chamber, mm. */
const STEP_MM = 0.2
/** A point is moved so far off a wall into the chamber, mm. */
const OFF_WALL_MM = 0.05

/** What opens each chamber of a hollowed part. A chamber that a cut went through is open at the cut, and one beyond it is gone: neither is told. */
export function openingsOf({ mesh, chambers }: Pick<Hollowed, 'mesh' | 'chambers'>, holes: readonly Hole[], cuts: readonly (Plane & Pick<CutStep, 'keeps'>)[]): Openings[] {
  const longest = Math.hypot(...sizeOf(boundsOf(mesh.positions)))
  return chambers.filter(c => cuts.every(cut => staysWhole(mesh, c, cut))).map(({ volumeMm3, box, first, count: faces }): Openings => {
    const inside = new InsideTest(mesh, Uint32Array.from({ length: faces }, (_, i) => first + i)), isIn = (p: Vec3): boolean => inside.winding(p[0], p[1], p[2]) !== 0
    const opens = ({ at, into: way, depthMm }: Hole): boolean => {
      for (let far = 0; far <= (depthMm ?? longest); far += STEP_MM) if (isIn([at[0] + far * way[0], at[1] + far * way[1], at[2] + far * way[2]])) return true
      return false
    }
    const into = holes.flatMap((h, i) => (opens(h) ? [i] : []))
    // one that goes through the whole part comes out of the chamber again
    const count = into.reduce((sum, i) => sum + (holes[i].depthMm === null ? 2 : 1), 0)
    const middle = [0, 1, 2].map(a => (box.min[a] + box.max[a]) / 2) as unknown as Vec3
    return { volumeMm3, at: isIn(middle) ? middle : offWall(mesh, first), box, count, holes: into }
  })
}

/** Whether all of a chamber lies on the side of a cut that is kept. */
function staysWhole({ positions: p, triangles: t }: Mesh, { first, count }: { readonly first: number; readonly count: number }, { normal, offsetMm, keeps }: Plane & Pick<CutStep, 'keeps'>): boolean {
  const side = keeps === 'above' ? 1 : -1
  for (let i = 3 * first; i < 3 * (first + count); i++) {
    const v = 3 * t[i]
    if (side * (dot(normal, [p[v], p[v + 1], p[v + 2]]) - offsetMm) < 0) return false
  }
  return true
}

/** A point just off a face of a wall, on the side that it looks at. */
function offWall({ positions: p, triangles: t }: Mesh, face: number): Vec3 {
  const [a, b, c] = [0, 1, 2].map((k): Vec3 => [p[3 * t[3 * face + k]], p[3 * t[3 * face + k] + 1], p[3 * t[3 * face + k] + 2]])
  const u = [0, 1, 2].map(i => b[i] - a[i]), v = [0, 1, 2].map(i => c[i] - a[i]), n: Vec3 = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]], long = Math.hypot(...n) || 1
  return [0, 1, 2].map(i => (a[i] + b[i] + c[i]) / 3 + (OFF_WALL_MM * n[i]) / long) as unknown as Vec3
}
