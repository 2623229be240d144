import { A_BLOCK, Blocks } from './blocks'
import { cellPieces, EDGES } from './cell-pieces'
import type { WallGrid } from './wall-grid'

const PIECES = cellPieces()
/** From the lowest corner of a cell to its others, among the 27 nodes of a box. */
const BY_CORNER = [0, 1, 3, 4, 9, 10, 12, 13]
/** Edge of the boxes by which is told what is near, in cells. */
const NEAR = 4

/** Corners of a surface, as they are placed. */
export interface Corners {
  /** x, y, z by corner, mm. */
  readonly corners: Float64Array
  /** Of length 1, from the skin to each corner. */
  readonly directions: Float32Array
  /** 1 for corners that stand where the hollow was filled. */
  readonly filled: Uint8Array
  /** By corner, the ball in which no skin was when it was looked at last: x, y, z and radius, mm; a radius of 0 before that. */
  readonly balls: Float64Array
  /** A triangle of the tree near each corner. */
  readonly hints: Int32Array
  /** 1 for corners that are as they were before: their cell has not changed. */
  readonly known: Uint8Array
}

/** A surface between what is within and what is not, one corner for each piece of it in a cell. */
export interface Surface extends Corners {
  /** Facing what is within. */
  readonly triangles: Uint32Array
  /** By cell through which it passes: 256 times its first corner, and which of the cell's corners are within. −1 elsewhere. */
  readonly cells: Blocks<Int32Array>
}

