import type { NearestTree } from '../mesh'
import type { WallGrid } from './wall-grid'

/** A region is looked at where it reaches no farther aside than this share of what is looked for; else all is. */
const ASIDE = 0.8
/** By so much boxes are larger, mm, than what rounding may be off. */
const SPARE_MM = 1e-6
/** A node so far into the hollow is asked whether nothing is near on its side, in cells. */
const INTO_CELLS = 1
/** Balls at the most around a place. */
const MOST = 4

/**
 * Balls in which no skin is, one for each corner of a surface, and with them where skin may be that comes nearer to a place between the
 * corners than a limit. What is in the ball of the limit around the place and in none of the others lies in two small caps, on both sides
 * of the surface: a point y of it, seen from the place, keeps 2 y·g ≤ R² − r² + |g|² for the middle g and the radius r of each other ball,
 * which in the plane of the middles is a polygon around the place. Only what reaches into the boxes around the caps is looked at.
 */
export class EmptyBalls {
  /** x, y, z of its middle and its radius, mm, by corner; a radius of 0 where none is known. */
  readonly of: Float64Array
  readonly #tree: NearestTree
  readonly #grid: WallGrid
  readonly #limitMm: number
  readonly #box = new Float64Array(6)
  /** By ball, seen from the place: along the two axes of the plane and across it; half of what bounds it; and what its corner of the polygon is divided by. */
  readonly #p = new Float64Array(MOST)
  readonly #q = new Float64Array(MOST)
  readonly #n = new Float64Array(MOST)
  readonly #bound = new Float64Array(MOST)
  readonly #over = new Float64Array(MOST)
  /** What is farther from the place is not looked for, mm: the limit, or a little more. */
  #reach: number
  /** Middles of the balls, seen from the place: x, y, z by ball. */
  readonly #g = new Float64Array(3 * MOST)
  /** The plane of the middles: its normal, and the first of its two axes. */
  #nx = 0
  #ny = 0
  #nz = 0
  #tx = 0
  #ty = 0
  #tz = 0
  /** The least and greatest of the polygon along both axes. */
  #p0 = 0
  #p1 = 0
  #q0 = 0
  #q1 = 0

  constructor(of: Float64Array, tree: NearestTree, grid: WallGrid, limitMm: number) {
    this.of = of
    this.#grid = grid
    this.#tree = tree
    this.#limitMm = limitMm
    this.#reach = limitMm
  }

  /**
   * How far the nearest skin is from a place, mm, where it is nearer than the limit; the limit where none is.
   * @param corners some that lie around the place, seen from one side against the clock; the fourth is −1 where there are three @param hint a triangle of the tree near it
   */
  distance(x: number, y: number, z: number, a: number, b: number, c: number, d: number, hint: number): number {
    const limit = this.#limitMm, tree = this.#tree, count = d < 0 ? 3 : 4
    const least = this.#see(x, y, z, a, b, c, d, count)
    if (least >= limit) return limit
    if (least > 0 && this.#frame(count)) {
      const found = this.#inCaps(x, y, z, count, least)
      if (found >= 0) return found
    }
    tree.ask(x, y, z, hint, limit)
    return tree.distance
  }

