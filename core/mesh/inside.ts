import type { Mesh } from './triangle-mesh'

/** Bins along y and z at the most. */
const MOST_BINS = 512

/**
 * Tells how often some triangles of a closed mesh wind around a point, by counting signed crossings of a ray along +x. Triangles
 * lie in bins of y and z, so that a ray looks at few of them.
 */
export class InsideTest {
  readonly #mesh: Mesh
  readonly #triangles: Uint32Array
  readonly #bins: number
  readonly #y0: number
  readonly #z0: number
  readonly #perY: number
  readonly #perZ: number
  /** Triangles by bin. */
  readonly #starts: Uint32Array
  readonly #list: Uint32Array

  /** @param triangles numbers of triangles that make a closed surface */
  constructor(mesh: Mesh, triangles: Uint32Array) {
    this.#mesh = mesh
    this.#triangles = triangles
    const { positions: p, triangles: t } = mesh
    let y0 = Infinity, y1 = -Infinity, z0 = Infinity, z1 = -Infinity
    for (const n of triangles) {
      for (let c = 0; c < 3; c++) {
        const y = p[3 * t[3 * n + c] + 1], z = p[3 * t[3 * n + c] + 2]
        if (y < y0) y0 = y
        if (y > y1) y1 = y
        if (z < z0) z0 = z
        if (z > z1) z1 = z
      }
    }
    const bins = Math.max(1, Math.min(MOST_BINS, Math.round(Math.sqrt(triangles.length) / 2)))
    this.#bins = bins
    this.#y0 = y0
    this.#z0 = z0
    this.#perY = bins / Math.max(1e-9, y1 - y0)
    this.#perZ = bins / Math.max(1e-9, z1 - z0)
    const starts = new Uint32Array(bins * bins + 1)
    this.#eachBin((bin) => starts[bin + 1]++)
    for (let i = 0; i < bins * bins; i++) starts[i + 1] += starts[i]
    const list = new Uint32Array(starts[bins * bins]), cursor = starts.slice()
    this.#eachBin((bin, n) => (list[cursor[bin]++] = n))
    this.#starts = starts
    this.#list = list
  }

  #bin(v: number, from: number, per: number): number {
    return Math.max(0, Math.min(this.#bins - 1, Math.floor((v - from) * per)))
  }

  #eachBin(visit: (bin: number, triangle: number) => void): void {
    const { positions: p, triangles: t } = this.#mesh
    for (const n of this.#triangles) {
      const a = 3 * t[3 * n], b = 3 * t[3 * n + 1], c = 3 * t[3 * n + 2]
      const toY = this.#bin(Math.max(p[a + 1], p[b + 1], p[c + 1]), this.#y0, this.#perY), fromZ = this.#bin(Math.min(p[a + 2], p[b + 2], p[c + 2]), this.#z0, this.#perZ)
      const toZ = this.#bin(Math.max(p[a + 2], p[b + 2], p[c + 2]), this.#z0, this.#perZ)
      for (let y = this.#bin(Math.min(p[a + 1], p[b + 1], p[c + 1]), this.#y0, this.#perY); y <= toY; y++) {
        for (let z = fromZ; z <= toZ; z++) visit(y * this.#bins + z, n)
      }
    }
  }

  /**
   * Winding number of a point: 1 within a surface that faces outward, −1 within one that faces inward.
   * The ray is shifted by an irrational fraction of a micrometre so that it does not run along an edge.
   */
  winding(x: number, y: number, z: number): number {
    const { positions: p, triangles: t } = this.#mesh
    const py = y + 1.6180339887e-4, pz = z + 2.2360679775e-4
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
