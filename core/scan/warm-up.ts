import type { Mesh } from '../mesh'
import { firstLook } from './first-look'
import { ModelScan } from './model-scan'

/** Rings of the lump, and points on each. */
const RINGS = 70, AROUND = 140

/** A lump with dents that hangs in the air: enough triangles, islands and ledges for every hot loop to be worked through. */
export function lump(): Mesh {
  const positions: number[] = [], triangles: number[] = []
  for (let i = 0; i <= RINGS; i++) {
    const polar = (Math.PI * i) / RINGS, wide = i === RINGS ? 0 : Math.sin(polar)
    for (let j = 0; j < AROUND; j++) {
      const turn = (2 * Math.PI * j) / AROUND
      const r = 7 + 1.6 * Math.sin(6 * polar) * Math.cos(5 * turn)
      positions.push(r * wide * Math.cos(turn), r * wide * Math.sin(turn), 11 - r * Math.cos(polar))
      if (i === RINGS) continue
      const a = i * AROUND + j, b = i * AROUND + ((j + 1) % AROUND)
      triangles.push(a, b, b + AROUND, a, b + AROUND, a + AROUND)
    }
  }
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) }
}

/** Runs all of a scan once on a small lump, while there is nothing better to do: a first call takes several times as long as later ones. */
export function warmUp(): void {
  const mesh = lump()
  for (let i = 0; i < 3; i++) firstLook(mesh)
  new ModelScan(mesh, { pixelMm: 0.15, layerMm: 0.15 }).runToEnd()
}
