import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { joinMeshes, type Mesh, type Vec3 } from '../../mesh'
import { motionOfPose, moveMesh } from '../../pose'
import { bowl, box, curtain, knot, lathe, reversed, sphere } from '../../testing/shapes'
import { bodyOf } from './body'
import { BAND_LAYERS, BandedBody } from '../graph/banded-body'

// Beside the generalized winding number. Published: A. Van Oosterom and J. Strackee, "The solid angle of a plane triangle", IEEE
// Transactions on Biomedical Engineering 30 (1983); the formula from memory. It shares nothing with the scan but the mesh.

const raster = { pixelMm: 0.2, layerMm: 0.2 }

/** How often a closed mesh winds around a point; far from whole numbers only on its skin. */
function windingAt({ positions: p, triangles: t }: Mesh, [x, y, z]: Vec3): number {
  let sum = 0
  for (let i = 0; i < t.length; i += 3) {
    const [ax, ay, az] = [p[3 * t[i]] - x, p[3 * t[i] + 1] - y, p[3 * t[i] + 2] - z]
    const [bx, by, bz] = [p[3 * t[i + 1]] - x, p[3 * t[i + 1] + 1] - y, p[3 * t[i + 1] + 2] - z]
    const [cx, cy, cz] = [p[3 * t[i + 2]] - x, p[3 * t[i + 2] + 1] - y, p[3 * t[i + 2] + 2] - z]
    const a = Math.hypot(ax, ay, az), b = Math.hypot(bx, by, bz), c = Math.hypot(cx, cy, cz)
    const triple = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)
    const below = a * b * c + (ax * bx + ay * by + az * bz) * c + (bx * cx + by * cy + bz * cz) * a + (cx * ax + cy * ay + cz * az) * b
    sum += 2 * Math.atan2(triple, below)
  }
  return sum / (4 * Math.PI)
}

/** Whether the scan takes the middle of a pixel in a layer for solid. */
function solidAt(banded: BandedBody, pixel: number, row: number, layer: number): boolean {
  const { row0, rows, layerCount } = banded.frame
  if (layer < 0 || layer >= layerCount || row < row0 || row >= row0 + rows) return false
  const { spans, at } = banded.layer(layer)
  const r = at * rows + row - row0
  for (let s = spans.starts[r]; s < spans.starts[r + 1]; s++) if (spans.pairs[2 * s] <= pixel && pixel < spans.pairs[2 * s + 1]) return true
  return false
}

const middle = (pixel: number, row: number, layer: number): Vec3 => [(pixel + 0.5) * raster.pixelMm, (row + 0.5) * raster.pixelMm, (layer + 0.5) * raster.layerMm]

/** Compares pixels at random places around a mesh; gives how many were solid. */
function compare(mesh: Mesh, count: number, next: () => number): number {
  const banded = new BandedBody(bodyOf(mesh, raster))
  const low = [Infinity, Infinity, Infinity], high = [-Infinity, -Infinity, -Infinity]
  mesh.positions.forEach((v, i) => {
    low[i % 3] = Math.min(low[i % 3], v)
    high[i % 3] = Math.max(high[i % 3], v)
  })
  let solid = 0
  for (let n = 0; n < count; n++) {
    const [pixel, row, layer] = [0, 1, 2].map(i => Math.floor((low[i] - 0.6 + next() * (high[i] - low[i] + 1.2)) / 0.2))
    const winding = windingAt(mesh, middle(pixel, row, layer))
    // on the skin itself half a rounding step decides
    if (layer < 0 || Math.abs(winding - Math.round(winding)) > 0.02) continue
    const expected = Math.round(winding) > 0
    if (solidAt(banded, pixel, row, layer) !== expected) throw new Error(`pixel ${pixel}, row ${row}, layer ${layer}: the winding is ${winding.toFixed(4)}`)
    if (expected) solid++
  }
  return solid
}

function numbers(seed: number): () => number {
  let a = seed
  return () => {
    a = (Math.imul(a, 1664525) + 1013904223) >>> 0
    return a / 4294967296
  }
}

