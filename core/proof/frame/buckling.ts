import { distance, type Vec3 } from '../../mesh'
import { axesOf, carriedBy } from './beam'
import { addTimes, addTransposed, addTransposedTimes, BLOCK, multiply, SIZE } from './block'
import type { FrameFactor } from './factor'
import type { Frame } from './frame'

/** What presses a beam makes it give way across, and what draws it holds it straight: blocks of its ends, by the nodes that these move with. */
interface Pressed {
  readonly a: number
  readonly b: number
  readonly aa: Float64Array
  readonly ab: Float64Array
  readonly bb: Float64Array
}

/** Rounds of Lanczos' method at the most; by how much the answer may still change from one to the next, and for how many of them. */
const MOST_ROUNDS = 60, SETTLED = 1e-4, SETTLED_ROUNDS = 2

/**
 * How many times as large the loads could be before the frame gives way sideways by itself: the least factor of linear buckling, by Lanczos'
 * method on the factors of the frame. Infinite where nothing is pressed.
 * @param alongN what every beam bears along it, drawn where it is positive, by its place in the frame
 */
export function bucklingFactor(factor: FrameFactor, alongN: readonly number[]): number {
  const { frame } = factor, n = SIZE * frame.points.length
  if (!alongN.some(a => a < 0)) return Infinity
  const gives = givesOf(factor, alongN)
  // vectors of length one in what the frame resists, and what it resists each with
  const vectors: Float64Array[] = [], resisted: Float64Array[] = [], alpha: number[] = [], beta: number[] = []
  let settled = 0
  let load = frame.freeOf(Float64Array.from({ length: n }, (_, i) => Math.sin(1 + 12.9898 * i))), v = factor.solve(load), best = 0
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const size = Math.sqrt(Math.max(0, dotOf(v, load)))
    if (size < 1e-14) break
    if (round > 0) beta.push(size)
    for (let j = 0; j < n; j++) {
      v[j] /= size
      load[j] /= size
    }
    vectors.push(v)
    resisted.push(load)
    const left = gives(v), moved = factor.solve(left)
    alpha.push(dotOf(v, left))
    // all that went before is taken out, twice: what rounding leaves would grow
    for (let twice = 0; twice < 2; twice++) {
      for (let i = 0; i < vectors.length; i++) {
        const vector = vectors[i], resists = resisted[i], share = dotOf(resists, moved)
        for (let j = 0; j < n; j++) {
          moved[j] -= share * vector[j]
          left[j] -= share * resists[j]
        }
      }
    }
    const most = largestOf(alpha, beta)
    settled = Math.abs(most - best) <= SETTLED * Math.abs(most) ? settled + 1 : 0
    best = most
    if (settled >= SETTLED_ROUNDS) break
    v = moved
    load = left
  }
  return best > 0 ? 1 / best : Infinity
}

/** What a motion of the nodes makes the pushes and pulls along the beams load them with. */
function givesOf({ frame }: FrameFactor, alongN: readonly number[]): (motion: Float64Array) => Float64Array {
  const pressed = frame.beams.flatMap((_, i) => (alongN[i] === 0 ? [] : [pressedOf(frame, i, -alongN[i])]))
  return v => {
    const out = new Float64Array(v.length)
    for (const p of pressed) {
      addTimes(1, p.aa, 0, v, SIZE * p.a, out, SIZE * p.a)
      addTimes(1, p.ab, 0, v, SIZE * p.b, out, SIZE * p.a)
      addTransposedTimes(1, p.ab, 0, v, SIZE * p.a, out, SIZE * p.b)
      addTimes(1, p.bb, 0, v, SIZE * p.b, out, SIZE * p.b)
    }
    return frame.freeOf(out)
  }
}

function dotOf(a: Float64Array, b: Float64Array): number {
  let sum = 0
  for (let i = 0; i < a.length; i++) sum += a[i] * b[i]
  return sum
}

/** The largest eigenvalue of a symmetric matrix of three diagonals, by halving on Sturm's count. */
function largestOf(alpha: readonly number[], beta: readonly number[]): number {
  let low = -Infinity, high = -Infinity
  alpha.forEach((a, i) => {
    const around = Math.abs(beta[i - 1] ?? 0) + Math.abs(beta[i] ?? 0)
    high = Math.max(high, a + around)
    low = Math.max(low, a - around)
  })
  for (let i = 0; i < 100 && high - low > 1e-15 * Math.abs(high); i++) {
    const middle = (low + high) / 2
    // how many lie above the middle
    let above = 0, d = 1
    for (let k = 0; k < alpha.length; k++) {
      d = alpha[k] - middle - (k > 0 ? beta[k - 1] ** 2 / (d || -1e-300) : 0)
      if (d > 0) above++
    }
    if (above > 0) low = middle
    else high = middle
  }
  return high
}

/** How a beam under a push of so many N gives way, by Hermite's cubic of an even beam. */
function pressedOf(frame: Frame, beam: number, pushN: number): Pressed {
  const { from, to, a, b } = frame.beams[beam], l = Math.max(1e-6, distance(from, to)), q = pushN / (30 * l)
  const aa = new Float64Array(BLOCK), ab = new Float64Array(BLOCK), bb = new Float64Array(BLOCK), put = (m: Float64Array, i: number, j: number, v: number): void => void (m[SIZE * i + j] = q * v)
  // across along y with the turn about z, across along z with the one about y, which has the other sign
  for (const [across, turn, sign] of [[1, 5, 1], [2, 4, -1]] as const) {
    for (const [m, toTurn, same] of [[aa, 3, 4], [bb, -3, 4]] as const) {
      put(m, across, across, 36)
      put(m, turn, turn, same * l * l)
      put(m, across, turn, sign * toTurn * l)
      put(m, turn, across, sign * toTurn * l)
    }
    put(ab, across, across, -36)
    put(ab, turn, turn, -l * l)
    put(ab, across, turn, sign * 3 * l)
    put(ab, turn, across, sign * -3 * l)
  }
  const turned = carried(frame.points[a], from, to, from), other = carried(frame.points[b], from, to, to)
  return { a, b, aa: around(turned, aa, turned), ab: around(turned, ab, other), bb: around(other, bb, other) }
}

/** From the motion of a node to that of a point of the beam, along the beam's own axes. */
function carried(node: Vec3, from: Vec3, to: Vec3, at: Vec3): Float64Array {
  const axes = axesOf(from, to), turn = new Float64Array(BLOCK), out = new Float64Array(BLOCK)
  for (let i = 0; i < 3; i++) {
    for (let j = 0; j < 3; j++) {
      turn[SIZE * i + j] = axes[i][j]
      turn[SIZE * (3 + i) + 3 + j] = axes[i][j]
    }
  }
  multiply(turn, 0, carriedBy(node, at), 0, out, 0)
  return out
}

function around(left: Float64Array, middle: Float64Array, right: Float64Array): Float64Array {
  const half = new Float64Array(BLOCK), out = new Float64Array(BLOCK)
  multiply(middle, 0, right, 0, half, 0)
  addTransposed(1, left, 0, half, 0, out, 0)
  return out
}
