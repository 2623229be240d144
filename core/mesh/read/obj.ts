import type { ByteSource } from './byte-source'
import { Growing } from './growing'
import { onlyObject, type ModelFile, type ModelNote, type ReadOptions } from './model-file'
import { splitPolygon } from './polygon'
import { cutShort, damaged, noTriangles, requireNumbers, tooManyTriangles } from './refusals'
import { readDecimal, Words } from './words'

const SLASH = 47, HASH = 35
/** Corners that one face may have. */
const MOST_CORNERS = 10000
/** What begins a line of curves and free-form surfaces. */
const CURVES = ['curv', 'curv2', 'surf', 'bzp', 'bsp', 'cdc', 'cdp', 'res']

/**
 * Reads the polygons of a Wavefront OBJ as one mesh, whatever objects and groups they stand in. Normals, texture coordinates, colours
 * and materials are passed over; so are lines, points and free-form surfaces, which are counted.
 * Source: Wavefront Advanced Visualizer manual, appendix B1, "Object Files (.obj)", as commonly described.
 * @throws MeshError `empty`, `cut-short`, `damaged`, `not-finite` or `too-large`
 */
export function readObj(source: ByteSource, { mostTriangles = Infinity }: ReadOptions = {}): ModelFile {
  const words = new Words(source), positions = new Growing(Float32Array), triangles = new Growing(Uint32Array)
  // polygons wait until all vertices are there: a face may name what follows it
  const polygons = new Growing(Uint32Array)
  let polygonCount = 0, lines = 0, curves = 0, flat = 0, coloured = false, textured = false, name = ''
  const corners: number[] = []
  let more = words.next()
  /** Goes to the next word of this line; gives whether there is one. */
  const inLine = (): boolean => {
    more = words.next()
    if (more && !words.first && words.head === HASH) more = words.skipLine()
    return more && !words.first
  }
  while (more) {
    if (words.is('v')) {
      let values = 0
      while (inLine()) if (values++ < 3) positions.push(words.number())
      if (values < 3) throw more ? damaged(`the vertex in line ${words.line - 1} has ${values} coordinates`) : cutShort('its text ends within a vertex')
      if (values > 4) coloured = true
      continue
    }
    if (words.is('f') || words.is('fo')) {
      corners.length = 0
      const line = words.line
      while (inLine()) {
        const index = cornerOf(words)
        const vertex = index > 0 ? index - 1 : positions.length / 3 + index
        if (!Number.isInteger(index) || index === 0 || vertex < 0) throw damaged(`line ${line} names a corner “${words.text().slice(0, 20)}”`)
        if (corners.push(vertex) > MOST_CORNERS) throw damaged(`the face in line ${line} has over ${MOST_CORNERS} corners`)
      }
      if (corners.length < 3) flat++
      else if (corners.length === 3) for (const c of corners) triangles.push(c)
      else {
        polygonCount++
        polygons.push(corners.length)
        for (const c of corners) polygons.push(c)
      }
      if ((triangles.length + polygons.length) / 3 > mostTriangles) throw tooManyTriangles(mostTriangles)
      continue
    }
    if (words.is('o') && !name) {
      if (inLine()) name = words.text().slice(0, 120)
      continue
    }
    if (words.is('l') || words.is('p')) lines++
    else if (words.is('vt') || words.is('usemtl') || words.is('mtllib')) textured = true
    else if (CURVES.some(c => words.is(c))) curves++
    more = words.skipLine()
  }
  const vertices = positions.length / 3, at = positions.taken()
  const parted = new Growing(Uint32Array)
  for (let i = 0; i < polygons.length;) {
    const count = polygons.data[i++]
    const face = Array.from(polygons.data.subarray(i, i + count))
    i += count
    // what names no vertex is told below, of all faces alike
    if (face.every(v => v < vertices)) splitPolygon(face, at, (a, b, c) => {
      parted.push(a)
      parted.push(b)
      parted.push(c)
    })
    else for (const v of face.slice(0, 3)) parted.push(v)
  }
  const faces = new Uint32Array(triangles.length + parted.length)
  faces.set(triangles.taken())
  faces.set(parted.taken(), triangles.length)
  for (const v of faces) if (v >= vertices) throw cutShort(`a face names vertex ${v + 1}, and it holds ${vertices}`)
  if (faces.length === 0) throw noTriangles('obj')
  requireNumbers(at)
  const notes: ModelNote[] = []
  if (coloured) notes.push({ kind: 'colours' })
  if (textured) notes.push({ kind: 'textures' })
  if (lines) notes.push({ kind: 'lines', count: lines })
  if (curves) notes.push({ kind: 'curves', count: curves })
  if (polygonCount) notes.push({ kind: 'polygons', count: polygonCount })
  if (flat) notes.push({ kind: 'no-faces', count: flat })
  return { format: 'obj', unit: null, objects: onlyObject({ positions: at, triangles: faces }, name), notes }
}

/** The vertex of a corner written as `v`, `v/vt`, `v//vn` or `v/vt/vn`; NaN where there is none. */
function cornerOf(words: Words): number {
  let to = words.from
  while (to < words.to && words.bytes[to] !== SLASH) to++
  return readDecimal(words.bytes, words.from, to)
}
