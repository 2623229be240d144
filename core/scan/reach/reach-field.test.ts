import type { Ledge } from '../../contract'
import { describe, expect, it } from 'vitest'
import { radians, volumeOf, type Mesh } from '../../mesh'
import { motionOfPose } from '../../pose'
import { box, curtain, joinMeshes, lathe, sphere } from '../../testing/shapes'
import { ModelScan, type ScanResult } from '../index'

const raster = { pixelMm: 0.05, layerMm: 0.05 }
const scan = (mesh: Mesh, ...stilts: Mesh[]): ScanResult => {
  const s = new ModelScan(mesh, raster)
  s.setStilts(stilts)
  return s.runToEnd()
}
const open = (r: ScanResult): Ledge[] => r.ledges.filter(l => l.state === 'open')

/** A slab that leaves a block at a slope, 8 mm out. */
function slab(degrees: number): Mesh {
  const rise = 8 * Math.tan(radians(degrees))
  return joinMeshes([box([-4, 0, 0], [0.02, 6, 12]), curtain([0, 8], [4, 4 + rise], [6, 6 + rise], 0, 6)])
}
function arch(radius: number): Mesh {
  const xs = Array.from({ length: 161 }, (_, i) => -radius + (2 * radius * i) / 160)
  const mesh = curtain([-radius - 2, ...xs, radius + 2], [0, ...xs.map(x => 0.5 + Math.sqrt(Math.max(0, radius * radius - x * x))), 0], [radius + 3, ...xs.map(() => radius + 3), radius + 3], 0, 5)
  return joinMeshes([mesh, box([-radius - 2, 0, 0], [-radius, 5, 1]), box([radius, 0, 0], [radius + 2, 5, 1])])
}

describe('the reach of ledges', () => {
  it('has shapes to be trusted', () => {
    expect(volumeOf(curtain([0, 2], [0, 0], [3, 3], 0, 4))).toBeCloseTo(24, 5)
  })
  // closed form: a slope that rises at angle a runs out faster than it heals at 45°, so 8 mm out it reaches 8 · (1 − tan a)
  it.each([[20, 5.09], [30, 3.38], [40, 1.29]])('of a slab at %i°', (degrees, reach) => {
    const [ledge, ...more] = open(scan(slab(degrees)))
    expect(more).toEqual([])
    expect(ledge.kind).toBe('ledge')
    expect(ledge.reachMm).toBeCloseTo(reach, 0)
    expect(Math.abs(ledge.reachMm - reach)).toBeLessThan(0.11)
    expect(ledge.at[0]).toBeGreaterThan(7.7)
  })
  it('of a slab at 45° and more is none', () => {
    expect(scan(slab(45)).ledges).toEqual([])
    expect(scan(slab(60)).ledges).toEqual([])
  })
  it('of a shelf that juts out flat', () => {
    const [ledge, ...more] = open(scan(joinMeshes([box([0, 0, 0], [3, 6, 12]), box([2, 0, 5], [8, 6, 7])])))
    expect(more).toEqual([])
    expect(ledge.reachMm).toBeCloseTo(5, 1)
    expect([ledge.firstLayer, ledge.lastLayer, ledge.spanMm]).toEqual([100, 100, null])
    // all but the first millimetre hangs
    expect(ledge.areaMm2).toBeCloseTo(4 * 6, 0)
  })
  it('of a table on one leg, to its corners', () => {
    const [ledge, ...more] = open(scan(joinMeshes([box([-1, -1, 0], [1, 1, 5.02]), box([-5, -5, 5], [5, 5, 7])])))
    expect(more).toEqual([])
    expect(ledge.reachMm).toBeCloseTo(4 * Math.SQRT2, 1)
    expect(ledge.kind).toBe('ledge')
  })
  it('is one for a lid on pillars and the bracket at its side, though the way to them gets shorter while they grow', () => {
    const post = (i: number): Mesh => lathe([[0, 0], [0.5, 0], [0.5, 4], [0, 4]], 24, [7.3 * Math.cos(((i + 0.25) * Math.PI) / 3), 7.3 * Math.sin(((i + 0.25) * Math.PI) / 3), 5.5])
    const mesh = joinMeshes([lathe([[0, 0], [8, 0], [8, 6], [0, 6]], 96), lathe([[0, 9], [8, 9], [3, 11], [0, 11]], 96), ...[0, 1, 2, 3, 4, 5].map(post), box([7, -1.5, 9.2], [13, 1.5, 10])])
    const result = new ModelScan(mesh, raster, motionOfPose(mesh.positions, { tiltXDeg: 15, tiltYDeg: 0, turnDeg: 0, liftMm: 0 }, raster.pixelMm)).runToEnd()
    // the base that stands on its edge is the other
    expect(open(result).map(l => l.firstLayer > 150)).toEqual([false, true])
    expect(open(result)[1].areaMm2).toBeCloseTo(177, 0)
  })
  it('of what lies on the plate is none, also where a foot comes up against it', () => {
    const block = box([-4, -4, 0], [4, 4, 3])
    expect(scan(block, box([4, -1, 0], [5, 1, 2])).ledges).toEqual([])
    expect(scan(block, box([-6, -6, 0], [-3.5, -3.5, 0.8])).ledges).toEqual([])
  })
  it('goes around a corner, not through the air', () => {
    // an L lies flat and hangs on its one end: the way bends at the inner corner
    const r = scan(joinMeshes([box([0, 0, 0], [1, 1, 5.02]), box([0, 0, 5], [6, 1, 6]), box([5, 0, 5], [6, 8, 6])]))
    const [ledge, ...more] = open(r)
    expect(more).toEqual([])
    // straight to the inner corner (5, 1), then up to the far corner (5 to 6, 8)
    expect(ledge.reachMm).toBeCloseTo(4 + Math.hypot(1, 7), 1)
  })
})

