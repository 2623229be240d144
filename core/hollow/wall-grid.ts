import { AxisBounds } from './axis-bounds'
import { A_BLOCK, Blocks, type FilledBlocks } from './blocks'
import type { GridFrame } from './grid-frame'
import type { FoundUnit } from './unit-search'

/** The value of a node where the hollow was filled: only just solid. */
export const FILLED = -1e-6
/** The value of a node in the hollow that is too far from the wall to be measured, in cells. */
const DEEP = 2.5
/** Nodes nearer than that to a point along an axis, in cells, tell nothing along it. */
const LEAST_SHARE = 0.02

/** How far the inside of a closed mesh lies from its skin, on the nodes of a grid near where that is a wall's thickness. */
export class WallGrid {
  readonly frame: GridFrame
  /** Distance to the skin less the wall, in mm: above zero where it is hollow. NaN where nobody asked. */
  readonly values: Blocks<Float32Array>
  /** 1 at nodes whose value was given by something else than the skin; 2 at nodes that lie too deep to be measured; −1 elsewhere. */
  readonly shaped: Blocks<Int32Array>
  /** Lowest corners of the boxes through which the wall may pass, of two cells each way, in cells: three numbers a box. */
  readonly boxes: number[] = []
  /** A triangle near each box, by the tree's count; −1 where none is known. */
  readonly hints: number[] = []
  /** Where the node is that `distanceNear` told of. */
  nearX = 0
  nearY = 0
  nearZ = 0
  /** 1 at the lowest corners of the boxes. */
  readonly #known: Blocks<Int32Array>
  readonly #wallMm: number
  /** Of the nodes around a place, squares of how far they are from the skin, or that less than from the place; mm². */
  readonly #squares = new Float64Array(8)
  readonly #bounds = new AxisBounds()

  constructor(frame: GridFrame, wallMm: number) {
    this.frame = frame
    this.values = new Blocks(frame.size, () => new Float32Array(A_BLOCK).fill(NaN))
    this.shaped = new Blocks(frame.size, () => new Int32Array(A_BLOCK).fill(-1))
    this.#known = new Blocks(frame.size, () => new Int32Array(A_BLOCK))
    this.#wallMm = wallMm
  }

  /** Takes over what was found in a unit. Nodes that units share keep what came first. */
  take({ boxes, hints, values }: FoundUnit): void {
    this.values.take(values, from => from)
    for (let box = 0; box < hints.length; box++) this.#add(boxes[3 * box], boxes[3 * box + 1], boxes[3 * box + 2], hints[box])
  }
  /** All values that are measured, for others who look at the same wall. */
  measured(): FilledBlocks {
    const all = this.values.all(), { places, values } = all
    for (let b = 0; 3 * b < places.length; b++) for (let n = 0; n < A_BLOCK; n++) if (this.shaped.peek(places[3 * b] + (n >> 6), places[3 * b + 1] + (n >> 3 & 7), places[3 * b + 2] + (n & 7)) >= 1) values[A_BLOCK * b + n] = NaN
    return all
  }

  /** Gives a node in the hollow another value; the wall may pass beside it then. */
  shape(i: number, j: number, k: number, value: number): void {
    this.values.set(i, j, k, value)
    this.shaped.set(i, j, k, 1)
  }
  /** Adds the boxes that a node of the hollow belongs to. Their nodes that nobody measured lie deep in it. */
  addAround(i: number, j: number, k: number): void {
    for (let n = 0; n < 8; n++) {
      const a = (i - (n & 1)) & ~1, b = (j - (n >> 1 & 1)) & ~1, c = (k - (n >> 2)) & ~1
      if (this.#known.get(a, b, c) === 1) continue
      this.#add(a, b, c, -1)
      for (let m = 0; m < 27; m++) {
        const x = a + m % 3, y = b + (m / 3 | 0) % 3, z = c + (m / 9 | 0)
        if (!Number.isNaN(this.values.get(x, y, z))) continue
        this.values.set(x, y, z, DEEP * this.frame.cellMm)
        this.shaped.set(x, y, z, 2)
      }
    }
  }
  #add(i: number, j: number, k: number, hint: number): void {
    this.#known.set(i, j, k, 1)
    this.boxes.push(i, j, k)
    this.hints.push(hint)
  }

