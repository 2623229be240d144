import type { Mesh } from '@oak-stilts/core/mesh'
import { carve } from '../sculpt/carve'
import { limb, mass, piece, torus, type Piece } from '../sculpt/field'

/** The diver's bell: thick cast wall, riveted bands, small barred windows that do not go through, a lip and a lifting ring. 52 mm tall. */
export async function bell(): Promise<Mesh> {
  return carve(bellPieces(), 0.3)
}

/** Outer radius at a height, mm: a flared mouth, straight flanks, a domed crown. */
function outer(z: number): number {
  if (z < 30) return 19.2 - 0.075 * z + 1.5 * Math.exp(-z / 3)
  const t = (z - 30) / 14
  return 16.95 * Math.sqrt(Math.max(0, 1 - t * t))
}

/** Its pieces, in mm, mouth down on z = 0. */
export function bellPieces(): Piece[] {
  const out: Piece[] = []
  const WALL = 2.6
  // hollow shell: the inside follows the outside, with a rounded ceiling
  out.push(piece([[0, 0, 0], [0, 0, 44]], 22, (x, y, z) => {
    const r = Math.hypot(x, y)
    const skin = z < 30 ? (r - outer(z)) * 0.985 : Math.hypot(r, (z - 30) * (16.95 / 14)) - 16.95
    const inside = z < 29 ? r - (outer(z) - WALL) : Math.hypot(r, (z - 29) * (14.35 / 11.6)) - 14.35
    return Math.max(skin * 0.9, -z, -inside * 0.9)
  }, { group: 1 }))
  // the lip: a rolled bead over a flat flange
  out.push(torus([0, 0, 1.2], [0, 0, 1], 20.6, 1.15, { group: 2 }))
  out.push(piece([[0, 0, 0], [0, 0, 2.4]], 22, (x, y, z) => {
    const r = Math.hypot(x, y)
    return Math.max(r - 20.9, 18.2 - r, -z, z - 2.4)
  }, { group: 3 }))
  const band = (z: number, height: number, stand: number, group: number): void => {
    out.push(piece([[0, 0, z], [0, 0, z + height]], 22, (x, y, zz) => {
      const r = Math.hypot(x, y)
      const c = Math.max(r - outer(zz) - stand, outer(zz) - 1.5 - r)
      const e = Math.abs(zz - z - height / 2) - height / 2
      // a chamfer along both edges
      return Math.max(c, e, (c + e) * 0.7071 + 0.22)
    }, { group }))
  }
  band(5.2, 3.4, 0.75, 4)
  band(26.2, 3.4, 0.75, 5)
  for (let i = 0; i < 8; i++) {
    const a = (i / 8) * 2 * Math.PI + Math.PI / 8
    // upright straps between the bands
    out.push(piece([[0, 0, 7], [0, 0, 28]], 21, (x, y, z) => {
      const across = -x * Math.sin(a) + y * Math.cos(a), along = x * Math.cos(a) + y * Math.sin(a)
      if (along < 0) return 5
      const r = Math.hypot(x, y)
      const c = Math.max(r - outer(z) - 0.55, outer(z) - 1.5 - r), e = Math.abs(across) - 1.35
      return Math.max(c, e, (c + e) * 0.7071 + 0.2, 7 - z, z - 28)
    }, { group: 10 + i }))
  }
  const rivet = (a: number, z: number, stand: number, radius: number, group: number): void => {
    const r = outer(z) + stand
    out.push(mass([Math.cos(a) * r, Math.sin(a) * r, z], [0.62, radius, radius], [Math.cos(a), Math.sin(a), 0], [0, 0, 1], { group }))
  }
  for (let i = 0; i < 32; i++) {
    const a = (i / 32) * 2 * Math.PI
    rivet(a, 6.9, 0.7, 0.78, 100 + i)
    rivet(a, 27.9, 0.7, 0.78, 140 + i)
  }
  for (let i = 0; i < 8; i++) for (let j = 0; j < 7; j++) rivet((i / 8) * 2 * Math.PI + Math.PI / 8, 10.4 + j * 2.45, 0.5, 0.58, 200 + i * 8 + j)
  windows(out)
  crown(out)
  return out
}

function windows(out: Piece[]): void {
  for (let i = 0; i < 4; i++) {
    const a = (i / 4) * 2 * Math.PI
    const z = 17.6, r = outer(z)
    const dx = Math.cos(a), dy = Math.sin(a)
    const local = (x: number, y: number): [number, number] => [x * dx + y * dy - r, -x * dy + y * dx]
    // a turned frame, a recess that stops in the wall, and a cross of bars
    out.push(piece([[dx * r, dy * r, z]], 6.2, (x, y, zz) => {
      const [d, s] = local(x, y)
      const q = Math.hypot(s, zz - z)
      const ring = Math.max(Math.abs(q - 4.3) - 1.05, d - 1.15, -d - 1.6)
      return Math.max(ring, (Math.abs(q - 4.3) - 1.05 + d - 1.15) * 0.7071 + 0.28)
    }, { group: 300 + i }))
    out.push(piece([[dx * r, dy * r, z]], 5, (x, y, zz) => {
      const [d, s] = local(x, y)
      return Math.max(Math.hypot(s, zz - z) - 3.3, -d - 1.05)
    }, { group: 310 + i, cuts: true }))
    for (let k = 0; k < 6; k++) {
      const b = (k / 6) * 2 * Math.PI + 0.26
      const at = (radius: number, stand: number): [number, number, number] => [dx * (r + stand) - dy * Math.cos(b) * radius, dy * (r + stand) + dx * Math.cos(b) * radius, z + Math.sin(b) * radius]
      out.push(mass(at(4.3, 1.15), [0.5, 0.5, 0.5], [dx, dy, 0], [0, 0, 1], { group: 320 + i * 6 + k }))
    }
  }
}

function crown(out: Piece[]): void {
  out.push(piece([[0, 0, 42], [0, 0, 47]], 6, (x, y, z) => {
    const a = Math.atan2(y, x)
    const r = Math.hypot(x, y)
    // a hexagonal boss with a chamfered top
    const hex = r * Math.cos(((a + Math.PI * 2) % (Math.PI / 3)) - Math.PI / 6) - 4.3
    return Math.max(hex, z - 46.6, 41 - z, (hex + z - 46.6) * 0.7071 + 0.45)
  }, { group: 400 }))
  out.push(torus([0, 0, 49.4], [0, 1, 0], 2.9, 0.95, { group: 401 }))
  out.push(limb([-1.1, 0, 46.4], [1.1, 0, 46.4], 1.2, 1.2, { group: 402 }))
  for (let i = 0; i < 4; i++) {
    const a = (i / 4) * 2 * Math.PI + Math.PI / 4
    const p = (r: number, z: number): [number, number, number] => [Math.cos(a) * r, Math.sin(a) * r, z]
    out.push(limb(p(12.6, 39.6), p(12.6, 42.6), 0.9, 0.8, { group: 410 + i }))
    out.push(torus(p(12.6, 43.6), [-Math.sin(a), Math.cos(a), 0], 1.5, 0.55, { group: 420 + i }))
  }
}
