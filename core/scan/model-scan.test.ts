import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { joinMeshes, prepareMesh, type Mesh, type Vec3 } from '../mesh'
import { motionOfPose } from '../pose'
import { bowl, box, knot, lathe, moved, reversed, sphere } from '../testing/shapes'
import { ModelScan, type ScanResult } from './index'

const raster = { pixelMm: 0.05, layerMm: 0.05 }

function scan(mesh: Mesh, stilts: Mesh | null = null, r = raster): ScanResult {
  const s = new ModelScan(prepareMesh(mesh).mesh, r)
  s.setStilts(stilts)
  return s.runToEnd()
}

/** What a person would compare: everything but the running numbers. */
function facts(r: ScanResult): unknown {
  return {
    islands: r.islands.map(i => [i.layer, i.areaMm2, i.joinsLayer, i.volumeMm3, i.class, i.state]).sort(),
    cups: r.cups.map(c => [c.firstLayer, c.lastLayer, c.peakAreaMm2, c.volumeMm3, c.ends]).sort(),
    area: Array.from(r.areaMm2).filter(a => a > 0),
  }
}

/** Closed form: a circle's pixel count may be off by its perimeter. */
function expectArea(areaMm2: number, exact: number, perimeterMm: number): void {
  expect(Math.abs(areaMm2 - exact)).toBeLessThanOrEqual(perimeterMm * raster.pixelMm)
}

describe('islands of known scenes', () => {
  it('finds every hung ball at its layer, with its area and volume (closed forms of the sphere)', () => {
    // a little inside a layer, so that the bottom slice is a disc of known size
    const balls: [Vec3, number][] = [[[0, 0, 5], 2], [[8, 0, 9.98], 3], [[-9, 4, 14.013], 1.5], [[0, 11, 3.021], 1]]
    const r = scan(joinMeshes(balls.map(([c, radius]) => sphere(c, radius, 160))))
    expect(r.unclosedRows).toBe(0)
    expect(r.islands).toHaveLength(balls.length)
    for (const [center, radius] of balls) {
      const bottom = center[2] - radius
      const layer = Math.ceil(bottom / 0.05 - 0.5 + 1e-9)
      const island = r.islands.find(i => Math.abs(i.center[0] - center[0]) < 0.2 && Math.abs(i.center[1] - center[1]) < 0.2)
      expect(island).toBeDefined()
      if (!island) continue
      // the very first slice may be thinner than a pixel
      expect(island.layer - layer).toBeGreaterThanOrEqual(0)
      expect(island.layer - layer).toBeLessThanOrEqual(1)
      const depth = island.zMm - bottom
      const discRadius = Math.sqrt(2 * radius * depth - depth * depth)
      expectArea(island.areaMm2, Math.PI * discRadius ** 2, 2 * Math.PI * discRadius + 0.1)
      expect(island.volumeMm3 / ((4 / 3) * Math.PI * radius ** 3)).toBeCloseTo(1, 2)
      expect(island.joinsLayer).toBeNull()
    }
    expect(r.islands.map(i => i.class)).toEqual(['body', 'limb', 'limb', 'detail'])
    for (let k = 0; k < r.layerCount; k++) {
      const z = (k + 0.5) * 0.05
      let exact = 0, perimeter = 0
      for (const [c, radius] of balls) {
        const d2 = radius ** 2 - (z - c[2]) ** 2
        if (d2 > 0) {
          exact += Math.PI * d2
          perimeter += 2 * Math.PI * Math.sqrt(d2)
        }
      }
      expectArea(r.areaMm2[k], exact, perimeter + 0.2)
    }
  })

  it('lets two legs join at the table top and weighs the one that ends there', () => {
    const table = joinMeshes([box([-5, -1, 5], [-4, 0, 9.5]), box([4, -1, 6], [5, 0, 9.5]), box([-6, -2, 9], [6, 2, 10])])
    const r = scan(table)
    expect(r.islands).toHaveLength(2)
    const [body, leg] = r.islands
    expect([body.class, body.layer, body.joinsLayer]).toEqual(['body', 100, null])
    expect([leg.class, leg.layer, leg.joinsLayer]).toEqual(['detail', 120, 180])
    expect(leg.areaMm2).toBeCloseTo(1, 10)
    expect(leg.volumeMm3).toBeCloseTo(3, 10)
  })

  it('takes what stands on the plate as grounded and the rest as islands', () => {
    const r = scan(joinMeshes([box([0, 0, 0], [2, 2, 4]), box([5, 0, 2], [6, 1, 4])]))
    expect(r.islands.map(i => [i.layer, i.class])).toEqual([[40, 'detail']])
  })

  it('notes flakes that join at once and leaves debris open', () => {
    const post = box([-2, -2, 0], [2, 2, 6])
    const flake = box([1.9, -0.05, 5], [2.1, 0.05, 5.4]) // joined from its first layer on
    const tooth = joinMeshes([box([2.2, 0, 3], [2.3, 0.1, 3.2]), box([1.5, 0, 3.1], [2.3, 0.1, 3.4])])
    const debris = box([9, 9, 9], [9.1, 9.1, 9.1])
    const r = scan(joinMeshes([post, flake, tooth, debris]))
    expect(r.islands.map(i => [i.class, i.state, i.joinsLayer])).toEqual([['flake', 'noted', 62], ['flake', 'open', null]])
  })
})

