/** The 27 nodes of a box of two cells each way, x first, then y, then z. */
const NODES = Array.from({ length: 27 }, (_, n) => n)
const placesOf = (n: number): number[] => [n % 3, (n / 3 | 0) % 3, n / 9 | 0], numberOf = ([x, y, z]: readonly number[]): number => x + 3 * y + 9 * z
/** Along how many axes a node lies in the middle of its box: 0 at corners, 1 on edges, 2 on sides. */
const middles = (n: number): number => placesOf(n).filter(at => at === 1).length
/** When a node is measured, by that: corners first, then sides, then edges. */
const TURN = [0, 2, 1] as const

/** The node in the middle of a box. */
export const MIDDLE = 13
/** All others, in the order in which they are measured. */
export const AROUND_MIDDLE = NODES.filter(n => n !== MIDDLE).sort((a, b) => TURN[middles(a)] - TURN[middles(b)] || a - b)

/** Two nodes of a box, or one twice, whose mean lies one cell from another node along an axis. */
interface Pair {
  readonly axis: number
  readonly side: 1 | -1
  readonly a: number
  readonly b: number
  /** Mean square of how far both are from the node, in cells. */
  readonly square: number
}

/** By node, what was measured before it and lies beside it. */
export const BESIDE: readonly (readonly Pair[])[] = NODES.map(n => {
  const at = placesOf(n), moved = (...by: readonly (readonly [number, number])[]): number => numberOf(at.map((v, axis) => by.reduce((sum, [of, step]) => sum + (of === axis ? step : 0), v)))
  const inward = (axis: number): 1 | -1 => (at[axis] === 0 ? 1 : -1), one = (axis: number, side: 1 | -1): Pair => ({ axis, side, a: moved([axis, side]), b: moved([axis, side]), square: 1 }), out: Pair[] = []
  if (middles(n) === 2) {
    // the middle of a side: the middle of the box, and its corners two and two
    const across = at.findIndex(v => v !== 1)
    out.push(one(across, inward(across)))
    for (const axis of [0, 1, 2]) {
      const other = 3 - across - axis
      if (axis !== across) for (const side of [-1, 1] as const) out.push({ axis, side, a: moved([axis, side], [other, -1]), b: moved([axis, side], [other, 1]), square: 2 })
    }
  } else if (middles(n) === 1) {
    // the middle of an edge: its corners, and the middles of both sides
    for (const axis of [0, 1, 2]) out.push(...(at[axis] === 1 ? [one(axis, -1), one(axis, 1)] : [one(axis, inward(axis))]))
  }
  return out
})
