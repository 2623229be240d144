import { buildTree, joinTrees } from '../mesh'
import { backAbout, backFor, edgesAndFaces, missingStill, setBackMore } from './placing'
import type { Corners, Surface } from './surface'
import type { WallGrid } from './wall-grid'
import { WallWork, type Shared, type WallHelper, type WallTasks, type WallWanted } from './wall-work'

/** Fewer corners or triangles than that are not worth sharing out. */
const LEAST_SHARED = 2000
/** Triangles by which is told how they lie. */
const SAMPLED = 1000
/** So often what was set back is measured, at the most. */
const CHECKS = 6

/** This core and those that help it to make an inner wall. What one that fails should have done is done here. */
export class WallCrew {
  readonly #work: WallWork
  readonly #helpers: WallHelper[]

  private constructor(work: WallWork, helpers: readonly WallHelper[]) {
    this.#work = work
    this.#helpers = [...helpers]
  }
  static async begin(wanted: WallWanted, helpers: readonly WallHelper[]): Promise<WallCrew> {
    const { mesh } = wanted, isShared = helpers.length > 0 && mesh.triangles.length / 3 >= LEAST_SHARED
    // what is asked of a helper waits there until it is ready; if it cannot begin, all that follows fails too
    const begun = helpers.map((help, n) => help('begin', { ...wanted, half: isShared && n === 0 ? 1 : null }).catch(() => null))
    const work = new WallWork(wanted), own = isShared ? buildTree(mesh, 0) : null, tree = own ? joinTrees(own, (await begun[0]) ?? buildTree(mesh, 1)) : buildTree(mesh)
    for (const help of helpers) help('tree', { corners: tree.corners.slice(), boxes: tree.boxes.slice(), next: tree.next.slice(), counts: tree.counts.slice() }).catch(() => undefined)
    work.see(tree)
    return new WallCrew(work, helpers)
  }
  get grid(): WallGrid {
    return this.#work.grid
  }

  /** Finds where the wall passes, and measures the nodes there. @param onProgress the share that is done, 0 to 1 */
  async find(onProgress?: (share: number) => void): Promise<void> {
    const [a, b, c] = this.grid.frame.units, all = Int32Array.from({ length: a * b * c }, (_, n) => n), cores = this.#helpers.length + 1
    // in turn, since what is beside each other is as much work
    const found = await this.#ask('find', cores, n => ({ units: all.filter(unit => unit % cores === n) }), asked => this.#work.find(asked, onProgress))
    for (const unit of all) this.grid.take(found[unit % cores][Math.floor(unit / cores)])
  }

