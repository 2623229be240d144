import { boundsOf, InsideTest, type Mesh, type NearestTree, type Vec3 } from '../mesh'
import { AxisBounds } from './axis-bounds'
import { A_BLOCK, Blocks } from './blocks'

/** Edge of the boxes that are looked at first and of the smallest ones, in cells. */
const LARGEST = 64, SMALLEST = 2
const HALF_DIAGONAL = Math.sqrt(3) / 2

/** The value of a node where the hollow was filled: only just solid. */
const FILLED = -1e-6
/** The value of a node in the hollow that is too far from the wall to be measured, in cells. */
const DEEP = 2.5

/** Nodes nearer than that to a point along an axis, in cells, tell nothing along it. */
const LEAST_SHARE = 0.02
/** To the nodes beside a node. */
const SIX = [[-1, 0, 0], [1, 0, 0], [0, -1, 0], [0, 1, 0], [0, 0, -1], [0, 0, 1]] as const
/** The middles of the sides and of the edges of a box of two cells each way, of sides with the axis across them. */
const ALL = Array.from({ length: 27 }, (_, n) => [n % 3, (n / 3 | 0) % 3, n / 9 | 0] as const), middles = (at: readonly number[]): number => at.filter(v => v === 1).length
const SIDES = ALL.filter(at => middles(at) === 2).map(at => ({ x: at[0], y: at[1], z: at[2], across: at.findIndex(v => v !== 1) })), EDGES = ALL.filter(at => middles(at) === 1).map(([x, y, z]) => ({ x, y, z, across: -1 }))

/**
 * How far the inside of a closed mesh lies from its skin, on the nodes of a grid near where that is a wall's thickness: boxes whose
 * middle says that the wall cannot pass through them are dropped, the others parted, down to two cells. A distance changes by no more
 * than the way one goes, so nothing is missed.
 */
export class WallGrid {
  readonly origin: Vec3
  /** Cells along x, y, z. */
  readonly size: readonly [number, number, number]
  /** Edge of a cell. */
  readonly cellMm: number
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
  readonly #inside: InsideTest
  readonly #tree: NearestTree
  readonly #wallMm: number
  /** A triangle nearest to each node. */
  readonly #nearest: Blocks<Int32Array>
  /** 1 for boxes that are known to lie in the solid as a whole. */
  readonly #within: number[] = []
  /** Of the nodes around a place, squares of how far they are from the skin, or that less than from the place; mm². */
  readonly #squares = new Float64Array(8)
  readonly #bounds = new AxisBounds()

  constructor(mesh: Mesh, tree: NearestTree, wallMm: number, cellMm: number) {
    const { min, max } = boundsOf(mesh.positions)
    this.origin = [min[0] - cellMm, min[1] - cellMm, min[2] - cellMm]
    const cells = (a: 0 | 1 | 2): number => Math.ceil(((max[a] - min[a]) / cellMm + 2) / LARGEST) * LARGEST
    this.size = [cells(0), cells(1), cells(2)]
    this.values = new Blocks(this.size, () => new Float32Array(A_BLOCK).fill(NaN))
    this.shaped = new Blocks(this.size, () => new Int32Array(A_BLOCK).fill(-1))
    this.#known = new Blocks(this.size, () => new Int32Array(A_BLOCK))
    this.#nearest = new Blocks(this.size, () => new Int32Array(A_BLOCK).fill(-1))
    this.#inside = new InsideTest(mesh, Uint32Array.from({ length: mesh.triangles.length / 3 }, (_, i) => i))
    this.#tree = tree
    this.#wallMm = wallMm
    this.cellMm = cellMm
  }

  /** Finds the boxes through which the wall passes, and measures all their nodes. @param onProgress the share that is done, 0 to 1 */
  find(onProgress?: (share: number) => void): void {
    const [a, b, c] = this.size.map(n => n / LARGEST)
    for (let i = 0; i < a; i++) {
      for (let j = 0; j < b; j++) {
        for (let k = 0; k < c; k++) this.#look(i * LARGEST, j * LARGEST, k * LARGEST, LARGEST, false, -1)
        onProgress?.((0.7 * (i * b + j + 1)) / (a * b))
      }
    }
    // middles and corners of boxes are measured; then the middles of their sides, and of their edges, for which it is known where to look
    for (const nodes of [SIDES, EDGES]) for (let box = 0; box < this.hints.length; box++) {
      const i = this.boxes[3 * box], j = this.boxes[3 * box + 1], k = this.boxes[3 * box + 2]
      for (const { x, y, z, across } of nodes) this.#measureBetween(i + x, j + y, k + z, across, this.hints[box], this.#within[box] === 1)
    }
    onProgress?.(1)
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
        this.values.set(x, y, z, DEEP * this.cellMm)
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
    const i = Math.floor((x - this.origin[0]) / this.cellMm), j = Math.floor((y - this.origin[1]) / this.cellMm), k = Math.floor((z - this.origin[2]) / this.cellMm)
    for (let n = 0; n < 8; n++) {
      const a = i + (n & 1), b = j + (n >> 1 & 1), c = k + (n >> 2)
      if (this.values.get(a, b, c) <= 0) continue
      this.shape(a, b, c, FILLED)
      this.addAround(a, b, c)
    }
  }

