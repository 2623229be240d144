import { distance, type Vec3 } from '../mesh'
import { movePoint, movePointBack } from '../pose'
import type { Surface } from '../stilts'

/** Skin that lies flatter than this hangs over, degrees from level; common practice. */
const SLOPE_DEG = 45
/** What is no higher than this lies on the plate, mm. */
const ON_PLATE_MM = 0.02

/** The place of skin that looks down which is farthest from any tip, in the stand, and how far that is. */
export interface Bare {
  readonly at: Vec3
  readonly mm: number
}

/**
 * The largest stretch of downward skin without a tip: of the middles of its faces the one that is farthest from the nearest tip. Null where
 * no skin looks down, or no tip stands. What lies on the plate is left out.
 * @param tips in the stand
 */
export function barestSkin({ faces: { positions: p, triangles: t }, stand }: Surface, tips: readonly Vec3[]): Bare | null {
  if (tips.length === 0) return null
  // distances are the same in the part, and only heights need the stand
  const own = tips.map(tip => movePointBack(stand, tip)), [, , , , , , , , upX, upY, upZ, lift] = stand, steep = -Math.cos((SLOPE_DEG * Math.PI) / 180)
  const corner = (i: number): Vec3 => [p[3 * t[i]], p[3 * t[i] + 1], p[3 * t[i] + 2]], height = (q: Vec3): number => upX * q[0] + upY * q[1] + upZ * q[2] + lift
  let found: Bare | null = null, near = 0
  for (let i = 0; i < t.length; i += 3) {
    const a = corner(i), b = corner(i + 1), c = corner(i + 2), ux = b[0] - a[0], uy = b[1] - a[1], uz = b[2] - a[2], vx = c[0] - a[0], vy = c[1] - a[1], vz = c[2] - a[2]
    const nx = uy * vz - uz * vy, ny = uz * vx - ux * vz, nz = ux * vy - uy * vx, size = Math.hypot(nx, ny, nz)
    if (size === 0 || (nx * upX + ny * upY + nz * upZ) / size > steep || Math.max(height(a), height(b), height(c)) < ON_PLATE_MM) continue
    const middle: Vec3 = [(a[0] + b[0] + c[0]) / 3, (a[1] + b[1] + c[1]) / 3, (a[2] + b[2] + c[2]) / 3], most: number = found?.mm ?? 0
    // the tip that was near to the face before is likely near to this one
    if (distance(own[near], middle) <= most) continue
    let best = Infinity
    for (let j = 0; j < own.length && best > most; j++) {
      const mm = distance(own[j], middle)
      if (mm >= best) continue
      best = mm
      near = j
    }
    if (best > most) found = { at: middle, mm: best }
  }
  return found && { at: movePoint(stand, found.at), mm: found.mm }
}
