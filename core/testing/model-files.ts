import { strToU8, zipSync } from 'fflate'
import type { Mesh } from '../mesh'

/** Model files of every format with known content, written for tests. */

const at = ({ positions: p }: Mesh, v: number): number[] => [p[3 * v], p[3 * v + 1], p[3 * v + 2]]

export function stlText(mesh: Mesh, name = 'thing'): string {
  const lines = [`solid ${name}`]
  for (let i = 0; i < mesh.triangles.length; i += 3) {
    lines.push('facet normal 0 0 0', ' outer loop')
    for (let c = 0; c < 3; c++) lines.push(`  vertex ${at(mesh, mesh.triangles[i + c]).map(v => v.toExponential(9)).join(' ')}`)
    lines.push(' endloop', 'endfacet')
  }
  return lines.concat(`endsolid ${name}`).join('\r\n')
}

export function objText(mesh: Mesh): string {
  const lines = ['# made for a test', 'o thing']
  for (let v = 0; v < mesh.positions.length / 3; v++) lines.push(`v ${at(mesh, v).join(' ')}`)
  for (let i = 0; i < mesh.triangles.length; i += 3) lines.push(`f ${[0, 1, 2].map(c => mesh.triangles[i + c] + 1).join(' ')}`)
  return lines.join('\n')
}

/** A PLY with a property before and behind what counts, and an element after it. */
export function plyBytes(mesh: Mesh, format: 'ascii' | 'binary_little_endian' | 'binary_big_endian'): Uint8Array {
  const vertices = mesh.positions.length / 3, faces = mesh.triangles.length / 3
  const header = `ply\nformat ${format} 1.0\ncomment made for a test\nelement vertex ${vertices}\nproperty uchar red\nproperty float x\nproperty float y\nproperty float z\nproperty double weight\nelement face ${faces}\nproperty short group\nproperty list uchar int vertex_indices\nelement edge 1\nproperty int vertex1\nproperty int vertex2\nend_header\n`
  if (format === 'ascii') {
    const lines: string[] = []
    for (let v = 0; v < vertices; v++) lines.push(`7 ${at(mesh, v).join(' ')} 0.5`)
    for (let i = 0; i < faces; i++) lines.push(`-1 3 ${mesh.triangles.subarray(3 * i, 3 * i + 3).join(' ')}`)
    return strToU8(`${header}${lines.join('\n')}\n0 1\n`)
  }
  const body = new DataView(new ArrayBuffer(21 * vertices + 15 * faces + 8)), little = format === 'binary_little_endian'
  let o = 0
  for (let v = 0; v < vertices; v++) {
    body.setUint8(o, 7)
    at(mesh, v).forEach((x, c) => body.setFloat32(o + 1 + 4 * c, x, little))
    body.setFloat64(o + 13, 0.5, little)
    o += 21
  }
  for (let i = 0; i < faces; i++) {
    body.setInt16(o, -1, little)
    body.setUint8(o + 2, 3)
    for (let c = 0; c < 3; c++) body.setInt32(o + 3 + 4 * c, mesh.triangles[3 * i + c], little)
    o += 15
  }
  return Uint8Array.from([...strToU8(header), ...new Uint8Array(body.buffer)])
}

export const CORE_3MF = 'http://schemas.microsoft.com/3dmanufacturing/core/2015/02'

/** The mesh of an object of a 3MF as XML. */
export function meshXml(mesh: Mesh): string {
  const vertices = Array.from({ length: mesh.positions.length / 3 }, (_, v) => `<vertex x="${at(mesh, v)[0]}" y="${at(mesh, v)[1]}" z="${at(mesh, v)[2]}"/>`)
  const triangles = Array.from({ length: mesh.triangles.length / 3 }, (_, i) => `<triangle v1="${mesh.triangles[3 * i]}" v2="${mesh.triangles[3 * i + 1]}" v3="${mesh.triangles[3 * i + 2]}"/>`)
  return `<mesh><vertices>${vertices.join('')}</vertices><triangles>${triangles.join('')}</triangles></mesh>`
}

/** A model part of a 3MF. @param inside resources and build */
export function modelXml(inside: string, attributes = 'unit="millimeter"'): string {
  return `<?xml version="1.0" encoding="UTF-8"?><model ${attributes} xmlns="${CORE_3MF}">${inside}</model>`
}

/** A package of parts by their paths, its relationships included. */
export function packageOf(model: string | Uint8Array, others: Readonly<Record<string, string>> = {}): Uint8Array {
  const relations = '<?xml version="1.0"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/model.model" Id="r" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
  return zipSync({ '_rels/.rels': strToU8(relations), '3D/model.model': typeof model === 'string' ? strToU8(model) : model, ...Object.fromEntries(Object.entries(others).map(([path, text]) => [path, strToU8(text)])) })
}
