import { dot, sub, unit, type Vec3 } from '@oak-stilts/core/mesh'
import { moveDirection, nearestAxis, plateOf, posedBy, turnBetween, withoutZero, withZeroHere, type Pose } from '@oak-stilts/core/pose'
import type { BenchContext } from './context'
import type { createEditing } from './editing'

/** An edge of the part in its stand, with the outward normals of the faces that meet there. */
export interface StandEdge {
  readonly from: Vec3
  readonly to: Vec3
  readonly normals: readonly [Vec3, Vec3]
}

const DOWN: Vec3 = [0, 0, -1]

/** Poses that are taken from the part itself: laid on a face, stood on an edge, squared up, measured from how it stands now. */
export function createPosing({ store, state, current, say }: BenchContext, { setPose }: Pick<ReturnType<typeof createEditing>, 'setPose'>) {
  const poseNow = (): Pose => ({ ...current().part.pose, turnDeg: store.copy?.turnDeg ?? 0 })
  /** A direction of the stand on the plate. */
  const onPlate = (direction: Vec3): Vec3 => unit(moveDirection(plateOf(state.shift), direction))

  /** Turns the part so that a direction of its stand comes to point along another one of the plate. */
  function turnTo(direction: Vec3, target: Vec3, label: string, more: Partial<Pose> = {}): Promise<void> {
    const { tiltXDeg, tiltYDeg, turnDeg } = posedBy(poseNow(), turnBetween(onPlate(direction), target))
    return setPose({ tiltXDeg, tiltYDeg, turnDeg, ...more }, label)
  }

  /** Lays a face down on the plate. @param normal outward, in the stand */
  async function layDown(normal: Vec3): Promise<void> {
    await turnTo(normal, DOWN, 'lay a face down', { liftMm: 0 })
    say('Laid on the plate; its lift is 0.')
  }
  /** Stands the part on an edge, both faces at the same angle to the plate. */
  async function standOn({ normals: [a, b] }: StandEdge): Promise<void> {
    await turnTo(unit([a[0] + b[0], a[1] + b[1], a[2] + b[2]]), DOWN, 'stand on an edge')
    say('Stands on the edge, its faces at the same angle.')
  }
  /** Turns a face to look along the nearest axis of the plate. */
  async function squareFace(normal: Vec3): Promise<void> {
    await turnTo(normal, nearestAxis(onPlate(normal)), 'square up')
    say('The face is square to the plate.')
  }
  /** Turns an edge to run along the nearest axis of the plate. */
  async function squareEdge({ from, to }: StandEdge): Promise<void> {
    const along = onPlate(unit(sub(to, from))), axis = nearestAxis(along)
    await turnTo(unit(sub(to, from)), dot(along, axis) > 0 ? axis : [-axis[0], -axis[1], -axis[2]], 'square up')
    say('The edge is square to the plate.')
  }

  /** Measures the tilts from how the part is tilted now. Nothing moves. */
  function zeroHere(): void {
    const { part } = current()
    store.apply({ label: 'measure from here', put: { parts: [{ ...part, pose: withZeroHere(part.pose) }] } })
  }
  /** Measures the tilts from the file again. How the part is tilted stays; what of it is a turn about z goes to its copies. */
  function zeroOfFile(): void {
    const { part } = current(), { turnDeg, tiltXDeg, tiltYDeg } = withoutZero({ ...part.pose, turnDeg: 0 })
    void setPose({ tiltXDeg, tiltYDeg, turnDeg: (store.copy?.turnDeg ?? 0) + turnDeg, zero: undefined }, 'measure from the file')
  }

  return { layDown, standOn, squareFace, squareEdge, zeroHere, zeroOfFile }
}
