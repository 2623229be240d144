import { OFF_LIMITS, PLAIN, PRIZED, SPARE } from '../marks'
import { boundsOf, dot, radians, type Mesh, type Vec3 } from '../mesh'

/** Edge of the cells on each side of a cube that directions are sorted by: less than two degrees each. */
const CELLS = 48

/** Faces of one worth that look nearly the same way. */
interface Bin {
  readonly worth: number
  areaMm2: number
  /** Sum of area times normal, and of area times middle. */
  readonly normal: [number, number, number]
  readonly middle: [number, number, number]
}

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
  readonly #bins: Bin[]
  readonly areaMm2: number

  /** @param worths of its faces; null where all are plain */
  constructor(mesh: Mesh, worths: Uint8Array | null = null) {
    const { positions: p, triangles: t } = mesh, bins = new Map<number, Bin>(), { min, max } = boundsOf(p)
    const mid = [0, 1, 2].map(c => (min[c] + max[c]) / 2)
    let total = 0
    for (let i = 0; i < t.length; i += 3) {
      const a = 3 * t[i], b = 3 * t[i + 1], c = 3 * t[i + 2]
      const ux = p[b] - p[a], uy = p[b + 1] - p[a + 1], uz = p[b + 2] - p[a + 2], vx = p[c] - p[a], vy = p[c + 1] - p[a + 1], vz = p[c + 2] - p[a + 2]
      const nx = (uy * vz - uz * vy) / 2, ny = (uz * vx - ux * vz) / 2, nz = (ux * vy - uy * vx) / 2, area = Math.sqrt(nx * nx + ny * ny + nz * nz)
      if (!(area > 0)) continue
      const worth = worths ? worths[i / 3] : PLAIN, key = worth + 4 * cellOf(nx, ny, nz)
      let bin = bins.get(key)
      if (!bin) bins.set(key, (bin = { worth, areaMm2: 0, normal: [0, 0, 0], middle: [0, 0, 0] }))
      bin.areaMm2 += area
      bin.normal[0] += nx
      bin.normal[1] += ny
      bin.normal[2] += nz
      for (let d = 0; d < 3; d++) bin.middle[d] += area * ((p[a + d] + p[b + d] + p[c + d]) / 3 - mid[d])
      total += area
    }
    this.#bins = [...bins.values()]
    this.areaMm2 = total
    this.#middle = [mid[0], mid[1], mid[2]]
  }
  readonly #middle: Vec3

  /**
   * Skin that looks down and leans out less than an angle from level.
   * @param up the direction of the part that looks up
   * @param zMm height above the plate of the point of the part where its frame begins, as it stands
   */
  steep(up: Vec3, slopeDeg: number, zMm: number): SteepSkin {
    const least = Math.cos(radians(slopeDeg)), byWorth: [number, number, number, number] = [0, 0, 0, 0], middleZ = zMm + dot(this.#middle, up)
    let underMm3 = 0
    for (const b of this.#bins) {
      const n = b.normal, length = Math.sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2])
      if (-(n[0] * up[0] + n[1] * up[1] + n[2] * up[2]) <= least * length) continue
      const under = b.middle[0] * up[0] + b.middle[1] * up[1] + b.middle[2] * up[2] + b.areaMm2 * middleZ
      // what lies on the plate is held by it
      if (under <= ON_PLATE_MM * b.areaMm2) continue
      byWorth[b.worth as 0 | 1 | 2 | 3] += b.areaMm2
      underMm3 += under
    }
    return { byWorth, underMm3 }
  }
}

/** How many mm² of plain skin a scar on skin of each worth counts for; off-limits skin that leans out cannot be held at all. Our own choice. */
const SCAR_WEIGHTS: Readonly<Record<number, number>> = { [PLAIN]: 1, [PRIZED]: 10, [SPARE]: 0.2, [OFF_LIMITS]: 20 }

/** Scars to come, as so many mm² of plain skin. */
export function scarOf(byWorth: SteepSkin['byWorth']): number {
  return byWorth.reduce((sum, mm2, worth) => sum + mm2 * SCAR_WEIGHTS[worth], 0)
}

/** The cell of a direction on the six sides of a cube, each cut evenly by angle. */
function cellOf(x: number, y: number, z: number): number {
  const ax = Math.abs(x), ay = Math.abs(y), az = Math.abs(z)
  const side = ax >= ay && ax >= az ? 0 : ay >= az ? 1 : 2
  const [w, u, v] = side === 0 ? [x, y, z] : side === 1 ? [y, x, z] : [z, x, y]
  const cell = (q: number): number => Math.min(CELLS - 1, Math.floor((Math.atan(q / Math.abs(w)) / (Math.PI / 2) + 0.5) * CELLS))
  return ((2 * side + (w < 0 ? 1 : 0)) * CELLS + cell(u)) * CELLS + cell(v)
}
