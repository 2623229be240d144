import type { NearestTree } from '../mesh'
import { AxisBounds } from './axis-bounds'
import { A_BLOCK, type FilledBlocks } from './blocks'
import { A_UNIT, type GridFrame } from './grid-frame'

/** Edge of the smallest boxes, in cells. */
const SMALLEST = 2
const HALF_DIAGONAL = Math.sqrt(3) / 2
/** Nodes of a unit along each axis, with one more on both sides that is never measured. */
const ROW = A_UNIT + 3, LAYER = ROW * ROW
/** Blocks of a unit along each axis, with those of its last nodes. */
const BLOCKS = A_UNIT / 8 + 1

/** To the nodes beside a node; two of each axis. */
const STRIDES = [LAYER, ROW, 1], SIX = STRIDES.flatMap(s => [-s, s])
/** The middles of the sides and of the edges of a box of two cells each way, of sides with the axis across them. */
const ALL = Array.from({ length: 27 }, (_, n) => [n % 3, (n / 3 | 0) % 3, n / 9 | 0] as const), middles = (at: readonly number[]): number => at.filter(v => v === 1).length
const SIDES = ALL.filter(at => middles(at) === 2).map(at => ({ x: at[0], y: at[1], z: at[2], across: at.findIndex(v => v !== 1) })), EDGES = ALL.filter(at => middles(at) === 1).map(([x, y, z]) => ({ x, y, z, across: -1 }))

/** What was found in a unit of a grid. */
export interface FoundUnit {
  /** Lowest corners of the boxes through which the wall may pass, of two cells each way, in cells of the grid: three numbers a box. */
  readonly boxes: Int32Array
  /** A triangle near each box, by the tree's count. */
  readonly hints: Int32Array
  /** Distance to the skin less the wall, in mm, at all nodes of these boxes: above zero where it is hollow. */
  readonly values: FilledBlocks
}

/**
 * Looks in the units of a grid, one by one, for where the inside of a closed mesh lies a wall's thickness below its skin: boxes whose
 * middle says that the wall cannot pass through them are dropped, the others parted, down to two cells. A distance changes by no more
 * than the way one goes, so nothing is missed. What is found in a unit depends on no other unit, so that it is the same on any core.
 */
export class UnitSearch {
  readonly #frame: GridFrame
  readonly #wallMm: number
  /** By node of the unit: its value, NaN where it was not measured, and a triangle nearest to it. */
  readonly #values = new Float32Array(ROW * LAYER).fill(NaN)
  readonly #nearest = new Int32Array(ROW * LAYER)
  /** 1 for blocks in which something was measured. */
  readonly #touched = new Uint8Array(BLOCKS ** 3)
  /** Of the nodes around a node, squares of how far they are from the skin, mm². */
  readonly #squares = new Float64Array(6)
  readonly #bounds = new AxisBounds()
  /** Over the triangles of the mesh. */
  #tree!: NearestTree
  #boxes: number[] = []
  #hints: number[] = []
  /** 1 for boxes that are known to lie in the solid as a whole. */
  #within: number[] = []
  /** Lowest node of the unit, in cells. */
  #i = 0
  #j = 0
  #k = 0

  constructor(frame: GridFrame, wallMm: number) {
    this.#frame = frame
    this.#wallMm = wallMm
  }

