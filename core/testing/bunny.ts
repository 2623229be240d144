import bunny from 'bunny'
import type { Mesh } from '../mesh'

/** The Stanford bunny (Stanford 3D Scanning Repository), as the npm package "bunny" carries it: upright, 40 mm tall. */
export function bunnyMesh(): Mesh {
  const flat = bunny.positions.flatMap(([x, y, z]: number[]) => [x, -z, y])
  const high = Math.max(...flat.filter((_: number, i: number) => i % 3 === 2)), low = Math.min(...flat.filter((_: number, i: number) => i % 3 === 2))
  // 40 mm tall
  const scale = 40 / (high - low)
  return { positions: Float32Array.from(flat, (v: number) => v * scale), triangles: Uint32Array.from(bunny.cells.flat()) }
}
