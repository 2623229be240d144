/** The alphabets of deflate (RFC 1951, 3.2.5). */
export const LENGTH_CODES = 286, DISTANCE_CODES = 30, END_OF_BLOCK = 256
export const LONGEST_MATCH = 258, SHORTEST_MATCH = 3, FARTHEST_MATCH = 32768

export const LENGTH_EXTRA = [0, 0, 0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 2, 2, 2, 2, 3, 3, 3, 3, 4, 4, 4, 4, 5, 5, 5, 5, 0]
export const DISTANCE_EXTRA = Array.from({ length: DISTANCE_CODES }, (_, i) => Math.max(0, (i >> 1) - 1))

/** The shortest match and the shortest distance that each code stands for. */
export const LENGTH_BASE = LENGTH_EXTRA.map((_, i) => (i === LENGTH_EXTRA.length - 1 ? LONGEST_MATCH : SHORTEST_MATCH + LENGTH_EXTRA.slice(0, i).reduce((sum, bits) => sum + (1 << bits), 0)))
export const DISTANCE_BASE = DISTANCE_EXTRA.map((_, i) => 1 + DISTANCE_EXTRA.slice(0, i).reduce((sum, bits) => sum + (1 << bits), 0))

/** Code, extra bits and their number for every length of a match, by length. */
export const lengthCode = new Uint16Array(LONGEST_MATCH + 1), lengthExtra = new Uint8Array(LONGEST_MATCH + 1), lengthBits = new Uint8Array(LONGEST_MATCH + 1)
for (let i = 0, length = SHORTEST_MATCH; i < LENGTH_EXTRA.length; i++) {
  const span = i === LENGTH_EXTRA.length - 1 ? 1 : 1 << LENGTH_EXTRA[i]
  // the last code stands for the longest match alone, which the one before would reach too
  if (i === LENGTH_EXTRA.length - 1) length = LONGEST_MATCH
  for (let k = 0; k < span && length <= LONGEST_MATCH; k++, length++) {
    lengthCode[length] = 257 + i
    lengthExtra[length] = k
    lengthBits[length] = LENGTH_EXTRA[i]
  }
}

/** A distance back as deflate writes it. */
export interface DistanceCode {
  readonly code: number
  readonly extra: number
  readonly bits: number
}

/** @param distance 1 to `FARTHEST_MATCH` */
export function distanceCode(distance: number): DistanceCode {
  let code = 0, base = 1
  while (code + 1 < DISTANCE_CODES && base + (1 << DISTANCE_EXTRA[code]) <= distance) base += 1 << DISTANCE_EXTRA[code++]
  return { code, extra: distance - base, bits: DISTANCE_EXTRA[code] }
}

/** The order in which lengths of the code of code lengths are written. */
export const LENGTH_ORDER = [16, 17, 18, 0, 8, 7, 9, 6, 10, 5, 11, 4, 12, 3, 13, 2, 14, 1, 15]