  /** @param within whether all of the box is known to lie in the solid */
  #look(i: number, j: number, k: number, edge: number, within: boolean, hint: number): void {
    const tree = this.#tree, half = edge / 2, reach = edge * this.cellMm * HALF_DIAGONAL * 1.000001
    const x = this.#x(i + half), y = this.#y(j + half), z = this.#z(k + half)
    tree.ask(x, y, z, hint, this.#wallMm + reach, this.#wallMm - reach)
    const { distance, at: near } = tree
    if (near < 0 || distance + reach < this.#wallMm) return
    if (!within && distance > reach) {
      if (this.#inside.winding(x, y, z) <= 0) return
      within = true
    }
    if (edge > SMALLEST) {
      for (let n = 0; n < 8; n++) this.#look(i + (n & 1) * half, j + (n >> 1 & 1) * half, k + (n >> 2) * half, half, within, near)
      return
    }
    this.#add(i, j, k, near)
    this.#within.push(within ? 1 : 0)
    if (Number.isNaN(this.values.get(i + 1, j + 1, k + 1))) this.#set(i + 1, j + 1, k + 1, distance, near, within)
    for (let n = 0; n < 8; n++) this.#measure(i + 2 * (n & 1), j + 2 * (n >> 1 & 1), k + 2 * (n >> 2), near, within)
  }

  /** How far the node nearest to a point is from the skin, mm; NaN where nobody measured that. */
  distanceNear(x: number, y: number, z: number): number {
    const i = Math.round((x - this.origin[0]) / this.cellMm), j = Math.round((y - this.origin[1]) / this.cellMm), k = Math.round((z - this.origin[2]) / this.cellMm)
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
    const h = this.cellMm, u = (x - this.origin[0]) / h, v = (y - this.origin[1]) / h, w = (z - this.origin[2]) / h, i = Math.floor(u), j = Math.floor(v), k = Math.floor(w), a = u - i, b = v - j, c = w - k, known = this.#squares, bounds = this.#bounds
    if (i < 0 || j < 0 || k < 0 || i >= this.size[0] || j >= this.size[1] || k >= this.size[2]) return null
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

  #measure(i: number, j: number, k: number, hint: number, within: boolean): void {
    if (!Number.isNaN(this.values.get(i, j, k))) return
    const tree = this.#tree
    tree.ask(this.#x(i), this.#y(j), this.#z(k), hint)
    this.#set(i, j, k, tree.distance, tree.at, within)
  }

  /**
   * Measures a node between others that were measured before.
   * @param across of the middle of a side, the axis across it, for its corners are known; −1 for the middle of an edge
   */
  #measureBetween(i: number, j: number, k: number, across: number, hint: number, within: boolean): void {
    if (!Number.isNaN(this.values.get(i, j, k))) return
    const x = this.#x(i), y = this.#y(j), z = this.#z(k), tree = this.#tree, h2 = this.cellMm * this.cellMm, bounds = this.#bounds, squares = this.#squares
    let farMm = tree.distanceTo(hint, x, y, z)
    // the nearest of what is nearest to the six nodes beside it
    for (let n = 0; n < 6; n++) {
      const [dx, dy, dz] = SIX[n], a = i + dx, b = j + dy, c = k + dz
      squares[n] = (this.values.peek(a, b, c) + this.#wallMm) ** 2
      const near = Number.isNaN(squares[n]) ? -1 : this.#nearest.peek(a, b, c)
      if (near < 0 || near === hint) continue
      const mm = tree.distanceTo(near, x, y, z)
      if (mm >= farMm) continue
      farMm = mm
      hint = near
    }
    bounds.begin(farMm)
    for (let n = 0; n < 6; n++) if (!Number.isNaN(squares[n])) bounds.take(n >> 1, (n & 1 ? 1 : -1) * this.cellMm, h2 - squares[n])
    for (let n = 0; n < 6 && across >= 0; n++) {
      const axis = n >> 1, other = 3 - across - axis
      if (axis === across) continue
      // two corners of the side: their mean lies beside it
      const [dx, dy, dz] = SIX[n], [ex, ey, ez] = SIX[2 * other], one = this.values.peek(i + dx + ex, j + dy + ey, k + dz + ez) + this.#wallMm, two = this.values.peek(i + dx - ex, j + dy - ey, k + dz - ez) + this.#wallMm
      bounds.take(axis, (n & 1 ? 1 : -1) * this.cellMm, 2 * h2 - (one * one + two * two) / 2)
    }
    tree.askIn(bounds.around(x, y, z), x, y, z, hint, Infinity)
    this.#set(i, j, k, tree.distance, tree.at, within)
  }

  #set(i: number, j: number, k: number, distance: number, nearest: number, within: boolean): void {
    this.values.set(i, j, k, (within || this.#inside.winding(this.#x(i), this.#y(j), this.#z(k)) > 0 ? distance : -distance) - this.#wallMm)
    this.#nearest.set(i, j, k, nearest)
  }

  #x(i: number): number {
    return this.origin[0] + i * this.cellMm
  }
  #y(j: number): number {
    return this.origin[1] + j * this.cellMm
  }
  #z(k: number): number {
    return this.origin[2] + k * this.cellMm
  }
}

/** Between four values at the corners of a square. */
function between(a: number, b: number, one: number, two: number, three: number, four: number): number {
  return (1 - b) * ((1 - a) * one + a * two) + b * ((1 - a) * three + a * four)
}
