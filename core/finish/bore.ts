import type { HoleStep } from '../contract'
import { dot, NearestTree, scale, type Mesh, type Vec3 } from '../mesh'

/** So far beyond the wall a hole goes, as a share of its diameter: the inner wall may lean where it comes out. */
export const BEYOND_WALL = 0.5
/** A ray does not meet the skin where it begins, mm. */
export const APART_MM = 1e-3

/** A hole as it is proposed, in the frame of the part. */
export interface Bore extends Pick<HoleStep, 'depthMm'> {
  readonly at: Vec3
  readonly into: Vec3
}

/**
 * Where a hole near a point begins on the skin of a part, which way it goes, and how deep: into the first open space behind the wall, and
 * through the whole part where there is none.
 * @param mesh the part, hollowed already @param into null for straight into the skin
 */
export function boreAt(mesh: Mesh, near: Vec3, diameterMm: number, into: Vec3 | null = null): Bore {
  const tree = new NearestTree(mesh)
  tree.ask(...near)
  return boreFrom(mesh, [tree.x, tree.y, tree.z], into ?? scale(tree.normalOf(tree.at), -1), diameterMm)
}

/** The same from a point of the skin, in the direction that is given. */
export function boreFrom(mesh: Mesh, at: Vec3, into: Vec3, diameterMm: number): Bore {
  const out = wayOut(mesh, at, into)
  return { at, into, depthMm: out.isEnd ? null : out.afterMm + BEYOND_WALL * diameterMm }
}

/** Where a ray from the skin into a body first leaves it, and whether nothing of it comes behind. */
function wayOut({ positions: p, triangles: t }: Mesh, from: Vec3, way: Vec3): { afterMm: number; isEnd: boolean } {
  let first = Infinity, last = 0
  for (let i = 0; i < t.length; i += 3) {
    const hit = along(p, 3 * t[i], 3 * t[i + 1], 3 * t[i + 2], from, way)
    if (hit <= APART_MM) continue
    first = Math.min(first, hit)
    last = Math.max(last, hit)
  }
  return { afterMm: first, isEnd: first >= last }
}

/** How far along a ray a triangle is met; −1 where it is not. Source: Möller and Trumbore, "Fast, Minimum Storage Ray/Triangle Intersection", JGT 2 (1997). */
export function along(p: Float32Array, a: number, b: number, c: number, from: Vec3, way: Vec3): number {
  const ux = p[b] - p[a], uy = p[b + 1] - p[a + 1], uz = p[b + 2] - p[a + 2], vx = p[c] - p[a], vy = p[c + 1] - p[a + 1], vz = p[c + 2] - p[a + 2]
  const nx = way[1] * vz - way[2] * vy, ny = way[2] * vx - way[0] * vz, nz = way[0] * vy - way[1] * vx, turn = ux * nx + uy * ny + uz * nz
  if (Math.abs(turn) < 1e-12) return -1
  const x = from[0] - p[a], y = from[1] - p[a + 1], z = from[2] - p[a + 2], r = (x * nx + y * ny + z * nz) / turn
  if (r < 0 || r > 1) return -1
  const across: Vec3 = [y * uz - z * uy, z * ux - x * uz, x * uy - y * ux], s = dot(way, across) / turn
  return s < 0 || r + s > 1 ? -1 : (vx * across[0] + vy * across[1] + vz * across[2]) / turn
}
