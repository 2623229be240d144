import type { Printer } from '../contract'
import { radians, type Mesh } from '../mesh'
import { rotationOf, type TiltAngles } from '../pose'
import { sphereLattice } from './directions'

/** Directions in which the outermost point of a part is kept; what they miss stands out by a hair. */
const DIRECTIONS = 400
/** Turns that are tried where a part does not fit as it is turned now: a quarter, then all others. */
const TURNS = [90, 45, -45, 15, 30, 60, 75, -15, -30, -60, -75]

/** Tells which tilts of a part a printer has room for. */
export class Room {
  /** x, y, z of the outermost points. */
  readonly #points: Float64Array
  readonly #printer: Pick<Printer, 'widthMm' | 'depthMm' | 'heightMm'>
  readonly #liftMm: number

  constructor(mesh: Mesh, printer: Pick<Printer, 'widthMm' | 'depthMm' | 'heightMm'>, liftMm: number) {
    const { positions: p } = mesh, outer = new Set<number>()
    for (const [x, y, z] of sphereLattice(DIRECTIONS)) {
      let best = -1, far = -Infinity
      for (let i = 0; i < p.length; i += 3) {
        const d = p[i] * x + p[i + 1] * y + p[i + 2] * z
        if (d > far) {
          far = d
          best = i
        }
      }
      if (best >= 0) outer.add(best)
    }
    this.#points = Float64Array.from([...outer].flatMap(i => [p[i], p[i + 1], p[i + 2]]))
    this.#printer = printer
    this.#liftMm = liftMm
  }

  /** The turn about the vertical in which a tilt fits above the middle of the plate, that of now where it does so; null where it does not fit. */
  turnFor(tilt: TiltAngles, turnDeg: number): number | null {
    const r = rotationOf({ ...tilt, turnDeg: 0, liftMm: 0 }), q = this.#points, flat = new Float64Array((q.length / 3) * 2)
    let low = Infinity, high = -Infinity
    for (let i = 0, k = 0; i < q.length; i += 3, k += 2) {
      flat[k] = r[0] * q[i] + r[1] * q[i + 1] + r[2] * q[i + 2]
      flat[k + 1] = r[3] * q[i] + r[4] * q[i + 1] + r[5] * q[i + 2]
      const z = r[6] * q[i] + r[7] * q[i + 1] + r[8] * q[i + 2]
      low = Math.min(low, z)
      high = Math.max(high, z)
    }
    if (high - low + this.#liftMm > this.#printer.heightMm) return null
    const found = [0, ...TURNS].find(by => this.#fits(flat, radians(turnDeg + by)))
    if (found === undefined) return null
    const turn = turnDeg + found
    return turn > 180 ? turn - 360 : turn <= -180 ? turn + 360 : turn
  }

  #fits(flat: Float64Array, turn: number): boolean {
    const c = Math.cos(turn), s = Math.sin(turn)
    let x0 = Infinity, x1 = -Infinity, y0 = Infinity, y1 = -Infinity
    for (let k = 0; k < flat.length; k += 2) {
      const x = c * flat[k] - s * flat[k + 1], y = s * flat[k] + c * flat[k + 1]
      x0 = Math.min(x0, x)
      x1 = Math.max(x1, x)
      y0 = Math.min(y0, y)
      y1 = Math.max(y1, y)
    }
    return x1 - x0 <= this.#printer.widthMm && y1 - y0 <= this.#printer.depthMm
  }
}