describe('what is held on opposite sides', () => {
  const bridge = (width: number): Mesh => joinMeshes([box([-2, 0, 0], [0, 5, 8]), box([width, 0, 0], [width + 2, 5, 8]), box([-1, 0, 6], [width + 1, 5, 8])])
  it('carries itself up to the span limit', () => {
    const [l, ...more] = scan(bridge(3.6)).ledges
    expect(more).toEqual([])
    expect([l.kind, l.state]).toEqual(['bridge', 'noted'])
    expect(l.spanMm).toBeCloseTo(3.6, 1)
    expect(l.reachMm).toBeCloseTo(1.8, 1)
  })
  it('carries itself to its ends, however long it is: a lid over a slot', () => {
    const slot = joinMeshes([box([-3, -6, 0], [-1.6, 6, 5]), box([1.6, -6, 0], [3, 6, 5]), box([-3, -6, 0], [3, -4.5, 5]), box([-3, 4.5, 0], [3, 6, 5]), box([-3, -6, 4], [3, 6, 5])])
    expect(scan(slot).ledges.map(l => [l.kind, l.state, l.hangingMm2])).toEqual([['bridge', 'noted', 0]])
  })
  it('hangs where the span is wider, 4 mm from either side of 8', () => {
    const [l, ...more] = open(scan(bridge(8)))
    expect(more).toEqual([])
    expect([l.kind, l.wide]).toEqual(['ledge', true])
    expect(l.spanMm).toBeCloseTo(8, 1)
    expect(l.reachMm).toBeCloseTo(4, 1)
  })
  it('is an arch, though it was two ledges until it closed', () => {
    const r = scan(arch(4))
    expect(open(r)).toEqual([])
    const [l] = r.ledges
    expect([l.kind, l.state]).toEqual(['bridge', 'noted'])
    // closed form: widest where it closes, R · (√2 − 1)
    expect(Math.abs(l.reachMm - 4 * (Math.SQRT2 - 1))).toBeLessThan(0.08)
  })
  it('is a ring that stands upright', () => {
    // the hole of a ring is a round arch of 3 mm radius
    const n = 96
    const xs = Array.from({ length: n + 1 }, (_, i) => -3 * Math.cos((Math.PI * i) / n))
    const upper = curtain(xs, xs.map(x => 4 + Math.sqrt(Math.max(0, 9 - x * x))), xs.map(() => 8.5), 0, 3)
    const lower = curtain(xs, xs.map(() => 0), xs.map(x => 4 - Math.sqrt(Math.max(0, 9 - x * x))), 0, 3)
    const r = scan(joinMeshes([upper, lower, box([-4.5, 0, 0], [-2.99, 3, 8.5]), box([2.99, 0, 0], [4.5, 3, 8.5])]))
    expect(open(r)).toEqual([])
  })
  it('does not excuse what juts out beside it: a table on two legs', () => {
    const r = scan(joinMeshes([box([0, 0, 0], [1, 4, 5.02]), box([4, 0, 0], [5, 4, 5.02]), box([-4, 0, 5], [9, 4, 6])]))
    const list = open(r)
    expect(list.map(l => l.kind)).toEqual(['ledge', 'ledge'])
    for (const l of list) expect(l.reachMm).toBeCloseTo(4, 1)
  })
})

describe('what a tip holds', () => {
  const plate = box([0, 0, 5], [6, 6, 6])
  const tip = (x: number, y: number): Mesh => box([x - 0.25, y - 0.25, 0], [x + 0.25, y + 0.25, 5.3])
  it('is 2 mm around itself, so one tip leaves a plate partly held', () => {
    const [island] = scan(plate, tip(3, 3)).islands
    expect(island.state).toBe('partly')
    // a square of 0.5 grown by 2: closed form
    const held = 0.25 + 4 * 0.5 * 2 + Math.PI * 4
    // pixels are measured from centre to centre, so half a pixel is lost all around
    expect(Math.abs(island.heldShare - held / 36)).toBeLessThan(0.015)
    expect(island.hangingMm2).toBeCloseTo(36 - held, 0)
  })
  it('is the whole plate with tips 2.8 mm apart', () => {
    const at = [0.6, 3, 5.4]
    const r = scan(plate, ...at.flatMap(x => at.map(y => tip(x, y))))
    expect([r.islands[0].state, r.islands[0].heldShare]).toEqual(['held', 1])
    expect(r.ledges).toEqual([])
  })
  it('is nothing while no tip reaches it', () => {
    const [island] = scan(plate, box([3, 3, 0], [3.5, 3.5, 4.9])).islands
    expect([island.state, island.heldShare]).toEqual(['open', 0])
  })
  it('does not make a hung ball more than one island', () => {
    const r = scan(sphere([0, 0, 12], 5, 64))
    expect([r.islands.length, r.ledges.length, r.cups.length]).toEqual([1, 0, 0])
  })
})
