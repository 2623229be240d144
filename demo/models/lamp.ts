import type { Mesh, Vec3 } from '@oak-stilts/core/mesh'
import { carve } from '../sculpt/carve'
import { limb, mass, torus, vane, type Piece } from '../sculpt/field'

/** The lamp lattice: a pendant of 22 mm whose bars are thinner than a common tip; claws hold a glass, beads drop from its rim. */
export async function lamp(): Promise<Mesh> {
  return carve(lampPieces(), 0.085)
}

const LOW = 5, HIGH = 16.6
/** Radius of the cage at a height, mm: an onion that is fullest in its lower half. */
function cage(z: number): number {
  const t = (z - LOW) / (HIGH - LOW)
  return 1.5 + 3.9 * Math.sin(Math.PI * (0.2 + 0.78 * t) ** 0.9) ** 0.8 + 1.2 * (1 - t) ** 2
}
const at = (r: number, a: number, z: number): [number, number, number] => [r * Math.cos(a), r * Math.sin(a), z]

/** Its pieces, in mm, beads down, the lowest one on z = 0. */
export function lampPieces(): Piece[] {
  const out: Piece[] = []
  let group = 1
  /** A bar along some points. */
  const bar = (points: readonly Vec3[], r0: number, r1 = r0): void => {
    group++
    for (let i = 0; i + 1 < points.length; i++) {
      const t = i / (points.length - 1), u = (i + 1) / (points.length - 1)
      out.push(limb(points[i], points[i + 1], r0 + (r1 - r0) * t, r0 + (r1 - r0) * u, { group }))
    }
  }
  // two families of bars wind against each other
  for (const way of [-1, 1]) {
    for (let i = 0; i < 9; i++) {
      bar(Array.from({ length: 25 }, (_, k) => {
        const t = k / 24
        return at(cage(LOW + (HIGH - LOW) * t), ((i + (way > 0 ? 0.5 : 0)) / 9) * 2 * Math.PI + way * 1.25 * t, LOW + (HIGH - LOW) * t)
      }), 0.24, 0.19)
    }
  }
  // rims and a waist, twisted like cord
  for (const [z, tube] of [[LOW, 0.36], [LOW + 4.1, 0.24], [HIGH, 0.36]] as const) out.push(torus([0, 0, z], [0, 0, 1], cage(z), tube, { group: ++group }))
  // the crown: a cap of overlapping leaves, its finial and the ring that it hangs from
  out.push(mass([0, 0, HIGH + 0.4], [cage(HIGH) + 0.1, cage(HIGH) + 0.1, 1.15], [1, 0, 0], [0, 1, 0], { group: ++group, blend: 0.15 }))
  for (let row = 0; row < 2; row++) {
    for (let i = 0; i < 9; i++) {
      const a = ((i + row / 2) / 9) * 2 * Math.PI
      out.push(vane({ root: at(0.5, a, HIGH + 1.55 - row * 0.35), tip: at(cage(HIGH) + 0.75 - row * 0.1, a, HIGH + 0.35 - row * 0.75), face: [Math.cos(a), Math.sin(a), 1.4], width: 1.15, thickness: 0.34, arch: 0.25, barbs: 0, relief: 0, fullest: 0.45, blunt: 1.7 }, { group: ++group }))
    }
  }
  out.push(mass([0, 0, HIGH + 1.9], [0.62, 0.62, 0.8], [1, 0, 0], [0, 1, 0], { group: ++group, blend: 0.2 }), limb([0, 0, HIGH + 2.2], [0, 0, HIGH + 3.1], 0.5, 0.34, { group, blend: 0.2 }))
  out.push(torus([0, 0, HIGH + 4.05], [0, 1, 0], 1.02, 0.3, { group: ++group }))
  // claws rise from the lower rim and hold a glass
  out.push(mass([0, 0, LOW + 4.6], [2.15, 2.15, 2.6], [1, 0, 0], [0, 1, 0], { group: ++group }))
  for (let i = 0; i < 5; i++) {
    const a = (i / 5) * 2 * Math.PI + 0.3
    bar(Array.from({ length: 9 }, (_, k) => {
      const t = k / 8
      return at(cage(LOW) * (1 - t) ** 1.6 + 2.12 * Math.sin(Math.PI * (0.12 + 0.46 * t)) * t ** 0.6, a + 0.5 * t, LOW - 0.15 + 4.6 * t ** 1.25)
    }), 0.3, 0.2)
    out.push(mass(at(2.05, a + 0.5, LOW + 4.5), [0.34, 0.3, 0.36], [Math.cos(a + 0.5), Math.sin(a + 0.5), 0], [0, 0, 1], { group: ++group }))
  }
  // bead drops around the rim, a larger one from a cross in the middle
  for (let i = 0; i < 9; i++) {
    const a = (i / 9) * 2 * Math.PI + 0.1, r = cage(LOW), long = i % 3 === 0 ? 2.9 : 1.9
    out.push(limb(at(r, a, LOW), at(r, a, LOW - long), 0.2, 0.17, { group: ++group }), mass(at(r, a, LOW - long - 0.42), [0.44, 0.44, 0.56], [1, 0, 0], [0, 1, 0], { group: ++group }), mass(at(r, a, LOW - long + 0.75), [0.32, 0.32, 0.26], [1, 0, 0], [0, 1, 0], { group: ++group }))
  }
  for (let i = 0; i < 3; i++) bar(Array.from({ length: 9 }, (_, k) => at(cage(LOW) * (k / 4 - 1), (i / 3) * Math.PI + 0.3, LOW - 0.9 + 0.9 * (k / 4 - 1) ** 2)), 0.22)
  out.push(mass([0, 0, LOW - 0.95], [0.55, 0.55, 0.4], [1, 0, 0], [0, 1, 0], { group: ++group }), limb([0, 0, LOW - 1], [0, 0, 1.9], 0.24, 0.2, { group: ++group }))
  out.push(mass([0, 0, 0.95], [0.74, 0.74, 0.95], [1, 0, 0], [0, 1, 0], { group: ++group }), torus([0, 0, 2.15], [0, 0, 1], 0.3, 0.2, { group: ++group }))
  return out
}
