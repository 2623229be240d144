import { axesAcross, type Vec3 } from '../mesh'

/** A rotation by its rows. */
export type Turn = readonly [Vec3, Vec3, Vec3]

/** Brings a direction to +z. */
export function turnUpright(up: Vec3): Turn {
  return [...axesAcross(up), up]
}
export const transposed = ([a, b, c]: Turn): Turn => [[a[0], b[0], c[0]], [a[1], b[1], c[1]], [a[2], b[2], c[2]]]

/** Points, x, y, z each, as they lie after a turn; as they are where there is none. */
export function turned(p: ArrayLike<number>, turn: Turn | null): Float32Array {
  const out = new Float32Array(p)
  if (turn) for (let i = 0; i < p.length; i += 3) for (let r = 0; r < 3; r++) out[i + r] = turn[r][0] * p[i] + turn[r][1] * p[i + 1] + turn[r][2] * p[i + 2]
  return out
}
