import { DISTANCE_BASE, DISTANCE_EXTRA, END_OF_BLOCK, LENGTH_BASE, LENGTH_EXTRA, LENGTH_ORDER } from './deflate-tables'
import { MOST_BITS } from './huffman'

/** A stream of bytes as runs of equal ones: where each ends, and its value. */
export class ByteRuns {
  ends = new Int32Array(1 << 14)
  values = new Uint8Array(1 << 14)
  count = 0
  /** Bytes in all. */
  length = 0
  #hint = 0

  clear(): void {
    this.count = this.length = this.#hint = 0
  }

  add(value: number, bytes: number): void {
    this.length += bytes
    const n = this.count
    if (n > 0 && this.values[n - 1] === value) {
      this.ends[n - 1] = this.length
      return
    }
    if (n === this.ends.length) {
      const ends = new Int32Array(2 * n), values = new Uint8Array(2 * n)
      ends.set(this.ends)
      values.set(this.values)
      this.ends = ends
      this.values = values
    }
    this.ends[n] = this.length
    this.values[n] = value
    this.count = n + 1
  }

  /** Repeats what was added so many bytes ago. */
  repeat(distance: number, bytes: number): void {
    if (distance === 1) {
      this.add(this.values[this.count - 1], bytes)
      return
    }
    let from = this.length - distance, i = this.#runAt(from)
    this.#hint = i
    for (let left = bytes; left > 0;) {
      while (this.ends[i] <= from) i++
      const take = Math.min(left, this.ends[i] - from)
      this.add(this.values[i], take)
      from += take
      left -= take
    }
  }

  /** The run that holds a byte; most often a little after the last one that was asked for. */
  #runAt(at: number): number {
    let low = 0, high = this.count - 1
    const hint = this.#hint
    if (hint < this.count && (hint === 0 || this.ends[hint - 1] <= at)) {
      for (let i = hint; i < Math.min(this.count, hint + 8); i++) if (this.ends[i] > at) return i
      low = hint
    }
    while (low < high) {
      const middle = (low + high) >> 1
      if (this.ends[middle] <= at) low = middle + 1
      else high = middle
    }
    return low
  }
}

/** Bytes that no stream of ours holds. */
class Broken extends Error {
  constructor() {
    super('The compressed data is damaged.')
  }
}

/** Symbols by the bits that lie next, each with the length of its code in the lowest four bits. */
function lookUp(lengths: Uint8Array, table: Uint16Array): void {
  const perLength = new Uint16Array(MOST_BITS + 1), next = new Uint16Array(MOST_BITS + 2)
  for (const l of lengths) perLength[l]++
  perLength[0] = 0
  for (let bits = 1, code = 0; bits <= MOST_BITS; bits++) next[bits] = code = (code + perLength[bits - 1]) << 1
  table.fill(0)
  for (let s = 0; s < lengths.length; s++) {
    const long = lengths[s]
    if (long === 0) continue
    let code = next[long]++, turned = 0
    for (let b = 0; b < long; b++, code >>= 1) turned = (turned << 1) | (code & 1)
    for (let at = turned; at < 1 << MOST_BITS; at += 1 << long) table[at] = (s << 4) | long
  }
}

const FIXED_LITERALS = Uint8Array.from({ length: 288 }, (_, s) => (s < 144 ? 8 : s < 256 ? 9 : s < 280 ? 7 : 8)), FIXED_DISTANCES = new Uint8Array(30).fill(5)
const literalTable = new Uint16Array(1 << MOST_BITS), distanceTable = new Uint16Array(1 << MOST_BITS), lengthTable = new Uint16Array(1 << MOST_BITS)

/**
 * Inflates a zlib stream into runs, without laying down its bytes: what is mostly runs, and rows like those above, costs what its tokens do.
 * Source: RFC 1950, RFC 1951.
 * @param most bytes that there are to be; more are refused @throws Error where the stream is damaged
 */
