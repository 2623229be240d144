import { requireFinite } from './mesh-error'
import type { Mesh } from './triangle-mesh'

/**
 * Writes a binary STL: an 80-byte header with `title`, the count, and 50 bytes a triangle with its unit normal.
 * @throws MeshError `not-finite` where a coordinate is not a number
 */
export function writeStl(mesh: Mesh, title: string): Uint8Array {
  const { positions: p, triangles: t } = mesh
  requireFinite(mesh)
  const count = t.length / 3
  const bytes = new Uint8Array(84 + 50 * count)
  // a header that began with "solid" would be taken for text by some readers
  bytes.set(new TextEncoder().encode(title.replace(/[^\x20-\x7e]/g, '_').replace(/^solid/i, '_solid')).subarray(0, 79), 0)
  const view = new DataView(bytes.buffer)
  view.setUint32(80, count, true)
  let at = 84
  for (let i = 0; i < t.length; i += 3) {
    const a = 3 * t[i], b = 3 * t[i + 1], c = 3 * t[i + 2]
    const ux = p[b] - p[a], uy = p[b + 1] - p[a + 1], uz = p[b + 2] - p[a + 2]
    const vx = p[c] - p[a], vy = p[c + 1] - p[a + 1], vz = p[c + 2] - p[a + 2]
    const nx = uy * vz - uz * vy, ny = uz * vx - ux * vz, nz = ux * vy - uy * vx
    const length = Math.hypot(nx, ny, nz) || 1
    view.setFloat32(at, nx / length, true)
    view.setFloat32(at + 4, ny / length, true)
    view.setFloat32(at + 8, nz / length, true)
    at += 12
    for (const v of [a, b, c]) {
      view.setFloat32(at, p[v], true)
      view.setFloat32(at + 4, p[v + 1], true)
      view.setFloat32(at + 8, p[v + 2], true)
      at += 12
    }
    at += 2
  }
  return bytes
}