describe('what is solid', () => {
  it.each<[string, Mesh]>([
    ['a ball', sphere([0, 0, 5], 4, 24)],
    ['an upright bowl', bowl(5, 1, 6, 1, 0, 32)],
    ['a knot', knot(90, 12, 7, 3, 1.2, [0, 0, 6])],
    ['a curtain', curtain([0, 2, 5, 9], [0, 1.03, 0.41, 3.07], [4.07, 6.03, 5.11, 7.01], -2.03, 2.01)],
    ['shells that overlap', joinMeshes([sphere([0, 0, 4], 3, 20), sphere([2, 1, 5], 3, 20), box([-1, -6, 1], [1, 6, 2.5])])],
    ['a hollow ball', joinMeshes([sphere([0, 0, 6], 5, 24), reversed(sphere([0, 0.3, 6], 3.4, 24))])],
    ['a shell inside another, both outward', joinMeshes([sphere([0, 0, 6], 5, 24), sphere([0, 0.3, 6], 2, 16)])],
    ['a bottle', lathe([[0, 0], [3, 0], [3, 5], [1, 7], [1, 9], [0.6, 9], [0.6, 6.8], [2.5, 4.8], [2.5, 0.5], [0, 0.5]], 28)],
  ])('of %s is where the winding is above zero, also tilted and turned', (_, mesh) => {
    const next = numbers(11)
    expect(compare(mesh, 1500, next)).toBeGreaterThan(60)
    const stand = motionOfPose(mesh.positions, { tiltXDeg: 31, tiltYDeg: -17, turnDeg: 73, liftMm: 1.3 }, raster.pixelMm)
    expect(compare(moveMesh(mesh, stand), 1500, next)).toBeGreaterThan(60)
  })

  it('of random tetrahedra, in whatever order their corners come, is where any of them is', () => {
    const corner = fc.tuple(fc.integer({ min: -40, max: 40 }), fc.integer({ min: -40, max: 40 }), fc.integer({ min: 0, max: 80 })).map(c => c.map(v => v / 10) as [number, number, number])
    let solid = 0
    fc.assert(fc.property(fc.array(fc.tuple(corner, corner, corner, corner), { minLength: 1, maxLength: 4 }), fc.integer({ min: 1, max: 1e9 }), (list, seed) => {
      const mesh = joinMeshes(list.map(corners => {
        const t: Mesh = { positions: Float32Array.from(corners.flat()), triangles: Uint32Array.from([0, 2, 1, 0, 1, 3, 1, 2, 3, 2, 0, 3]) }
        const [a, b, c, d] = corners
        const volume = (b[0] - a[0]) * ((c[1] - a[1]) * (d[2] - a[2]) - (c[2] - a[2]) * (d[1] - a[1])) - (b[1] - a[1]) * ((c[0] - a[0]) * (d[2] - a[2]) - (c[2] - a[2]) * (d[0] - a[0])) + (b[2] - a[2]) * ((c[0] - a[0]) * (d[1] - a[1]) - (c[1] - a[1]) * (d[0] - a[0]))
        return volume < 0 ? reversed(t) : t
      }))
      solid += compare(mesh, 150, numbers(seed))
    }), { numRuns: 120, seed: 8 })
    expect(solid).toBeGreaterThan(500)
  })
})

describe('bands of layers', () => {
  const banded = new BandedBody(bodyOf(joinMeshes([sphere([0, 0, 9], 8, 40), box([9, -2, 0], [11, 2, 20])]), raster))

  it('hold every layer once, and are made again where they were handed over', () => {
    expect(banded.bands).toBe(Math.ceil(banded.frame.layerCount / BAND_LAYERS))
    const kept = banded.spans(1)
    expect(banded.spans(1)).toBe(kept)
    expect(banded.release(1)).toBe(kept)
    const again = banded.spans(1)
    expect(again).not.toBe(kept)
    expect(again).toEqual(kept)
  })
  it('give graphs whose areas are those of their spans', () => {
    for (let b = 0; b < banded.bands; b++) {
      const { layerPixels, layers, unclosedRows } = banded.chunk(b), { starts, pairs } = banded.spans(b)
      for (let l = 0; l < layers; l++) {
        let pixels = 0
        for (let s = starts[l * banded.frame.rows]; s < starts[(l + 1) * banded.frame.rows]; s++) pixels += pairs[2 * s + 1] - pairs[2 * s]
        expect(layerPixels[l]).toBe(pixels)
        expect(unclosedRows[l]).toBe(0)
      }
    }
  })
})
