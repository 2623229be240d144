import { WORTHS, type Mark, type Worth } from '../contract'
import { NO_SOURCE, triangleArea, type Mesh } from '../mesh'

/** Worths as numbers, as they stand in arrays. */
export const PLAIN = 0, PRIZED = 1, SPARE = 2, OFF_LIMITS = 3

export function codeOf(worth: Worth): number {
  return WORTHS.indexOf(worth)
}

/** What each triangle of a file is worth, by marks in the order of their making. @param count of triangles; marks beyond it are left out */
export function worthsOf(marks: readonly Mark[], count: number): Uint8Array {
  const out = new Uint8Array(count)
  for (const { worth, runs } of marks) {
    let at = 0
    for (let i = 0; i < runs.length; i += 2) {
      at += runs[i]
      out.fill(codeOf(worth), Math.min(at, count), Math.min(at + runs[i + 1], count))
      at += runs[i + 1]
    }
  }
  return out
}

/** What each triangle of a mesh is worth, by those of its file; skin that was made is plain. */
export function worthOfFaces({ triangles, from }: Mesh, worths: Uint8Array): Uint8Array {
  const count = triangles.length / 3, out = new Uint8Array(count)
  for (let i = 0; i < count; i++) {
    const source = from ? from[i] : i
    if (source !== NO_SOURCE && source < worths.length) out[i] = worths[source]
  }
  return out
}

/** Skin of each worth, mm², in the order of the worths. */
export function areasByWorth(mesh: Mesh, worths: Uint8Array): [number, number, number, number] {
  const out: [number, number, number, number] = [0, 0, 0, 0]
  for (let i = 0; i < worths.length; i++) out[worths[i] as 0 | 1 | 2 | 3] += triangleArea(mesh, i)
  return out
}
