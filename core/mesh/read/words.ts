import { MeshError } from '../mesh-error'
import { BLOCK_BYTES, type ByteSource } from './byte-source'

const SPACE = 32, LINE_FEED = 10, CARRIAGE_RETURN = 13, BACKSLASH = 92
/** Digits that a number can use: further ones do not change it. */
const MOST_MANTISSA = 9e14

/**
 * Words of a text, parted by white space and control characters, read a block at a time: a text of hundreds of megabytes is more
 * than the engine can hold as a string. A backslash at the end of a line joins it to the next.
 */
export class Words {
  /** The block that holds the word, and where in it the word begins and ends. */
  bytes: Uint8Array
  from = 0
  to = 0
  /** Whether the word is the first of its line. */
  first = false
  /** Lines that have ended. */
  line = 1
  readonly #source: ByteSource
  #buffer: Uint8Array
  #filled = 0
  /** Where in the source the buffer ends. */
  #read: number
  #begun = false

  /** @param start byte to begin at */
  constructor(source: ByteSource, start = 0) {
    this.#source = source
    this.#read = start
    this.#buffer = new Uint8Array(BLOCK_BYTES)
    this.bytes = this.#buffer
  }

  /** Goes to the next word; gives whether there is one, and stays at the last one otherwise. @throws MeshError where this is no text */
  next(): boolean {
    let at = this.to
    this.first = !this.#begun
    this.#begun = true
    for (;;) {
      if (at === this.#filled) {
        if (!this.#refill(at)) return false
        at = this.to
      }
      const c = this.#buffer[at]
      if (c === LINE_FEED || (c === CARRIAGE_RETURN && (at + 1 < this.#filled ? this.#buffer[at + 1] : 0) !== LINE_FEED)) {
        this.line++
        this.first = true
      } else if (c === BACKSLASH && this.#lineEndsAt(at + 1)) {
        at = this.#lineEndsAt(at + 1)
        this.line++
        continue
      } else if (c > SPACE) break
      at++
    }
    this.from = at
    while (at === this.#filled || this.#buffer[at] > SPACE) {
      if (at === this.#filled) {
        const length = at - this.from
        if (!this.#refill(this.from)) break
        this.from = 0
        at = length
        continue
      }
      at++
    }
    this.to = at
    return true
  }

  /** Behind the end of the line that begins at `at` of the buffer; 0 where none does. */
  #lineEndsAt(at: number): number {
    if (this.#buffer[at] === LINE_FEED && at < this.#filled) return at + 1
    return this.#buffer[at] === CARRIAGE_RETURN && this.#buffer[at + 1] === LINE_FEED && at + 1 < this.#filled ? at + 2 : 0
  }

  /** Keeps what is from `keep` on and reads more behind it; gives whether there was more. */
  #refill(keep: number): boolean {
    const kept = this.#filled - keep
    if (kept > BLOCK_BYTES / 2) throw new MeshError('damaged', 'This file holds a word without an end: its text is damaged. Export the model again.')
    const more = this.#source.read(this.#read, BLOCK_BYTES - kept)
    // at the end the last word stays
    if (more.length === 0) return false
    this.#buffer.copyWithin(0, keep, this.#filled)
    this.#buffer.set(more, kept)
    this.#read += more.length
    this.#filled = kept + more.length
    this.from = 0
    this.to = kept
    return true
  }

  /** Goes over what is left of the line. Gives whether another one begins. */
  skipLine(): boolean {
    while (this.next()) if (this.first) return true
    return false
  }

  /** Whether the word is this one, given in small letters, written in letters of any size. */
  is(text: string): boolean {
    if (this.to - this.from !== text.length) return false
    for (let i = 0; i < text.length; i++) if ((this.bytes[this.from + i] | 32) !== text.charCodeAt(i)) return false
    return true
  }

  /** The first byte of the word. */
  get head(): number {
    return this.bytes[this.from]
  }

  text(): string {
    return new TextDecoder('utf-8').decode(this.bytes.subarray(this.from, this.to))
  }

  /** The word as a decimal number; NaN where it is none. */
  number(): number {
    return readDecimal(this.bytes, this.from, this.to)
  }
}

/** A decimal number in ASCII bytes; NaN where it is none. */
export function readDecimal(bytes: Uint8Array, from: number, to: number): number {
  let i = from, sign = 1, mantissa = 0, exponent = 0, digits = 0
  if (bytes[i] === 45) { sign = -1; i++ } else if (bytes[i] === 43) i++
  let fraction = false
  for (; i < to; i++) {
    const c = bytes[i]
    if (c >= 48 && c <= 57) {
      digits++
      if (mantissa < MOST_MANTISSA) {
        mantissa = mantissa * 10 + (c - 48)
        if (fraction) exponent--
      } else if (!fraction) exponent++
    } else if (c === 46 && !fraction) fraction = true
    else break
  }
  if (digits === 0) return NaN
  if (i < to) {
    if ((bytes[i] | 32) !== 101) return NaN
    i++
    let expSign = 1, exp = 0, expDigits = 0
    if (bytes[i] === 45) { expSign = -1; i++ } else if (bytes[i] === 43) i++
    for (; i < to; i++) {
      const c = bytes[i]
      if (c < 48 || c > 57) return NaN
      exp = exp * 10 + (c - 48)
      expDigits++
    }
    if (expDigits === 0) return NaN
    exponent += expSign * exp
  }
  // a division by an exact power of ten rounds once
  return sign * (exponent < 0 ? mantissa / 10 ** -exponent : mantissa * 10 ** exponent)
}
