import { buildTree, type TriangleTree } from './triangle-tree'
import type { Mesh, Vec3 } from './triangle-mesh'
import { ASIDE_Y, ASIDE_Z } from './inside'
import { cross, sub, unit } from './vector'

/** Children wait here while the nearer one is looked at; a tree of 2³² triangles is not deeper. */
const DEEPEST = 64

/**
 * A tree of boxes over the triangles of a mesh, in flat arrays, that tells the nearest point of the surface. One answer at a time: a
 * question writes it into the fields, so that nothing is made for it.
 */
export class NearestTree {
  /** How far the nearest point is, mm; what was asked for as the farthest, where nothing is nearer. */
  distance = 0
  /** The nearest point. */
  x = 0
  y = 0
  z = 0
  /** The triangle it lies on, as the tree counts them, which makes it a hint for the next question; −1 where nothing is near. */
  at = -1

  readonly #corners: Float32Array
  readonly #boxes: Float32Array
  readonly #next: Uint32Array
  readonly #counts: Uint8Array
  readonly #waiting = new Uint32Array(DEEPEST)
  readonly #waitingAt = new Float64Array(DEEPEST)

  /** @param of the triangles, or a tree over them that was built elsewhere */
  constructor(of: Mesh | TriangleTree) {
    const { corners, boxes, next, counts } = 'counts' in of ? of : buildTree(of)
    this.#corners = corners
    this.#boxes = boxes
    this.#next = next
    this.#counts = counts
  }

