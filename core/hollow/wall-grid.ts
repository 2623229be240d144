import { boundsOf, InsideTest, type Mesh, type NearestTree, type Vec3 } from '../mesh'
import { A_BLOCK, Blocks } from './blocks'

/** Edge of the boxes that are looked at first and of the smallest ones, in cells. */
const LARGEST = 64, SMALLEST = 2
const HALF_DIAGONAL = Math.sqrt(3) / 2

/** The value of a node where the hollow was filled: only just solid. */
const FILLED = -1e-6
/** The value of a node in the hollow that is too far from the wall to be measured, in cells. */
const DEEP = 2.5

/**
 * How far the inside of a closed mesh lies from its skin, on the nodes of a grid near where that is a wall's thickness: boxes whose
 * middle says that the wall cannot pass through them are dropped, the others parted, down to two cells. A distance changes by no more
 * than the way one goes, so nothing is missed.
 */
export class WallGrid {
  readonly origin: Vec3
  /** Cells along x, y, z. */
  readonly size: readonly [number, number, number]
  /** Distance to the skin less the wall, in mm: above zero where it is hollow. NaN where nobody asked. */
  readonly values: Blocks<Float32Array>
  /** 1 at nodes whose value was given by something else than the skin; −1 elsewhere. */
  readonly shaped: Blocks<Int32Array>
  /** Lowest corners of the boxes through which the wall may pass, of two cells each way, in cells: three numbers a box. */
  readonly boxes: number[] = []
  /** A triangle near each box, by the tree's count; −1 where none is known. */
  readonly hints: number[] = []
  /** 1 at the lowest corners of the boxes. */
  readonly #known: Blocks<Int32Array>
  readonly #inside: InsideTest
  readonly #tree: NearestTree
  readonly #wallMm: number
  readonly #cellMm: number

  constructor(mesh: Mesh, tree: NearestTree, wallMm: number, cellMm: number) {
    const { min, max } = boundsOf(mesh.positions)
    this.origin = [min[0] - cellMm, min[1] - cellMm, min[2] - cellMm]
    const cells = (a: 0 | 1 | 2): number => Math.ceil(((max[a] - min[a]) / cellMm + 2) / LARGEST) * LARGEST
    this.size = [cells(0), cells(1), cells(2)]
    this.values = new Blocks(this.size, () => new Float32Array(A_BLOCK).fill(NaN))
    this.shaped = new Blocks(this.size, () => new Int32Array(A_BLOCK).fill(-1))
    this.#known = new Blocks(this.size, () => new Int32Array(A_BLOCK))
    this.#inside = new InsideTest(mesh, Uint32Array.from({ length: mesh.triangles.length / 3 }, (_, i) => i))
    this.#tree = tree
    this.#wallMm = wallMm
    this.#cellMm = cellMm
  }

  /** Finds the boxes through which the wall passes. @param onProgress the share that is done, 0 to 1 */
  find(onProgress?: (share: number) => void): void {
    const [a, b, c] = this.size.map(n => n / LARGEST)
    for (let i = 0; i < a; i++) {
      for (let j = 0; j < b; j++) {
        for (let k = 0; k < c; k++) this.#look(i * LARGEST, j * LARGEST, k * LARGEST, LARGEST, false, -1)
        onProgress?.((i * b + j + 1) / (a * b))
      }
    }
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
        if (Number.isNaN(this.values.get(x, y, z))) this.values.set(x, y, z, DEEP * this.#cellMm)
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
    const i = Math.floor((x - this.origin[0]) / this.#cellMm), j = Math.floor((y - this.origin[1]) / this.#cellMm), k = Math.floor((z - this.origin[2]) / this.#cellMm)
    for (let n = 0; n < 8; n++) {
      const a = i + (n & 1), b = j + (n >> 1 & 1), c = k + (n >> 2)
      if (this.values.get(a, b, c) <= 0) continue
      this.shape(a, b, c, FILLED)
      this.addAround(a, b, c)
    }
  }

  /** @param within whether all of the box is known to lie in the solid */
  #look(i: number, j: number, k: number, edge: number, within: boolean, hint: number): void {
    const tree = this.#tree, half = edge / 2, reach = edge * this.#cellMm * HALF_DIAGONAL * 1.000001
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
    for (let n = 0; n < 27; n++) this.#measure(i + n % 3, j + (n / 3 | 0) % 3, k + (n / 9 | 0), within, near)
  }

  #measure(i: number, j: number, k: number, within: boolean, hint: number): void {
    if (!Number.isNaN(this.values.get(i, j, k))) return
    const x = this.#x(i), y = this.#y(j), z = this.#z(k)
    this.#tree.ask(x, y, z, hint)
    const { distance } = this.#tree
    this.values.set(i, j, k, (within || this.#inside.winding(x, y, z) > 0 ? distance : -distance) - this.#wallMm)
  }

  #x(i: number): number {
    return this.origin[0] + i * this.#cellMm
  }
  #y(j: number): number {
    return this.origin[1] + j * this.#cellMm
  }
  #z(k: number): number {
    return this.origin[2] + k * this.#cellMm
  }
}
