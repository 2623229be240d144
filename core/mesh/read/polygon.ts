import earcut from 'earcut'
import { cross, dot } from '../vector'
import type { Vec3 } from '../triangle-mesh'

/**
 * Parts a polygon in space into triangles that face as it does: by a fan where it is convex, else by cutting off ears in the plane it
 * lies in most (Newell's normal).
 * @param corners vertex indices, at least four
 * @param positions x, y, z of every vertex
 * @param put told of every triangle
 */
export function splitPolygon(corners: readonly number[], positions: Float32Array, put: (a: number, b: number, c: number) => void): void {
  const at = (i: number): Vec3 => [positions[3 * corners[i]], positions[3 * corners[i] + 1], positions[3 * corners[i] + 2]]
  const normal = newell(corners.length, at)
  if (fits(corners.length, at, normal)) {
    for (let i = 1; i + 1 < corners.length; i++) put(corners[0], corners[i], corners[i + 1])
    return
  }
  // the two axes that the normal points along least
  const [x, y, z] = normal.map(Math.abs)
  const [u, v] = x >= y && x >= z ? [1, 2] : y >= z ? [2, 0] : [0, 1]
  const turned = normal[x >= y && x >= z ? 0 : y >= z ? 1 : 2] < 0
  const flat = corners.flatMap((_, i) => [at(i)[u], at(i)[v]])
  const ears = earcut(flat)
  for (let i = 0; i < ears.length; i += 3) {
    const [a, b, c] = [corners[ears[i]], corners[ears[i + 1]], corners[ears[i + 2]]]
    // ears come turned one way, whichever way the outline runs
    const ccw = doubleArea(flat, ears[i], ears[i + 1], ears[i + 2]) > 0
    if (ccw !== turned) put(a, b, c)
    else put(a, c, b)
  }
}

/** Twice the area of the polygon as a vector along its normal. Source: Newell's method. */
function newell(count: number, at: (i: number) => Vec3): Vec3 {
  let x = 0, y = 0, z = 0
  for (let i = 0; i < count; i++) {
    const [ax, ay, az] = at(i), [bx, by, bz] = at((i + 1) % count)
    x += (ay - by) * (az + bz)
    y += (az - bz) * (ax + bx)
    z += (ax - bx) * (ay + by)
  }
  return [x, y, z]
}

/** Whether a fan from the first corner faces the same way everywhere and goes around once. */
function fits(count: number, at: (i: number) => Vec3, normal: Vec3): boolean {
  const first = at(0)
  const from = (i: number): Vec3 => [at(i)[0] - first[0], at(i)[1] - first[1], at(i)[2] - first[2]]
  for (let i = 1; i + 1 < count; i++) if (dot(cross(from(i), from(i + 1)), normal) <= 0) return false
  return true
}

function doubleArea(flat: readonly number[], a: number, b: number, c: number): number {
  return (flat[2 * b] - flat[2 * a]) * (flat[2 * c + 1] - flat[2 * a + 1]) - (flat[2 * c] - flat[2 * a]) * (flat[2 * b + 1] - flat[2 * a + 1])
}
