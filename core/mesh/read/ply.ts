import { BLOCK_BYTES, type ByteSource } from './byte-source'
import { Growing } from './growing'
import { onlyObject, type ModelFile, type ModelNote, type ReadOptions } from './model-file'
import { splitPolygon } from './polygon'
import { cutShort, damaged, noTriangles, requireNumbers, tooManyTriangles } from './refusals'
import { Words } from './words'

const TYPES: Readonly<Record<string, Kind>> = { char: 'int8', int8: 'int8', uchar: 'uint8', uint8: 'uint8', short: 'int16', int16: 'int16', ushort: 'uint16', uint16: 'uint16', int: 'int32', int32: 'int32', uint: 'uint32', uint32: 'uint32', float: 'float32', float32: 'float32', double: 'float64', float64: 'float64' }
const BYTES = { int8: 1, uint8: 1, int16: 2, uint16: 2, int32: 4, uint32: 4, float32: 4, float64: 8 } as const
type Kind = keyof typeof BYTES

interface Property {
  readonly name: string
  readonly kind: Kind
  /** Of the number of values; null where it is one value. */
  readonly count: Kind | null
}
interface Element {
  readonly name: string
  readonly count: number
  readonly properties: readonly Property[]
}
interface Header {
  readonly format: 'ascii' | 'little' | 'big'
  readonly elements: readonly Element[]
  /** Where what it describes begins, bytes. */
  readonly end: number
}

const HEADER_LIMIT = 64 * 1024
const MOST_CORNERS = 10000
const COLOURS = /^(diffuse_)?(red|green|blue)$/, TEXTURES = /^(s|t|u|v|texture_[uv]|texcoord|texnumber)$/

/**
 * Reads the polygons of a PLY, in text or in binary of either byte order, as one mesh. Faces and strips of triangles are taken; other
 * elements and properties are passed over.
 * Source: G. Turk, "The PLY Polygon File Format" (Stanford, 1994).
 * @throws MeshError `empty`, `cut-short`, `damaged`, `not-finite` or `too-large`
 */
export function readPly(source: ByteSource, { mostTriangles = Infinity }: ReadOptions = {}): ModelFile {
  const header = readHeader(source)
  const values: Values = header.format === 'ascii' ? new TextValues(source, header.end) : new BinaryValues(source, header.end, header.format === 'little')
  let positions = new Float32Array(0), polygonCount = 0, flat = 0, strips = false
  const triangles = new Growing(Uint32Array), polygons = new Growing(Uint32Array)
  for (const element of header.elements) {
    if (element.properties.length === 0) continue
    values.announce(element)
    if (element.name === 'vertex') {
      if (3 * element.count > 0x7fffffff) throw tooManyTriangles(mostTriangles)
      positions = new Float32Array(3 * element.count)
      const axes = element.properties.map(p => (p.count ? -1 : ['x', 'y', 'z'].indexOf(p.name)))
      if (![0, 1, 2].every(a => axes.includes(a))) throw damaged('its vertices have no x, y and z')
      for (let i = 0; i < element.count; i++) {
        for (let k = 0; k < axes.length; k++) {
          const property = element.properties[k]
          if (property.count) values.skip(property)
          else {
            const value = values.one(property.kind)
            if (axes[k] >= 0) positions[3 * i + axes[k]] = value
          }
        }
      }
      continue
    }
    const named = element.properties.findIndex(p => p.count !== null && /^vertex_ind(ex|ices)$/.test(p.name))
    const corners: number[] = []
    const corner = (kind: Kind): number => {
      const v = values.one(kind)
      if (!Number.isInteger(v)) throw damaged('a corner of its faces is no whole number')
      return v
    }
    for (let i = 0; i < element.count; i++) {
      for (let k = 0; k < element.properties.length; k++) {
        const property = element.properties[k]
        if (k !== named) {
          values.skip(property)
          continue
        }
        const count = values.one(property.count as Kind)
        const most = element.name === 'tristrips' ? Infinity : MOST_CORNERS
        if (!(count >= 0 && count <= most && Number.isInteger(count))) throw damaged(`face ${i + 1} has ${count} corners`)
        corners.length = 0
        if (element.name === 'tristrips') {
          strips = true
          readStrip(count, () => corner(property.kind), triangles)
        } else {
          for (let c = 0; c < count; c++) corners.push(corner(property.kind))
          if (count < 3) flat++
          else if (count === 3) for (const c of corners) triangles.push(c)
          else {
            polygonCount++
            polygons.push(count)
            for (const c of corners) polygons.push(c)
          }
        }
        if ((triangles.length + polygons.length) / 3 > mostTriangles) throw tooManyTriangles(mostTriangles)
      }
    }
  }
  const vertices = positions.length / 3
  const check = (v: number): void => {
    if (v >= vertices) throw damaged(`a face names vertex ${v}, and it holds ${vertices}`)
  }
  for (let i = 0; i < polygons.length;) {
    const count = polygons.data[i++], face = Array.from(polygons.data.subarray(i, i + count))
    i += count
    face.forEach(check)
    splitPolygon(face, positions, (a, b, c) => {
      triangles.push(a)
      triangles.push(b)
      triangles.push(c)
    })
  }
  for (let i = 0; i < triangles.length; i++) check(triangles.data[i])
  if (triangles.length === 0) throw noTriangles('ply')
  requireNumbers(positions)
  const names = header.elements.flatMap(e => e.properties.map(p => p.name)), notes: ModelNote[] = []
  if (names.some(n => COLOURS.test(n))) notes.push({ kind: 'colours' })
  if (names.some(n => TEXTURES.test(n))) notes.push({ kind: 'textures' })
  if (polygonCount && !strips) notes.push({ kind: 'polygons', count: polygonCount })
  if (flat) notes.push({ kind: 'no-faces', count: flat })
  return { format: 'ply', unit: null, objects: onlyObject({ positions, triangles: triangles.taken() }), notes }
}

