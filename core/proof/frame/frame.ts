import { cross, dot, sub, unit, type Vec3 } from '../../mesh'
import { carriedBy, endStiffness, type Material, type Taper } from './beam'
import { addTimes, addTransposed, addTransposedTimes, BLOCK, multiply, SIZE } from './block'

/** A beam and the two nodes that its ends move with. */
export interface FrameBeam extends Taper {
  readonly a: number
  readonly b: number
}

/** Directions of a node that are held, as bits: displacements along x, y and z, then turns about them. */
export const ALL = 63, PINNED = 7

/** What a beam bears at its ends: the pull along it, N, and shear and bending moment there, N and N·mm. */
export interface BeamForces {
  /** Drawn where it is positive, pressed where it is negative. */
  readonly alongN: number
  readonly acrossN: number
  readonly fromNmm: number
  readonly toNmm: number
  readonly twistNmm: number
}

/** Stiffness of one beam by the nodes that it joins, and from their points to its first end, mm. */
interface Joined {
  readonly k: Float64Array
  readonly a: Float64Array
  readonly b: Float64Array
  readonly offA: Vec3
  readonly offB: Vec3
}

/**
 * A frame of tapered beams in space. A node is where beams meet, or a rigid body that they end in: all of it moves with its point. Each has
 * three displacements, mm, and three turns about that point.
 */
export class Frame {
  readonly #joined: Joined[]

  /** @param points where the motion of every node is told; @param held directions in which nodes do not move, as bits */
  constructor(readonly points: readonly Vec3[], readonly beams: readonly FrameBeam[], readonly held: ReadonlyMap<number, number>, material: Material) {
    this.#joined = beams.map(beam => ({ k: endStiffness(beam, material), a: carriedBy(points[beam.a], beam.from), b: carriedBy(points[beam.b], beam.from), offA: sub(beam.from, points[beam.a]), offB: sub(beam.from, points[beam.b]) }))
  }

  /** Whether a node does not move at all. */
  isHeld(node: number): boolean {
    return this.held.get(node) === ALL
  }

  /** Loads, one after the other, without what goes into held directions. */
  freeOf(load: Float64Array, cases = 1): Float64Array {
    const out = Float64Array.from(load), n = load.length / cases
    for (const [node, directions] of this.held) for (let d = 0; d < SIZE; d++) if (directions & (1 << d)) for (let c = 0; c < cases; c++) out[c * n + SIZE * node + d] = 0
    return out
  }

  /** Adds what one beam resists to the blocks of its nodes: of a with itself, of a with b, and of b with itself. */
  addTo(beam: number, aa: Float64Array, aaAt: number, ab: Float64Array, abAt: number, bb: Float64Array, bbAt: number): void {
    const { k, a, b } = this.#joined[beam]
    multiply(k, 0, a, 0, half, 0)
    addTransposed(1, a, 0, half, 0, aa, aaAt)
    multiply(k, 0, b, 0, half, 0)
    addTransposed(-1, a, 0, half, 0, ab, abAt)
    addTransposed(1, b, 0, half, 0, bb, bbAt)
  }

  /** How far the first end of a beam is from where the other one alone would carry it. */
  #apart(beam: number, motion: Float64Array, motionAt: number): Float64Array {
    const { offA, offB } = this.#joined[beam], { a, b } = this.beams[beam]
    apart.fill(0)
    addCarried(1, motion, motionAt + SIZE * a, offA, apart)
    addCarried(-1, motion, motionAt + SIZE * b, offB, apart)
    return apart
  }

  /** What pushes on the first end of a beam, N and N·mm. @param out where it is added to; @param motionAt where the first node's motion stands */
  endForce(beam: number, motion: Float64Array, out = new Float64Array(SIZE), at = 0, motionAt = 0): Float64Array {
    addTimes(1, this.#joined[beam].k, 0, this.#apart(beam, motion, motionAt), 0, out, at)
    return out
  }

  /** What a beam bears where the nodes have moved. */
  forcesOf(beam: number, motion: Float64Array): BeamForces {
    const { from, to } = this.beams[beam], f = this.endForce(beam, motion), force: Vec3 = [f[0], f[1], f[2]], moment: Vec3 = [f[3], f[4], f[5]]
    const d = sub(from, to), out = Math.hypot(...d) > 1e-9 ? unit(d) : ([0, 0, 1] as const), alongN = dot(force, out), carried = cross(d, force)
    const across = (v: Vec3): number => Math.sqrt(Math.max(0, dot(v, v) - dot(v, out) ** 2))
    return {
      alongN, acrossN: across(force), twistNmm: dot(moment, out), fromNmm: across(moment),
      toNmm: across([moment[0] + carried[0], moment[1] + carried[1], moment[2] + carried[2]]),
    }
  }

  /** The work that is stored in one beam, N·mm. */
  energyOf(beam: number, motion: Float64Array): number {
    const apart = this.#apart(beam, motion, 0)
    addTimes(1, this.#joined[beam].k, 0, apart, 0, pushed.fill(0), 0)
    let sum = 0
    for (let i = 0; i < SIZE; i++) sum += (apart[i] * pushed[i]) / 2
    return sum
  }

  /** The work that is stored in all beams, N·mm. */
  energy(motion: Float64Array): number {
    return this.beams.reduce((sum, _, i) => sum + this.energyOf(i, motion), 0)
  }

  /** Adds what the motion of a point that moves with a node takes as a load there: a force in N and a moment in N·mm. */
  addLoad(load: Float64Array, node: number, at: Vec3, force: Vec3, moment: Vec3 = [0, 0, 0]): void {
    addTransposedTimes(1, carriedBy(this.points[node], at), 0, Float64Array.of(...force, ...moment), 0, load, SIZE * node)
  }

  /** How a point that moves with a node is displaced, mm. */
  displacementOf(motion: Float64Array, node: number, at: Vec3): Vec3 {
    const out = new Float64Array(SIZE)
    addTimes(1, carriedBy(this.points[node], at), 0, motion, SIZE * node, out, 0)
    return [out[0], out[1], out[2]]
  }
}
const half = new Float64Array(BLOCK), apart = new Float64Array(SIZE), pushed = new Float64Array(SIZE)

/** Adds s times how a point moves that is carried by a body, as `carriedBy` has it. @param at where the motion of the body stands; @param off from the body's point to the one that is carried, mm */
function addCarried(s: number, motion: Float64Array, at: number, [x, y, z]: Vec3, out: Float64Array): void {
  const turnX = s * motion[at + 3], turnY = s * motion[at + 4], turnZ = s * motion[at + 5]
  out[0] += s * motion[at] + z * turnY - y * turnZ
  out[1] += s * motion[at + 1] - z * turnX + x * turnZ
  out[2] += s * motion[at + 2] + y * turnX - x * turnY
  out[3] += turnX
  out[4] += turnY
  out[5] += turnZ
}