  /** Brings all corners that are not known yet to the wall's distance, and sets them back by what is nearer between them. @param isRough whether they stay where they are then */
  async place(surface: Surface, isRough: boolean): Promise<void> {
    const { known, corners, balls, hints } = surface, { grid: { frame: { cellMm } } } = this, cores = this.#coresFor(known.reduce((sum, is) => sum + 1 - is, 0)), share = (n: number, of: number): number => Math.floor((n * of) / cores)
    const part = (n: number): Corners => partOf(surface, share(n, known.length), share(n + 1, known.length), n > 0)
    const take = (parts: readonly Corners[]): void => parts.forEach((p, n) => n > 0 && takeInto(surface, p, share(n, known.length)))
    for (const help of this.#helpers.slice(0, cores - 1)) help('take', this.grid.measured()).catch(() => undefined)
    take(await this.#ask('place', cores, part))
    if (isRough) return
    const by = backAbout(surface, cellMm)
    take(await this.#ask('back', cores, n => ({ of: part(n), by: cut(by, share(n, by.length), share(n + 1, by.length), n > 0) })))
    const elements = edgesAndFaces(surface), count = elements.length / 4
    this.#setBack(surface, elements, joined(await this.#ask('between', cores, n => ({ elements: cut(elements, 4 * share(n, count), 4 * share(n + 1, count), n > 0), of: n > 0 ? { corners: corners.slice(), balls: balls.slice(), hints: hints.slice() } : surface }))))
  }
  /** Sets corners back until nothing between them is too near. */
  #setBack(surface: Surface, elements: Int32Array, missing: Float32Array): void {
    const { eye } = this.#work
    for (let check = 1; check < CHECKS; check++) {
      const by = backFor(elements, missing, surface.known.length, eye.grid.frame.cellMm)
      if (!by) return
      setBackMore(surface, by, eye)
      missingStill(elements, surface, eye, by, missing)
    }
  }

  /** Where faces run through each other: six numbers a segment, in an order that is the same for any number of cores. @param corners x, y, z of each @param triangles those that are looked at */
  async crossings(corners: Float32Array, triangles: Uint32Array): Promise<Float32Array> {
    const cores = this.#coresFor(triangles.length / 3), parts = bySpace(corners, triangles, cores)
    return inOrder(joined(await this.#ask('cross', cores, n => ({ positions: corners.slice(), triangles: parts[n] }))))
  }

  /** How many cores are worth while. */
  #coresFor(count: number): number {
    return count < LEAST_SHARED ? 1 : this.#helpers.length + 1
  }

  /** Asks some cores at once. @param asked by core, of which this one is 0 */
  async #ask<T extends Shared>(task: T, cores: number, asked: (core: number) => WallTasks[T]['asked'], own = (what: WallTasks[T]['asked']) => this.#work.do(task, what)): Promise<WallTasks[T]['told'][]> {
    const theirs = this.#helpers.slice(0, cores - 1).map((help, n) => help(task, asked(n + 1)).catch(() => null)), mine = own(asked(0)), told = await Promise.all(theirs)
    return [mine, ...told.map((answer, n) => answer ?? own(asked(n + 1)))]
  }

  /** Lets the helpers forget it. */
  end(): void {
    for (const help of this.#helpers) help('end', null).catch(() => undefined)
  }
}

type Numbers = Float64Array | Float32Array | Int32Array | Uint8Array
/** Some of an array: as it is, or copied to be handed over. */
function cut<A extends Numbers>(all: A, from: number, to: number, isCopy: boolean): A {
  return (isCopy ? all.slice(from, to) : all.subarray(from, to)) as A
}
function partOf(of: Corners, from: number, to: number, isCopy: boolean): Corners {
  const part = <A extends Numbers>(all: A, each: number): A => cut(all, each * from, each * to, isCopy)
  return { corners: part(of.corners, 3), directions: part(of.directions, 3), balls: part(of.balls, 4), hints: part(of.hints, 1), filled: part(of.filled, 1), known: part(of.known, 1) }
}
function takeInto(of: Corners, part: Corners, from: number): void {
  of.corners.set(part.corners, 3 * from)
  of.directions.set(part.directions, 3 * from)
  of.balls.set(part.balls, 4 * from)
  of.hints.set(part.hints, from)
}
function joined(parts: readonly Float32Array[]): Float32Array {
  if (parts.length === 1) return parts[0]
  const all = new Float32Array(parts.reduce((sum, p) => sum + p.length, 0))
  let to = 0
  for (const p of parts) {
    all.set(p, to)
    to += p.length
  }
  return all
}

/** Shares triangles out by where they lie along the longest axis, so that two that meet are in one share at least. */
function bySpace(corners: Float32Array, triangles: Uint32Array, cores: number): Uint32Array[] {
  if (cores === 1) return [triangles]
  const step = 3 * Math.max(1, Math.floor(triangles.length / 3 / SAMPLED)), sampled = [0, 1, 2].map(axis => {
    const at: number[] = []
    for (let i = 0; i < triangles.length; i += step) at.push(corners[3 * triangles[i] + axis])
    return at.sort((a, b) => a - b)
  })
  const axis = sampled.reduce((best, at, k) => (at[at.length - 1] - at[0] > sampled[best][sampled[best].length - 1] - sampled[best][0] ? k : best), 0), planes = Array.from({ length: cores - 1 }, (_, n) => sampled[axis][Math.floor(((n + 1) * sampled[axis].length) / cores)])
  return Array.from({ length: cores }, (_, n) => {
    const low = n === 0 ? -Infinity : planes[n - 1], high = n === cores - 1 ? Infinity : planes[n], part = new Uint32Array(triangles.length)
    let to = 0
    for (let i = 0; i < triangles.length; i += 3) {
      const a = corners[3 * triangles[i] + axis], b = corners[3 * triangles[i + 1] + axis], c = corners[3 * triangles[i + 2] + axis]
      if (Math.max(a, b, c) < low || Math.min(a, b, c) > high) continue
      for (let k = 0; k < 3; k++) part[to++] = triangles[i + k]
    }
    return part.slice(0, to)
  })
}
/** Segments by where they lie, each once. */
function inOrder(segments: Float32Array): Float32Array {
  const apart = (i: number, j: number): number => {
    for (let k = 0; k < 6; k++) if (segments[6 * i + k] !== segments[6 * j + k]) return segments[6 * i + k] - segments[6 * j + k]
    return 0
  }
  const sorted = Array.from({ length: segments.length / 6 }, (_, i) => i).sort(apart)
  return Float32Array.from(sorted.filter((s, n) => n === 0 || apart(s, sorted[n - 1]) !== 0).flatMap(s => [...segments.subarray(6 * s, 6 * s + 6)]))
}
