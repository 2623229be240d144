import { cross, degrees, dot, unit, type Vec3 } from '../mesh'
import type { Quaternion } from '../contract'
import { rotationOf, type Pose } from './pose'

/** The nine numbers of a rotation, row by row. */
export type Rotation = readonly number[]

/** The least turn that takes one direction to another; half a turn about any axis across them where they are opposite. Source: Rodrigues' formula. */
export function turnBetween(from: Vec3, to: Vec3): Rotation {
  const a = unit(from), b = unit(to), c = dot(a, b)
  let axis = cross(a, b)
  if (Math.hypot(...axis) < 1e-12) {
    if (c > 0) return [1, 0, 0, 0, 1, 0, 0, 0, 1]
    axis = cross(a, Math.abs(a[0]) < 0.9 ? [1, 0, 0] : [0, 1, 0])
  }
  const [x, y, z] = unit(axis), s = Math.sqrt(Math.max(0, 1 - c * c)), t = 1 - c
  return [t * x * x + c, t * x * y - s * z, t * x * z + s * y, t * x * y + s * z, t * y * y + c, t * y * z - s * x, t * x * z - s * y, t * y * z + s * x, t * z * z + c]
}

function product(a: Rotation, b: Rotation): number[] {
  return Array.from({ length: 9 }, (_, i) => [0, 1, 2].reduce((sum, k) => sum + a[3 * Math.floor(i / 3) + k] * b[3 * k + (i % 3)], 0))
}

/**
 * The numbers of a pose after the part, as it stands on the plate, is turned by a rotation of the plate's frame. What it is measured
 * from and its lift stay.
 * Source: of R = Rz · Ry · Rx the third row is (−sin y, cos y sin x, cos y cos x), and the first column tells z.
 */
export function posedBy(pose: Pose, rotation: Rotation): Pose {
  // without its zero: the angles are those of the rotation that follows it
  const r = product(rotation, rotationOf({ ...pose, zero: undefined }))
  const tiltY = Math.asin(Math.max(-1, Math.min(1, -r[6])))
  const level = Math.hypot(r[7], r[8]) > 1e-9
  // upright on its y axis there is no telling tilt x from turn: the turn takes all of it
  const tiltX = level ? Math.atan2(r[7], r[8]) : 0, turn = level ? Math.atan2(r[3], r[0]) : Math.atan2(-r[1], r[4])
  return { ...pose, tiltXDeg: tidy(degrees(tiltX)), tiltYDeg: tidy(degrees(tiltY)), turnDeg: tidy(degrees(turn)) }
}

/** To a hundred-thousandth of a degree, so that a quarter turn is one. */
function tidy(value: number): number {
  return Math.round(value * 1e5) / 1e5 || 0
}

/** The direction among the axes of the plate and their opposites that is nearest to another. */
export function nearestAxis(direction: Vec3): Vec3 {
  let best = 0
  for (let c = 1; c < 3; c++) if (Math.abs(direction[c]) > Math.abs(direction[best])) best = c
  const sign = direction[best] < 0 ? -1 : 1
  return [best === 0 ? sign : 0, best === 1 ? sign : 0, best === 2 ? sign : 0]
}

/** A pose whose angles are nought as the part is tilted now; how it stands does not change. */
export function withZeroHere<P extends Pick<Pose, 'tiltXDeg' | 'tiltYDeg' | 'zero'>>(pose: P): P {
  return { ...pose, tiltXDeg: 0, tiltYDeg: 0, zero: quaternionOf(rotationOf({ ...pose, turnDeg: 0, liftMm: 0 })) }
}

/** A pose measured from the file again, as far as angles can tell it: the turn that is left goes to the copies. */
export function withoutZero(pose: Pose): Pose {
  return posedBy({ ...pose, tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, zero: undefined }, rotationOf(pose))
}

/** Source: Shepperd's method. */
function quaternionOf(r: Rotation): Quaternion {
  const trace = r[0] + r[4] + r[8], largest = Math.max(trace, r[0], r[4], r[8])
  const [x, y, z, w] = largest === trace ? [r[7] - r[5], r[2] - r[6], r[3] - r[1], 1 + trace]
    : largest === r[0] ? [1 + 2 * r[0] - trace, r[1] + r[3], r[2] + r[6], r[7] - r[5]]
      : largest === r[4] ? [r[1] + r[3], 1 + 2 * r[4] - trace, r[5] + r[7], r[2] - r[6]]
        : [r[2] + r[6], r[5] + r[7], 1 + 2 * r[8] - trace, r[3] - r[1]]
  const l = Math.hypot(x, y, z, w)
  return [x / l, y / l, z / l, w / l]
}

/** An angle as a drag leaves it: whole degrees, caught at 45° and its multiples from a little farther off; steps of 5°, or tenths. */
export function caught(angleDeg: number, steps: 'whole' | 'five' | 'tenth'): number {
  if (steps === 'tenth') return Math.round(angleDeg * 10) / 10 || 0
  if (steps === 'five') return Math.round(angleDeg / 5) * 5 || 0
  const right = Math.round(angleDeg / 45) * 45
  // a small tilt is meant as it is
  return (right !== 0 && Math.abs(angleDeg - right) <= 1.5 ? right : Math.round(angleDeg)) || 0
}
