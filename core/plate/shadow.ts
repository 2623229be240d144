import type { Mesh } from '../mesh'
import { movePoint, type RigidMotion } from '../pose'

/** What of the plate something covers, seen from above, in square cells: a cell that anything touches is covered. */
export interface Shadow {
  /** Where the first cell begins, in cells from the origin. */
  readonly x0: number
  readonly y0: number
  readonly width: number
  readonly height: number
  /** 1 for what is covered, row by row. */
  readonly cells: Uint8Array
}

/** Boxes of this many cells are covered whole: what is so small is not looked at more closely. */
const SMALL = 2

/** The shadow of some bodies as they are placed. */
export function shadowOf(bodies: readonly { readonly mesh: Mesh; readonly motion: RigidMotion }[], cellMm: number): Shadow {
  let minX = Infinity, minY = Infinity, maxX = -Infinity, maxY = -Infinity
  const placed = bodies.map(({ mesh: { positions: p }, motion }) => {
    const flat = new Float64Array((p.length / 3) * 2)
    for (let i = 0, k = 0; i < p.length; i += 3, k += 2) {
      const [x, y] = movePoint(motion, [p[i], p[i + 1], p[i + 2]])
      flat[k] = x / cellMm
      flat[k + 1] = y / cellMm
      minX = Math.min(minX, flat[k])
      maxX = Math.max(maxX, flat[k])
      minY = Math.min(minY, flat[k + 1])
      maxY = Math.max(maxY, flat[k + 1])
    }
    return flat
  })
  if (maxX < minX) return { x0: 0, y0: 0, width: 0, height: 0, cells: new Uint8Array(0) }
  const x0 = Math.floor(minX), y0 = Math.floor(minY), width = Math.floor(maxX) - x0 + 1, height = Math.floor(maxY) - y0 + 1, cells = new Uint8Array(width * height)
  for (const [b, flat] of placed.entries()) {
    const { triangles } = bodies[b].mesh
    for (let t = 0; t < triangles.length; t += 3) {
      const a = 2 * triangles[t], c = 2 * triangles[t + 1], d = 2 * triangles[t + 2]
      const ax = flat[a] - x0, ay = flat[a + 1] - y0, bx = flat[c] - x0, by = flat[c + 1] - y0, cx = flat[d] - x0, cy = flat[d + 1] - y0
      const left = Math.floor(Math.min(ax, bx, cx)), right = Math.floor(Math.max(ax, bx, cx)), low = Math.floor(Math.min(ay, by, cy)), high = Math.floor(Math.max(ay, by, cy)), small = right - left < SMALL && high - low < SMALL
      for (let y = low; y <= high; y++) for (let x = left; x <= right; x++) if (small || touches(ax, ay, bx, by, cx, cy, x, y)) cells[y * width + x] = 1
    }
  }
  return { x0, y0, width, height, cells }
}

/** Whether a triangle comes into the cell from (x, y) to (x + 1, y + 1), which lies within its box (separating axes). */
function touches(ax: number, ay: number, bx: number, by: number, cx: number, cy: number, x: number, y: number): boolean {
  const turn = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax) >= 0 ? 1 : -1
  const apart = (px: number, py: number, qx: number, qy: number): boolean => {
    const nx = turn * (py - qy), ny = turn * (qx - px)
    // the corner of the cell that lies farthest to the inner side of this edge
    return nx * (x + (nx > 0 ? 1 : 0) - px) + ny * (y + (ny > 0 ? 1 : 0) - py) < 0
  }
  return !apart(ax, ay, bx, by) && !apart(bx, by, cx, cy) && !apart(cx, cy, ax, ay)
}

/** A shadow turned by quarters, counter-clockwise about the origin. */
export function turnedShadow(shadow: Shadow, quarters: number): Shadow {
  let { x0, y0, width, height, cells } = shadow
  for (let q = ((quarters % 4) + 4) % 4; q > 0; q--) {
    const turned = new Uint8Array(cells.length)
    // (x, y) goes to (−y, x): a cell from y to y + 1 comes to lie from −y − 1 to −y
    for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) turned[x * height + (height - 1 - y)] = cells[y * width + x]
    const newX0 = -(y0 + height)
    y0 = x0
    x0 = newX0
    const swap = width
    width = height
    height = swap
    cells = turned
  }
  return { x0, y0, width, height, cells }
}

/** A shadow with a margin all around, of so many cells. */
export function grownShadow({ x0, y0, width, height, cells }: Shadow, by: number): Shadow {
  const r = Math.ceil(by), wide = width + 2 * r, high = height + 2 * r, out = new Uint8Array(wide * high)
  // by the nearest covered cell of each row, the disc row by row
  const halves = Array.from({ length: 2 * r + 1 }, (_, i) => Math.floor(Math.sqrt(Math.max(0, by * by - (i - r) ** 2))))
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width;) {
      if (!cells[y * width + x]) {
        x++
        continue
      }
      let end = x
      while (end < width && cells[y * width + end]) end++
      for (let i = 0; i <= 2 * r; i++) out.fill(1, (y + i) * wide + x + r - halves[i], (y + i) * wide + end + r + halves[i])
      x = end
    }
  }
  return { x0: x0 - r, y0: y0 - r, width: wide, height: high, cells: out }
}
