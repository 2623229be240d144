import type { Mesh } from '@oak-stilts/core/mesh'
import { combine, type Piece } from './field'

/** Grid cells along the edge of a block; blocks that no surface can cross are skipped. */
const BLOCK = 8

/** How much faster than the way gone a piece's distance may change. */
const STEEPNESS = 1.8

/** The six tetrahedra of a cube around its diagonal from corner 0 to corner 7 (Kuhn 1960); they fit between neighbouring cubes. */
const TETRAHEDRA = [[0, 1, 3, 7], [0, 3, 2, 7], [0, 2, 6, 7], [0, 6, 4, 7], [0, 4, 5, 7], [0, 5, 1, 7]]

const CORNERS = [0, 1, 2, 3, 4, 5, 6, 7].map(c => [c & 1, (c >> 1) & 1, (c >> 2) & 1] as const)

type Edge = readonly [number, number]

/** For each tetrahedron and each set of inner corners, the triangles to emit as edges of the cube, looking from inside to outside. */
const CASES: Edge[][][][] = TETRAHEDRA.map(tet => Array.from({ length: 16 }, (_, mask) => trianglesOf(tet, mask)))

function trianglesOf(tet: readonly number[], mask: number): Edge[][] {
  const ins = tet.filter((_, i) => mask & (1 << i)), outs = tet.filter((_, i) => !(mask & (1 << i)))
  const e = (i: number, o: number): Edge => [ins[i], outs[o]]
  const raw: Edge[][] = ins.length === 1 ? [[e(0, 0), e(0, 1), e(0, 2)]]
    : ins.length === 3 ? [[e(0, 0), e(1, 0), e(2, 0)]]
      : ins.length === 2 ? [[e(0, 0), e(0, 1), e(1, 1)], [e(0, 0), e(1, 1), e(1, 0)]] : []
  const center = (list: readonly number[]): number[] => [0, 1, 2].map(a => list.reduce((n, c) => n + CORNERS[c][a], 0) / list.length)
  return raw.map(edges => {
    // the middles of the edges stand for the vertices: the turn is the same wherever on their edges they come to lie
    const [p, q, r] = edges.map(([i, j]) => center([i, j]))
    const u = q.map((n, a) => n - p[a]), v = r.map((n, a) => n - p[a])
    const from = center(ins), g = center(outs).map((n, a) => n - from[a])
    const facing = (u[1] * v[2] - u[2] * v[1]) * g[0] + (u[2] * v[0] - u[0] * v[2]) * g[1] + (u[0] * v[1] - u[1] * v[0]) * g[2]
    return facing >= 0 ? edges : [edges[0], edges[2], edges[1]]
  })
}

/**
 * Turns pieces into a closed, manifold mesh: marching tetrahedra on a cubic grid, with every vertex moved onto the surface along
 * its edge. Only blocks near a surface are evaluated, each with the pieces near it. The same pieces give the same mesh.
 * @param cellMm edge of a grid cell
 */