describe('suction of known scenes', () => {
  const bowlVolume = Math.PI * 4 ** 2 * 8
  it('sees an upright bowl as one cup to the end, with its volume and peak area', () => {
    const r = scan(bowl(5, 1, 10, 2, 5, 256))
    expect(r.cups).toHaveLength(1)
    const [cup] = r.cups
    expect([cup.firstLayer, cup.lastLayer, cup.ends]).toEqual([140, 299, 'open'])
    expect(cup.volumeMm3 / bowlVolume).toBeCloseTo(1, 2)
    expectArea(cup.peakAreaMm2, Math.PI * 16, 8 * Math.PI)
  })

  it('sees nothing in a bowl hung upside down, and a closed cup where its rim is on the plate', () => {
    // the profile starts and ends on the axis: from the ceiling of the hollow down, around the rim and up to the top
    const shell = (z: number): Mesh => lathe([[0, 8], [4, 8], [4, 0], [5, 0], [5, 10], [0, 10]], 128, [0, 0, z])
    expect(scan(shell(5)).cups).toEqual([])
    const onPlate = scan(shell(0)).cups
    expect(onPlate.map(c => [c.firstLayer, c.lastLayer, c.ends])).toEqual([[0, 159, 'closed']])
  })

  it('ends a drilled bowl by a vent where the hole is, and has none where it is at the floor', () => {
    const drilled = (holeZ: number): Mesh => {
      // walls of four boxes around a square hollow; one wall leaves a slot of 2 × 2 mm
      const z = 5
      return joinMeshes([
        box([-5, -5, z], [5, 5, z + 2]), box([-5, -5, z], [-4, 5, z + 10]), box([-5, 4, z], [5, 5, z + 10]), box([-5, -5, z], [5, -4, z + 10]),
        box([4, -5, z], [5, -1, z + 10]), box([4, 1, z], [5, 5, z + 10]), box([4, -1.5, z], [5, 1.5, z + holeZ]), box([4, -1.5, z + holeZ + 2], [5, 1.5, z + 10]),
      ])
    }
    expect(scan(drilled(2)).cups).toEqual([])
    const high = scan(drilled(5)).cups
    expect(high.map(c => [c.firstLayer, c.lastLayer, c.ends])).toEqual([[140, 199, 'vent']])
    expect(high[0].volumeMm3).toBeCloseTo(8 * 8 * 3, 6)
    expect(high[0].peakAreaMm2).toBeCloseTo(64, 6)
  })

  it('sees the space of a hollow sphere as sealed', () => {
    const r = scan(joinMeshes([sphere([0, 0, 15], 8, 160), reversed(sphere([0, 0, 15], 6, 160))]))
    expect(r.cups.map(c => c.ends)).toEqual(['closed'])
    expect(r.cups[0].volumeMm3 / ((4 / 3) * Math.PI * 216)).toBeCloseTo(1, 2)
    expect(r.islands).toHaveLength(1)
  })

  it('keeps a cup with one triangle missing a cup', () => {
    const whole = bowl(5, 1, 10, 2, 5, 64)
    const holed = { positions: whole.positions, triangles: whole.triangles.filter((_, i) => Math.floor(i / 3) !== 200) }
    const a = scan(whole), b = scan(holed)
    expect(prepareMesh(holed).report.unclosedEdges).toBe(3)
    expect(b.unclosedRows).toBe(0)
    expect(facts(b)).toEqual(facts(a))
  })
})

describe('shells', () => {
  const volume = (r: ScanResult): number => r.areaMm2.reduce((a, b) => a + b, 0) * 0.05
  it('needs no boolean for overlapping shells', () => {
    const r = scan(joinMeshes([box([0, 0, 5], [10, 10, 10]), box([5, 5, 5], [15, 15, 10])]))
    expect(volume(r)).toBeCloseTo((200 - 25) * 5, 6)
    expect(r.islands).toHaveLength(1)
  })
  it('turns an inverted shell outward and keeps a stilt that stands in it', () => {
    const inverted = reversed(box([0, 0, 5], [10, 10, 10]))
    const stilt = box([4, 4, 0], [5, 5, 6])
    expect(volume(scan(joinMeshes([inverted, stilt])))).toBeCloseTo(500 + 5, 6)
    const r = scan(inverted, stilt)
    expect(volume(r)).toBeCloseTo(505, 6)
    expect(r.islands.map(i => i.state)).toEqual(['partly'])
  })
  it('counts a shell once that was written twice, in either direction', () => {
    const b = box([0, 0, 5], [10, 10, 10])
    for (const second of [b, reversed(b)]) {
      const r = scan(joinMeshes([b, second]))
      expect(volume(r)).toBeCloseTo(500, 6)
    }
    expect(prepareMesh(joinMeshes([b, b])).report.duplicateTriangles).toBe(12)
  })
  it('leaves a sheet out and says so', () => {
    const b = box([0, 0, 5], [10, 10, 10])
    const open: Mesh = { positions: Float32Array.from([20, 0, 5, 30, 0, 5, 30, 10, 5]), triangles: Uint32Array.from([0, 1, 2]) }
    const prepared = prepareMesh(joinMeshes([b, open]))
    expect([prepared.report.sheets, prepared.report.unclosedEdges]).toEqual([1, 3])
    expect(prepared.mesh.triangles.length).toBe(36)
  })
})

