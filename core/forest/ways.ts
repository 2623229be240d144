import type { Vec3 } from '../mesh'
import { CELL_HEIGHT_MM, CELL_MM, runOut, type Room } from './room'

/** A way that leans costs so much more of its length for every radian. */
const LEAN_COST = 0.12
/** Steps to a cell of the layer below: straight, to a side, to a corner; how far, mm, and what they cost. */
const STEPS = [-1, 0, 1].flatMap(dy => [-1, 0, 1].map(dx => {
  const across = CELL_MM * Math.hypot(dx, dy)
  return { dx, dy, cost: Math.hypot(across, CELL_HEIGHT_MM) * (1 + LEAN_COST * Math.atan2(across, CELL_HEIGHT_MM)) }
})).sort((a, b) => a.cost - b.cost)

/** Where the plate is to be reached from, how dear that is, and which way: always falling, by 45° at the most. */
export class Ways {
  readonly #room: Room
  readonly #clearMm: number
  /** By cell, mm with what leaning costs; Infinity where no way leads down. */
  readonly #cost: Float32Array
  /** By cell, the step down from it. */
  readonly #step: Int8Array

  /** @param clearMm how far the axis of a way keeps from the skin; @param plate half its width and depth, mm */
  constructor(room: Room, clearMm: number, plate: readonly [number, number], inSteps = false) {
    this.#room = room
    this.#clearMm = clearMm
    this.#cost = new Float32Array(room.distances.length).fill(Infinity)
    this.#step = new Int8Array(room.distances.length).fill(-1)
    if (!inSteps) runOut(this.#measure(plate))
  }
  /** The same, with a yield now and then. */
  static *inSteps(room: Room, clearMm: number, plate: readonly [number, number]): Generator<void, Ways, void> {
    const ways = new Ways(room, clearMm, plate, true)
    yield* ways.#measure(plate)
    return ways
  }

  *#measure(plate: readonly [number, number]): Generator<void, void, void> {
    const { distances, cells: { nx, ny, nz, x0, y0 } } = this.#room, clearMm = this.#clearMm, cost = this.#cost, step = this.#step
    for (let k = 0; k < nz; k++) {
      yield
      for (let j = 1; j < ny - 1; j++) {
        for (let i = 1; i < nx - 1; i++) {
          const cell = (k * ny + j) * nx + i
          if (distances[cell] < clearMm) continue
          if (k === 0) {
            if (Math.abs(x0 + (i + 0.5) * CELL_MM) <= plate[0] && Math.abs(y0 + (j + 0.5) * CELL_MM) <= plate[1]) cost[cell] = CELL_HEIGHT_MM / 2
            continue
          }
          const below = cell - nx * ny
          for (let s = 0; s < STEPS.length; s++) {
            const c = cost[below + STEPS[s].dy * nx + STEPS[s].dx] + STEPS[s].cost
            if (c >= cost[cell]) continue
            cost[cell] = c
            step[cell] = s
          }
        }
      }
    }
  }

  /** What the way from a point costs, mm; Infinity where none leads down. */
  costFrom(at: Vec3): number {
    const cell = this.#cellAt(at)
    return cell < 0 ? Infinity : this.#cost[cell]
  }

  /** The way from a point down to the plate, as few bends as there can be; null where there is none. */
  from(at: Vec3): Vec3[] | null {
    const { nx, ny, x0, y0 } = this.#room.cells
    let cell = this.#cellAt(at)
    if (cell < 0 || this.#cost[cell] === Infinity) return null
    const points: Vec3[] = [at]
    while (this.#step[cell] >= 0) {
      const { dx, dy } = STEPS[this.#step[cell]]
      cell += dy * nx + dx - nx * ny
      const i = cell % nx, rest = (cell - i) / nx, j = rest % ny
      points.push([x0 + (i + 0.5) * CELL_MM, y0 + (j + 0.5) * CELL_MM, ((rest - j) / ny + 0.5) * CELL_HEIGHT_MM])
    }
    const last = points[points.length - 1]
    points.push([last[0], last[1], 0])
    return this.#straightened(points)
  }

  /** Leaves out what can be gone past in a straight line that leans no more than the steps do. */
  #straightened(points: readonly Vec3[]): Vec3[] {
    const out = [points[0]]
    for (let i = 0; i + 1 < points.length; ) {
      let next = i + 1
      for (let j = points.length - 1; j > next; j--) {
        const [a, b] = [points[i], points[j]]
        if (Math.hypot(a[0] - b[0], a[1] - b[1]) > (a[2] - b[2]) * (1 + 1e-9)) continue
        // the first piece may begin nearer to the skin than a way keeps: it is told by how far the point itself is
        if (!this.#room.isClear(a, b, Math.min(this.#clearMm, this.#room.distanceAt(...a)), this.#clearMm, 0)) continue
        next = j
        break
      }
      out.push(points[next])
      i = next
    }
    return out
  }

  #cellAt([x, y, z]: Vec3): number {
    const { nx, ny, nz, x0, y0 } = this.#room.cells, i = Math.floor((x - x0) / CELL_MM), j = Math.floor((y - y0) / CELL_MM), k = Math.floor(z / CELL_HEIGHT_MM)
    return i < 0 || j < 0 || k < 0 || i >= nx || j >= ny || k >= nz ? -1 : (k * ny + j) * nx + i
  }
}
