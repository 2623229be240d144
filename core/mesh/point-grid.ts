import type { Vec3 } from './triangle-mesh'

/** Points in space, asked whether one is near. */
export class PointGrid {
  readonly #cellMm: number
  readonly #cells = new Map<string, Vec3[]>()

  /** @param cellMm about the distance that will be asked for; must not be less than it */
  constructor(cellMm: number) {
    this.#cellMm = cellMm
  }

  #cell(v: number): number {
    return Math.floor(v / this.#cellMm)
  }

  add(p: Vec3): void {
    const key = `${this.#cell(p[0])} ${this.#cell(p[1])} ${this.#cell(p[2])}`, list = this.#cells.get(key)
    if (list) list.push(p)
    else this.#cells.set(key, [p])
  }

  /** Whether a point is nearer than a distance, which is at most a cell. */
  near(p: Vec3, distanceMm: number): boolean {
    const [x, y, z] = [this.#cell(p[0]), this.#cell(p[1]), this.#cell(p[2])]
    for (let i = x - 1; i <= x + 1; i++) {
      for (let j = y - 1; j <= y + 1; j++) {
        for (let k = z - 1; k <= z + 1; k++) {
          for (const q of this.#cells.get(`${i} ${j} ${k}`) ?? []) if (Math.hypot(p[0] - q[0], p[1] - q[1], p[2] - q[2]) < distanceMm - 1e-9) return true
        }
      }
    }
    return false
  }
}
