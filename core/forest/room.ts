import type { Mesh, Vec3 } from '../mesh'

/** Side of a cell across, mm; it is √2 times as high, so that a step down to a corner leans by 45°. */
export const CELL_MM = 0.4
export const CELL_HEIGHT_MM = CELL_MM * Math.SQRT2
/** The skin is looked at in points so far from each other at the most, mm. */
const SAMPLE_MM = 0.3
/** Distances are told up to this, mm. */
export const FAR_MM = 2.4
/** Room to each side, mm. */
const AROUND_MM = 10
/** Distances are put in order by steps of this, mm. */
const STEP_MM = 0.05

/** What a grid of cells over a part and what is around and below it covers. */
export interface Cells {
  readonly nx: number
  readonly ny: number
  readonly nz: number
  /** The corner of the first cell. */
  readonly x0: number
  readonly y0: number
}

/**
 * How far everything around a part is from its skin, in cells from the plate up; by samples of the skin that are carried from cell to cell,
 * nearest first. Within 0.13 mm for 99 of 100 points; what is accepted by it is measured at the skin itself.
 */
export class Room {
  readonly cells: Cells
  /** At the middle of each cell, x fastest, then y, mm; FAR_MM where it is farther. */
  readonly distances: Float32Array

  /** @param mesh the part as it stands */
  constructor(mesh: Mesh, inSteps = false) {
    const { positions } = mesh, min = [Infinity, Infinity], max = [-Infinity, -Infinity, -Infinity]
    for (let i = 0; i < positions.length; i += 3) {
      for (let a = 0; a < 3; a++) {
        if (a < 2) min[a] = Math.min(min[a], positions[i + a])
        max[a] = Math.max(max[a], positions[i + a])
      }
    }
    const across = (a: number): number => Math.max(1, Math.ceil((max[a] - min[a] + 2 * AROUND_MM) / CELL_MM))
    const { nx, ny, nz } = (this.cells = { nx: across(0), ny: across(1), nz: Math.max(1, Math.ceil((max[2] + FAR_MM) / CELL_HEIGHT_MM)), x0: min[0] - AROUND_MM, y0: min[1] - AROUND_MM })
    this.distances = new Float32Array(nx * ny * nz).fill(FAR_MM)
    if (!inSteps) runOut(this.#measure(mesh))
  }
  /** The same, with a yield now and then. */
  static *inSteps(mesh: Mesh): Generator<void, Room, void> {
    const room = new Room(mesh, true)
    yield* room.#measure(mesh)
    return room
  }

  *#measure({ positions, triangles }: Mesh): Generator<void, void, void> {
    const { distances, cells: { nx, ny, nz, x0, y0 } } = this, nearest = new Int32Array(nx * ny * nz).fill(-1), samples: number[] = [], buckets: number[][] = Array.from({ length: Math.ceil(FAR_MM / STEP_MM) + 1 }, () => [])
    const offer = (cell: number, x: number, y: number, z: number, sample: number): void => {
      const s = 3 * sample, d = Math.sqrt((x - samples[s]) ** 2 + (y - samples[s + 1]) ** 2 + (z - samples[s + 2]) ** 2)
      if (d >= distances[cell]) return
      distances[cell] = d
      nearest[cell] = sample
      buckets[Math.floor(d / STEP_MM)].push(cell)
    }
    eachSample(positions, triangles, (x, y, z) => {
      const i = Math.floor((x - x0) / CELL_MM), j = Math.floor((y - y0) / CELL_MM), k = Math.floor(z / CELL_HEIGHT_MM)
      if (k < 0) return
      const sample = samples.push(x, y, z) / 3 - 1
      offer((k * ny + j) * nx + i, x0 + (i + 0.5) * CELL_MM, y0 + (j + 0.5) * CELL_MM, (k + 0.5) * CELL_HEIGHT_MM, sample)
    })
    for (const [order, bucket] of buckets.entries()) {
      yield
      // what comes to this bucket meanwhile is worked on as well, and what has come nearer since was
      for (let n = 0; n < bucket.length; n++) {
        const cell = bucket[n]
        if (Math.floor(distances[cell] / STEP_MM) !== order) continue
        const i = cell % nx, rest = (cell - i) / nx, j = rest % ny, k = (rest - j) / ny, sample = nearest[cell]
        const s = 3 * sample, px = samples[s], py = samples[s + 1], pz = samples[s + 2]
        for (let c = Math.max(0, k - 1); c <= Math.min(nz - 1, k + 1); c++) {
          const dz = (c + 0.5) * CELL_HEIGHT_MM - pz
          for (let b = Math.max(0, j - 1); b <= Math.min(ny - 1, j + 1); b++) {
            const dy = y0 + (b + 0.5) * CELL_MM - py, square = dz * dz + dy * dy
            for (let a = Math.max(0, i - 1); a <= Math.min(nx - 1, i + 1); a++) {
              const other = (c * ny + b) * nx + a, known = distances[other], dx = x0 + (a + 0.5) * CELL_MM - px
              if (square + dx * dx >= known * known || nearest[other] === sample) continue
              const d = Math.sqrt(square + dx * dx)
              distances[other] = d
              nearest[other] = sample
              buckets[Math.floor(d / STEP_MM)].push(other)
            }
          }
        }
      }
    }
  }

