import { describe, expect, it } from 'vitest'
import type { Mesh, Vec3 } from '../../mesh'
import { bowl, box, joinMeshes, lathe } from '../../testing/shapes'
import { DEFAULT_LOADS, ModelScan, type ScanResult } from '../index'

const raster = { pixelMm: 0.05, layerMm: 0.05 }
const scan = (mesh: Mesh, ...stilts: Mesh[]): ScanResult => {
  const s = new ModelScan(mesh, raster)
  s.setStilts(stilts)
  return s.runToEnd()
}

interface Room {
  wall?: number
  thin?: number
  floor?: number
  roof?: number
  /** A square hole of this width through the wall at −y, its lower edge at this height above the floor. */
  hole?: number
  holeUp?: number
}
/** A room of 8 × 8 × 6 mm inside, from blocks that overlap a little; its floor begins 5 mm up. */
function room({ wall = 1.5, thin = 1.5, floor = 1.5, roof = 1.5, hole = 0, holeUp = 2 }: Room): Mesh {
  const z0 = 5, z1 = z0 + floor, z2 = z1 + 6
  const parts: [Vec3, Vec3][] = [
    [[-4 - thin, -4 - wall, z0], [-4, 4 + wall, z2 + roof]],
    [[4, -4 - wall, z0], [4 + wall, 4 + wall, z2 + roof]],
    [[-4.02, 4, z0], [4.02, 4 + wall, z2 + roof]],
  ]
  if (floor > 0) parts.push([[-4.02, -4.02, z0], [4.02, 4.02, z1]])
  if (roof > 0) parts.push([[-4.02, -4.02, z2], [4.02, 4.02, z2 + roof]])
  if (hole > 0) {
    const a = z1 + holeUp, b = a + hole
    parts.push([[-4.02, -4 - wall, z0], [4.02, -4, a]], [[-4.02, -4 - wall, b], [4.02, -4, z2 + roof]], [[-4.02, -4 - wall, z0], [-hole / 2, -4, z2 + roof]], [[hole / 2, -4 - wall, z0], [4.02, -4, z2 + roof]])
  } else parts.push([[-4.02, -4 - wall, z0], [4.02, -4, z2 + roof]])
  return joinMeshes(parts.map(([a, b]) => box(a, b)))
}

describe('a room in the part', () => {
  it('that is shut all around is sealed, and no pool', () => {
    const r = scan(room({}))
    expect(r.cups.map(c => [c.ends, c.narrowVent, c.bySupports])).toEqual([['closed', false, false]])
    expect(r.cups[0].volumeMm3).toBeCloseTo(8 * 8 * 6, 1)
    expect(r.pools).toEqual([])
  })
  it('that is open above is a cup to the end and pulls with its area', () => {
    const [c, ...more] = scan(room({ roof: 0 })).cups
    expect(more).toEqual([])
    expect([c.ends, c.peakAreaMm2]).toEqual(['open', expect.closeTo(64, 6)])
    expect(c.pullN).toBeCloseTo(64 * DEFAULT_LOADS.cupVacuumNMm2, 6)
  })
  it('that is open below drains on the plate side and holds a pool as it hangs', () => {
    const r = scan(room({ floor: 0 }))
    expect(r.cups).toEqual([])
    expect(r.pools.length).toBe(1)
    expect(r.pools[0].volumeMm3).toBeCloseTo(8 * 8 * 6, 1)
    expect([r.pools[0].firstLayer, r.pools[0].lastLayer]).toEqual([100, 219])
  })
  it('on the plate itself is closed by the plate', () => {
    const r = scan(joinMeshes([box([-5, -5, 0], [-4, 5, 4]), box([4, -5, 0], [5, 5, 4]), box([-4.02, -5, 0], [4.02, -4, 4]), box([-4.02, 4, 0], [4.02, 5, 4])]))
    expect(r.cups.map(c => [c.firstLayer, c.ends])).toEqual([[0, 'open']])
  })
})

describe('a hole in the wall', () => {
  it.each([0.9, 1.2, 2])('of %f mm lets a cube of 0.7 mm pass, so the cup ends there', hole => {
    const r = scan(room({ hole }))
    expect(r.cups.map(c => [c.ends, c.narrowVent, c.firstLayer])).toEqual([['vent', false, 130]])
    // it pulls until the layer before the hole
    expect(r.cups[0].lastLayer).toBe(130 + 40 - 1)
  })
  it.each([0.3, 0.5])('of %f mm chokes: the cup goes on to the roof', hole => {
    const r = scan(room({ hole }))
    expect(r.cups.map(c => [c.narrowVent, c.firstLayer])).toEqual([[true, 130]])
    expect(r.cups[0].lastLayer).toBeGreaterThan(245)
    expect(r.cups[0].volumeMm3).toBeGreaterThan(0.9 * 8 * 8 * 6)
  })
  it('at the floor vents from the first layers on', () => {
    expect(scan(room({ hole: 1, holeUp: 0 })).cups).toEqual([])
    // the same, too narrow
    expect(scan(room({ hole: 0.4, holeUp: 0 })).cups.map(c => c.narrowVent)).toEqual([true])
  })
})

describe('the proposed vent', () => {
  it('goes through the thinnest wall, near the first layers', () => {
    const [c] = scan(room({ thin: 0.6 })).cups
    expect(c.vent?.wallMm).toBeCloseTo(0.6, 1)
    expect(c.vent?.direction[0]).toBeLessThan(-0.95)
    expect(c.vent?.at[0]).toBeCloseTo(-4, 0)
    expect((c.vent?.at[2] ?? 99) - 6.5).toBeLessThan(1.1)
  })
  it('goes down where the floor is as thin', () => {
    const [c] = scan(room({ floor: 0.8 })).cups
    expect(c.vent?.wallMm).toBeCloseTo(0.8, 6)
    expect(c.vent?.direction).toEqual([0, 0, -1])
  })
  it('vents indeed: with the hole drilled there the cup is gone', () => {
    // the thin wall is the one at −y here, so the hole of `room` is the one proposed
    const turned = scan(room({ wall: 0.6, thin: 2, floor: 2 }))
    const vent = turned.cups[0].vent
    expect(vent?.wallMm).toBeCloseTo(0.6, 1)
    expect(scan(room({ wall: 0.6, thin: 2, floor: 2, hole: 1, holeUp: 0 })).cups).toEqual([])
  })
  it('is none where every wall is too thick', () => {
    expect(scan(room({ wall: 14, thin: 14, floor: 13 })).cups[0].vent).toBeNull()
  })
})

describe('cups of supports', () => {
  it('are found and told apart from those of the part', () => {
    const slab = box([-5, -5, 5], [5, 5, 6])
    const wall = lathe([[3, 0], [3.6, 0], [3.6, 4.9], [3, 4.9], [3, 0]], 64)
    const r = scan(slab, wall)
    expect(r.cups.map(c => [c.bySupports, c.firstLayer])).toEqual([[true, 0]])
    expect(r.cups[0].peakAreaMm2).toBeCloseTo(Math.PI * 9, 0)
    expect(scan(joinMeshes([slab, bowl(3, 0.6, 4, 1, 7)]), box([-4.5, -4.5, 0], [-4, -4, 5.2])).cups.map(c => c.bySupports)).toEqual([false])
  })
})
