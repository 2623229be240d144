import { FARTHEST_MATCH, LONGEST_MATCH, SHORTEST_MATCH } from './deflate-tables'
import type { GreyRuns } from './grey-runs'

/** Matches reach back by one byte, or by one row of the picture. */
export const BACK_ONE = 1, BACK_ROW = 2

/** What the modulus of Adler's sums is. */
const ADLER = 65521

/** What tokens cost about, bits: a literal; a longest match by one byte and by a row; and what a shorter one costs more. */
const LITERAL = 3, LONG_ONE = 3, LONG_ROW = 13, SHORTER = 6

/** What a run costs about, and what that many bytes of the row above do. */
const runCost = (bytes: number): number => LITERAL + Math.floor(bytes / LONGEST_MATCH) * LONG_ONE + (bytes % LONGEST_MATCH === 0 ? 0 : LONG_ONE + SHORTER)
const rowCost = (bytes: number): number => Math.floor(bytes / LONGEST_MATCH) * LONG_ROW + (bytes % LONGEST_MATCH === 0 ? 0 : LONG_ROW + SHORTER)

/**
 * The bytes of a picture, a filter byte of 0 before each row, as literals and matches. No byte of it is ever laid down: a run is one literal
 * and a match by one, over the ends of rows as well; where that is cheaper, what equals the row above is a match by one row.
 */
export class RowTokens {
  /** Numbers below 256 are literal bytes; others, less 256, hold the length of a match from bit 2 on and what it reaches back by in the lowest two. */
  data = new Int32Array(1 << 16)
  length = 0
  // a run, or a stretch of the rows above, that may still grow
  #value = -1
  #pending = 0
  #last = -1

  /** @returns the Adler-32 of the bytes (RFC 1950) */
  take({ width, height, starts, pairs, shades }: GreyRuns): number {
    const stride = width + 1, canReachUp = stride >= SHORTEST_MATCH && stride <= FARTHEST_MATCH
    this.length = 0
    this.#pending = 0
    this.#value = this.#last = -1
    let low = 1, high = 0, above: Stretches | null = null, now = new Stretches(), spare = new Stretches()
    for (let r = 0; r < height; r++) {
      now.take(starts[r], starts[r + 1], pairs, shades, stride)
      high = (high + stride * low + now.sumOfSums) % ADLER
      low = (low + now.sum) % ADLER
      this.#row(now, canReachUp ? above : null, stride)
      above = now
      const swap: Stretches = now
      now = spare
      spare = swap
    }
    this.#end()
    return (high * 65536 + low) >>> 0
  }

  #row(now: Stretches, above: Stretches | null, stride: number): void {
    const { ends, values } = now
    // up to where the row equals the one above, and what the runs until there cost
    let equalTo = 0, runsLeft = 0, i = 0, k = 0
    for (let pos = 0; pos < stride;) {
      while (ends[i] <= pos) i++
      const value = values[i], end = ends[i]
      if (above && pos >= equalTo) {
        while (above.ends[k] <= pos) k++
        equalTo = pos
        runsLeft = 0
        for (let ci = i, ck = k; equalTo < stride && values[ci] === above.values[ck];) {
          const e = ends[ci], f = above.ends[ck], to = e < f ? e : f
          runsLeft += runCost(to - equalTo)
          equalTo = to
          if (e === to) ci++
          if (f === to) ck++
        }
      }
      const equal = equalTo - pos, run = end - pos
      if (equal >= SHORTEST_MATCH && rowCost(equal) < runsLeft && (equal <= run || rowCost(equal) - rowCost(equal - run) < runCost(run))) {
        this.#add(UP, equal)
        pos = equalTo
        this.#last = ends[i] >= pos ? value : now.valueBefore(pos, i)
        continue
      }
      if (pos < equalTo) runsLeft -= runCost(Math.min(end, equalTo) - pos)
      this.#add(value, run)
      pos = end
    }
  }

  /** Bytes of one value, or of the row above. */
  #add(value: number, bytes: number): void {
    if (value !== this.#value) {
      this.#end()
      this.#value = value
    }
    this.#pending += bytes
  }

  #end(): void {
    let left = this.#pending
    this.#pending = 0
    if (left === 0) return
    this.#room(Math.ceil(left / (LONGEST_MATCH - SHORTEST_MATCH)) + SHORTEST_MATCH + 1)
    const value = this.#value
    if (value === UP) {
      this.#match(left, BACK_ROW)
      return
    }
    if (this.#last !== value || left < SHORTEST_MATCH) {
      this.data[this.length++] = value
      left--
    }
    if (left >= SHORTEST_MATCH) this.#match(left, BACK_ONE)
    else for (; left > 0; left--) this.data[this.length++] = value
    this.#last = value
  }

  #match(bytes: number, back: number): void {
    for (let left = bytes; left > 0;) {
      // what is left must never be too short for a match of its own
      const take = left <= LONGEST_MATCH ? left : left - LONGEST_MATCH >= SHORTEST_MATCH ? LONGEST_MATCH : LONGEST_MATCH - SHORTEST_MATCH
      this.data[this.length++] = ((take << 2) | back) + 256
      left -= take
    }
  }

  #room(more: number): void {
    if (this.length + more <= this.data.length) return
    const wider = new Int32Array(2 * (this.length + more))
    wider.set(this.data.subarray(0, this.length))
    this.data = wider
  }
}

/** In place of a value: bytes of the row above. */
const UP = 256

/** A row as stretches of one value, its filter byte first. */
class Stretches {
  /** Where each ends, in bytes from the filter byte on. */
  ends = new Int32Array(64)
  values = new Uint8Array(64)
  /** Sum of the bytes, and of all sums from the first on. */
  sum = 0
  sumOfSums = 0

  take(from: number, to: number, pairs: Int32Array, shades: Uint8Array | null, stride: number): void {
    if (2 * (to - from) + 2 > this.ends.length) {
      this.ends = new Int32Array(4 * (to - from) + 4)
      this.values = new Uint8Array(this.ends.length)
    }
    const { ends, values } = this
    let n = 0, at = 0, sum = 0, sums = 0
    for (let i = from; i < to; i++) {
      const a = pairs[2 * i] + 1, e = pairs[2 * i + 1] + 1, v = shades ? shades[i] : 255, long = e - a
      if (a > at) {
        ends[n] = a
        values[n++] = 0
      }
      if (n > 0 && values[n - 1] === v && ends[n - 1] === a) ends[n - 1] = e
      else {
        ends[n] = e
        values[n++] = v
      }
      at = e
      sum += v * long
      sums += v * (long * stride - (a + e - 1) * long / 2)
    }
    if (at < stride) {
      ends[n] = stride
      values[n] = 0
    }
    this.sum = sum
    this.sumOfSums = sums
  }

  /** The value of the byte before a place, looked for from stretch i on. */
  valueBefore(pos: number, i: number): number {
    while (this.ends[i] < pos) i++
    return this.values[i]
  }
}