export function inflateRuns(data: Uint8Array, out: ByteRuns, most: number): void {
  if (data.length < 6 || (data[0] & 15) !== 8 || ((data[0] << 8) | data[1]) % 31 !== 0 || data[1] & 32) throw new Broken()
  let at = 2, held = 0, bits = 0
  const need = (n: number): void => {
    while (bits < n) {
      // past the end come zeros; that they are needed for real shows in the check sum
      held |= (at < data.length ? data[at] : 0) << bits
      if (++at > data.length + 4) throw new Broken()
      bits += 8
    }
  }
  const take = (n: number): number => {
    if (n === 0) return 0
    need(n)
    const value = held & ((1 << n) - 1)
    held >>>= n
    bits -= n
    return value
  }
  const symbol = (table: Uint16Array): number => {
    need(MOST_BITS)
    const found = table[held & ((1 << MOST_BITS) - 1)], long = found & 15
    if (long === 0) throw new Broken()
    held >>>= long
    bits -= long
    return found >> 4
  }
  out.clear()
  for (let last = 0; !last;) {
    last = take(1)
    const kind = take(2)
    if (kind === 0) {
      take(bits & 7)
      const size = take(16), check = take(16)
      if ((size ^ check) !== 0xffff) throw new Broken()
      for (let i = 0; i < size; i++) out.add(take(8), 1)
    } else {
      if (kind === 3) throw new Broken()
      if (kind === 1) {
        lookUp(FIXED_LITERALS, literalTable)
        lookUp(FIXED_DISTANCES, distanceTable)
      } else {
        const literals = take(5) + 257, distances = take(5) + 1, used = take(4) + 4, lengths = new Uint8Array(19), all = new Uint8Array(literals + distances)
        for (let i = 0; i < used; i++) lengths[LENGTH_ORDER[i]] = take(3)
        lookUp(lengths, lengthTable)
        for (let i = 0; i < all.length;) {
          const s = symbol(lengthTable)
          if (s < 16) all[i++] = s
          else {
            const value = s === 16 ? (i > 0 ? all[i - 1] : -1) : 0, run = s === 16 ? 3 + take(2) : s === 17 ? 3 + take(3) : 11 + take(7)
            if (value < 0 || i + run > all.length) throw new Broken()
            all.fill(value, i, (i += run))
          }
        }
        lookUp(all.subarray(0, literals), literalTable)
        lookUp(all.subarray(literals), distanceTable)
      }
      for (;;) {
        const s = symbol(literalTable)
        if (s < END_OF_BLOCK) out.add(s, 1)
        else if (s === END_OF_BLOCK) break
        else {
          const long = LENGTH_BASE[s - 257] + take(LENGTH_EXTRA[s - 257]), d = symbol(distanceTable), distance = DISTANCE_BASE[d] + take(DISTANCE_EXTRA[d])
          if (!(distance <= out.length)) throw new Broken()
          out.repeat(distance, long)
        }
        if (out.length > most) throw new Broken()
      }
    }
    if (out.length > most) throw new Broken()
  }
  // whole bytes that were taken ahead go back
  at -= bits >> 3
  if (at + 4 > data.length) throw new Broken()
  const sum = ((data[at] << 24) | (data[at + 1] << 16) | (data[at + 2] << 8) | data[at + 3]) >>> 0
  if (sum !== adlerOf(out)) throw new Broken()
}

const ADLER = 65521

/** Adler-32 of runs. */
function adlerOf({ ends, values, count }: ByteRuns): number {
  let low = 1, high = 0
  for (let i = 0, from = 0; i < count; from = ends[i++]) {
    const long = ends[i] - from, v = values[i]
    high = (high + ((long * low) % ADLER) + ((v * ((long * (long + 1)) / 2)) % ADLER)) % ADLER
    low = (low + v * long) % ADLER
  }
  return (high * 65536 + low) >>> 0
}
