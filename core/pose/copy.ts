import type { Vec3 } from '../mesh'
import type { Frame } from '../contract'
import { motionOfPose, rotationOf, type Pose, type RigidMotion, type Stand } from './pose'

/** How a part stands by itself, as far as its stand says: everything of a pose but the turn, which is a matter of each copy. */
export type StandPose = Omit<Pose, 'turnDeg'>

/** Where a part stands by itself: tilted and lifted, its middle over the origin to a pixel. */
export function standOf(positions: Float32Array, pose: StandPose, pixelMm: number): Stand {
  // without its turn, and before it is moved, a part on the plate is where it stands by itself
  return motionOfPose(positions, { ...pose, turnDeg: 0 }, pixelMm) as RigidMotion as Stand
}

/** From the stand of a part to the plate: turned about the vertical through the origin, then moved. */
export interface PlateShift {
  readonly xMm: number
  readonly yMm: number
  readonly turnDeg: number
}

/** Leaves a part where it stands by itself. */
export const NO_SHIFT: PlateShift = { xMm: 0, yMm: 0, turnDeg: 0 }

export function shiftOf(copy: { readonly xPixels: number; readonly yPixels: number; readonly turnDeg: number }, pixelMm: number): PlateShift {
  return { xMm: copy.xPixels * pixelMm, yMm: copy.yPixels * pixelMm, turnDeg: copy.turnDeg }
}

/** A shift as a matrix: plate = M · stand. */
export function plateOf({ xMm, yMm, turnDeg }: PlateShift): RigidMotion<'stand', 'plate'> {
  const r = rotationOf({ tiltXDeg: 0, tiltYDeg: 0, turnDeg, liftMm: 0 })
  return [r[0], r[1], 0, xMm, r[3], r[4], 0, yMm, 0, 0, 1, 0]
}

/** One motion after another: first `b`, then `a`. */
export function after<From extends Frame, Between extends Frame, To extends Frame>(a: RigidMotion<Between, To>, b: RigidMotion<From, Between>): RigidMotion<From, To> {
  const row = (i: number): [number, number, number, number] => {
    const [x, y, z, t] = [a[4 * i], a[4 * i + 1], a[4 * i + 2], a[4 * i + 3]]
    return [x * b[0] + y * b[4] + z * b[8], x * b[1] + y * b[5] + z * b[9], x * b[2] + y * b[6] + z * b[10], x * b[3] + y * b[7] + z * b[11] + t]
  }
  return [...row(0), ...row(1), ...row(2)]
}

/** The way back. */
export function inverseOf<From extends Frame, To extends Frame>(m: RigidMotion<From, To>): RigidMotion<To, From> {
  const t: Vec3 = [m[3], m[7], m[11]]
  const row = (i: number): [number, number, number, number] => [m[i], m[4 + i], m[8 + i], -(m[i] * t[0] + m[4 + i] * t[1] + m[8 + i] * t[2])]
  return [...row(0), ...row(1), ...row(2)]
}
