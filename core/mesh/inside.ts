import type { Mesh } from './triangle-mesh'

/** By so much a ray is shifted, an irrational fraction of a micrometre, so that it does not run along an edge; mm. */
export const ASIDE_Y = 1.6180339887e-4, ASIDE_Z = 2.2360679775e-4
/** Bins along y and z at the most. */
const MOST_BINS = 512

/**
 * Tells how often some triangles of a closed mesh wind around a point, by counting signed crossings of a ray along +x. Triangles
 * lie in bins of y and z, so that a ray looks at few of them.
 */
export class InsideTest {
  readonly #mesh: Mesh
  readonly #bins: number
  readonly #y0: number
  readonly #z0: number
  readonly #perY: number
  readonly #perZ: number
  /** Triangles by bin. */
  readonly #starts: Uint32Array
  readonly #list: Uint32Array

  /** @param triangles numbers of triangles that make a closed surface; all where nothing is given */
  constructor(mesh: Mesh, triangles = allOf(mesh)) {
    this.#mesh = mesh
    const { positions: p, triangles: t } = mesh
    // by triangle: the least y and z, then the greatest
    const count = triangles.length, ends = new Float32Array(4 * count)
    let y0 = Infinity, y1 = -Infinity, z0 = Infinity, z1 = -Infinity
    for (let i = 0; i < count; i++) {
      const n = 3 * triangles[i], a = 3 * t[n], b = 3 * t[n + 1], c = 3 * t[n + 2], ay = p[a + 1], by = p[b + 1], cy = p[c + 1], az = p[a + 2], bz = p[b + 2], cz = p[c + 2]
      const yLeast = Math.min(ay, by, cy), zLeast = Math.min(az, bz, cz), yMost = Math.max(ay, by, cy), zMost = Math.max(az, bz, cz)
      ends[4 * i] = yLeast
      ends[4 * i + 1] = zLeast
      ends[4 * i + 2] = yMost
      ends[4 * i + 3] = zMost
      if (yLeast < y0) y0 = yLeast
      if (yMost > y1) y1 = yMost
      if (zLeast < z0) z0 = zLeast
      if (zMost > z1) z1 = zMost
    }
    const bins = Math.max(1, Math.min(MOST_BINS, Math.round(Math.sqrt(count) / 2)))
    this.#bins = bins
    this.#y0 = y0
    this.#z0 = z0
    this.#perY = bins / Math.max(1e-9, y1 - y0)
    this.#perZ = bins / Math.max(1e-9, z1 - z0)
    const ranges = new Uint16Array(4 * count), starts = new Uint32Array(bins * bins + 1)
    for (let i = 0; i < 4 * count; i += 2) {
      ranges[i] = this.#bin(ends[i], y0, this.#perY)
      ranges[i + 1] = this.#bin(ends[i + 1], z0, this.#perZ)
    }
    for (let r = 0; r < 4 * count; r += 4) for (let y = ranges[r]; y <= ranges[r + 2]; y++) for (let z = ranges[r + 1]; z <= ranges[r + 3]; z++) starts[y * bins + z + 1]++
    for (let i = 0; i < bins * bins; i++) starts[i + 1] += starts[i]
    const list = new Uint32Array(starts[bins * bins]), cursor = starts.slice()
    for (let i = 0, r = 0; i < count; i++, r += 4) for (let y = ranges[r]; y <= ranges[r + 2]; y++) for (let z = ranges[r + 1]; z <= ranges[r + 3]; z++) list[cursor[y * bins + z]++] = triangles[i]
    this.#starts = starts
    this.#list = list
  }

  #bin(v: number, from: number, per: number): number {
    return Math.max(0, Math.min(this.#bins - 1, Math.floor((v - from) * per)))
  }

  /**
   * Winding number of a point: 1 within a surface that faces outward, −1 within one that faces inward.
   * The ray is shifted by an irrational fraction of a micrometre so that it does not run along an edge.
   */
  winding(x: number, y: number, z: number): number {
    const { positions: p, triangles: t } = this.#mesh
    const py = y + ASIDE_Y, pz = z + ASIDE_Z
    const bin = this.#bin(py, this.#y0, this.#perY) * this.#bins + this.#bin(pz, this.#z0, this.#perZ)
    let winding = 0
    for (let i = this.#starts[bin]; i < this.#starts[bin + 1]; i++) {
      const n = this.#list[i]
      const a = 3 * t[3 * n], b = 3 * t[3 * n + 1], c = 3 * t[3 * n + 2]
      const ay = p[a + 1] - py, az = p[a + 2] - pz
      const by = p[b + 1] - py, bz = p[b + 2] - pz
      const cy = p[c + 1] - py, cz = p[c + 2] - pz
      const wc = ay * bz - az * by, wa = by * cz - bz * cy, wb = cy * az - cz * ay
      if (!((wa > 0 && wb > 0 && wc > 0) || (wa < 0 && wb < 0 && wc < 0))) continue
      const total = wa + wb + wc
      const hit = (wa * p[a] + wb * p[b] + wc * p[c]) / total
      // leaving the solid along +x raises the winding of the point
      if (hit > x) winding += total > 0 ? 1 : -1
    }
    return winding
  }
}

function allOf({ triangles }: Mesh): Uint32Array {
  const all = new Uint32Array(triangles.length / 3)
  for (let i = 0; i < all.length; i++) all[i] = i
  return all
}
