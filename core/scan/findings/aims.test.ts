import type { Island } from '../../contract'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Mesh, Vec3 } from '../../mesh'
import { motionOfPose, moveMesh } from '../../pose'
import { Surface } from '../../stilts'
import { box, joinMeshes, lathe, sphere } from '../../testing/shapes'
import { ModelScan } from '../index'

const raster = { pixelMm: 0.05, layerMm: 0.05 }
const islandsOf = (mesh: Mesh): Island[] => new ModelScan(mesh, raster).runTo('graph').islands

describe('the point to aim a tip at', () => {
  it('is the lowest point of a ball, to the pixel', () => {
    fc.assert(fc.property(fc.integer({ min: -40, max: 40 }), fc.integer({ min: 30, max: 70 }), fc.integer({ min: 8, max: 30 }), (x, z, r) => {
      const center: Vec3 = [x / 8, -x / 5, z / 7], radius = r / 10
      const [{ aim }] = islandsOf(sphere([center[0], center[1], center[2] + radius], radius, 64))
      // the region of the first layer is this wide at most
      const wide = Math.sqrt(2 * radius * 0.05) + 0.05
      expect(Math.hypot(aim[0] - center[0], aim[1] - center[1])).toBeLessThan(wide)
      expect(aim[2]).toBeGreaterThan(center[2] - 0.06)
      expect(aim[2]).toBeLessThan(center[2] + 0.08)
    }), { numRuns: 20, seed: 12 })
  })

  it('lies on the skin, right under a pixel of the first layer, however the part is tilted', () => {
    const part = joinMeshes([lathe([[0, 0], [2, 0.5], [3, 4], [1, 7], [0, 7]], 40), box([2, -0.4, 3], [7, 0.4, 4]), box([-6, -1, 1], [-1, 1, 2.2])])
    for (const [tiltXDeg, tiltYDeg] of [[0, 0], [24, -13], [61, 35], [110, 7]]) {
      const posed = moveMesh(part, motionOfPose(part.positions, { tiltXDeg, tiltYDeg, turnDeg: 33, liftMm: 4 }, 0.05))
      const surface = new Surface(posed)
      const islands = islandsOf(posed).filter(i => i.class !== 'flake')
      expect(islands.length).toBeGreaterThan(0)
      for (const { aim, layer } of islands) {
        // a ray from a little below meets the skin there
        const hit = surface.cast([aim[0], aim[1], aim[2] - 0.5], [0, 0, 1], 2)
        expect(hit, JSON.stringify(aim)).not.toBeNull()
        expect(Math.abs((hit?.point[2] ?? 99) - aim[2])).toBeLessThan(0.06)
        expect(aim[2]).toBeLessThanOrEqual((layer + 0.5) * 0.05 + 0.001)
      }
    }
  })

  it('lies inside a ring, not in its hole, and in the broad end of a wedge', () => {
    const [ring] = islandsOf(lathe([[2, 3], [3, 3], [3, 5], [2, 5], [2, 3]], 64))
    const r = Math.hypot(ring.aim[0], ring.aim[1])
    expect(r).toBeGreaterThan(2.2)
    expect(r).toBeLessThan(2.8)
    // its centre lies in the hole
    expect(Math.hypot(ring.center[0], ring.center[1])).toBeLessThan(0.1)
    const wedge: Mesh = { positions: Float32Array.from([0, -2, 3, 0, 2, 3, 9, 0, 3, 0, -2, 5, 0, 2, 5, 9, 0, 5]), triangles: Uint32Array.from([0, 1, 2, 3, 5, 4, 0, 2, 5, 0, 5, 3, 2, 1, 4, 2, 4, 5, 1, 0, 3, 1, 3, 4]) }
    const [{ aim }] = islandsOf(wedge)
    expect(aim[0]).toBeLessThan(4)
    expect(Math.abs(aim[1])).toBeLessThan(0.4)
    expect(aim[2]).toBeCloseTo(3, 2)
  })

  it('is found in a broad plate and in a thin ring as well, which are looked at in larger steps', () => {
    const [plate] = islandsOf(box([-30, -20, 4], [30, 20, 5]))
    expect(Math.hypot(plate.aim[0], plate.aim[1])).toBeLessThan(11)
    expect(Math.abs(plate.aim[1])).toBeLessThan(0.6)
    const [ring] = islandsOf(lathe([[39.9, 3], [40, 3], [40, 4], [39.9, 4], [39.9, 3]], 256))
    expect(Math.abs(Math.hypot(ring.aim[0], ring.aim[1]) - 39.95)).toBeLessThan(0.1)
  })

  it('is one for each of many islands of one layer', () => {
    const islands = islandsOf(joinMeshes(Array.from({ length: 25 }, (_, i) => box([3 * (i % 5), 3 * Math.floor(i / 5), 4], [3 * (i % 5) + 1, 3 * Math.floor(i / 5) + 1, 5]))))
    expect(islands).toHaveLength(25)
    const cells = new Set(islands.map(i => `${Math.floor(i.aim[0] / 3)} ${Math.floor(i.aim[1] / 3)}`))
    expect(cells.size).toBe(25)
    for (const { aim } of islands) expect([aim[0] % 3 < 1, aim[1] % 3 < 1, Math.abs(aim[2] - 4) < 0.01]).toEqual([true, true, true])
  })
})
