/** Blocks of six by six, row by row, of three displacements and three turns; in one array from an offset on. */
export const SIZE = 6
export const BLOCK = SIZE * SIZE

type Numbers = Float64Array

/** c = a · b */
export function multiply(a: Numbers, ao: number, b: Numbers, bo: number, c: Numbers, co: number): void {
  for (let i = 0; i < SIZE; i++) {
    for (let j = 0; j < SIZE; j++) {
      let sum = 0
      for (let k = 0; k < SIZE; k++) sum += a[ao + SIZE * i + k] * b[bo + SIZE * k + j]
      c[co + SIZE * i + j] = sum
    }
  }
}

/** c += s · aᵀ · b */
export function addTransposed(s: number, a: Numbers, ao: number, b: Numbers, bo: number, c: Numbers, co: number): void {
  for (let i = 0; i < SIZE; i++) {
    for (let j = 0; j < SIZE; j++) {
      let sum = 0
      for (let k = 0; k < SIZE; k++) sum += a[ao + SIZE * k + i] * b[bo + SIZE * k + j]
      c[co + SIZE * i + j] += s * sum
    }
  }
}

/** b = aᵀ */
export function transpose(a: Numbers, ao: number, b: Numbers, bo: number): void {
  for (let i = 0; i < SIZE; i++) for (let j = 0; j < SIZE; j++) b[bo + SIZE * j + i] = a[ao + SIZE * i + j]
}

/** y += s · a · x */
export function addTimes(s: number, a: Numbers, ao: number, x: Numbers, xo: number, y: Numbers, yo: number): void {
  for (let i = 0; i < SIZE; i++) {
    let sum = 0
    for (let k = 0; k < SIZE; k++) sum += a[ao + SIZE * i + k] * x[xo + k]
    y[yo + i] += s * sum
  }
}

/** y += s · aᵀ · x */
export function addTransposedTimes(s: number, a: Numbers, ao: number, x: Numbers, xo: number, y: Numbers, yo: number): void {
  for (let i = 0; i < SIZE; i++) {
    let sum = 0
    for (let k = 0; k < SIZE; k++) sum += a[ao + SIZE * k + i] * x[xo + k]
    y[yo + i] += s * sum
  }
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
