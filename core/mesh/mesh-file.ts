import type { Mesh } from './triangle-mesh'

const MAGIC = 0x4d54534f
/** What a mesh file begins with, bytes. */
export const MESH_HEADER_BYTES = 16

/**
 * A mesh as bytes between server and page: four 32-bit numbers (mark, version, vertices, triangles), positions, triangles, and in
 * version 2 the triangle of its file that each comes from; little-endian.
 */
export function encodeMesh({ positions, triangles, from }: Mesh): Uint8Array {
  const out = new Uint8Array(MESH_HEADER_BYTES + positions.byteLength + triangles.byteLength + (from?.byteLength ?? 0))
  new Uint32Array(out.buffer, 0, 4).set([MAGIC, from ? 2 : 1, positions.length / 3, triangles.length / 3])
  let at = MESH_HEADER_BYTES
  for (const part of [positions, triangles, ...(from ? [from] : [])]) {
    out.set(new Uint8Array(part.buffer, part.byteOffset, part.byteLength), at)
    at += part.byteLength
  }
  return out
}

/** Length that a mesh file must have by its first bytes; 0 where they are none of one. */
export function meshFileLength(head: Uint8Array): number {
  const [magic, version, vertices, triangles] = new Uint32Array(head.slice(0, MESH_HEADER_BYTES).buffer)
  return magic === MAGIC && (version === 1 || version === 2) ? MESH_HEADER_BYTES + 12 * (vertices + triangles) + (version === 2 ? 4 * triangles : 0) : 0
}

/** The mesh of such bytes, as views into them. @throws Error where they are none */
export function decodeMesh(buffer: ArrayBuffer | SharedArrayBuffer): Mesh {
  const length = buffer.byteLength < MESH_HEADER_BYTES ? 0 : meshFileLength(new Uint8Array(buffer, 0, MESH_HEADER_BYTES))
  if (length === 0 || buffer.byteLength !== length) throw new Error('The stored mesh is damaged. Bring the model in again.')
  const [, version, vertices, triangles] = new Uint32Array(buffer, 0, 4), end = MESH_HEADER_BYTES + 12 * (vertices + triangles)
  const mesh: Mesh = { positions: new Float32Array(buffer, MESH_HEADER_BYTES, 3 * vertices), triangles: new Uint32Array(buffer, MESH_HEADER_BYTES + 12 * vertices, 3 * triangles) }
  return version === 2 ? { ...mesh, from: new Uint32Array(buffer, end, triangles) } : mesh
}
