import type { MeshError } from '../mesh-error'
import { BLOCK_BYTES, type ByteSource } from './byte-source'
import { Growing } from './growing'
import { onlyObject, type ModelFile, type ModelNote, type ReadOptions } from './model-file'
import { cutShort, damaged, noTriangles, requireNumbers, tooManyTriangles } from './refusals'
import { Words } from './words'

const HEADER_BYTES = 84
const FACET_BYTES = 50
const MARK_BYTES = 3
const FACETS_AT_ONCE = Math.floor(BLOCK_BYTES / FACET_BYTES)
/** Facets that are looked at to see whether they could be some. */
const SAMPLES = 40

/**
 * Reads an STL, binary or ASCII, into a triangle soup: three vertices of its own for every triangle, in file order.
 * Facet normals are not used: the order of the vertices says which side is outside. A byte-order mark, odd names, a wrong count and
 * a missing last line do no harm.
 * Source: the StereoLithography Interface Specification (3D Systems, 1989) as commonly described.
 * @throws MeshError `empty`, `cut-short`, `damaged`, `not-finite` or `too-large`
 */
export function readStl(source: ByteSource, options: ReadOptions = {}): ModelFile {
  const head = source.read(0, 2048).slice()
  const start = head[0] === 0xef && head[1] === 0xbb && head[2] === 0xbf ? MARK_BYTES : 0
  const body = head.subarray(start)
  const { positions, notes } = stlLooksLikeText(body, source.size - start) ? readAscii(source, start, options) : readBinary(source, start, options)
  if (positions.length === 0) throw noTriangles('stl')
  requireNumbers(positions)
  const triangles = new Uint32Array(positions.length / 3)
  for (let i = 0; i < triangles.length; i++) triangles[i] = i
  return { format: 'stl', unit: null, objects: onlyObject({ positions, triangles }), notes }
}

interface Soup {
  readonly positions: Float32Array
  readonly notes: readonly ModelNote[]
}

/** Whether a file that begins with these bytes and has this length is an STL in text. */
export function stlLooksLikeText(head: Uint8Array, length: number): boolean {
  const text = new TextDecoder('latin1').decode(head)
  const plain = /^[\t\n\f\r\x20-\x7e\x80-\xff]*$/.test(text)
  // some writers put words of their own before the first one
  if (!/^\s*solid\b/i.test(text)) return plain && /\bfacet\s+normal\s/i.test(text)
  if (plain && /facet|endsolid/i.test(text)) return true
  // a binary file may start with "solid" too; then its length fits its count
  return head.length < HEADER_BYTES || HEADER_BYTES + FACET_BYTES * announcedBy(head) > length
}

function announcedBy(head: Uint8Array): number {
  return new DataView(head.buffer, head.byteOffset).getUint32(80, true)
}

/** Whether a file could be a binary STL: behind its header lie facets. */
export function couldBeBinaryStl(source: ByteSource, start = 0): boolean {
  const present = Math.floor((source.size - start - HEADER_BYTES) / FACET_BYTES)
  if (present < 0) return false
  if (present === 0) return source.size - start === HEADER_BYTES && announcedBy(source.read(start, HEADER_BYTES)) === 0
  return looksLikeFacets(source.read(start + HEADER_BYTES, FACET_BYTES * Math.min(present, SAMPLES)))
}

function notStl(): MeshError {
  return damaged('it says that it is an STL, and holds no facets')
}

function readBinary(source: ByteSource, start: number, { mostTriangles = Infinity }: ReadOptions): Soup {
  if (source.size - start < HEADER_BYTES) throw notStl()
  const announced = announcedBy(source.read(start, HEADER_BYTES))
  const rest = source.size - start - HEADER_BYTES, present = Math.floor(rest / FACET_BYTES), whole = rest % FACET_BYTES === 0
  if (!couldBeBinaryStl(source, start)) throw notStl()
  const notes: ModelNote[] = []
  let count = announced
  if (announced !== present) {
    // some writers do not know the count when they begin; a file that ends within a facet was cut
    const unknown = announced === 0 || announced === 0xffffffff
    if (!unknown && announced > present && !whole) throw cutShort(`it announces ${announced} triangles and holds ${present}`)
    // what follows the facets that were announced counts where it could be facets to the last byte
    if (unknown || announced > present || (whole && looksLikeFacets(source.read(start + HEADER_BYTES + FACET_BYTES * announced, FACET_BYTES * Math.min(present - announced, SAMPLES))))) count = present
    if (!unknown && count !== announced) notes.push({ kind: 'count', announced, found: count })
  }
  if (count > mostTriangles) throw tooManyTriangles(mostTriangles)
  const positions = new Float32Array(count * 9)
  let coloured = count > 0
  for (let first = 0, v = 0; first < count; first += FACETS_AT_ONCE) {
    const block = source.read(start + HEADER_BYTES + FACET_BYTES * first, FACET_BYTES * Math.min(FACETS_AT_ONCE, count - first))
    const view = new DataView(block.buffer, block.byteOffset, block.byteLength)
    for (let at = 0; at < block.length; at += FACET_BYTES) {
      for (let c = 12; c < 48; c += 4) positions[v++] = view.getFloat32(at + c, true)
      if (view.getUint16(at + 48, true) === 0) coloured = false
    }
  }
  // common practice, no source: five bits a colour in what the format leaves free
  if (coloured) notes.push({ kind: 'colours' })
  return { positions, notes }
}

/** Whether most of these could be facets: normals of at most about unit length (many writers leave them zero), no absurd coordinates. */
function looksLikeFacets(bytes: Uint8Array): boolean {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength), samples = Math.floor(bytes.length / FACET_BYTES)
  let strange = 0
  for (let i = 0; i < samples; i++) {
    const at = i * FACET_BYTES
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

function readAscii(source: ByteSource, start: number, { mostTriangles = Infinity }: ReadOptions): Soup {
  const out = new Growing(Float32Array), words = new Words(source, start)
  let facets = 0, solidEnds = 0
  let within = -1, odd = 0
  const close = (): void => {
    // what a facet has too few or too many of is not guessed
    if (within >= 0 && out.length - within !== 9) odd++
    within = -1
  }
  let more = words.next()
  while (more) {
    if (within >= 0 && words.is('vertex')) {
      for (let c = 0; c < 3 && (more = words.next()); c++) out.push(words.number())
    } else if (words.is('facet')) {
      // a solid may have any name: only a facet is followed by its normal
      more = words.next()
      if (!more || !words.is('normal')) continue
      close()
      if (++facets > mostTriangles) throw tooManyTriangles(mostTriangles)
      within = out.length
    } else if (words.is('endfacet')) close()
    else if (words.is('endsolid')) solidEnds++
    more = more && words.next()
  }
  if (facets === 0 && solidEnds === 0) throw notStl()
  // only the last line may be missing, or a part of it: a facet without its end may end within a number
  const last = words.text().toLowerCase()
  if (within >= 0 || (solidEnds === 0 && last !== 'endfacet' && !'endsolid'.startsWith(last))) throw cutShort(`its text ends within triangle ${facets}`)
  if (odd > 0) throw damaged(`${odd === 1 ? 'one of its facets does' : `${odd} of its facets do`} not have three corners`)
  return { positions: out.taken(), notes: [] }
}