describe('stilts in the scan', () => {
  const block = box([0, 0, 5], [4, 4, 8])
  it('holds only what a grounded stilt touches in the first layer', () => {
    expect(scan(block, box([1.5, 1.5, 0], [2.5, 2.5, 5.2])).islands[0].state).toBe('held')
    // so far to one side that the other corner hangs
    expect(scan(block, box([1, 1, 0], [2, 2, 5.2])).islands[0].state).toBe('partly')
    // one layer short
    expect(scan(block, box([1, 1, 0], [2, 2, 4.95])).islands[0].state).toBe('open')
    // beside it
    expect(scan(block, box([4.05, 1, 0], [5, 2, 6])).islands[0].state).toBe('open')
    // comes from the side two layers too late
    const late = joinMeshes([box([6, 0, 0], [7, 1, 6]), box([3, 0, 5.1], [7, 1, 6])])
    expect(scan(block, late).islands[0].state).toBe('open')
  })
  it('reports a stilt that ends in the air', () => {
    const r = scan(block, box([1, 1, 1], [2, 2, 5.2]))
    expect(r.islands[0].state).toBe('open')
    expect(r.floating.map(f => f.layer)).toEqual([20])
  })
})

describe('what must change nothing', () => {
  const scene = joinMeshes([sphere([0, 0, 8], 3, 40), sphere([3, 1, 12], 2.5, 40), bowl(4, 0.8, 5, 1, 13, 40), knot(60, 12, 3, 1.5, 0.6, [9, 0, 7])])
  const rounded: Mesh = { positions: scene.positions.map(v => Math.round(v * 128) / 128), triangles: scene.triangles }
  const dyadic = { pixelMm: 0.0625, layerMm: 0.0625 }
  const base = facts(scan(rounded, null, dyadic))

  it('the order of the triangles', () => {
    fc.assert(fc.property(fc.integer({ min: 1, max: 1e6 }), seed => {
      const order = Array.from({ length: rounded.triangles.length / 3 }, (_, i) => i)
      let s = seed
      for (let i = order.length - 1; i > 0; i--) {
        s = (Math.imul(s, 1664525) + 1013904223) >>> 0
        const j = s % (i + 1)
        const t = order[i]
        order[i] = order[j]
        order[j] = t
      }
      const triangles = Uint32Array.from(order.flatMap(t => [0, 1, 2].map(c => rounded.triangles[3 * t + ((c + t) % 3)])))
      expect(facts(scan({ positions: rounded.positions, triangles }, null, dyadic))).toEqual(base)
    }), { numRuns: 6 })
  })

  it('a shift by whole pixels', () => {
    fc.assert(fc.property(fc.integer({ min: -200, max: 200 }), fc.integer({ min: -200, max: 200 }), (x, y) => {
      expect(facts(scan(moved(rounded, [x / 16, y / 16, 0]), null, dyadic))).toEqual(base)
    }), { numRuns: 8 })
  })

  it('a shift by whole layers, but for the layer numbers', () => {
    const up = scan(moved(rounded, [0, 0, 2]), null, dyadic)
    const before = scan(rounded, null, dyadic)
    expect(up.islands.map(i => [i.layer - 32, i.areaMm2])).toEqual(before.islands.map(i => [i.layer, i.areaMm2]))
    expect(up.cups.map(c => [c.firstLayer - 32, c.volumeMm3])).toEqual(before.cups.map(c => [c.firstLayer, c.volumeMm3]))
  })

  it('no count by a quarter turn', () => {
    const results = [0, 90, 180, 270].map(turnDeg => {
      const mesh = prepareMesh(scene).mesh
      return new ModelScan(mesh, raster, motionOfPose(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, turnDeg, liftMm: 5 }, 0.05)).runToEnd()
    })
    for (const r of results) {
      expect(r.islands.length).toBe(results[0].islands.length)
      expect(r.cups.length).toBe(results[0].cups.length)
      r.areaMm2.forEach((a, k) => expect(Math.abs(a - results[0].areaMm2[k])).toBeLessThanOrEqual(40 * 0.0025))
    }
  })
})
