import { add, between, unit, type Mesh } from '@oak-stilts/core/mesh'
import { carve } from '../sculpt/carve'
import { limb, mass, piece, torus, vane, type Piece } from '../sculpt/field'

type V = [number, number, number]

const BODY = 1, POST = 2

/** The wading heron: wings spread, one leg lifted, standing on a mooring post. Looks along −y; about 65 mm tall and 92 wide. */
export async function heron(): Promise<Mesh> {
  return carve(heronPieces(), 0.27)
}

/** Its pieces, in mm, z up from the foot of the post. */
export function heronPieces(): Piece[] {
  const out: Piece[] = []
  post(out)
  body(out)
  legs(out)
  for (const side of [-1, 1] as const) wing(out, side)
  tail(out)
  return out
}

function post(out: Piece[]): void {
  // a weathered pile: grain grooves, a rope around it, a chamfered foot
  const grain = (x: number, y: number, z: number): number => {
    const a = Math.atan2(y, x)
    return 0.22 * Math.abs(Math.sin(a * 9 + Math.sin(z * 0.35 + a) * 0.8)) ** 0.5 + 0.12 * Math.sin(a * 23 + z * 0.2)
  }
  out.push(piece([[0, 0, 0], [0, 0, 14]], 8.2, (x, y, z) => {
    const r = Math.hypot(x, y)
    const radius = 7.1 - z * 0.035 - grain(x, y, z)
    const top = 13.4 + 0.35 * Math.sin(x * 0.9 + 1) + 0.25 * Math.sin(y * 1.3) - Math.max(0, r - 5.6) * 0.55
    return Math.max(r - radius, z - top, -z, (r - radius) * 0.7 + (0.7 - z) * 0.7)
  }, { group: POST }))
  for (let i = 0; i < 3; i++) {
    const z = 5.1 + i * 1.25
    out.push(piece([[0, 0, z]], 8.4, (x, y, zz) => {
      const a = Math.atan2(y, x)
      const strand = Math.hypot(Math.hypot(x, y) - 6.95, zz - z - 0.12 * Math.sin(a)) - 0.62
      return strand - 0.1 * Math.sin(a * 34 + (zz - z) * 5)
    }, { group: POST + 10 + i }))
  }
  // the rope's end hangs down in two turns
  out.push(limb([4.8, -5.1, 5.2], [5.3, -5.5, 2.2], 0.62, 0.55, { group: 15, carve: (t, a, d) => d - 0.09 * Math.sin(a * 2 + t * 5) }))
}

