/** By so much boxes are larger, and balls smaller, mm, than what rounding may be off. */
const SPARE_MM = 1e-6

/**
 * Where the skin nearest to a point may be, seen from there, by what is known around it: no farther than U, and in none of some empty
 * balls. For a ball of radius r with its middle at g a point y of the skin keeps 2 y·g ≤ U² − r² + |g|², and so it does for means of
 * balls; where the mean of the middles lies along an axis, that bounds y along it.
 */
export class AxisBounds {
  /** The least x, y, z, then the greatest, of where it may be. */
  readonly box = new Float64Array(6)
  readonly #low = new Float64Array(3)
  readonly #high = new Float64Array(3)
  #far = 0

  /** @param farMm where some skin is known to be at the farthest */
  begin(farMm: number): void {
    this.#far = farMm
    this.#low.fill(-farMm)
    this.#high.fill(farMm)
  }

  /**
   * Takes some balls whose mean middle lies along an axis.
   * @param g how far along it, mm, to either side @param square mean of |g|² − r² of the balls
   */
  take(axis: number, g: number, square: number): void {
    const bound = (this.#far * this.#far + square + SPARE_MM) / (2 * g)
    if (g > 0) {
      if (bound < this.#high[axis]) this.#high[axis] = bound
    } else if (bound > this.#low[axis]) this.#low[axis] = bound
  }

  /** Makes the box around a point of what was taken. */
  around(x: number, y: number, z: number): Float64Array {
    const low = this.#low, high = this.#high, { box } = this, far2 = this.#far * this.#far
    const a = leastSquare(low[0], high[0]), b = leastSquare(low[1], high[1]), c = leastSquare(low[2], high[2])
    const xMost = Math.sqrt(Math.max(0, far2 - b - c)), yMost = Math.sqrt(Math.max(0, far2 - a - c)), zMost = Math.sqrt(Math.max(0, far2 - a - b))
    box[0] = x + Math.max(low[0], -xMost) - SPARE_MM
    box[1] = y + Math.max(low[1], -yMost) - SPARE_MM
    box[2] = z + Math.max(low[2], -zMost) - SPARE_MM
    box[3] = x + Math.min(high[0], xMost) + SPARE_MM
    box[4] = y + Math.min(high[1], yMost) + SPARE_MM
    box[5] = z + Math.min(high[2], zMost) + SPARE_MM
    return box
  }
}

function leastSquare(low: number, high: number): number {
  return low > 0 ? low * low : high < 0 ? high * high : 0
}
