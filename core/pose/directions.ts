import type { Quaternion } from '../contract'
import { degrees, type Vec3 } from '../mesh'
import { rotationOf } from './pose'

/** The angles of a tilt, and what they are measured from. */
export interface TiltAngles {
  readonly tiltXDeg: number
  readonly tiltYDeg: number
  readonly zero?: Quaternion
}

/** The direction of the part that looks up as it is tilted: all of a tilt but for a turn about the vertical. */
export function upOfTilt({ tiltXDeg, tiltYDeg, zero }: TiltAngles): Vec3 {
  const r = rotationOf({ tiltXDeg, tiltYDeg, turnDeg: 0, liftMm: 0, ...(zero && { zero }) })
  return [r[6], r[7], r[8]]
}

/**
 * The tilt that brings a direction of the part to look up, to a tenth of a degree.
 * Source: of R = Ry · Rx the third row is (−sin y, cos y sin x, cos y cos x).
 */
export function tiltOfUp(up: Vec3, zero?: Quaternion): TiltAngles {
  const [x, y, z] = fromZero(up, zero)
  const level = Math.hypot(y, z) > 1e-6
  return { tiltXDeg: level ? tenth(degrees(Math.atan2(y, z))) : 0, tiltYDeg: tenth(degrees(Math.asin(Math.max(-1, Math.min(1, -x))))), ...(zero && { zero }) }
}

/** A direction of the part as it is where the angles of a tilt are nought. */
export function fromZero(direction: Vec3, zero?: Quaternion): Vec3 {
  if (!zero) return direction
  const r = rotationOf({ tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm: 0, zero }), [x, y, z] = direction
  return [r[0] * x + r[1] * y + r[2] * z, r[3] * x + r[4] * y + r[5] * z, r[6] * x + r[7] * y + r[8] * z]
}

/** The way back from `fromZero`. */
export function toZero(direction: Vec3, zero?: Quaternion): Vec3 {
  if (!zero) return direction
  const r = rotationOf({ tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm: 0, zero }), [x, y, z] = direction
  return [r[0] * x + r[3] * y + r[6] * z, r[1] * x + r[4] * y + r[7] * z, r[2] * x + r[5] * y + r[8] * z]
}

function tenth(value: number): number {
  return Math.round(value * 10) / 10 || 0
}