function body(out: Piece[]): void {
  const b = { blend: 0.6, group: BODY }
  // breast, belly, back, rump: muscle masses with creases between
  out.push(mass([0, -1.5, 37.5], [5.2, 8.6, 5.6], [0.9999, 0, 0.01], [0, 0.45, 0.9], b))
  out.push(mass([0, -6.2, 38.6], [4.3, 4.6, 5.0], [1, 0, 0], [0, -0.2, 1], b))
  out.push(mass([0, 5.0, 35.2], [3.7, 6.6, 3.5], [1, 0, 0], [0, 0.4, 0.9], b))
  for (const s of [-1, 1]) {
    out.push(mass([3.3 * s, -3.2, 39.6], [3.0, 5.0, 3.6], [1, 0.1 * s, 0], [0.3 * s, 0, 1], b))
    out.push(mass([2.5 * s, 1.2, 33.6], [2.3, 3.2, 3.7], [1, 0, 0], [0, 0.3, 1], b))
  }
  // breast plumes: long overlapping lappets with free points, seated on the breast's own curve
  const front = (x: number, z: number): number => -6.2 - 4.6 * Math.sqrt(Math.max(0.06, 1 - ((z - 38.6) / 5.4) ** 2 - (x / 5) ** 2))
  for (let row = 0; row < 6; row++) {
    for (let i = -3; i <= 3; i++) {
      const x = i * 1.3 + (row % 2 ? 0.65 : 0)
      if (Math.abs(x) > 4.1) continue
      const z = 43.4 - row * 1.75 - Math.abs(x) * 0.2
      const root: V = [x * 0.92, front(x * 0.92, z) + 0.5, z]
      const low = z - 3.5
      out.push(vane({ root, tip: [x * 1.05, Math.min(front(x, low), front(x, z - 1.5)) - 0.5, low], face: [x * 0.16, -1, 0.25], width: 2.0, thickness: 0.85, arch: 0.3, barbs: 0.8, relief: 0.16, fullest: 0.5, blunt: 1.8 }, { group: 300 + row * 10 + i }))
    }
  }
  // scapulars cover the back from the neck to the rump
  for (let row = 0; row < 7; row++) {
    for (let i = -3; i <= 3; i++) {
      const x = i * 1.65 + (row % 2 ? 0.8 : 0)
      if (Math.abs(x) > 5.2 - row * 0.35) continue
      const y = -7.6 + row * 2.3
      const t = (y + 1.5) / 8.6
      const z = 37.5 + 5.75 * Math.sqrt(Math.max(0.08, 1 - t * t * 0.72)) - x * x * 0.1 - Math.max(0, y) * 0.22
      out.push(vane({ root: [x * 0.85, y - 1.3, z - 0.25], tip: [x * 1.08, y + 3.7, z - 0.75 - Math.max(0, y + 1) * 0.3], face: [x * 0.12, 0.2, 1], width: 2.6, thickness: 0.85, arch: 0.4, barbs: 0.9, relief: 0.18, fullest: 0.5 }, { group: 360 + row * 10 + i }))
    }
  }
  // the neck, an S with its kink, and the head
  const neck: [V, number][] = [[[0, -8.4, 41.6], 2.7], [[0, -11.4, 44.2], 2.0], [[0, -12.2, 47.6], 1.65], [[0, -10.2, 51.0], 1.5], [[0, -8.2, 54.2], 1.42], [[0, -8.4, 57.4], 1.4], [[0, -10.2, 59.4], 1.5]]
  for (let i = 0; i + 1 < neck.length; i++) {
    out.push(limb(neck[i][0], neck[i + 1][0], neck[i][1], neck[i + 1][1], { blend: 0.6, group: BODY, carve: (t, a, d) => d - 0.07 * Math.sin(a * 7 + t * 0.9) ** 2 }))
  }
  out.push(mass([0, -11.3, 60.3], [1.55, 2.5, 1.75], [1, 0, 0], [0, 0.25, 1], b))
  out.push(mass([0, -12.9, 60.0], [1.15, 1.9, 1.1], [1, 0, 0], [0, 0.2, 1], b))
  // the beak: two wedges with a crisp gape between
  const beakRoot: V = [0, -13.4, 59.9], beakTip: V = [0, -22.4, 57.6]
  const axis = unit([0, beakTip[1] - beakRoot[1], beakTip[2] - beakRoot[2]])
  const beak = (up: number): Piece => piece([beakRoot, beakTip], 1.6, (x, y, z) => {
    const py = y - beakRoot[1], pz = z - beakRoot[2]
    const a = py * axis[1] + pz * axis[2]
    const c = (pz * -axis[1] + py * axis[2]) * up
    const t = Math.max(0, Math.min(1, a / 9.3))
    const r = 1.12 * (1 - t) ** 0.85 + 0.27
    const wedge = Math.max(Math.abs(x) * 0.83 + c * 0.55 - r * 0.86, -c + 0.13, c - r * 0.95)
    return Math.max(wedge, a - 9.3, -a - 0.8)
  }, { group: up > 0 ? 30 : 31 })
  out.push(beak(1), beak(-1))
  out.push(limb([0, -13.3, 59.85], [0, -21.2, 57.85], 0.72, 0.28, { group: 32 }))
  for (const s of [-1, 1]) {
    out.push(torus([1.32 * s, -12.5, 60.75], [s, -0.25, 0.15], 0.42, 0.17, { group: 34 + s }))
    out.push(mass([1.28 * s, -12.5, 60.75], [0.36, 0.36, 0.36], [1, 0, 0], [0, 0, 1], { group: 37 + s }))
    // the crest: two long plumes that hang free behind the head
    out.push(vane({ root: [0.6 * s, -10.4, 61.4], tip: [1.5 * s, -0.6, 58.2 - 0.4 * s], face: [0.3 * s, 0.2, 1], width: 1.25, thickness: 0.75, arch: 1.5, barbs: 0.7, relief: 0.12, fullest: 0.4, blunt: 1.6 }, { group: 40 + s }))
  }
  // throat plumes that hang from the kink of the neck
  for (let i = -1; i <= 1; i++) {
    out.push(vane({ root: [i * 0.7, -12.4, 46.6], tip: [i * 1.7, -14.6 + Math.abs(i) * 0.8, 38.4 + Math.abs(i) * 1.3], face: [i * 0.2, -1, 0.15], width: 1.25, thickness: 0.75, arch: 0.6, barbs: 0.7, relief: 0.12, fullest: 0.45, blunt: 1.6 }, { group: 44 + i }))
  }
}

