import { cross, type Vec3 } from '../../mesh'
import { SIZE } from '../frame/block'

/** Cases that are looked at, one after the other: the shares of the peel, and of the side pull along x and along y, that each is made of. */
export type Cases = Float64Array
/** Of what each is made. */
export const PARTS = 3

/** What a round section bears: along its axis, N, drawn where it is positive; across it, N; and how it is bent, N·mm. */
export interface Borne {
  readonly alongN: number
  readonly acrossN: number
  readonly bentNmm: number
}

/** A force and a moment by what they do to a section. @param six force in N and moment in N·mm, along the axes of space; @param axis unit vector outward */
export function borneBy(six: Float64Array, axis: Vec3, at = 0): Borne {
  const ax = axis[0], ay = axis[1], az = axis[2], x = six[at], y = six[at + 1], z = six[at + 2], mx = six[at + 3], my = six[at + 4], mz = six[at + 5]
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
export function worstForce(three: Float64Array, axis: Vec3, cases: Cases, areaMm2: number, strengthNMm2: number): number {
  const ax = axis[0], ay = axis[1], az = axis[2]
  let most = 0
  for (let n = 0; n < cases.length; n += PARTS) {
    const up = cases[n], x = cases[n + 1], y = cases[n + 2], fx = up * three[12] + x * three[0] + y * three[6], fy = up * three[13] + x * three[1] + y * three[7], fz = up * three[14] + x * three[2] + y * three[8], along = fx * ax + fy * ay + fz * az
    // what is across counts three times: along² + 3 across²
    const square = 3 * (fx * fx + fy * fy + fz * fz) - 2 * along * along
    if (square > most) most = square
  }
  return Math.sqrt(most) / (areaMm2 * strengthNMm2)
}

/** What a round section of a beam is judged by. */
export interface Section {
  /** The direction of the beam, outward at its first end. */
  readonly out: Vec3
  /** From its first end to the section, mm. */
  readonly off: Vec3
  readonly radiusMm: number
}

/**
 * The largest stress in a section over all cases that are made of three, N/mm²: that along it, bending at its rim included, together with that
 * across it (von Mises).
 * @param three force and moment at the first end of the beam, six numbers a case
 * @param found where the stress is written, and in which case it is
 */
export function worstStress(three: Float64Array, { out, off, radiusMm: r }: Section, cases: Cases, found: Float64Array): void {
  const ax = out[0], ay = out[1], az = out[2], dx = off[0], dy = off[1], dz = off[2], area = Math.PI * r * r, rim = 4 / (Math.PI * r * r * r), across = 3 / (area * area)
  for (let c = 0; c < PARTS; c++) {
    const at = SIZE * c, x = three[at], y = three[at + 1], z = three[at + 2], mx = three[at + 3] - dy * z + dz * y, my = three[at + 4] - dz * x + dx * z, mz = three[at + 5] - dx * y + dy * x
    const along = x * ax + y * ay + z * az, twist = mx * ax + my * ay + mz * az, to = OF_ONE * c
    // what is along the beam, what is across it, and what bends it
    parts[to] = along
    parts[to + 1] = x - along * ax
    parts[to + 2] = y - along * ay
    parts[to + 3] = z - along * az
    parts[to + 4] = mx - twist * ax
    parts[to + 5] = my - twist * ay
    parts[to + 6] = mz - twist * az
  }
  const a0 = parts[0], a1 = parts[7], a2 = parts[14]
  const x0 = parts[1], y0 = parts[2], z0 = parts[3], x1 = parts[8], y1 = parts[9], z1 = parts[10], x2 = parts[15], y2 = parts[16], z2 = parts[17]
  const u0 = parts[4], v0 = parts[5], w0 = parts[6], u1 = parts[11], v1 = parts[12], w1 = parts[13], u2 = parts[18], v2 = parts[19], w2 = parts[20]
  let most = 0, worst = 0
  for (let n = 0; n < cases.length; n += PARTS) {
    const up = cases[n], i = cases[n + 1], j = cases[n + 2], along = up * a2 + i * a0 + j * a1
    const x = up * x2 + i * x0 + j * x1, y = up * y2 + i * y0 + j * y1, z = up * z2 + i * z0 + j * z1, u = up * u2 + i * u0 + j * u1, v = up * v2 + i * v0 + j * v1, w = up * w2 + i * w0 + j * w1
    const stress = Math.abs(along) / area + rim * Math.sqrt(u * u + v * v + w * w), square = stress * stress + across * (x * x + y * y + z * z)
    if (square <= most) continue
    most = square
    worst = n
  }
  found[0] = Math.sqrt(most)
  found[1] = worst
}
const OF_ONE = 7, parts = new Float64Array(3 * OF_ONE)