/** The surface of what is above zero on a grid. @param before the one that was made and placed before some values changed */
export function surfaceOf(grid: WallGrid, before: Surface | null): Surface {
  const { frame: { origin, size, cellMm }, values, shaped, boxes } = grid, cells = new Blocks(size, () => new Int32Array(A_BLOCK).fill(-1)), of = new Float64Array(27), shapes = new Int8Array(27)
  const corners: number[] = [], hints: number[] = [], passed: number[] = [], filled: number[] = [], taken: number[] = [], f = new Float64Array(8), sums = new Float64Array(16)
  for (let box = 0; box < grid.hints.length; box++) {
    const i0 = boxes[3 * box], j0 = boxes[3 * box + 1], k0 = boxes[3 * box + 2]
    for (let n = 0; n < 27; n++) of[n] = values.get(i0 + n % 3, j0 + (n / 3 | 0) % 3, k0 + (n / 9 | 0))
    let isLookedUp = false
    for (let n = 0; n < 8; n++) {
      const i = i0 + (n & 1), j = j0 + (n >> 1 & 1), k = k0 + (n >> 2), low = (n & 1) + 3 * (n >> 1 & 1) + 9 * (n >> 2)
      let mask = 0, isFilled = false
      for (let c = 0; c < 8; c++) if ((f[c] = of[low + BY_CORNER[c]]) > 0) mask |= 1 << c
      if (mask === 0 || mask === 255) continue
      if (!isLookedUp) for (let m = 0; m < 27; m++) shapes[m] = shaped.peek(i0 + m % 3, j0 + (m / 3 | 0) % 3, k0 + (m / 9 | 0)) === 1 ? 1 : 0
      isLookedUp = true
      for (let c = 0; c < 8 && !isFilled; c++) isFilled = shapes[low + BY_CORNER[c]] === 1
      const count = PIECES.counts[mask]
      cells.set(i, j, k, 256 * (corners.length / 3) + mask)
      passed.push(i, j, k)
      sums.fill(0)
      for (let e = 0; e < 12; e++) {
        const piece = PIECES.ofEdge[12 * mask + e]
        if (piece === 255) continue
        const [a, b] = EDGES[e], share = f[a] / (f[a] - f[b])
        sums[4 * piece] += (a & 1) + share * ((b & 1) - (a & 1))
        sums[4 * piece + 1] += (a >> 1 & 1) + share * ((b >> 1 & 1) - (a >> 1 & 1))
        sums[4 * piece + 2] += (a >> 2) + share * ((b >> 2) - (a >> 2))
        sums[4 * piece + 3]++
      }
      for (let piece = 0; piece < count; piece++) {
        const all = sums[4 * piece + 3]
        corners.push(origin[0] + cellMm * (i + sums[4 * piece] / all), origin[1] + cellMm * (j + sums[4 * piece + 1] / all), origin[2] + cellMm * (k + sums[4 * piece + 2] / all))
        hints.push(grid.hints[box])
        filled.push(isFilled ? 1 : 0)
        const then = before?.cells.peek(i, j, k) ?? -1, old = then >= 0 && (then & 255) === mask ? (then >> 8) + piece : -1
        taken.push(before && old >= 0 && before.filled[old] === (isFilled ? 1 : 0) ? old : -1)
      }
    }
  }
  const triangles: number[] = [], cornerOf = (i: number, j: number, k: number, edge: number): number => {
    const cell = cells.get(i, j, k)
    return (cell >> 8) + PIECES.ofEdge[12 * (cell & 255) + edge]
  }
  const far = (a: number, b: number): number => (corners[3 * a] - corners[3 * b]) ** 2 + (corners[3 * a + 1] - corners[3 * b + 1]) ** 2 + (corners[3 * a + 2] - corners[3 * b + 2]) ** 2
  for (let c = 0; c < passed.length; c += 3) {
    const i = passed[c], j = passed[c + 1], k = passed[c + 2], mask = cells.get(i, j, k) & 255, within = mask & 1
    // the three edges at the lowest corner, each with the four cells around it
    for (let axis = 0; axis < 3; axis++) {
      if ((mask >> (1 << axis) & 1) === within) continue
      const [e0, e1, e2, e3] = AROUND[axis].edges, [u, v] = AROUND[axis].back
      const p = cornerOf(i, j, k, e0), q = cornerOf(i - u[0], j - u[1], k - u[2], e1), r = cornerOf(i - u[0] - v[0], j - u[1] - v[1], k - u[2] - v[2], e2), s = cornerOf(i - v[0], j - v[1], k - v[2], e3)
      const [a, b, d, e] = within ? [s, r, q, p] : [p, q, r, s]
      if (far(a, d) <= far(b, e)) triangles.push(a, b, d, a, d, e)
      else triangles.push(b, d, e, b, e, a)
    }
  }
  // only now: faces are parted as they were before anything was placed
  const directions = new Float32Array(corners.length), known = new Uint8Array(taken.length), balls = new Float64Array(4 * taken.length)
  if (before) taken.forEach((old, v) => {
    if (old < 0) return
    known[v] = 1
    hints[v] = before.hints[old]
    for (let a = 0; a < 4; a++) balls[4 * v + a] = before.balls[4 * old + a]
    for (let a = 0; a < 3; a++) {
      corners[3 * v + a] = before.corners[3 * old + a]
      directions[3 * v + a] = before.directions[3 * old + a]
    }
  })
  return { corners: new Float64Array(corners), directions, balls, filled: new Uint8Array(filled), hints: new Int32Array(hints), known, triangles: new Uint32Array(triangles), cells }
}

/** By axis of an edge: how to the cells beside it, and which of their edges it is. */
const AROUND = [
  { edges: [0, 1, 3, 2], back: [[0, 1, 0], [0, 0, 1]] },
  { edges: [4, 6, 7, 5], back: [[0, 0, 1], [1, 0, 0]] },
  { edges: [8, 9, 11, 10], back: [[1, 0, 0], [0, 1, 0]] },
] as const

/** Corners by triangle, of those that have a new corner or lie beside them. */
export function nearWhatChanged({ corners, known, triangles }: Surface, cellMm: number): Uint32Array {
  const boxes = new Set<number>(), key = (v: number, by = [0, 0, 0]): number => {
    let sum = 0
    for (let a = 0; a < 3; a++) sum = sum * 65536 + Math.floor(corners[3 * v + a] / (NEAR * cellMm)) + by[a] + 32768
    return sum
  }
  for (let v = 0; v < known.length; v++) if (!known[v]) for (let n = 0; n < 27; n++) boxes.add(key(v, [n % 3 - 1, (n / 3 | 0) % 3 - 1, (n / 9 | 0) - 1]))
  const out: number[] = []
  for (let i = 0; i < triangles.length; i += 3) if (boxes.has(key(triangles[i]))) out.push(triangles[i], triangles[i + 1], triangles[i + 2])
  return new Uint32Array(out)
}
