import { add, between, scale, unit, type Mesh } from '@oak-stilts/core/mesh'
import { carve } from '../sculpt/carve'
import { limb, mass, piece, vane, type Piece } from '../sculpt/field'

type V = [number, number, number]

/** The kelp branch: a stalk on a holdfast, with ruffled blades that droop from gas floats all around it. About 85 mm tall. */
export async function kelp(): Promise<Mesh> {
  return carve(kelpPieces(), 0.28)
}

/** Its pieces, in mm, z up from the foot of the stone. */
export function kelpPieces(): Piece[] {
  const out: Piece[] = []
  stone(out)
  const stalk = (t: number): V => [Math.sin(t * 4.4) * 6.5 * t ** 0.8, Math.sin(t * 3.1 + 0.4) * 5 * t - 2 * t, 9 + t * 68 - t * t * 3]
  const steps = 26
  for (let i = 0; i < steps; i++) {
    const t = i / steps, u = (i + 1) / steps
    out.push(limb(stalk(t), stalk(u), 1.75 - t * 0.95, 1.75 - u * 0.95, { blend: 0.3, group: 1, carve: (along, a, d) => d - 0.09 * Math.sin(a * 5 + (i + along) * 0.35) }))
  }
  const blades = 34
  for (let i = 0; i < blades; i++) {
    const t = 0.2 + (0.78 * i) / (blades - 1)
    const a = i * 2.39996
    const from = stalk(t)
    const outward: V = [Math.cos(a), Math.sin(a), 0]
    // upper blades reach farther out, so that most points hang free above the plate
    const reach = 3.6 + 3.4 * t + (i % 3) * 0.7
    const neck = add(from, add(scale(outward, reach * 0.55), [0, 0, 2.2]))
    const float = add(from, add(scale(outward, reach), [0, 0, 2.6 + 0.8 * Math.sin(i * 1.7)]))
    out.push(limb(from, neck, 0.7, 0.5, { blend: 0.4, group: 1 }), limb(neck, float, 0.5, 0.48, { blend: 0.4, group: 1 }))
    out.push(mass(add(float, scale(outward, 0.8)), [2.1, 1.25, 1.25], add(outward, [0, 0, -0.25]), [0, 0, 1], { blend: 0.25, group: 10 + i }))
    const long = 13 + 6 * t + 3 * Math.sin(i * 2.3)
    const drop = 0.75 + 0.35 * Math.sin(i * 1.3 + 1)
    const turn = 0.28 * Math.sin(i * 2.9)
    const dir = unit([Math.cos(a + turn), Math.sin(a + turn), -drop])
    const root = add(float, scale(outward, 1.7))
    out.push(vane({
      root: between(root, float, 0.4), tip: add(root, scale(dir, long)), face: [outward[0] * 0.6, outward[1] * 0.6, 1], width: 4.3 + 0.9 * Math.sin(i * 0.9), thickness: 0.95, arch: 2.6,
      barbs: 2.2, relief: 0.14, fullest: 0.34, blunt: 1.35, ruffle: { depth: 0.7, waves: 3.2, phase: i * 1.1 },
    }, { group: 100 + i }))
  }
  // the crown: young floats and a bundle of narrow blades
  const top = stalk(1)
  for (let i = 0; i < 7; i++) {
    const a = i * 0.9
    const tip: V = [top[0] + Math.cos(a) * (6 + (i % 2) * 2), top[1] + Math.sin(a) * (6 + (i % 2) * 2), top[2] + 3.5 - (i % 3) * 2.2]
    out.push(vane({ root: top, tip, face: [0, 0, 1], width: 2.4, thickness: 0.9, arch: 1.6, barbs: 1.2, relief: 0.14, fullest: 0.4, blunt: 1.5, ruffle: { depth: 0.35, waves: 2, phase: i } }, { group: 200 + i }))
  }
  out.push(mass(add(top, [0, 0, 1]), [1.3, 1.3, 1.9], [1, 0, 0], [0, 0, 1], { blend: 0.25, group: 210 }))
  return out
}

function stone(out: Piece[]): void {
  // a split stone with facets, and the holdfast's fingers gripping it
  const facets: [V, number][] = [[[1, 0.2, 0.35], 9.6], [[-0.9, 0.5, 0.4], 9.0], [[0.1, 1, 0.3], 9.2], [[-0.2, -1, 0.45], 8.8], [[0.7, -0.7, 0.3], 10], [[-0.7, -0.6, 0.2], 10.2], [[0.3, 0.25, 1], 7.2], [[-0.35, 0.1, 1], 7.4], [[0.05, -0.4, 1], 7.0], [[0.75, 0.75, 0.1], 10.4]]
  const planes = facets.map(([n, d]) => [unit(n), d] as const)
  out.push(piece([[0, 0, 0], [0, 0, 8]], 12, (x, y, z) => {
    let d = -9
    for (const [n, r] of planes) d = Math.max(d, x * n[0] + y * n[1] + z * n[2] - r)
    return Math.max(-z, d - 0.12 * Math.sin(x * 1.7 + z) * Math.sin(y * 1.9 - z * 1.3))
  }, { group: 900 }))
  for (let i = 0; i < 11; i++) {
    const a = (i / 11) * 2 * Math.PI + 0.2 * Math.sin(i * 5)
    const p = (r: number, z: number, turn: number): V => [Math.cos(a + turn) * r, Math.sin(a + turn) * r, z]
    const chain = [p(0.6, 10.4, 0), p(3.2, 8.6, 0.1), p(6.2, 7.0, 0.25), p(8.7, 4.9 - (i % 3) * 0.4, 0.18), p(9.9, 2.6 - (i % 2) * 0.9, 0.28)]
    const radius = [1.2, 1.05, 0.9, 0.75, 0.5]
    for (let k = 0; k + 1 < chain.length; k++) out.push(limb(chain[k], chain[k + 1], radius[k], radius[k + 1], { blend: 0.35, group: 920, carve: (t, b, d) => d - 0.06 * Math.sin(b * 4 + t * 2) }))
  }
}