export function polygonize(pieces: readonly Piece[], cellMm: number): Mesh {
  const min = [Infinity, Infinity, Infinity], max = [-Infinity, -Infinity, -Infinity]
  for (const p of pieces) {
    if (p.cuts) continue
    for (let a = 0; a < 3; a++) {
      min[a] = Math.min(min[a], p.min[a])
      max[a] = Math.max(max[a], p.max[a])
    }
  }
  const span = BLOCK * cellMm
  const origin = min.map(v => Math.floor(v / span - 1) * span + cellMm * 0.317)
  const blocks = max.map((v, a) => Math.ceil((v - origin[a]) / span) + 1)
  const nx = blocks[0] * BLOCK + 1, ny = blocks[1] * BLOCK + 1
  const positions: number[] = []
  const triangles: number[] = []
  const vertexOf = new Map<number, number>()
  const side = BLOCK + 1
  const values = new Float64Array(side ** 3)
  const blockNumber = (bx: number, by: number, bz: number): number => (bz * blocks[1] + by) * blocks[0] + bx

  // Every grid point is evaluated once, by the block that owns it: neighbours then agree on it whatever was left out far away.
  const total = blocks[0] * blocks[1] * blocks[2]
  const constant = new Int8Array(total)
  const owned: (Float64Array | undefined)[] = new Array(total)
  const touching: (Piece[] | undefined)[] = new Array(total)
  const reach = (span * Math.sqrt(3)) / 2 * STEEPNESS
  for (let bz = 0; bz < blocks[2]; bz++) {
    for (let by = 0; by < blocks[1]; by++) {
      for (let bx = 0; bx < blocks[0]; bx++) {
        const n = blockNumber(bx, by, bz)
        const x0 = origin[0] + bx * span, y0 = origin[1] + by * span, z0 = origin[2] + bz * span
        constant[n] = 1
        const near = pieces.filter(p => p.min[0] < x0 + span && p.max[0] > x0 && p.min[1] < y0 + span && p.max[1] > y0 && p.min[2] < z0 + span && p.max[2] > z0)
        touching[n] = near
        if (near.every(p => p.cuts)) continue
        const distances = near.map(p => p.distance(x0 + span / 2, y0 + span / 2, z0 + span / 2))
        // wholly inside a piece that nothing cuts, or far from all: no surface here
        if (near.some((p, i) => !p.cuts && distances[i] < -reach) && !near.some(p => p.cuts)) {
          constant[n] = -1
          continue
        }
        const close = near.filter((p, i) => distances[i] < reach + p.blend)
        if (close.every(p => p.cuts)) continue
        touching[n] = close
        const own = new Float64Array(BLOCK ** 3)
        let low = false, high = false
        for (let k = 0, i = 0; k < BLOCK; k++) {
          for (let j = 0; j < BLOCK; j++) {
            for (let l = 0; l < BLOCK; l++, i++) {
              own[i] = combine(close, x0 + l * cellMm, y0 + j * cellMm, z0 + k * cellMm, 1e3)
              if (own[i] < 0) low = true
              else high = true
            }
          }
        }
        owned[n] = own
        constant[n] = low && high ? 0 : low ? -1 : 1
      }
    }
  }
  const valueAt = (bx: number, by: number, bz: number, i: number, j: number, k: number): number => {
    const n = blockNumber(bx + (i >> 3), by + (j >> 3), bz + (k >> 3))
    const own = owned[n]
    return own ? own[((k & 7) * BLOCK + (j & 7)) * BLOCK + (i & 7)] : constant[n]
  }
  for (let bz = 0; bz + 1 < blocks[2]; bz++) {
    for (let by = 0; by + 1 < blocks[1]; by++) {
      for (let bx = 0; bx + 1 < blocks[0]; bx++) {
        const first = constant[blockNumber(bx, by, bz)]
        let uniform = first !== 0
        for (let c = 1; c < 8 && uniform; c++) uniform = constant[blockNumber(bx + CORNERS[c][0], by + CORNERS[c][1], bz + CORNERS[c][2])] === first
        if (uniform) continue
        for (let k = 0, i = 0; k < side; k++) {
          for (let j = 0; j < side; j++) {
            for (let l = 0; l < side; l++, i++) values[i] = valueAt(bx, by, bz, l, j, k)
          }
        }
        emitBlock(touching[blockNumber(bx, by, bz)] as Piece[], bx, by, bz, origin[0] + bx * span, origin[1] + by * span, origin[2] + bz * span)
      }
    }
  }

  function emitBlock(near: readonly Piece[], bx: number, by: number, bz: number, x0: number, y0: number, z0: number): void {
    const value = [0, 0, 0, 0, 0, 0, 0, 0]
    const vertex = (i: number, j: number, ci: number, cj: number, ck: number): number => {
      const [a, b] = i < j ? [i, j] : [j, i]
      const gx = bx * BLOCK + ci + CORNERS[a][0], gy = by * BLOCK + cj + CORNERS[a][1], gz = bz * BLOCK + ck + CORNERS[a][2]
      const key = ((gz * ny + gy) * nx + gx) * 8 + (b ^ a)
      const known = vertexOf.get(key)
      if (known !== undefined) return known
      const ax = x0 + (ci + CORNERS[a][0]) * cellMm, ay = y0 + (cj + CORNERS[a][1]) * cellMm, az = z0 + (ck + CORNERS[a][2]) * cellMm
      const ex = (CORNERS[b][0] - CORNERS[a][0]) * cellMm, ey = (CORNERS[b][1] - CORNERS[a][1]) * cellMm, ez = (CORNERS[b][2] - CORNERS[a][2]) * cellMm
      let low = 0, high = 1, vl = value[a], vh = value[b], t = vl / (vl - vh)
      for (let step = 0; step < 2; step++) {
        const d = combine(near, ax + ex * t, ay + ey * t, az + ez * t, 1e3)
        if (d < 0 === vl < 0) {
          low = t
          vl = d
        } else {
          high = t
          vh = d
        }
        if (vl === vh) break
        t = low + ((high - low) * vl) / (vl - vh)
      }
      // keep clear of the grid points, so that no triangle shrinks to a line
      t = Math.min(0.98, Math.max(0.02, t))
      const index = positions.length / 3
      positions.push(ax + ex * t, ay + ey * t, az + ez * t)
      vertexOf.set(key, index)
      return index
    }
    for (let ck = 0; ck < BLOCK; ck++) {
      for (let cj = 0; cj < BLOCK; cj++) {
        for (let ci = 0; ci < BLOCK; ci++) {
          let inside = 0
          for (let c = 0; c < 8; c++) {
            value[c] = values[((ck + CORNERS[c][2]) * side + cj + CORNERS[c][1]) * side + ci + CORNERS[c][0]]
            if (value[c] < 0) inside++
          }
          if (inside === 0 || inside === 8) continue
          for (let t = 0; t < 6; t++) {
            const tet = TETRAHEDRA[t]
            const mask = (value[tet[0]] < 0 ? 1 : 0) | (value[tet[1]] < 0 ? 2 : 0) | (value[tet[2]] < 0 ? 4 : 0) | (value[tet[3]] < 0 ? 8 : 0)
            for (const edges of CASES[t][mask]) {
              for (const [i, j] of edges) triangles.push(vertex(i, j, ci, cj, ck))
            }
          }
        }
      }
    }
  }
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) }
}
