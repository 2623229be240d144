import { cross, type Vec3 } from '../../mesh'

/** What a round section bears: along its axis, N, drawn where it is positive; across it, N; and how it is bent, N·mm. */
export interface Borne {
  readonly alongN: number
  readonly acrossN: number
  readonly bentNmm: number
}

/** A force and a moment by what they do to a section. @param six force in N and moment in N·mm, along the axes of space; @param axis unit vector outward */
export function borneBy(six: Float64Array, axis: Vec3, at = 0): Borne {
  const [ax, ay, az] = axis, x = six[at], y = six[at + 1], z = six[at + 2], mx = six[at + 3], my = six[at + 4], mz = six[at + 5]
  const alongN = x * ax + y * ay + z * az, twist = mx * ax + my * ay + mz * az
  return { alongN, acrossN: Math.sqrt(Math.max(0, x * x + y * y + z * z - alongN * alongN)), bentNmm: Math.sqrt(Math.max(0, mx * mx + my * my + mz * mz - twist * twist)) }
}

/** A force and a moment told about another point. */
export function toldAbout(six: Float64Array, from: Vec3, to: Vec3): Float64Array {
  const [x, y, z] = cross([from[0] - to[0], from[1] - to[1], from[2] - to[2]], [six[0], six[1], six[2]])
  return Float64Array.of(six[0], six[1], six[2], six[3] + x, six[4] + y, six[5] + z)
}

/**
 * The share of a tip's strength that is used where it touches: pull or push and what is across it (von Mises), and the moment that balances the
 * load where nothing else does. A tip is bent through before it breaks, so that moment counts against what a round section bears when all of it
 * yields, d³/6 times its strength.
 */
export function tipShareOf({ alongN, acrossN, bentNmm }: Borne, areaMm2: number, strengthNMm2: number, balances: boolean): number {
  const along = Math.abs(alongN) / areaMm2 + (balances ? (3 * bentNmm) / (4 * Math.sqrt(areaMm2 / Math.PI) ** 3) : 0), across = acrossN / areaMm2
  return Math.sqrt(along * along + 3 * across * across) / strengthNMm2
}

/**
 * The largest share of a tip's strength that forces use where nothing is bent, over all cases that are made of three; as `tipShareOf` of each.
 * @param three forces along x, y and z, six numbers a case: with the side pull along x, along y, and with the peel
 */
export function worstForce(three: Float64Array, [ax, ay, az]: Vec3, cases: readonly (readonly [number, number, number])[], areaMm2: number, strengthNMm2: number): number {
  let most = 0
  for (let n = 0; n < cases.length; n++) {
    const [up, x, y] = cases[n], fx = up * three[12] + x * three[0] + y * three[6], fy = up * three[13] + x * three[1] + y * three[7], fz = up * three[14] + x * three[2] + y * three[8], along = fx * ax + fy * ay + fz * az
    // what is across counts three times: along² + 3 across²
    const square = 3 * (fx * fx + fy * fy + fz * fz) - 2 * along * along
    if (square > most) most = square
  }
  return Math.sqrt(most) / (areaMm2 * strengthNMm2)
}
