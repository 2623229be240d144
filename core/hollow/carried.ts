import type { Blocks } from './blocks'
import { NearestInLayer } from './nearest-in-layer'
import { FILLED, type WallGrid } from './wall-grid'

/** What the inside of a hollow has to keep to, so that it is printed without supports. */
export interface Carrying {
  /** What rises may lean out by so much from level and no less, degrees. */
  readonly slopeDeg: number
  /** How far a flap may reach out on one side, mm. */
  readonly flapMm: number
}

/** Of the slope and the flap, so much is used: cells are coarser than pixels. */
const SLOPE_USED = 0.9, FLAP_USED = 0.6
/** Nodes this near to the filled ones get a value, in cells: all corners of the cells between. */
const BAND = 2.5
/** What is open below something filled is filled too where it is no higher than that, mm. Our own choice. */
const CRACK_MM = 0.4
/** A pixel is the outermost of its line where that reaches no farther beyond it, in pixels. */
const OUTERMOST = 1.2

/**
 * Fills a hollow so that its ceiling carries itself, up being +z: what hangs farther from a wall than a flap may is led down to the
 * nearest wall at the slope, layer by layer from above. What stays hollow ends in roofs.
 *
 * Each pixel of a hollow layer has its nearest pixel of the wall; along the line between the two, material reaches out from the wall as
 * far as the farthest one that hangs there, and a layer lower by one step of the slope less.
 */
export function carryItself(grid: WallGrid, cellMm: number, { slopeDeg, flapMm }: Carrying): void {
  const { values } = grid, window = windowOf(grid.boxes), { x0, y0, z0, z1, width, height } = window, count = width * height
  const step = (SLOPE_USED / Math.tan((slopeDeg * Math.PI) / 180)), flap = (FLAP_USED * flapMm) / cellMm
  const near = new NearestInLayer(width, height)
  let solidAbove = new Uint8Array(count).fill(1), solid = new Uint8Array(count)
  // in cells: how far material reaches out along the line of a pixel, and how far the pixel lies from the wall
  let reachAbove = new Float32Array(count).fill(-1), reach = new Float32Array(count)
  const farAbove = new Float32Array(count), outOfWall = new Float32Array(count), filled: number[] = []
  for (let k = z1; k >= z0; k--) {
    readLayer(values, window, k, solid)
    near.measure(solid)
    const { distance, nearest } = near
    outOfWall.fill(-1)
    let any = false
    for (let p = 0; p < count; p++) {
      if (solid[p]) continue
      // a wall's edge runs half a pixel from its last pixel
      const far = distance[p] - 0.5
      let out = -1
      if (solidAbove[p]) out = far > flap ? far - step : -1
      // the outermost pixel of a line knows more exactly than by a pixel how far the line reaches
      else if (farAbove[p] <= reachAbove[p]) out = far - step + (reachAbove[p] - farAbove[p] < OUTERMOST ? reachAbove[p] - farAbove[p] : 0)
      if (out > 0 && out > outOfWall[nearest[p]]) {
        outOfWall[nearest[p]] = out
        any = true
      }
    }
    reach.fill(-1)
    for (let p = 0; p < count && any; p++) {
      if (solid[p]) continue
      const w = nearest[p], x = w % width, y = (w / width) | 0
      let most = -1
      for (let dy = -1; dy <= 1; dy++) for (let dx = -1; dx <= 1; dx++) if (x + dx >= 0 && x + dx < width && y + dy >= 0 && y + dy < height) most = Math.max(most, outOfWall[w + dy * width + dx])
      if (most < 0) continue
      // beside a line is filled too, but leads to nothing of its own below
      const far = distance[p] - 0.5, inside = far - most
      reach[p] = outOfWall[w]
      if (inside > BAND) continue
      const i = x0 + (p % width), j = y0 + ((p / width) | 0), value = inside * cellMm, own = values.get(i, j, k)
      if (Number.isNaN(own) || value < own) grid.shape(i, j, k, value)
      if (value <= 0) filled.push(i, j, k)
    }
    for (let p = 0; p < count; p++) farAbove[p] = distance[p] - 0.5
    ;[solid, solidAbove] = [solidAbove, solid]
    ;[reach, reachAbove] = [reachAbove, reach]
  }
  fillCracks(grid, filled, Math.round(CRACK_MM / cellMm))
  // the wall passes wherever what is filled ends, be it at once
  for (let n = 0; n < filled.length; n += 3) {
    const i = filled[n], j = filled[n + 1], k = filled[n + 2]
    for (let side = 0; side < 6; side++) {
      const by = side & 1 ? 1 : -1, a = i + (side >> 1 === 0 ? by : 0), b = j + (side >> 1 === 1 ? by : 0), c = k + (side >> 1 === 2 ? by : 0)
      if (values.peek(a, b, c) <= 0) continue
      grid.addAround(i, j, k)
      grid.addAround(a, b, c)
    }
  }
}

/** Fills what is left open below filled nodes where that is no more than a crack: nothing runs out of it, and its roof would hang. */
function fillCracks(grid: WallGrid, filled: number[], most: number): void {
  const { values } = grid, count = filled.length
  for (let n = 0; n < count; n += 3) {
    const i = filled[n], j = filled[n + 1], k = filled[n + 2]
    let depth = 1
    while (depth <= most + 1 && !(values.peek(i, j, k - depth) <= 0)) depth++
    if (depth > most + 1) continue
    for (let d = 1; d < depth; d++) {
      grid.shape(i, j, k - d, FILLED)
      filled.push(i, j, k - d)
    }
  }
}

interface Window {
  readonly x0: number
  readonly y0: number
  readonly z0: number
  readonly z1: number
  readonly width: number
  readonly height: number
}
function windowOf(corners: readonly number[]): Window {
  const low = [Infinity, Infinity, Infinity], high = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < corners.length; i++) {
    low[i % 3] = Math.min(low[i % 3], corners[i])
    high[i % 3] = Math.max(high[i % 3], corners[i] + 2)
  }
  return { x0: low[0], y0: low[1], z0: low[2], z1: high[2], width: high[0] - low[0] + 1, height: high[1] - low[1] + 1 }
}

/** Which nodes of a layer are solid: between nodes that were measured nothing changes. */
function readLayer(values: Blocks<Float32Array>, { x0, y0, width, height }: Window, k: number, solid: Uint8Array): void {
  for (let y = 0; y < height; y++) {
    let is = 1
    for (let x = 0; x < width; x++) {
      const v = values.peek(x0 + x, y0 + y, k)
      if (v > 0) is = 0
      else if (v <= 0) is = 1
      solid[y * width + x] = is
    }
  }
}