  /**
   * Looks for the point of the surface that is nearest to another one.
   * @param hint a triangle that may be near, as `at` of a question before @param within mm; what is farther is not looked for
   * @param enough mm; where something is as near, the search ends, and there may be something nearer
   */
  ask(x: number, y: number, z: number, hint = -1, within = Infinity, enough = 0): void {
    const stop = enough * enough
    const boxes = this.#boxes, waiting = this.#waiting, waitingAt = this.#waitingAt
    this.at = -1
    this.#best = within * within
    if (hint >= 0) this.#triangle(hint, x, y, z)
    let top = 0, node = this.#corners.length > 0 ? 0 : -1
    while (node >= 0) {
      const count = this.#counts[node]
      if (count > 0) {
        const from = this.#next[node]
        for (let i = from; i < from + count; i++) this.#triangle(i, x, y, z)
        node = -1
      } else {
        const first = this.#next[node], second = first + 1, a = apart(boxes, first, x, y, z), b = apart(boxes, second, x, y, z)
        const near = a <= b ? first : second, nearAt = a <= b ? a : b, far = a <= b ? second : first, farAt = a <= b ? b : a
        if (farAt < this.#best) {
          waiting[top] = far
          waitingAt[top++] = farAt
        }
        node = nearAt < this.#best ? near : -1
      }
      if (this.#best < stop) break
      while (node < 0 && top > 0) if (waitingAt[--top] < this.#best) node = waiting[top]
    }
    this.distance = Math.sqrt(this.#best)
  }

  /** How far a triangle is from a point, mm, by the tree's count. */
  distanceTo(i: number, x: number, y: number, z: number): number {
    this.#best = Infinity
    this.#triangle(i, x, y, z)
    return Math.sqrt(this.#best)
  }

  /**
   * As `ask`, but looks only at what reaches into a box. For those who know that nothing nearer lies outside of it.
   * @param box the least x, y, z, then the greatest
   */
  askIn(box: Float64Array, x: number, y: number, z: number, hint: number, within: number): void {
    const boxes = this.#boxes, waiting = this.#waiting, x0 = box[0], y0 = box[1], z0 = box[2], x1 = box[3], y1 = box[4], z1 = box[5]
    this.at = -1
    this.#best = within * within
    if (hint >= 0) this.#triangle(hint, x, y, z)
    let top = 0, node = this.#corners.length > 0 ? 0 : -1
    while (node >= 0) {
      const count = this.#counts[node], first = this.#next[node]
      let next = -1
      if (count > 0) for (let i = first; i < first + count; i++) this.#triangle(i, x, y, z)
      else {
        const b = 6 * first
        if (boxes[b] <= x1 && boxes[b + 3] >= x0 && boxes[b + 1] <= y1 && boxes[b + 4] >= y0 && boxes[b + 2] <= z1 && boxes[b + 5] >= z0) next = first
        if (boxes[b + 6] <= x1 && boxes[b + 9] >= x0 && boxes[b + 7] <= y1 && boxes[b + 10] >= y0 && boxes[b + 8] <= z1 && boxes[b + 11] >= z0) {
          if (next < 0) next = first + 1
          else waiting[top++] = first + 1
        }
      }
      node = next < 0 && top > 0 ? waiting[--top] : next
    }
    this.distance = Math.sqrt(this.#best)
  }

  /** Winding number of a point, as `InsideTest` tells it: a ray along +x passes through boxes in place of bins. For those who have the tree anyway. */
  winding(x: number, y: number, z: number): number {
    const boxes = this.#boxes, waiting = this.#waiting, c = this.#corners, py = y + ASIDE_Y, pz = z + ASIDE_Z
    let winding = 0, top = 0, node = c.length > 0 ? 0 : -1
    while (node >= 0) {
      const count = this.#counts[node], first = this.#next[node]
      let next = -1
      if (count > 0) for (let i = 9 * first, to = i + 9 * count; i < to; i += 9) {
        const ay = c[i + 1] - py, az = c[i + 2] - pz, by = c[i + 4] - py, bz = c[i + 5] - pz, cy = c[i + 7] - py, cz = c[i + 8] - pz
        const wc = ay * bz - az * by, wa = by * cz - bz * cy, wb = cy * az - cz * ay
        if (!((wa > 0 && wb > 0 && wc > 0) || (wa < 0 && wb < 0 && wc < 0))) continue
        const total = wa + wb + wc
        if ((wa * c[i] + wb * c[i + 3] + wc * c[i + 6]) / total > x) winding += total > 0 ? 1 : -1
      } else {
        const b = 6 * first
        if (boxes[b + 3] >= x && boxes[b + 1] <= py && boxes[b + 4] >= py && boxes[b + 2] <= pz && boxes[b + 5] >= pz) next = first
        if (boxes[b + 9] >= x && boxes[b + 7] <= py && boxes[b + 10] >= py && boxes[b + 8] <= pz && boxes[b + 11] >= pz) {
          if (next < 0) next = first + 1
          else waiting[top++] = first + 1
        }
      }
      node = next < 0 && top > 0 ? waiting[--top] : next
    }
    return winding
  }

  /** Which way a triangle faces, by the tree's count; of length 1. */
  normalOf(i: number): Vec3 {
    const c = this.#corners, o = 9 * i, corner = (n: number): Vec3 => [c[o + 3 * n], c[o + 3 * n + 1], c[o + 3 * n + 2]]
    return unit(cross(sub(corner(1), corner(0)), sub(corner(2), corner(0))))
  }

  /** Square of the distance to the best so far. */
  #best = 0

  /** The nearest point of a triangle, taken over where it is nearer than the best so far. Source: Ericson, Real-Time Collision Detection, 5.1.5. */
  #triangle(i: number, x: number, y: number, z: number): void {
    const c = this.#corners, o = 9 * i
    const ax = c[o], ay = c[o + 1], az = c[o + 2]
    const ux = c[o + 3] - ax, uy = c[o + 4] - ay, uz = c[o + 5] - az, vx = c[o + 6] - ax, vy = c[o + 7] - ay, vz = c[o + 8] - az
    const px = x - ax, py = y - ay, pz = z - az
    const d1 = ux * px + uy * py + uz * pz, d2 = vx * px + vy * py + vz * pz
    // how far along the two edges from the first corner
    let s = 0, r = 0
    if (d1 > 0 || d2 > 0) {
      const uu = ux * ux + uy * uy + uz * uz, uv = ux * vx + uy * vy + uz * vz, vv = vx * vx + vy * vy + vz * vz
      const d3 = d1 - uu, d4 = d2 - uv, d5 = d1 - uv, d6 = d2 - vv
      if (d3 >= 0 && d4 <= d3) s = 1
      else if (d6 >= 0 && d5 <= d6) r = 1
      else {
        const vc = d1 * d4 - d3 * d2, vb = d5 * d2 - d1 * d6, va = d3 * d6 - d5 * d4
        if (vc <= 0 && d1 >= 0 && d3 <= 0) s = d1 / (d1 - d3)
        else if (vb <= 0 && d2 >= 0 && d6 <= 0) r = d2 / (d2 - d6)
        else if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
          r = (d4 - d3) / (d4 - d3 + (d5 - d6))
          s = 1 - r
        } else {
          const all = va + vb + vc
          s = vb / all
          r = vc / all
        }
      }
    }
    const nx = ax + s * ux + r * vx, ny = ay + s * uy + r * vy, nz = az + s * uz + r * vz
    const dx = x - nx, dy = y - ny, dz = z - nz, d = dx * dx + dy * dy + dz * dz
    if (d < this.#best) {
      this.#best = d
      this.at = i
      this.x = nx
      this.y = ny
      this.z = nz
    }
  }
}

/** Square of the distance from a point to a box. */
function apart(boxes: Float32Array, node: number, x: number, y: number, z: number): number {
  const b = 6 * node
  const dx = x < boxes[b] ? boxes[b] - x : x > boxes[b + 3] ? x - boxes[b + 3] : 0
  const dy = y < boxes[b + 1] ? boxes[b + 1] - y : y > boxes[b + 4] ? y - boxes[b + 4] : 0
  const dz = z < boxes[b + 2] ? boxes[b + 2] - z : z > boxes[b + 5] ? z - boxes[b + 5] : 0
  return dx * dx + dy * dy + dz * dz
}
