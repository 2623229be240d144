/** Blocks of six by six, row by row, of three displacements and three turns; in one array from an offset on. Sums of six are written out: most of the time that loads take goes here. */
export const SIZE = 6
export const BLOCK = SIZE * SIZE

type Numbers = Float64Array

/** c = a · b */
export function multiply(a: Numbers, ao: number, b: Numbers, bo: number, c: Numbers, co: number): void {
  for (let i = 0, p = ao, q = co; i < SIZE; i++, p += SIZE, q += SIZE) {
    const a0 = a[p], a1 = a[p + 1], a2 = a[p + 2], a3 = a[p + 3], a4 = a[p + 4], a5 = a[p + 5]
    for (let j = 0, r = bo; j < SIZE; j++, r++) c[q + j] = a0 * b[r] + a1 * b[r + 6] + a2 * b[r + 12] + a3 * b[r + 18] + a4 * b[r + 24] + a5 * b[r + 30]
  }
}

/** c += s · aᵀ · b */
export function addTransposed(s: number, a: Numbers, ao: number, b: Numbers, bo: number, c: Numbers, co: number): void {
  for (let i = 0, p = ao, q = co; i < SIZE; i++, p++, q += SIZE) {
    const a0 = s * a[p], a1 = s * a[p + 6], a2 = s * a[p + 12], a3 = s * a[p + 18], a4 = s * a[p + 24], a5 = s * a[p + 30]
    for (let j = 0, r = bo; j < SIZE; j++, r++) c[q + j] += a0 * b[r] + a1 * b[r + 6] + a2 * b[r + 12] + a3 * b[r + 18] + a4 * b[r + 24] + a5 * b[r + 30]
  }
}

/** b = aᵀ */
export function transpose(a: Numbers, ao: number, b: Numbers, bo: number): void {
  for (let i = 0; i < SIZE; i++) for (let j = 0; j < SIZE; j++) b[bo + SIZE * j + i] = a[ao + SIZE * i + j]
}

/** y += s · a · x */
export function addTimes(s: number, a: Numbers, ao: number, x: Numbers, xo: number, y: Numbers, yo: number): void {
  const x0 = s * x[xo], x1 = s * x[xo + 1], x2 = s * x[xo + 2], x3 = s * x[xo + 3], x4 = s * x[xo + 4], x5 = s * x[xo + 5]
  for (let i = 0, p = ao; i < SIZE; i++, p += SIZE) y[yo + i] += a[p] * x0 + a[p + 1] * x1 + a[p + 2] * x2 + a[p + 3] * x3 + a[p + 4] * x4 + a[p + 5] * x5
}

/** y += s · aᵀ · x */
export function addTransposedTimes(s: number, a: Numbers, ao: number, x: Numbers, xo: number, y: Numbers, yo: number): void {
  const x0 = s * x[xo], x1 = s * x[xo + 1], x2 = s * x[xo + 2], x3 = s * x[xo + 3], x4 = s * x[xo + 4], x5 = s * x[xo + 5]
  for (let i = 0, p = ao; i < SIZE; i++, p++) y[yo + i] += a[p] * x0 + a[p + 6] * x1 + a[p + 12] * x2 + a[p + 18] * x3 + a[p + 24] * x4 + a[p + 30] * x5
}

/** Share of its diagonal that a pivot must keep, else nothing holds in that direction. */
const LEAST_PIVOT = 1e-12
const lower = new Float64Array(BLOCK), inverse = new Float64Array(BLOCK)

/**
 * The inverse of a symmetric block that is positive definite. Where it is not, the directions in which nothing holds are left free: they
 * answer every load with no displacement, and false is given.
 */
export function invert(a: Numbers, ao: number, out: Numbers, oo: number): boolean {
  let sound = true
  lower.fill(0)
  for (let i = 0; i < SIZE; i++) {
    for (let j = 0; j <= i; j++) {
      let sum = a[ao + SIZE * i + j]
      for (let k = 0; k < j; k++) sum -= lower[SIZE * i + k] * lower[SIZE * j + k]
      if (i !== j) lower[SIZE * i + j] = lower[SIZE * j + j] === 0 ? 0 : sum / lower[SIZE * j + j]
      else if (sum > LEAST_PIVOT * Math.abs(a[ao + SIZE * i + i]) && sum > 0) lower[SIZE * i + i] = Math.sqrt(sum)
      else sound = false
    }
  }
  // columns of the inverse of the lower half, then its square
  inverse.fill(0)
  for (let j = 0; j < SIZE; j++) {
    for (let i = j; i < SIZE; i++) {
      const d = lower[SIZE * i + i]
      if (d === 0) continue
      let sum = i === j ? 1 : 0
      for (let k = j; k < i; k++) sum -= lower[SIZE * i + k] * inverse[SIZE * k + j]
      inverse[SIZE * i + j] = sum / d
    }
  }
  for (let i = 0; i < SIZE; i++) {
    for (let j = 0; j < SIZE; j++) {
      let sum = 0
      for (let k = Math.max(i, j); k < SIZE; k++) sum += inverse[SIZE * k + i] * inverse[SIZE * k + j]
      out[oo + SIZE * i + j] = sum
    }
  }
  return sound
}
