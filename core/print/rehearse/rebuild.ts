import { pixelMmOf } from '../../contract'
import type { Mesh } from '../../mesh'
import type { OpenPackage } from '../package/read-package'
import { PictureLayers } from './picture-layers'

/** Cells of the grid at the most, and pixels along the edge of one at the least. */
const MOST_CELLS = 3_000_000, LEAST_PIXELS = 2
/** Layers that are taken at once. */
const AT_ONCE = 16

/**
 * A model of what the pictures of a package print, on a coarse grid: how much of every cell is lit, and the surface where that is half. To be
 * looked at; it is closed, and outlines are true to about half a cell. In the coordinates of the plate, mm. Yields the share that is done.
 * Source: naive surface nets (Gibson 1998; from memory).
 * @throws PackageError `picture` or `altered`
 */
export function* rebuild(found: OpenPackage): Generator<number, Mesh, void> {
  const { manifest } = found, count = manifest.layers.length, looked = PictureLayers.of(found)
  let step = looked.next()
  for (; !step.done; step = looked.next()) yield (0.5 * step.value) / count
  const layers = step.value, { row0, rows } = layers.frame, pixelMm = pixelMmOf(manifest.printer), { layerMm } = manifest
  if (rows === 0 || layers.columns === 0) return { positions: new Float32Array(0), triangles: new Uint32Array(0) }
  const across = Math.max(LEAST_PIXELS, Math.ceil(Math.cbrt((layers.columns * rows * count * layerMm) / pixelMm / MOST_CELLS))), thick = Math.max(1, Math.round((across * pixelMm) / layerMm))
  // a cell of nothing all around, so that the surface closes
  const nx = Math.ceil(layers.columns / across) + 2, ny = Math.ceil(rows / across) + 2, nz = Math.ceil(count / thick) + 2, lit = new Float32Array(nx * ny * nz)
  for (let first = 0; first < count; first += AT_ONCE) {
    const { starts, pairs, layers: held } = layers.spans(first, Math.min(AT_ONCE, count - first))
    for (let l = 0; l < held; l++) {
      for (let r = 0; r < rows; r++) {
        const base = ((Math.floor((first + l) / thick) + 1) * ny + Math.floor(r / across) + 1) * nx + 1
        for (let s = starts[l * rows + r]; s < starts[l * rows + r + 1]; s++) {
          const from = pairs[2 * s] - layers.pixel0, to = pairs[2 * s + 1] - layers.pixel0
          for (let c = Math.floor(from / across); c * across < to; c++) lit[base + c] += Math.min(to, (c + 1) * across) - Math.max(from, c * across)
        }
      }
    }
    yield 0.5 + (0.4 * first) / count
  }
  return surfaceAt(lit, [nx, ny, nz], (across * across * thick) / 2, (x, y, z) => [(layers.pixel0 + (x - 0.5) * across) * pixelMm, (row0 + (y - 0.5) * across) * pixelMm, Math.max(0, (z - 0.5) * thick * layerMm)])
}

/** The surface where values on a grid pass a level: a corner in every cell of eight values that it passes through, a quad across every edge. */
function surfaceAt(values: Float32Array, [nx, ny, nz]: readonly [number, number, number], level: number, placeOf: (x: number, y: number, z: number) => readonly [number, number, number]): Mesh {
  const corners = new Int32Array(nx * ny * nz).fill(-1), positions: number[] = [], triangles: number[] = [], steps = [1, nx, nx * ny]
  for (let z = 0; z + 1 < nz; z++) for (let y = 0; y + 1 < ny; y++) for (let x = 0; x + 1 < nx; x++) {
    const at = (z * ny + y) * nx + x
    let within = 0
    for (let c = 0; c < 8; c++) if (values[at + (c & 1) + (c >> 1 & 1) * nx + (c >> 2) * nx * ny] > level) within |= 1 << c
    if (within === 0 || within === 255) continue
    let sx = 0, sy = 0, sz = 0, crossed = 0
    for (let a = 0; a < 3; a++) for (let c = 0; c < 8; c++) {
      const d = c | (1 << a)
      if (d === c || (within >> c & 1) === (within >> d & 1)) continue
      const p = values[at + (c & 1) + (c >> 1 & 1) * nx + (c >> 2) * nx * ny], q = values[at + (d & 1) + (d >> 1 & 1) * nx + (d >> 2) * nx * ny], share = (level - p) / (q - p)
      sx += (c & 1) + (a === 0 ? share : 0)
      sy += (c >> 1 & 1) + (a === 1 ? share : 0)
      sz += (c >> 2) + (a === 2 ? share : 0)
      crossed++
    }
    corners[at] = positions.length / 3
    positions.push(...placeOf(x + sx / crossed, y + sy / crossed, z + sz / crossed))
  }
  for (let z = 1; z + 1 < nz; z++) for (let y = 1; y + 1 < ny; y++) for (let x = 1; x + 1 < nx; x++) {
    const at = (z * ny + y) * nx + x, here = values[at] > level
    for (let a = 0; a < 3; a++) {
      if (here === values[at + steps[a]] > level) continue
      // the four cells around this edge, in turn about it
      const u = steps[(a + 1) % 3], v = steps[(a + 2) % 3], p = corners[at - u - v], q = corners[at - v], r = corners[at], s = corners[at - u]
      if (here) triangles.push(p, q, r, p, r, s)
      else triangles.push(p, r, q, p, s, r)
    }
  }
  addLowerEdges(values, [nx, ny, nz], level, corners, steps, triangles)
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) }
}

/** Quads across edges that begin at the lower border of the grid, where there is nothing. */
function addLowerEdges(values: Float32Array, [nx, ny, nz]: readonly [number, number, number], level: number, corners: Int32Array, steps: readonly number[], triangles: number[]): void {
  const sizes = [nx, ny, nz]
  for (let a = 0; a < 3; a++) {
    const b = (a + 1) % 3, c = (a + 2) % 3
    for (let j = 1; j + 1 < sizes[c]; j++) for (let i = 1; i + 1 < sizes[b]; i++) {
      const at = i * steps[b] + j * steps[c]
      if (!(values[at + steps[a]] > level)) continue
      const p = corners[at - steps[b] - steps[c]], q = corners[at - steps[c]], r = corners[at], s = corners[at - steps[b]]
      triangles.push(p, r, q, p, s, r)
    }
  }
}