function legs(out: Piece[]): void {
  const scales = (t: number, a: number, d: number): number => d - 0.07 * Math.abs(Math.sin(t * 4.2)) * (Math.cos(a) > -0.3 ? 1 : 0.2)
  const leg = (hip: V, knee: V, ankle: V, group: number): void => {
    out.push(limb(hip, knee, 1.7, 0.82, { blend: 0.5, group: BODY }))
    out.push(mass(knee, [0.98, 1.05, 1.1], [1, 0, 0], [0, 0, 1], { blend: 0.3, group }))
    out.push(limb(knee, ankle, 0.76, 0.64, { blend: 0.3, group, carve: scales }))
    out.push(mass(ankle, [0.82, 0.82, 0.72], [1, 0, 0], [0, 0, 1], { blend: 0.3, group }))
  }
  const standing: V = [1.9, 0.4, 14.5]
  leg([2.2, 1.4, 31.6], [2.1, 2.6, 23.6], standing, 50)
  const toes = (at: V, spread: number, dip: number, group: number): void => {
    for (const [i, a] of [-0.62, 0, 0.62, Math.PI].entries()) {
      const long = i === 3 ? 2.6 : 4.3
      const mid: V = [at[0] + Math.sin(a) * long * 0.5 * spread, at[1] - Math.cos(a) * long * 0.5, at[2] - 0.1 - dip * 0.4]
      const end: V = [at[0] + Math.sin(a) * long * spread, at[1] - Math.cos(a) * long, at[2] - 0.75 - dip * 1.4]
      out.push(limb(at, mid, 0.58, 0.5, { blend: 0.25, group, carve: (t, _, d) => d - 0.06 * Math.abs(Math.sin(t * 5)) }))
      out.push(mass(mid, [0.58, 0.58, 0.52], [1, 0, 0], [0, 0, 1], { blend: 0.25, group }))
      out.push(limb(mid, end, 0.48, 0.3, { blend: 0.25, group }))
    }
  }
  toes(standing, 1, 0, 50)
  // the other leg is lifted, its toes hang free
  const lifted: V = [-2.6, -5.6, 21.4]
  leg([-2.2, 0.9, 31.8], [-2.5, 0.6, 24.2], lifted, 51)
  toes(lifted, 0.8, 1.4, 51)
}

