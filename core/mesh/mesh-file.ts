import type { Mesh } from './triangle-mesh'

const MAGIC = 0x4d54534f
/** What a mesh file begins with, bytes. */
export const MESH_HEADER_BYTES = 16

/** A mesh as bytes between server and page: four 32-bit numbers (mark, version, vertices, triangles), positions, triangles; little-endian. */
export function encodeMesh(mesh: Mesh): Uint8Array {
  const out = new Uint8Array(16 + mesh.positions.byteLength + mesh.triangles.byteLength)
  new Uint32Array(out.buffer, 0, 4).set([MAGIC, 1, mesh.positions.length / 3, mesh.triangles.length / 3])
  out.set(new Uint8Array(mesh.positions.buffer, mesh.positions.byteOffset, mesh.positions.byteLength), 16)
  out.set(new Uint8Array(mesh.triangles.buffer, mesh.triangles.byteOffset, mesh.triangles.byteLength), 16 + mesh.positions.byteLength)
  return out
}

/** Length that a mesh file must have by its first bytes; 0 where they are none of one. */
export function meshFileLength(head: Uint8Array): number {
  const [magic, version, vertices, triangles] = new Uint32Array(head.slice(0, MESH_HEADER_BYTES).buffer)
  return magic === MAGIC && version === 1 ? MESH_HEADER_BYTES + 12 * (vertices + triangles) : 0
}

/** The mesh of such bytes, as views into them. @throws Error where they are none */
export function decodeMesh(buffer: ArrayBuffer | SharedArrayBuffer): Mesh {
  const length = buffer.byteLength < MESH_HEADER_BYTES ? 0 : meshFileLength(new Uint8Array(buffer, 0, MESH_HEADER_BYTES))
  if (length === 0 || buffer.byteLength !== length) throw new Error('The stored mesh is damaged. Bring the model in again.')
  const [, , vertices, triangles] = new Uint32Array(buffer, 0, 4)
  return { positions: new Float32Array(buffer, 16, 3 * vertices), triangles: new Uint32Array(buffer, 16 + 12 * vertices, 3 * triangles) }
}