  /** Fills the hollow at the nodes around a point. */
  fillAround(x: number, y: number, z: number): void {
    const i = Math.floor((x - this.frame.origin[0]) / this.frame.cellMm), j = Math.floor((y - this.frame.origin[1]) / this.frame.cellMm), k = Math.floor((z - this.frame.origin[2]) / this.frame.cellMm)
    for (let n = 0; n < 8; n++) {
      const a = i + (n & 1), b = j + (n >> 1 & 1), c = k + (n >> 2)
      if (this.values.get(a, b, c) <= 0) continue
      this.shape(a, b, c, FILLED)
      this.addAround(a, b, c)
    }
  }

  /** How far the node nearest to a point is from the skin, mm; NaN where nobody measured that. */
  distanceNear(x: number, y: number, z: number): number {
    const i = Math.round((x - this.frame.origin[0]) / this.frame.cellMm), j = Math.round((y - this.frame.origin[1]) / this.frame.cellMm), k = Math.round((z - this.frame.origin[2]) / this.frame.cellMm)
    if (this.shaped.peek(i, j, k) >= 1) return NaN
    this.nearX = this.#x(i)
    this.nearY = this.#y(j)
    this.nearZ = this.#z(k)
    return Math.abs(this.values.peek(i, j, k) + this.#wallMm)
  }

  /**
   * Where the skin nearest to a point may be, by how far the nodes around it are from the skin; null where one of them was not measured.
   * @param farMm where some skin is known to be
   */
  around(x: number, y: number, z: number, farMm: number): Float64Array | null {
    const h = this.frame.cellMm, u = (x - this.frame.origin[0]) / h, v = (y - this.frame.origin[1]) / h, w = (z - this.frame.origin[2]) / h, i = Math.floor(u), j = Math.floor(v), k = Math.floor(w), a = u - i, b = v - j, c = w - k, known = this.#squares, bounds = this.#bounds
    if (i < 0 || j < 0 || k < 0 || i >= this.frame.size[0] || j >= this.frame.size[1] || k >= this.frame.size[2]) return null
    // mean squares of how far nodes are from the point, less those of how far they are from the skin
    for (let n = 0; n < 8; n++) {
      const x1 = n & 1, y1 = n >> 1 & 1, z1 = n >> 2, value = this.values.peek(i + x1, j + y1, k + z1)
      if (Number.isNaN(value) || this.shaped.peek(i + x1, j + y1, k + z1) >= 1) return null
      known[n] = h * h * ((x1 - a) ** 2 + (y1 - b) ** 2 + (z1 - c) ** 2) - (value + this.#wallMm) ** 2
    }
    bounds.begin(farMm)
    for (let side = 0; side < 2; side++) {
      const x0 = side, y0 = 2 * side, z0 = 4 * side, p = side - a, q = side - b, r = side - c
      if (Math.abs(p) > LEAST_SHARE) bounds.take(0, p * h, between(b, c, known[x0], known[x0 + 2], known[x0 + 4], known[x0 + 6]))
      if (Math.abs(q) > LEAST_SHARE) bounds.take(1, q * h, between(a, c, known[y0], known[y0 + 1], known[y0 + 4], known[y0 + 5]))
      if (Math.abs(r) > LEAST_SHARE) bounds.take(2, r * h, between(a, b, known[z0], known[z0 + 1], known[z0 + 2], known[z0 + 3]))
    }
    return bounds.around(x, y, z)
  }

  #x(i: number): number {
    return this.frame.origin[0] + i * this.frame.cellMm
  }
  #y(j: number): number {
    return this.frame.origin[1] + j * this.frame.cellMm
  }
  #z(k: number): number {
    return this.frame.origin[2] + k * this.frame.cellMm
  }
}

/** Between four values at the corners of a square. */
function between(a: number, b: number, one: number, two: number, three: number, four: number): number {
  return (1 - b) * ((1 - a) * one + a * two) + b * ((1 - a) * three + a * four)
}
