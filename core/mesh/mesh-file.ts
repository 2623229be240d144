import type { Mesh } from './triangle-mesh'

const MAGIC = 0x4d54534f

/** A mesh as bytes between server and page: four 32-bit numbers (mark, version, vertices, triangles), positions, triangles; little-endian. */
export function encodeMesh(mesh: Mesh): Uint8Array {
  const out = new Uint8Array(16 + mesh.positions.byteLength + mesh.triangles.byteLength)
  new Uint32Array(out.buffer, 0, 4).set([MAGIC, 1, mesh.positions.length / 3, mesh.triangles.length / 3])
  out.set(new Uint8Array(mesh.positions.buffer, mesh.positions.byteOffset, mesh.positions.byteLength), 16)
  out.set(new Uint8Array(mesh.triangles.buffer, mesh.triangles.byteOffset, mesh.triangles.byteLength), 16 + mesh.positions.byteLength)
  return out
}

/** The mesh of such bytes, as views into them. @throws Error where they are none */
export function decodeMesh(buffer: ArrayBuffer | SharedArrayBuffer): Mesh {
  const [magic, version, vertices, triangles] = buffer.byteLength >= 16 ? new Uint32Array(buffer, 0, 4) : [0, 0, 0, 0]
  if (magic !== MAGIC || version !== 1 || buffer.byteLength !== 16 + 12 * (vertices + triangles)) throw new Error('The stored mesh is damaged. Bring the model in again.')
  return { positions: new Float32Array(buffer, 16, 3 * vertices), triangles: new Uint32Array(buffer, 16 + 12 * vertices, 3 * triangles) }
}
