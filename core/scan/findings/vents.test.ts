import type { Cup } from '../../contract'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { joinMeshes, type Mesh } from '../../mesh'
import { bowl, box, lathe, reversed, sphere } from '../../testing/shapes'
import { ModelScan } from '../index'

const raster = { pixelMm: 0.1, layerMm: 0.1 }
const cupsOf = (mesh: Mesh): Cup[] => new ModelScan(mesh, raster).runToEnd().cups
/** A tall tube with a floor, in a block of its own: the wall is thinner to one side. */
function well(toSide: number, angle: number, floor: number): Mesh {
  const outer = 6, inner = 3, off = outer - inner - toSide
  const at: [number, number, number] = [Math.cos(angle) * off, Math.sin(angle) * off, 3]
  const mast = box([-0.5, 9, 0], [0.5, 10, 20])
  return joinMeshes([lathe([[0, 3], [outer, 3], [outer, 15], [0, 15]], 96), reversed(lathe([[0, floor], [inner, floor], [inner, 12.02], [0, 12.02]], 96, at)), mast])
}

describe('where a cup is to be vented', () => {
  it('is through the thinnest wall, in its direction and with its thickness (closed form: circles in a circle)', () => {
    fc.assert(fc.property(fc.integer({ min: 5, max: 16 }).map(n => n / 10), fc.integer({ min: 0, max: 31 }), (wall, step) => {
      const angle = (2 * Math.PI * step) / 32
      const [cup, ...more] = cupsOf(well(wall, angle, 4))
      expect(more).toEqual([])
      const vent = cup.vent
      if (!vent) throw new Error('No vent was proposed.')
      expect(Math.abs(vent.wallMm - wall)).toBeLessThan(0.21)
      expect(vent.direction[2]).toBe(0)
      expect(Math.hypot(...vent.direction)).toBeCloseTo(1, 9)
      // a wall that is hardly thicker beside the thinnest place may be as good
      expect(vent.direction[0] * Math.cos(angle) + vent.direction[1] * Math.sin(angle)).toBeGreaterThan(0.85)
      // its inner end lies on the wall of the space, near its floor
      expect(Math.hypot(vent.at[0] - Math.cos(angle) * (3 - wall), vent.at[1] - Math.sin(angle) * (3 - wall))).toBeCloseTo(3, 0)
      expect(vent.at[2] - 7).toBeLessThan(1.2)
    }), { numRuns: 16, seed: 9 })
  })

  it('is through the floor where that is thinner', () => {
    const [cup] = cupsOf(well(1.6, 0, 0.8))
    expect(cup.vent?.direction).toEqual([0, 0, -1])
    expect(cup.vent?.wallMm).toBeCloseTo(0.8, 1)
  })

  it('lies inside the space, and what is drilled there opens it', () => {
    const [cup] = cupsOf(well(0.8, Math.PI / 2, 4))
    const vent = cup.vent
    if (!vent) throw new Error('No vent was proposed.')
    const [x, y, z] = vent.at
    // a duct of 1.2 mm from the space to the outside, as a space cut out of the walls
    const duct = reversed(box([x - 0.6, y - 0.3, z - 0.6], [x + 0.6, y + vent.wallMm + 0.6, z + 0.6]))
    const drilled = cupsOf(joinMeshes([well(0.8, Math.PI / 2, 4), duct]))
    // what is left, if anything, is the space below the hole
    for (const left of drilled) expect(left.lastLayer).toBeLessThanOrEqual(Math.ceil((z + 0.6) / raster.layerMm))
  })

  it('of a closed space in a double wall is its own, not that of the cup within', () => {
    const double = joinMeshes([bowl(10, 4, 16, 4, 0, 96), reversed(bowl(8.8, 1.6, 13.2, 1.6, 1.2, 96))]), cups = cupsOf(double)
    const sealed = cups.find(c => c.ends === 'closed'), open = cups.find(c => c.ends !== 'closed')
    expect([sealed?.vent?.wallMm, open?.vent]).toEqual([expect.closeTo(1.2, 0), null])
  })

  it('is none for a space that nothing but thick walls enclose', () => {
    const [cup] = cupsOf(joinMeshes([box([-16, -16, 0], [16, 16, 30]), reversed(box([-2, -2, 13.5], [2, 2, 16]))]))
    expect(cup.ends).toBe('closed')
    expect(cup.vent).toBeNull()
  })
})

describe('the place that a cup is known by', () => {
  it('lies inside it: near the middle of a ball, and in a ring between its walls', () => {
    const [sealed] = cupsOf(joinMeshes([sphere([0, 0, 9], 8, 64), reversed(sphere([1, 0.5, 9], 6, 64))]))
    expect(sealed.ends).toBe('closed')
    expect(Math.hypot(sealed.at[0] - 1, sealed.at[1] - 0.5)).toBeLessThan(1)
    const ring = joinMeshes([bowl(8, 1, 6, 1, 0, 64), lathe([[0, 0.5], [4, 0.5], [4, 6], [0, 6]], 64), box([-0.5, 12, 0], [0.5, 13, 9])])
    const [cup] = cupsOf(ring)
    const r = Math.hypot(cup.at[0], cup.at[1])
    expect(r).toBeGreaterThan(4)
    expect(r).toBeLessThan(7)
  })

  it('is where the skin costs a hole least, and nowhere where it may not be', () => {
    const vented = (cost: (at: readonly [number, number, number]) => number): Cup['vent'] => {
      const scan = new ModelScan(well(0.8, 0, 4), raster)
      scan.setHoleCost(cost)
      return scan.runToEnd().cups[0].vent
    }
    // the thinnest wall is to the right
    expect(vented(() => 1)?.direction[0]).toBeGreaterThan(0.85)
    // what is to the right is dear, what is to the left is cheap; there the wall is 5.2 mm
    const left = vented(([x]) => (x > 0 ? 5 : 0.5))
    expect(left?.direction[0]).toBeLessThan(0.3)
    const out = left ? left.at[0] + left.direction[0] * left.wallMm : NaN
    expect(out).toBeLessThan(0.2)
    // off limits all around: through the floor, 4 mm of it
    expect(vented(([, , z]) => (z > 3.2 ? Infinity : 1))?.direction).toEqual([0, 0, -1])
    expect(vented(() => Infinity)).toBeNull()
    // all alike is as without a price
    expect(vented(() => 1)).toEqual(cupsOf(well(0.8, 0, 4))[0].vent && expect.objectContaining({ wallMm: cupsOf(well(0.8, 0, 4))[0].vent?.wallMm }))
  })
})