/** Triangles of strips in one list, which −1 parts; every other one is turned. */
function readStrip(count: number, next: () => number, triangles: Growing<Uint32Array>): void {
  let a = -1, b = -1, odd = false
  for (let i = 0; i < count; i++) {
    const c = next()
    // an unsigned list writes its largest number
    if (c < 0 || c === 0xffffffff) {
      a = b = -1
      odd = false
      continue
    }
    if (a >= 0) {
      triangles.push(odd ? b : a)
      triangles.push(odd ? a : b)
      triangles.push(c)
      odd = !odd
    }
    a = b
    b = c
  }
}

function readHeader(source: ByteSource): Header {
  const head = source.read(0, HEADER_LIMIT).slice(), text = new TextDecoder('latin1').decode(head)
  const match = /(^|[\r\n])end_header[ \t]*(\r\n|\n|\r)/.exec(text)
  if (!match) throw text.length < HEADER_LIMIT ? cutShort('its header has no end') : damaged('its header has no end')
  const lines = text.slice(0, match.index).split(/\r\n|\n|\r/)
  let format: Header['format'] | null = null
  const elements: { name: string; count: number; properties: Property[] }[] = []
  for (const line of lines.slice(1)) {
    const words = line.trim().split(/\s+/)
    if (words[0] === 'format') format = ({ ascii: 'ascii', binary_little_endian: 'little', binary_big_endian: 'big' } as const)[words[1]] ?? null
    else if (words[0] === 'element') {
      const count = Number(words[2])
      if (!Number.isSafeInteger(count) || count < 0) throw damaged(`it announces ${words[2]} of “${words[1]}”`)
      elements.push({ name: words[1], count, properties: [] })
    } else if (words[0] === 'property') {
      const list = words[1] === 'list', kind = TYPES[words[list ? 3 : 1]], count = list ? TYPES[words[2]] : null
      const element = elements[elements.length - 1]
      if (!element || !kind || count === undefined || count === 'float32' || count === 'float64') throw damaged(`its header has the line “${line.trim().slice(0, 60)}”`)
      element.properties.push({ name: words[list ? 4 : 2] ?? '', kind, count })
    }
  }
  if (!format) throw damaged('its header names no format that is known')
  return { format, elements, end: match.index + match[0].length }
}

/** Values in the order in which they stand. */
interface Values {
  /** @throws MeshError where so many elements cannot be there */
  announce(element: Element): void
  one(kind: Kind): number
  skip(property: Property): void
}

class TextValues implements Values {
  readonly #words: Words
  readonly #size: number

  constructor(source: ByteSource, at: number) {
    this.#words = new Words(source, at)
    this.#size = source.size - at
  }

  announce({ name, count, properties }: Element): void {
    // a value has a digit and what parts it from the next
    if (2 * count * properties.length > this.#size + 2) throw cutShort(`it announces ${count} of “${name}”, more than it has room for`)
  }

  one(): number {
    if (!this.#words.next()) throw cutShort('its text ends within its numbers')
    return this.#words.number()
  }

  skip({ count }: Property): void {
    const times = count ? this.one() : 1
    if (!(times >= 0)) throw damaged('a list has no length')
    for (let i = 0; i < times; i++) this.one()
  }
}

class BinaryValues implements Values {
  readonly #source: ByteSource
  readonly #little: boolean
  #read: number
  readonly #buffer = new Uint8Array(BLOCK_BYTES)
  readonly #view = new DataView(this.#buffer.buffer)
  #at = 0
  #filled = 0

  constructor(source: ByteSource, at: number, little: boolean) {
    this.#source = source
    this.#read = at
    this.#little = little
  }

  announce({ name, count, properties }: Element): void {
    const least = properties.reduce((n, p) => n + BYTES[p.count ?? p.kind], 0)
    if (least * count > this.#source.size - this.#read + this.#filled - this.#at) throw cutShort(`it announces ${count} of “${name}”, more than it has room for`)
  }

  one(kind: Kind): number {
    const bytes = BYTES[kind]
    if (this.#at + bytes > this.#filled) this.#refill(bytes)
    const at = this.#at
    this.#at += bytes
    switch (kind) {
      case 'int8': return this.#view.getInt8(at)
      case 'uint8': return this.#view.getUint8(at)
      case 'int16': return this.#view.getInt16(at, this.#little)
      case 'uint16': return this.#view.getUint16(at, this.#little)
      case 'int32': return this.#view.getInt32(at, this.#little)
      case 'uint32': return this.#view.getUint32(at, this.#little)
      case 'float32': return this.#view.getFloat32(at, this.#little)
      case 'float64': return this.#view.getFloat64(at, this.#little)
    }
  }

  skip({ kind, count }: Property): void {
    const bytes = (count ? this.one(count) : 1) * BYTES[kind]
    if (this.#at + bytes <= this.#filled) this.#at += bytes
    else {
      const ahead = this.#at + bytes - this.#filled
      this.#read += ahead
      if (this.#read > this.#source.size) throw cutShort('it ends within its numbers')
      this.#at = this.#filled = 0
    }
  }

  #refill(least: number): void {
    this.#buffer.copyWithin(0, this.#at, this.#filled)
    const kept = this.#filled - this.#at, more = this.#source.read(this.#read, BLOCK_BYTES - kept)
    this.#buffer.set(more, kept)
    this.#read += more.length
    this.#at = 0
    this.#filled = kept + more.length
    if (this.#filled < least) throw cutShort('it ends within its numbers')
  }
}