  /** Finds the boxes through which the wall passes, and measures all their nodes. @param unit its number: along z first, then y, then x */
  find(unit: number, tree: NearestTree): FoundUnit {
    this.#tree = tree
    const [, b, c] = this.#frame.units
    this.#i = Math.floor(unit / (b * c)) * A_UNIT
    this.#j = (Math.floor(unit / c) % b) * A_UNIT
    this.#k = (unit % c) * A_UNIT
    this.#boxes = []
    this.#hints = []
    this.#within = []
    this.#look(0, 0, 0, A_UNIT, false, -1)
    // middles and corners of boxes are measured; then the middles of their sides, and of their edges, for which it is known where to look
    for (const nodes of [SIDES, EDGES]) for (let box = 0; box < this.#hints.length; box++) {
      const i = this.#boxes[3 * box], j = this.#boxes[3 * box + 1], k = this.#boxes[3 * box + 2]
      for (let n = 0; n < nodes.length; n++) {
        const { x, y, z, across } = nodes[n]
        this.#measureBetween(i + x, j + y, k + z, across, this.#hints[box], this.#within[box] === 1)
      }
    }
    const values = this.#takeValues(), boxes = new Int32Array(this.#boxes)
    for (let n = 0; n < boxes.length; n += 3) {
      boxes[n] += this.#i
      boxes[n + 1] += this.#j
      boxes[n + 2] += this.#k
    }
    return { boxes, hints: new Int32Array(this.#hints), values }
  }

  /** @param i of the unit, in cells @param within whether all of the box is known to lie in the solid */
  #look(i: number, j: number, k: number, edge: number, within: boolean, hint: number): void {
    const tree = this.#tree, half = edge / 2, reach = edge * this.#frame.cellMm * HALF_DIAGONAL * 1.000001
    const x = this.#x(i + half), y = this.#y(j + half), z = this.#z(k + half)
    tree.ask(x, y, z, hint, this.#wallMm + reach, this.#wallMm - reach)
    const { distance, at: near } = tree
    if (near < 0 || distance + reach < this.#wallMm) return
    if (!within && distance > reach) {
      if (this.#tree.winding(x, y, z) <= 0) return
      within = true
    }
    if (edge > SMALLEST) {
      for (let n = 0; n < 8; n++) this.#look(i + (n & 1) * half, j + (n >> 1 & 1) * half, k + (n >> 2) * half, half, within, near)
      return
    }
    this.#boxes.push(i, j, k)
    this.#hints.push(near)
    this.#within.push(within ? 1 : 0)
    const middle = nodeOf(i + 1, j + 1, k + 1)
    if (Number.isNaN(this.#values[middle])) this.#set(i + 1, j + 1, k + 1, middle, distance, near, within)
    for (let n = 0; n < 8; n++) this.#measure(i + 2 * (n & 1), j + 2 * (n >> 1 & 1), k + 2 * (n >> 2), near, within)
  }

  #measure(i: number, j: number, k: number, hint: number, within: boolean): void {
    const node = nodeOf(i, j, k), tree = this.#tree
    if (!Number.isNaN(this.#values[node])) return
    tree.ask(this.#x(i), this.#y(j), this.#z(k), hint)
    this.#set(i, j, k, node, tree.distance, tree.at, within)
  }

  /**
   * Measures a node between others that were measured before.
   * @param across of the middle of a side, the axis across it, for its corners are known; −1 for the middle of an edge
   */
  #measureBetween(i: number, j: number, k: number, across: number, hint: number, within: boolean): void {
    const node = nodeOf(i, j, k), values = this.#values
    if (!Number.isNaN(values[node])) return
    const x = this.#x(i), y = this.#y(j), z = this.#z(k), tree = this.#tree, { cellMm } = this.#frame, h2 = cellMm * cellMm, bounds = this.#bounds, squares = this.#squares
    let farMm = tree.distanceTo(hint, x, y, z)
    // the nearest of what is nearest to the six nodes beside it
    for (let n = 0; n < 6; n++) {
      const beside = node + SIX[n]
      squares[n] = (values[beside] + this.#wallMm) ** 2
      if (Number.isNaN(squares[n])) continue
      const near = this.#nearest[beside]
      if (near === hint) continue
      const mm = tree.distanceTo(near, x, y, z)
      if (mm >= farMm) continue
      farMm = mm
      hint = near
    }
    bounds.begin(farMm)
    for (let n = 0; n < 6; n++) if (!Number.isNaN(squares[n])) bounds.take(n >> 1, (n & 1 ? 1 : -1) * cellMm, h2 - squares[n])
    for (let n = 0; n < 6 && across >= 0; n++) {
      const axis = n >> 1, other = 3 - across - axis
      if (axis === across) continue
      // two corners of the side: their mean lies beside it
      const beside = node + SIX[n], one = values[beside + STRIDES[other]] + this.#wallMm, two = values[beside - STRIDES[other]] + this.#wallMm
      bounds.take(axis, (n & 1 ? 1 : -1) * cellMm, 2 * h2 - (one * one + two * two) / 2)
    }
    tree.askIn(bounds.around(x, y, z), x, y, z, hint, Infinity)
    this.#set(i, j, k, node, tree.distance, tree.at, within)
  }

  #set(i: number, j: number, k: number, node: number, distance: number, nearest: number, within: boolean): void {
    this.#values[node] = (within || this.#tree.winding(this.#x(i), this.#y(j), this.#z(k)) > 0 ? distance : -distance) - this.#wallMm
    this.#nearest[node] = nearest
    this.#touched[((i >> 3) * BLOCKS + (j >> 3)) * BLOCKS + (k >> 3)] = 1
  }

  /** What was measured, which is forgotten here. */
  #takeValues(): FilledBlocks {
    const places: number[] = [], count = this.#touched.reduce((sum, is) => sum + is, 0), values = new Float32Array(A_BLOCK * count)
    let to = 0
    for (let block = 0; block < this.#touched.length; block++) {
      if (this.#touched[block] === 0) continue
      const i = Math.floor(block / (BLOCKS * BLOCKS)) * 8, j = (Math.floor(block / BLOCKS) % BLOCKS) * 8, k = (block % BLOCKS) * 8
      places.push(this.#i + i, this.#j + j, this.#k + k)
      for (let n = 0; n < 64; n++, to += 8) {
        const from = nodeOf(i + (n >> 3), j + (n & 7), k)
        // beyond the last nodes of the unit there are none
        for (let a = 0; a < 8; a++) values[to + a] = i + (n >> 3) <= A_UNIT && j + (n & 7) <= A_UNIT && k + a <= A_UNIT ? this.#values[from + a] : NaN
      }
    }
    if (count > 0) this.#values.fill(NaN)
    this.#touched.fill(0)
    return { places: new Int32Array(places), values }
  }

  #x(i: number): number {
    return this.#frame.origin[0] + (this.#i + i) * this.#frame.cellMm
  }
  #y(j: number): number {
    return this.#frame.origin[1] + (this.#j + j) * this.#frame.cellMm
  }
  #z(k: number): number {
    return this.#frame.origin[2] + (this.#k + k) * this.#frame.cellMm
  }
}

/** Where a node of a unit lies in its arrays. */
function nodeOf(i: number, j: number, k: number): number {
  return (i + 1) * LAYER + (j + 1) * ROW + k + 1
}