  /**
   * Whether a place that was so far from all skin is no nearer than the limit after it was moved: where what may be near lies in the cap
   * behind it, the way leads off from all of that.
   * @param at where it is now, mm @param step how it was moved, mm @param wasMm how far all skin was at least before @param a as for `distance`
   */
  isFarAfter(at: readonly [number, number, number], step: readonly [number, number, number], wasMm: number, a: number, b: number, c: number, d: number): boolean {
    const count = d < 0 ? 3 : 4, [sx, sy, sz] = step, x = at[0] - sx, y = at[1] - sy, z = at[2] - sz, way = Math.sqrt(sx * sx + sy * sy + sz * sz)
    // what comes nearer than the limit was nearer than that and the way before
    this.#reach = this.#limitMm + way
    const far = this.#see(x, y, z, a, b, c, d, count) > 0 && this.#frame(count) && this.#leadsOff(x, y, z, step, way, wasMm, count)
    this.#reach = this.#limitMm
    return far
  }
  #leadsOff(x: number, y: number, z: number, [sx, sy, sz]: readonly [number, number, number], way: number, wasMm: number, count: number): boolean {
    this.#polygon(count, 0, 0)
    const aside2 = this.#aside2(), low2 = wasMm * wasMm - aside2
    if (!(low2 > 0)) return false
    const aside = Math.sqrt(aside2), low = Math.sqrt(low2), up = sx * this.#nx + sy * this.#ny + sz * this.#nz, across = Math.sqrt(Math.max(0, way * way - up * up))
    // of all of the cap, the way leads off least from its rim
    return wasMm + (low * up - aside * across) / wasMm >= this.#limitMm && this.#isInNode(x, y, z, aside, low)
  }

  /** Sees the balls from a place. Gives how far it is empty around it at least; 0 where one is not known. */
  #see(x: number, y: number, z: number, a: number, b: number, c: number, d: number, count: number): number {
    const { of } = this, g = this.#g, reach2 = this.#reach * this.#reach
    let least = 0, ex = 0, ey = 0, ez = 0, sum = 0
    for (let i = 0; i < count; i++) {
      const k = 4 * (i === 0 ? a : i === 1 ? b : i === 2 ? c : d), r = of[k + 3]
      if (r <= 0) return 0
      const gx = of[k] - x, gy = of[k + 1] - y, gz = of[k + 2] - z, square = gx * gx + gy * gy + gz * gz
      g[3 * i] = gx
      g[3 * i + 1] = gy
      g[3 * i + 2] = gz
      this.#bound[i] = (reach2 - r * r + square) / 2
      const empty = r - Math.sqrt(square)
      if (empty > least) least = empty
      // both ends of an edge, all corners of a face
      if (count === 3 || (i & 1) === 0) {
        ex += gx
        ey += gy
        ez += gz
        sum += r * r - square
      }
    }
    // a mean of balls whose middles are around the place on average leaves nothing nearer than the mean of r² − |g|²
    const of2 = count === 3 ? 3 : 2, together = (sum - 2 * this.#limitMm * Math.sqrt(ex * ex + ey * ey + ez * ez)) / of2
    return together > least * least ? Math.sqrt(together) : least
  }

  /** Finds the plane of the middles. Gives whether they go around the place, so that the polygon is bounded. */
  #frame(count: number): boolean {
    const g = this.#g
    let nx = 0, ny = 0, nz = 0
    for (let i = 0, o = 3 * (count - 1); i < count; o = 3 * i++) {
      const m = 3 * i
      nx += g[o + 1] * g[m + 2] - g[o + 2] * g[m + 1]
      ny += g[o + 2] * g[m] - g[o] * g[m + 2]
      nz += g[o] * g[m + 1] - g[o + 1] * g[m]
    }
    const n = Math.sqrt(nx * nx + ny * ny + nz * nz)
    if (!(n > 0)) return false
    nx /= n
    ny /= n
    nz /= n
    const across = g[0] * nx + g[1] * ny + g[2] * nz
    let tx = g[0] - across * nx, ty = g[1] - across * ny, tz = g[2] - across * nz
    const t = Math.sqrt(tx * tx + ty * ty + tz * tz)
    if (!(t > 0)) return false
    tx /= t
    ty /= t
    tz /= t
    const ux = ny * tz - nz * ty, uy = nz * tx - nx * tz, uz = nx * ty - ny * tx, p = this.#p, q = this.#q
    for (let i = 0; i < count; i++) {
      const gx = g[3 * i], gy = g[3 * i + 1], gz = g[3 * i + 2]
      p[i] = gx * tx + gy * ty + gz * tz
      q[i] = gx * ux + gy * uy + gz * uz
      this.#n[i] = gx * nx + gy * ny + gz * nz
    }
    for (let i = 0; i < count; i++) {
      const j = i + 1 === count ? 0 : i + 1, det = p[i] * q[j] - q[i] * p[j]
      if (!(det > 0)) return false
      this.#over[i] = 1 / det
    }
    this.#nx = nx
    this.#ny = ny
    this.#nz = nz
    this.#tx = tx
    this.#ty = ty
    this.#tz = tz
    return true
  }

  /** The polygon for what lies between `low` and the limit across the plane, on one side; on both where that is 0, from the plane on. */
  #polygon(count: number, side: number, low: number): void {
    const p = this.#p, q = this.#q, n = this.#n, bound = this.#bound, high = this.#reach
    let p0 = Infinity, p1 = -Infinity, q0 = Infinity, q1 = -Infinity
    for (let i = 0; i < count; i++) {
      const j = i + 1 === count ? 0 : i + 1, m = side * n[i], k = side * n[j]
      const a = bound[i] + (side === 0 ? high * Math.abs(n[i]) : m > 0 ? -m * low : -m * high), b = bound[j] + (side === 0 ? high * Math.abs(n[j]) : k > 0 ? -k * low : -k * high)
      const x = (a * q[j] - q[i] * b) * this.#over[i], y = (p[i] * b - a * p[j]) * this.#over[i]
      if (x < p0) p0 = x
      if (x > p1) p1 = x
      if (y < q0) q0 = y
      if (y > q1) q1 = y
    }
    this.#p0 = p0
    this.#p1 = p1
    this.#q0 = q0
    this.#q1 = q1
  }

  /** The distance by what reaches into both caps; −1 where they are too wide. @param least how far it is empty around the place at least */
  #inCaps(x: number, y: number, z: number, count: number, least: number): number {
    const limit = this.#limitMm, tree = this.#tree
    this.#polygon(count, 0, 0)
    const aside2 = this.#aside2()
    if (!(aside2 < ASIDE * ASIDE * limit * limit)) return -1
    const low = Math.sqrt(Math.max(0, least * least - aside2))
    let best = limit
    for (let side = -1; side <= 1; side += 2) {
      if (side > 0 && this.#isInNode(x, y, z, Math.sqrt(aside2), low)) continue
      this.#polygon(count, side, low)
      this.#boxOf(x, y, z, side, low)
      tree.askIn(this.#box, x, y, z, -1, best)
      if (tree.at >= 0) best = tree.distance
    }
    return best
  }

  /** How far the polygon reaches aside at the most, squared. */
  #aside2(): number {
    return Math.max(this.#p0 * this.#p0, this.#p1 * this.#p1) + Math.max(this.#q0 * this.#q0, this.#q1 * this.#q1)
  }

  /** Whether a node of the grid, a little way into the hollow, is so far from the skin that its ball covers the cap on that side. */
  #isInNode(x: number, y: number, z: number, asideMm: number, low: number): boolean {
    const grid = this.#grid, into = INTO_CELLS * grid.frame.cellMm, r = grid.distanceNear(x + into * this.#nx, y + into * this.#ny, z + into * this.#nz)
    if (!(r > 0)) return false
    const gx = grid.nearX - x, gy = grid.nearY - y, gz = grid.nearZ - z, deep = gx * this.#nx + gy * this.#ny + gz * this.#nz, square = gx * gx + gy * gy + gz * gz
    // the farthest point of the cap from the node
    return deep > 0 && this.#reach * this.#reach + square - 2 * (low * deep - asideMm * Math.sqrt(Math.max(0, square - deep * deep))) < (r - SPARE_MM) ** 2
  }

  #boxOf(x: number, y: number, z: number, side: number, low: number): void {
    const box = this.#box, tx = this.#tx, ty = this.#ty, tz = this.#tz, nx = this.#nx, ny = this.#ny, nz = this.#nz
    this.#axis(box, 0, x, tx, ny * tz - nz * ty, side * nx, low)
    this.#axis(box, 1, y, ty, nz * tx - nx * tz, side * ny, low)
    this.#axis(box, 2, z, tz, nx * ty - ny * tx, side * nz, low)
  }
  #axis(box: Float64Array, k: number, at: number, t: number, u: number, n: number, low: number): void {
    const high = this.#limitMm
    box[k] = at - SPARE_MM + (t > 0 ? this.#p0 : this.#p1) * t + (u > 0 ? this.#q0 : this.#q1) * u + (n > 0 ? low : high) * n
    box[k + 3] = at + SPARE_MM + (t > 0 ? this.#p1 : this.#p0) * t + (u > 0 ? this.#q1 : this.#q0) * u + (n > 0 ? high : low) * n
  }
}
