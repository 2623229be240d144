import type { Mesh } from './triangle-mesh'

/** Joins vertices with exactly the same coordinates (−0 counts as 0); triangles keep their order. */
export function weldVertices(mesh: Mesh): Mesh {
  const source = mesh.positions
  const count = source.length / 3
  const clean = new Float32Array(source.length)
  for (let i = 0; i < source.length; i++) clean[i] = source[i] + 0
  const bits = new Int32Array(clean.buffer)
  let size = 1024
  while (size < count * 2) size *= 2
  const mask = size - 1
  const table = new Int32Array(size).fill(-1)
  const remap = new Uint32Array(count)
  let unique = 0
  for (let v = 0; v < count; v++) {
    const x = bits[3 * v], y = bits[3 * v + 1], z = bits[3 * v + 2]
    let h = Math.imul(x, 0x9e3779b1) ^ Math.imul(y, 0x85ebca77) ^ Math.imul(z, 0xc2b2ae3d)
    h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d)
    let slot = (h ^ (h >>> 13)) & mask
    for (;;) {
      const u = table[slot]
      if (u < 0) {
        table[slot] = unique
        bits[3 * unique] = x
        bits[3 * unique + 1] = y
        bits[3 * unique + 2] = z
        remap[v] = unique++
        break
      }
      if (bits[3 * u] === x && bits[3 * u + 1] === y && bits[3 * u + 2] === z) {
        remap[v] = u
        break
      }
      slot = (slot + 1) & mask
    }
  }
  const triangles = new Uint32Array(mesh.triangles.length)
  for (let i = 0; i < triangles.length; i++) triangles[i] = remap[mesh.triangles[i]]
  return { positions: clean.slice(0, unique * 3), triangles }
}
