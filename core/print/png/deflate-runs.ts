import { DISTANCE_CODES, distanceCode, END_OF_BLOCK, LENGTH_CODES, lengthBits, lengthCode, lengthExtra, LENGTH_ORDER } from './deflate-tables'
import type { GreyRuns } from './grey-runs'
import { codeLengths, codesOf, MOST_BITS, MOST_LENGTH_BITS } from './huffman'
import { BACK_ONE, RowTokens } from './row-tokens'

/** Kept between pictures, so that nothing large is made anew for each. */
export class DeflateScratch {
  readonly tokens = new RowTokens()
  readonly counts = new Float64Array(LENGTH_CODES)
}

/** Bits one after another, the lowest first (RFC 1951, 3.1.1). */
class BitWriter {
  bytes: Uint8Array
  length = 0
  #bits = 0
  #held = 0

  constructor(size: number) {
    this.bytes = new Uint8Array(size)
  }

  /** @param bits at most 16 */
  put(value: number, bits: number): void {
    this.#bits |= value << this.#held
    this.#held += bits
    while (this.#held >= 8) {
      if (this.length === this.bytes.length) this.#grow()
      this.bytes[this.length++] = this.#bits & 255
      this.#bits >>>= 8
      this.#held -= 8
    }
  }

  end(): void {
    if (this.#held > 0) this.put(0, 8 - this.#held)
  }

  #grow(): void {
    const wider = new Uint8Array(2 * this.bytes.length)
    wider.set(this.bytes)
    this.bytes = wider
  }
}

/**
 * The bytes of a picture, each row behind a filter byte of 0, deflated as one block with Huffman codes of its own.
 * Source: RFC 1950 and RFC 1951.
 */
export function deflateRuns(picture: GreyRuns, scratch: DeflateScratch): Uint8Array {
  const { tokens, counts } = scratch, adler = tokens.take(picture), { data, length } = tokens
  const distances = new Float64Array(DISTANCE_CODES), one = distanceCode(1), row = distanceCode(Math.min(picture.width + 1, 32768))
  counts.fill(0)
  for (let i = 0; i < length; i++) {
    const t = data[i]
    if (t < 256) counts[t]++
    else {
      counts[lengthCode[(t - 256) >> 2]]++
      distances[((t - 256) & 3) === BACK_ONE ? one.code : row.code]++
    }
  }
  counts[END_OF_BLOCK] = 1
  const litLengths = codeLengths(counts, MOST_BITS), distLengths = codeLengths(distances, MOST_BITS)
  // a block without a match says so by one code of one bit that nothing uses
  if (!distLengths.some(l => l > 0)) distLengths[0] = 1
  const litCodes = codesOf(litLengths), distCodes = codesOf(distLengths)
  const out = new BitWriter(1024 + 2 * length)
  // zlib: deflate with a window of 32 kB, checked to be a multiple of 31
  out.put(0x78, 8)
  out.put(0x01, 8)
  out.put(1, 1)
  out.put(2, 2)
  writeLengths(out, litLengths, distLengths)
  const oneCode = distCodes[one.code], oneLong = distLengths[one.code], rowCode = distCodes[row.code], rowLong = distLengths[row.code]
  for (let i = 0; i < length; i++) {
    const t = data[i]
    if (t < 256) {
      out.put(litCodes[t], litLengths[t])
      continue
    }
    const long = (t - 256) >> 2, code = lengthCode[long]
    out.put(litCodes[code], litLengths[code])
    if (lengthBits[long] > 0) out.put(lengthExtra[long], lengthBits[long])
    if (((t - 256) & 3) === BACK_ONE) out.put(oneCode, oneLong)
    else {
      out.put(rowCode, rowLong)
      if (row.bits > 0) out.put(row.extra, row.bits)
    }
  }
  out.put(litCodes[END_OF_BLOCK], litLengths[END_OF_BLOCK])
  out.end()
  for (let shift = 24; shift >= 0; shift -= 8) out.put((adler >>> shift) & 255, 8)
  return out.bytes.subarray(0, out.length)
}

/** The code lengths of both alphabets, run by run, and before them those of the code that these are written in (RFC 1951, 3.2.7). */
function writeLengths(out: BitWriter, literals: Uint8Array, distances: Uint8Array): void {
  let lit = literals.length, dist = distances.length
  while (lit > 257 && literals[lit - 1] === 0) lit--
  while (dist > 1 && distances[dist - 1] === 0) dist--
  const all = new Uint8Array(lit + dist)
  all.set(literals.subarray(0, lit))
  all.set(distances.subarray(0, dist), lit)
  const symbols: { readonly symbol: number; readonly extra: number; readonly bits: number }[] = []
  for (let i = 0; i < all.length;) {
    const v = all[i]
    let run = 1
    while (i + run < all.length && all[i + run] === v) run++
    i += run
    if (v !== 0) {
      symbols.push({ symbol: v, extra: 0, bits: 0 })
      run--
    }
    while (run >= 3) {
      const most = v !== 0 ? 6 : 138, take = Math.min(most, run)
      symbols.push(v !== 0 ? { symbol: 16, extra: take - 3, bits: 2 } : take <= 10 ? { symbol: 17, extra: take - 3, bits: 3 } : { symbol: 18, extra: take - 11, bits: 7 })
      run -= take
    }
    for (; run > 0; run--) symbols.push({ symbol: v, extra: 0, bits: 0 })
  }
  const counts = new Float64Array(19)
  for (const { symbol } of symbols) counts[symbol]++
  const lengths = codeLengths(counts, MOST_LENGTH_BITS), codes = codesOf(lengths)
  let used = 19
  while (used > 4 && lengths[LENGTH_ORDER[used - 1]] === 0) used--
  out.put(lit - 257, 5)
  out.put(dist - 1, 5)
  out.put(used - 4, 4)
  for (let i = 0; i < used; i++) out.put(lengths[LENGTH_ORDER[i]], 3)
  for (const { symbol, extra, bits } of symbols) {
    out.put(codes[symbol], lengths[symbol])
    if (bits > 0) out.put(extra, bits)
  }
}
