import { MeshError } from './mesh-error'
import type { Mesh } from './triangle-mesh'

/** The largest STL that is read, in bytes. */
export const STL_LIMIT_BYTES = 500 * 1024 * 1024

const HEADER_BYTES = 84
const FACET_BYTES = 50

/**
 * Reads an STL, binary or ASCII, into a triangle soup: three vertices of its own for every triangle, in file order.
 * Facet normals are not used: the order of the vertices says which side is outside. A byte-order mark, odd names, a count that
 * stands for nothing and a missing last line do no harm.
 * Source: the StereoLithography Interface Specification (3D Systems, 1989) as commonly described.
 * @throws MeshError `empty`, `cut-short`, `not-stl`, `not-finite` or `too-large`
 */
export function readStl(file: Uint8Array): Mesh {
  if (file.length === 0) throw new MeshError('empty', 'This file is empty. Export the model again from the program that made it.')
  if (file.length > STL_LIMIT_BYTES) {
    throw new MeshError('too-large', `This file has ${Math.round(file.length / 1048576)} MB; at most 500 MB can be read. Reduce the number of triangles and export it again.`)
  }
  const marked = file[0] === 0xef && file[1] === 0xbb && file[2] === 0xbf
  const bytes = marked ? file.subarray(3) : file
  const positions = looksLikeText(bytes) ? readAscii(bytes) : readBinary(bytes)
  if (positions.length === 0) throw new MeshError('empty', 'This STL holds no triangles. Export the model again, with the model selected.')
  let bad = 0
  for (let i = 0; i < positions.length; i++) if (!Number.isFinite(positions[i])) bad++
  if (bad > 0) {
    throw new MeshError('not-finite', `${bad === 1 ? '1 coordinate in this file is not a number' : `${bad} coordinates in this file are not numbers`}. Repair the model in the program that made it and export it again.`)
  }
  const triangles = new Uint32Array(positions.length / 3)
  for (let i = 0; i < triangles.length; i++) triangles[i] = i
  return { positions, triangles }
}

function looksLikeText(bytes: Uint8Array): boolean {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 2048))
  if (!/^\s*solid\b/i.test(head)) return false
  if (/^[\t\n\r\x20-\x7e\x80-\xff]*$/.test(head) && /facet|endsolid/i.test(head)) return true
  // a binary file may start with "solid" too; then its length fits its count
  return bytes.length < HEADER_BYTES || binaryLength(bytes) > bytes.length
}

function binaryLength(bytes: Uint8Array): number {
  return HEADER_BYTES + FACET_BYTES * new DataView(bytes.buffer, bytes.byteOffset).getUint32(80, true)
}

function notStl(): MeshError {
  return new MeshError('not-stl', 'This is not an STL file, or its contents are damaged. Choose a file that ends in .stl, or export the model as STL.')
}

function readBinary(bytes: Uint8Array): Float32Array {
  if (bytes.length < HEADER_BYTES) throw notStl()
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const announced = view.getUint32(80, true)
  const present = Math.floor((bytes.length - HEADER_BYTES) / FACET_BYTES)
  // a writer that does not know the count when it begins leaves nothing or the largest number there
  const unknown = present > 0 && (announced === 0 || announced === 0xffffffff) && looksLikeFacets(view, Math.min(present, 40), present)
  const count = unknown ? present : announced
  if (count > present) {
    if (!looksLikeFacets(view, Math.min(present, 40), count)) throw notStl()
    throw new MeshError('cut-short', `This file is cut short: it announces ${count} triangles and holds ${present}. Copy or download it again.`)
  }
  if (count > 0 && !looksLikeFacets(view, Math.min(count, 40), count)) throw notStl()
  const positions = new Float32Array(count * 9)
  for (let i = 0, at = HEADER_BYTES + 12, v = 0; i < count; i++, at += FACET_BYTES) {
    for (let c = 0; c < 36; c += 4) positions[v++] = view.getFloat32(at + c, true)
  }
  return positions
}