function wing(out: Piece[], s: -1 | 1): void {
  const shoulder: V = [4.4 * s, -3.4, 41.4], elbow: V = [14.5 * s, 1.4, 44.8], wrist: V = [26.5 * s, -4.2, 48.4], hand: V = [36.5 * s, -0.8, 47.6]
  const g = 100 + s * 50
  const arm = { blend: 0.6, group: BODY }
  out.push(limb(shoulder, elbow, 2.5, 1.7, arm), limb(elbow, wrist, 1.65, 1.15, arm), limb(wrist, hand, 1.1, 0.55, arm))
  out.push(mass(add(shoulder, [2.4 * s, 0.6, 0.4]), [4.2, 2.9, 2.2], [1, 0.3 * s, 0.2 * s], [0, 0, 1], arm))
  out.push(mass(between(elbow, wrist, 0.35), [4.4, 1.7, 1.35], [s, -0.45, 0.3], [0, 0, 1], arm))
  // the skin between shoulder and wrist
  out.push(vane({ root: between(shoulder, elbow, 0.2), tip: between(elbow, wrist, 0.9), face: [0, 0.1, 1], width: 5.2, thickness: 1.2, arch: 0.3, barbs: 0, relief: 0, fullest: 0.5, blunt: 3 }, { group: g + 40 }))
  const face: V = [0.12 * s, 0.1, 1]
  // primaries fan out from the hand, secondaries trail from the forearm, tertials from the upper arm
  const primaries = 10
  for (let i = 0; i < primaries; i++) {
    const t = i / (primaries - 1)
    const root = between(wrist, hand, 0.12 + 0.88 * t)
    const angle = (76 - 74 * t) * (Math.PI / 180)
    const long = 15.2 - 4.2 * (1 - t) ** 1.4 - (t > 0.8 ? (t - 0.8) * 9 : 0)
    const droop = 4.6 - 2.2 * t + (i % 2) * 0.55
    const tip: V = [root[0] + s * Math.cos(angle) * long, root[1] + Math.sin(angle) * long, root[2] - droop]
    out.push(vane({ root: add(root, [0, -0.5, 0.32 - 0.07 * i]), tip, face, width: 3.0, thickness: 0.85, arch: 0.85, barbs: 0.95, relief: 0.2, fullest: 0.55, blunt: 2 }, { group: g + i }))
  }
  const secondaries = 9
  for (let i = 0; i < secondaries; i++) {
    const t = (i + 0.3) / secondaries
    const root = between(elbow, wrist, t)
    const long = 13.6 - 1.2 * t + (i % 2) * 0.4
    const tip: V = [root[0] + s * (0.5 + 2.0 * t), root[1] + long, root[2] - 5.4 - (i % 2) * 0.5 + t * 0.6]
    out.push(vane({ root: add(root, [0, -0.4, 0.25 + 0.05 * (i % 3)]), tip, face: [0.05 * s, 0.35, 1], width: 3.0, thickness: 0.85, arch: 0.9, barbs: 0.95, relief: 0.2, fullest: 0.6, blunt: 2.6 }, { group: g + 12 + i }))
  }
  const tertials = 5
  for (let i = 0; i < tertials; i++) {
    const t = (i + 0.6) / tertials
    const root = between(shoulder, elbow, t)
    const tip: V = [root[0] + s * 0.4, root[1] + 11.6 - (1 - t) * 1.5, root[2] - 4.6 - (i % 2) * 0.5]
    out.push(vane({ root: add(root, [0, -0.3, 0.5]), tip, face: [-0.05 * s, 0.35, 1], width: 3.2, thickness: 0.9, arch: 0.9, barbs: 0.95, relief: 0.2, fullest: 0.6, blunt: 2.6 }, { group: g + 22 + i }))
  }
  // coverts lie over the roots in two rows, lifted a little at their points
  for (let row = 0; row < 2; row++) {
    const n = 12 - row
    for (let i = 0; i < n; i++) {
      const t = (i + 0.5 + row * 0.4) / n
      const along = t < 0.3 ? between(shoulder, elbow, t / 0.3) : t < 0.72 ? between(elbow, wrist, (t - 0.3) / 0.42) : between(wrist, hand, (t - 0.72) / 0.28)
      const swing = t > 0.72 ? (t - 0.72) * 2.6 : 0
      const long = (row === 0 ? 6.2 : 3.9) * (1 - 0.25 * t)
      const tip: V = [along[0] + s * long * swing, along[1] + long * (1 - swing * 0.4), along[2] - (row === 0 ? 1.1 : 0.25)]
      out.push(vane({ root: add(along, [0, -0.8, 0.85 + row * 0.45]), tip: add(tip, [0, 0, 0.75 + row * 0.3]), face, width: 2.7, thickness: 0.8, arch: 0.55, barbs: 0.85, relief: 0.18, fullest: 0.55, blunt: 2.4 }, { group: g + 30 + row * 14 + i + (s > 0 ? 200 : 400) }))
    }
  }
}

function tail(out: Piece[]): void {
  for (let i = -3; i <= 3; i++) {
    const a = i * 0.15
    out.push(vane({ root: [i * 0.45, 7.6, 34.2 + 0.12 * Math.abs(i)], tip: [Math.sin(a) * 11.5, 7.4 + Math.cos(a) * 11.5, 28.6 - (i % 2 ? 0.5 : 0) + Math.abs(i) * 0.2], face: [0.1 * i, 0.5, 1], width: 2.9, thickness: 0.85, arch: 0.6, barbs: 0.95, relief: 0.2, fullest: 0.65, blunt: 2.8 }, { group: 700 + i }))
  }
}
