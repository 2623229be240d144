import type { Vent } from '@oak-stilts/core/contract'
import type { Vec3 } from '@oak-stilts/core/mesh'

/** A proposed vent as lines: its axis through the wall and out, and a ring on the inner side. */
export function ventLines({ at, direction: d, wallMm }: Vent): Float32Array {
  const out: number[] = []
  const side: Vec3 = Math.abs(d[2]) > 0.5 ? [1, 0, 0] : [-d[1], d[0], 0], up: Vec3 = Math.abs(d[2]) > 0.5 ? [0, 1, 0] : [0, 0, 1]
  const to = (along: number, s: number, u: number): number[] => [0, 1, 2].map(i => at[i] + d[i] * along + side[i] * s + up[i] * u)
  out.push(...to(-1, 0, 0), ...to(wallMm + 6, 0, 0), ...to(wallMm + 6, 0, 0), ...to(wallMm + 4.4, 0.8, 0), ...to(wallMm + 6, 0, 0), ...to(wallMm + 4.4, -0.8, 0))
  for (const along of [0, wallMm]) {
    for (let i = 0; i < 24; i++) {
      const a = (i * Math.PI) / 12, b = ((i + 1) * Math.PI) / 12
      out.push(...to(along, Math.cos(a) * 0.8, Math.sin(a) * 0.8), ...to(along, Math.cos(b) * 0.8, Math.sin(b) * 0.8))
    }
  }
  return Float32Array.from(out)
}

