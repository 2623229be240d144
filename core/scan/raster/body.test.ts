import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { MeshError, type Mesh } from '../../mesh'
import { joinMeshes, knot, moved, sphere } from '../../testing/shapes'
import { allTriangles, BandIndex, bodyOf, type Body } from './body'

const raster = { pixelMm: 0.1, layerMm: 0.1 }

/** The bands whose samples a triangle crosses, told by its corners alone. */
function bandsOf(body: Body, triangle: number, bandLayers: number, layerCount: number): number[] {
  const heights = [0, 1, 2].map(i => body.coords[3 * body.triangles[3 * triangle + i] + 2] + body.origin[2])
  const bands = new Set<number>()
  for (let k = Math.max(0, Math.ceil(Math.min(...heights))); k <= Math.min(layerCount - 1, Math.floor(Math.max(...heights))); k++) bands.add(Math.floor(k / bandLayers))
  return [...bands]
}

describe('triangles by bands', () => {
  it('lists every triangle in the bands whose samples it crosses, and in no other, in whatever order bands are asked for', () => {
    const mesh = joinMeshes([sphere([0, 0, 6], 5, 20), knot(60, 8, 6, 3, 1, [3, 2, 9]), moved(sphere([0, 0, 0], 2, 12), [8, 0, 1])])
    const body = bodyOf(mesh, raster)
    const layerCount = body.origin[2] + body.layers
    fc.assert(fc.property(fc.integer({ min: 1, max: 40 }), fc.integer({ min: 1, max: 1e9 }), (bandLayers, seed) => {
      const index = new BandIndex(body, bandLayers, layerCount)
      expect(index.bands).toBe(Math.ceil(layerCount / bandLayers))
      const expected = new Map<number, number[]>()
      for (let t = 0; t < body.triangles.length / 3; t++) for (const b of bandsOf(body, t, bandLayers, layerCount)) expected.set(b, [...(expected.get(b) ?? []), 3 * t])
      for (let i = 0; i < index.bands; i++) {
        const band = (i * 7 + seed) % index.bands
        expect([...index.listOf(band)]).toEqual(expected.get(band) ?? [])
      }
    }), { numRuns: 12, seed: 6 })
  })
  it('leaves out what lies below the plate or between two samples', () => {
    const flat: Mesh = { positions: Float32Array.from([0, 0, 1.01, 3, 0, 1.02, 0, 3, 1.03, 0, 0, -2, 3, 0, -1, 0, 3, -1]), triangles: Uint32Array.from([0, 1, 2, 3, 4, 5]) }
    const body = bodyOf(flat, raster)
    expect(new BandIndex(body, 32, 20).listOf(0)).toHaveLength(0)
    expect([...allTriangles(body)]).toEqual([0, 3])
  })
  it('has one empty band for a body without triangles', () => {
    const none = bodyOf({ positions: new Float32Array(0), triangles: new Uint32Array(0) }, raster)
    expect([none.rows, none.layers, new BandIndex(none, 32, 0).bands, new BandIndex(none, 32, 0).listOf(0).length]).toEqual([0, 0, 1, 0])
  })
})

describe('a mesh on the raster', () => {
  it('has no corner on a sample, and the same corners wherever it is moved by whole pixels and layers', () => {
    const shift = fc.tuple(fc.integer({ min: -300, max: 300 }), fc.integer({ min: -300, max: 300 }), fc.integer({ min: 0, max: 300 }))
    // sixteenths of a pixel are exact, so that moving them is exact as well
    const mesh = sphere([0, 0, 8], 5, 24)
    const exact = { ...mesh, positions: mesh.positions.map(v => Math.round(v * 16) / 16) }
    const own = { pixelMm: 0.25, layerMm: 0.125 }
    const here = bodyOf(exact, own)
    for (const c of here.coords) expect(Math.abs(c - Math.round(c))).toBeGreaterThan(1e-5)
    fc.assert(fc.property(shift, ([x, y, z]) => {
      const there = bodyOf(moved(exact, [x * 0.25, y * 0.25, z * 0.125]), own)
      expect(there.coords).toEqual(here.coords)
      expect(there.origin).toEqual([here.origin[0] + x, here.origin[1] + y, here.origin[2] + z])
    }), { numRuns: 40, seed: 7 })
  })
  it('is refused with a sentence where its size can only be a mistake of units', () => {
    const huge = moved(sphere([0, 0, 0], 900, 8), [0, 0, 2000])
    expect(() => bodyOf(huge, { pixelMm: 0.05, layerMm: 0.05 })).toThrow(MeshError)
    expect(() => bodyOf(huge, { pixelMm: 0.05, layerMm: 0.05 })).toThrow(/Was it made in another unit/)
  })
})