/** Whether the first facets could be facets: normals of at most about unit length (many writers leave them zero). */
function looksLikeFacets(view: DataView, samples: number, announced: number): boolean {
  if (samples === 0) return announced < 20_000_000
  let strange = 0
  for (let i = 0; i < samples; i++) {
    const at = HEADER_BYTES + i * FACET_BYTES
    let odd = false
    for (let c = 0; c < 48; c += 4) {
      const v = view.getFloat32(at + c, true)
      const tiny = v !== 0 && Math.abs(v) < 1e-25
      if (Math.abs(v) > 1e7 || (c < 12 && Math.abs(v) > 1e3) || tiny) odd = true
    }
    if (odd) strange++
  }
  return strange <= samples / 2
}

const SPACE = 32

/** Byte for byte, since a string of 500 MB is more than the engine can hold. */
function readAscii(bytes: Uint8Array): Float32Array {
  let out = new Float32Array(1 << 16)
  let count = 0
  let facets = 0, solidEnds = 0
  let at = 0
  const length = bytes.length
  const word = (from: number, to: number, text: string): boolean => {
    if (to - from !== text.length) return false
    for (let i = 0; i < text.length; i++) if ((bytes[from + i] | 32) !== text.charCodeAt(i)) return false
    return true
  }
  const skipSpace = (): void => {
    while (at < length && bytes[at] <= SPACE) at++
  }
  const skipWord = (): void => {
    while (at < length && bytes[at] > SPACE) at++
  }
  let within = -1, odd = 0, lastWord = 0
  const close = (): void => {
    // what a facet has too few or too many of is not guessed
    if (within >= 0 && count - within !== 9) odd++
    within = -1
  }
  while (at < length) {
    skipSpace()
    const from = at
    skipWord()
    if (from < at) lastWord = from
    if (within >= 0 && word(from, at, 'vertex')) {
      if (count + 3 > out.length) {
        const grown = new Float32Array(out.length * 2)
        grown.set(out)
        out = grown
      }
      for (let c = 0; c < 3; c++) {
        skipSpace()
        const start = at
        skipWord()
        if (start === at) break
        out[count++] = parseNumber(bytes, start, at)
      }
    } else if (word(from, at, 'facet')) {
      // a solid may have any name: only a facet is followed by its normal
      skipSpace()
      const start = at
      skipWord()
      if (!word(start, at, 'normal')) {
        at = start
        continue
      }
      close()
      facets++
      within = count
    } else if (word(from, at, 'endfacet')) close()
    else if (word(from, at, 'endsolid')) solidEnds++
  }
  // only the last line may be missing, or a part of it: a facet without its end may end within a number
  const ending = new TextDecoder('latin1').decode(bytes.subarray(lastWord, Math.min(length, lastWord + 9))).trim().toLowerCase()
  const last = within >= 0 || (solidEnds === 0 && ending !== 'endfacet' && !'endsolid'.startsWith(ending))
  if (facets === 0 && solidEnds === 0) throw notStl()
  if (last || odd > 0) {
    throw new MeshError('cut-short', last ? `This file is cut short: its text ends within triangle ${facets}. Copy or download it again.` : `${odd === 1 ? 'One facet of this file does not have' : `${odd} facets of this file do not have`} three corners. Export the model again as STL.`)
  }
  return out.slice(0, count)
}

/** A decimal number in ASCII bytes; NaN where it is none. */
function parseNumber(bytes: Uint8Array, from: number, to: number): number {
  let i = from, sign = 1, mantissa = 0, exponent = 0, digits = 0
  if (bytes[i] === 45) { sign = -1; i++ } else if (bytes[i] === 43) i++
  let fraction = false
  for (; i < to; i++) {
    const c = bytes[i]
    if (c >= 48 && c <= 57) {
      digits++
      if (mantissa < 9e14) {
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
