import { OFF_LIMITS, PLAIN, PRIZED, SPARE } from '../marks'
import { boundsOf, dot, radians, type Mesh, type Vec3 } from '../mesh'

/** Edge of the cells on each side of a cube that directions are sorted by: less than two degrees each. */
const CELLS = 48

/** Numbers of a bin, the faces of one worth that look nearly the same way: area in mm², sum of area times normal, sum of area times middle. */
const AREA = 0, NORMAL = 1, MIDDLE = 4, NUMBERS = 7
const WORTH_COUNT = 4, BINS = WORTH_COUNT * 6 * CELLS * CELLS

/** Skin that leans out too little to carry itself, as a part is tilted. */
export interface SteepSkin {
  /** mm² of each worth: plain, prized, spare, off-limits. */
  readonly byWorth: readonly [number, number, number, number]
  /** Its area times its mean height above the plate, mm³. */
  readonly underMm3: number
}

/** How far above the plate a flat still lies on it, mm. */
const ON_PLATE_MM = 0.05

/** The skin of a part by direction and worth, so that what leans out is summed for any tilt without its faces. */
export class SkinTable {
  /** Those that are not empty, and the worth of each. */
  readonly #bins: Float64Array
  readonly #worths: Uint8Array
  readonly #middle: Vec3
  readonly areaMm2: number

  /** @param worths of its faces; null where all are plain */
  constructor(mesh: Mesh, worths: Uint8Array | null = null) {
    const { positions: p, triangles: t } = mesh, bins = new Float64Array(BINS * NUMBERS), { min, max } = boundsOf(p)
    const [mx, my, mz] = (this.#middle = [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2])
    let total = 0
    for (let i = 0; i < t.length; i += 3) {
      const a = 3 * t[i], b = 3 * t[i + 1], c = 3 * t[i + 2]
      const ux = p[b] - p[a], uy = p[b + 1] - p[a + 1], uz = p[b + 2] - p[a + 2], vx = p[c] - p[a], vy = p[c + 1] - p[a + 1], vz = p[c + 2] - p[a + 2]
      const nx = (uy * vz - uz * vy) / 2, ny = (uz * vx - ux * vz) / 2, nz = (ux * vy - uy * vx) / 2, area = Math.sqrt(nx * nx + ny * ny + nz * nz)
      if (!(area > 0)) continue
      const at = NUMBERS * ((worths ? worths[i / 3] : PLAIN) + WORTH_COUNT * cellOf(nx, ny, nz))
      bins[at + AREA] += area
      bins[at + NORMAL] += nx
      bins[at + NORMAL + 1] += ny
      bins[at + NORMAL + 2] += nz
      bins[at + MIDDLE] += area * ((p[a] + p[b] + p[c]) / 3 - mx)
      bins[at + MIDDLE + 1] += area * ((p[a + 1] + p[b + 1] + p[c + 1]) / 3 - my)
      bins[at + MIDDLE + 2] += area * ((p[a + 2] + p[b + 2] + p[c + 2]) / 3 - mz)
      total += area
    }
    const used = Array.from({ length: BINS }, (_, i) => i).filter(i => bins[NUMBERS * i + AREA] > 0)
    this.#bins = new Float64Array(used.length * NUMBERS)
    this.#worths = Uint8Array.from(used, i => i % WORTH_COUNT)
    used.forEach((from, to) => this.#bins.set(bins.subarray(NUMBERS * from, NUMBERS * (from + 1)), NUMBERS * to))
    this.areaMm2 = total
  }

  /**
   * Skin that looks down and leans out less than an angle from level.
   * @param up the direction of the part that looks up
   * @param zMm height above the plate of the point of the part where its frame begins, as it stands
   */
  steep(up: Vec3, slopeDeg: number, zMm: number): SteepSkin {
    const least = Math.cos(radians(slopeDeg)), byWorth: [number, number, number, number] = [0, 0, 0, 0], middleZ = zMm + dot(this.#middle, up)
    let underMm3 = 0
    const bins = this.#bins, [x, y, z] = up
    for (let i = 0, at = 0; at < bins.length; i++, at += NUMBERS) {
      const nx = bins[at + NORMAL], ny = bins[at + NORMAL + 1], nz = bins[at + NORMAL + 2]
      if (-(nx * x + ny * y + nz * z) <= least * Math.sqrt(nx * nx + ny * ny + nz * nz)) continue
      const area = bins[at + AREA], under = bins[at + MIDDLE] * x + bins[at + MIDDLE + 1] * y + bins[at + MIDDLE + 2] * z + area * middleZ
      // what lies on the plate is held by it
      if (under <= ON_PLATE_MM * area) continue
      byWorth[this.#worths[i] as 0 | 1 | 2 | 3] += area
      underMm3 += under
    }
    return { byWorth, underMm3 }
  }
}

/** How many mm² of plain skin a scar on skin of each worth counts for; off-limits skin that leans out cannot be held at all. Our own choice. */
const SCAR_WEIGHTS: Readonly<Record<number, number>> = { [PLAIN]: 1, [PRIZED]: 40, [SPARE]: 0.2, [OFF_LIMITS]: 40 }

/** Scars to come, as so many mm² of plain skin. */
export function scarOf(byWorth: SteepSkin['byWorth']): number {
  return byWorth.reduce((sum, mm2, worth) => sum + mm2 * SCAR_WEIGHTS[worth], 0)
}

/** The cell of a direction on the six sides of a cube. */
function cellOf(x: number, y: number, z: number): number {
  const ax = Math.abs(x), ay = Math.abs(y), az = Math.abs(z)
  if (ax >= ay && ax >= az) return cellOn(x < 0 ? 1 : 0, y / ax, z / ax)
  return ay >= az ? cellOn(y < 0 ? 3 : 2, x / ay, z / ay) : cellOn(z < 0 ? 5 : 4, x / az, y / az)
}
function cellOn(side: number, u: number, v: number): number {
  return (side * CELLS + cut(u)) * CELLS + cut(v)
}
/** A number from −1 to 1 as a cell, evenly by angle to a hundredth: x(4 − |x|)/3 · π/4 is near to the arc tangent of x. */
function cut(x: number): number {
  return Math.min(CELLS - 1, Math.floor(((x * (4 - Math.abs(x))) / 6 + 0.5) * CELLS))
}
