import { BLOCK, SIZE } from '../frame/block'
import { LEAST_HELD } from './grip'
import type { LayerGrip } from './grip-states'

/** By piece, forces in N and moments in N·mm about the middle, or displacements in mm and turns: as many times six numbers as there are cases. */
export type ByPiece = ReadonlyMap<number, Float64Array>

/** Pieces that are held by the same supports, and so move with each other. */
export class Group {
  readonly pieces: readonly number[]
  readonly grips: readonly LayerGrip[]
  /** Cholesky's factor of how they are held, row by row from the first number of each that is not zero; null where nothing holds them in some direction. */
  readonly #lower: readonly Float64Array[] | null

  /** @param grips supports that hold them, and none else */
  constructor(pieces: readonly number[], grips: readonly LayerGrip[]) {
    this.grips = grips
    // pieces with few others first, then those that many others move with: so rows stay short
    const others = new Map(pieces.map(p => [p, 0]))
    for (const { presses } of grips) for (const p of presses.keys()) others.set(p, Math.max(others.get(p) ?? 0, presses.size) + (presses.size > 1 ? 1 : 0))
    this.pieces = grips.length > 1 ? [...pieces].sort((a, b) => (others.get(a) ?? 0) - (others.get(b) ?? 0) || a - b) : pieces
    this.#lower = factored(heldBy(this.pieces, grips))
  }

  get holds(): boolean {
    return this.#lower !== null
  }

  /** How pieces move under loads; nothing where they are not held. */
  solve(loads: ByPiece, cases: number): Map<number, Float64Array> {
    const { pieces } = this, lower = this.#lower, n = SIZE * pieces.length, x = new Float64Array(n), out = new Map<number, Float64Array>()
    if (!lower) return out
    for (const p of pieces) out.set(p, new Float64Array(SIZE * cases))
    for (let c = 0; c < cases; c++) {
      x.fill(0)
      pieces.forEach((p, i) => {
        const load = loads.get(p)
        for (let d = 0; load && d < SIZE; d++) x[SIZE * i + d] = load[SIZE * c + d]
      })
      substitute(lower, x)
      pieces.forEach((p, i) => out.get(p)?.set(x.subarray(SIZE * i, SIZE * (i + 1)), SIZE * c))
    }
    return out
  }
}

/** How pieces resist being moved, held by some supports: rows of the lower half, each from the first number on that is not zero to its diagonal. */
function heldBy(pieces: readonly number[], grips: readonly LayerGrip[]): Float64Array[] {
  const place = new Map(pieces.map((p, i) => [p, i])), first = pieces.map((_, i) => i)
  for (const { shares } of grips) {
    for (const { p, q } of shares) {
      const row = place.get(p), column = place.get(q)
      if (row !== undefined && column !== undefined && column < first[row]) first[row] = column
    }
  }
  const rows = pieces.flatMap((_, i) => Array.from({ length: SIZE }, (_, r) => new Float64Array(SIZE * (i - first[i]) + r + 1)))
  for (const { shares } of grips) {
    for (const { p, q, block } of shares) {
      const row = place.get(p), column = place.get(q)
      if (row === undefined || column === undefined || column > row) continue
      for (let r = 0; r < SIZE; r++) {
        const out = rows[SIZE * row + r], from = SIZE * (column - first[row])
        for (let c = 0; c < (row === column ? r + 1 : SIZE); c++) out[from + c] += (block[SIZE * r + c] + (row === column ? block[SIZE * c + r] : block[SIZE * r + c])) / 2
      }
    }
  }
  return rows
}

/** Cholesky's factor in the place of rows; null where nothing holds in some direction. */
function factored(rows: Float64Array[]): Float64Array[] | null {
  for (let i = 0; i < rows.length; i++) {
    const row = rows[i], from = i + 1 - row.length, own = row[row.length - 1]
    for (let j = from; j <= i; j++) {
      const other = rows[j], otherFrom = j + 1 - other.length, start = Math.max(from, otherFrom)
      let sum = row[j - from]
      for (let k = start; k < j; k++) sum -= row[k - from] * other[k - otherFrom]
      if (j < i) row[j - from] = sum / other[other.length - 1]
      else if (sum > LEAST_HELD * own && sum > 0) row[j - from] = Math.sqrt(sum)
      else return null
    }
  }
  return rows
}

/** Solves in place by a factor. */
function substitute(rows: readonly Float64Array[], x: Float64Array): void {
  for (let i = 0; i < rows.length; i++) {
    const row = rows[i], from = i + 1 - row.length
    let sum = x[i]
    for (let j = from; j < i; j++) sum -= row[j - from] * x[j]
    x[i] = sum / row[row.length - 1]
  }
  for (let i = rows.length - 1; i >= 0; i--) {
    const row = rows[i], from = i + 1 - row.length, value = (x[i] /= row[row.length - 1])
    for (let j = from; j < i; j++) x[j] -= row[j - from] * value
  }
}

/** Whether a block of six by six holds in every direction, beside what it resists by itself. */
export function isHeld(block: Float64Array, beside: Float64Array): boolean {
  const lower = new Float64Array(BLOCK)
  for (let i = 0; i < SIZE; i++) {
    for (let j = 0; j <= i; j++) {
      let sum = block[SIZE * i + j]
      for (let k = 0; k < j; k++) sum -= lower[SIZE * i + k] * lower[SIZE * j + k]
      if (j < i) lower[SIZE * i + j] = sum / lower[SIZE * j + j]
      else if (sum > LEAST_HELD * beside[SIZE * i + i] && sum > 0) lower[SIZE * i + i] = Math.sqrt(sum)
      else return false
    }
  }
  return true
}