  /** Distance of a point from the skin, between those of the cells around, mm; FAR_MM beyond all cells. */
  distanceAt(x: number, y: number, z: number): number {
    const { nx, ny, nz, x0, y0 } = this.cells, u = (x - x0) / CELL_MM - 0.5, v = (y - y0) / CELL_MM - 0.5, w = z / CELL_HEIGHT_MM - 0.5
    const i = Math.floor(u), j = Math.floor(v), k = Math.max(0, Math.floor(w))
    if (i < 0 || j < 0 || i + 1 >= nx || j + 1 >= ny || k + 1 >= nz) return FAR_MM
    const fu = u - i, fv = v - j, fw = Math.max(0, w - k), d = this.distances, at = (k * ny + j) * nx + i, up = at + nx * ny
    const low = (d[at] * (1 - fu) + d[at + 1] * fu) * (1 - fv) + (d[at + nx] * (1 - fu) + d[at + nx + 1] * fu) * fv
    const high = (d[up] * (1 - fu) + d[up + 1] * fu) * (1 - fv) + (d[up + nx] * (1 - fu) + d[up + nx + 1] * fu) * fv
    return low * (1 - fw) + high * fw
  }

  /** Whether a beam keeps clear of the part by a gap: walked by as much as there is room, so what is far takes few steps. */
  isClear(from: Vec3, to: Vec3, fromRadiusMm: number, toRadiusMm: number, gapMm: number): boolean {
    const dx = to[0] - from[0], dy = to[1] - from[1], dz = to[2] - from[2], length = Math.sqrt(dx * dx + dy * dy + dz * dz)
    for (let t = 0; ;) {
      const s = length > 0 ? t / length : 1, spare = this.distanceAt(from[0] + dx * s, from[1] + dy * s, from[2] + dz * s) - fromRadiusMm - (toRadiusMm - fromRadiusMm) * s - gapMm
      if (spare < 0) return false
      if (t >= length) return true
      t = Math.min(length, t + Math.max(spare, STEP_MM))
    }
  }

  /** How high a shaft can stand at a place, mm; as high as the cells reach where nothing is above it. */
  heightAt(x: number, y: number, clearMm: number): number {
    const top = this.cells.nz * CELL_HEIGHT_MM
    for (let z = 0; ;) {
      const spare = this.distanceAt(x, y, z) - clearMm
      if (spare < 0) return Math.max(0, z - CELL_HEIGHT_MM)
      if (z >= top) return top
      z = Math.min(top, z + Math.max(spare, 2 * STEP_MM))
    }
  }
}

/** Takes all steps at once. */
export function runOut(steps: Generator<void, void, void>): void {
  while (!steps.next().done);
}

/** Points of every triangle, no farther apart than SAMPLE_MM. */
function eachSample(positions: Float32Array, triangles: Uint32Array, each: (x: number, y: number, z: number) => void): void {
  for (let t = 0; t < triangles.length; t += 3) {
    const a = 3 * triangles[t], b = 3 * triangles[t + 1], c = 3 * triangles[t + 2]
    const ux = positions[b] - positions[a], uy = positions[b + 1] - positions[a + 1], uz = positions[b + 2] - positions[a + 2], vx = positions[c] - positions[a], vy = positions[c + 1] - positions[a + 1], vz = positions[c + 2] - positions[a + 2], wx = vx - ux, wy = vy - uy, wz = vz - uz
    const n = Math.max(1, Math.ceil(Math.sqrt(Math.max(ux * ux + uy * uy + uz * uz, vx * vx + vy * vy + vz * vz, wx * wx + wy * wy + wz * wz)) / SAMPLE_MM))
    if (n === 1) {
      each(positions[a] + (ux + vx) / 3, positions[a + 1] + (uy + vy) / 3, positions[a + 2] + (uz + vz) / 3)
      continue
    }
    for (let i = 0; i <= n; i++) for (let j = 0; i + j <= n; j++) each(positions[a] + (ux * i + vx * j) / n, positions[a + 1] + (uy * i + vy * j) / n, positions[a + 2] + (uz * i + vz * j) / n)
  }
}
