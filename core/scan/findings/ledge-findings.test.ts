import type { Ledge } from '../../contract'
import { describe, expect, it } from 'vitest'
import { joinMeshes, type Mesh } from '../../mesh'
import { box } from '../../testing/shapes'
import { DEFAULT_SETTINGS, ModelScan } from '../index'

const raster = { pixelMm: 0.05, layerMm: 0.05 }
/** A post on the plate with two shelves, 6 mm out to the right and 5 mm to the left. */
const shelves = joinMeshes([box([-3, -3, 0], [3, 3, 24]), box([3, -3, 9], [9, 3, 10.5]), box([-8, -3, 16], [-3, 3, 17.5])])
/** A square tip of half a millimetre that enters a shelf from below. */
const tip = (x: number, y: number, z: number): Mesh => box([x - 0.25, y - 0.25, 0], [x + 0.25, y + 0.25, z + 0.3])
const right = (list: readonly Ledge[]): Ledge => list.find(l => l.at[0] > 0) as Ledge
const left = (list: readonly Ledge[]): Ledge => list.find(l => l.at[0] < 0) as Ledge

describe('a ledge while stilts come and go', () => {
  const scan = new ModelScan(shelves, raster)
  const before = scan.runToEnd().ledges
  const withTips = (...tips: Mesh[]): Ledge[] => {
    scan.setStilts(tips)
    return scan.runToEnd().ledges
  }

  it('hangs whole without them', () => {
    expect(before.map(l => [l.state, l.heldShare, l.areaMm2.toFixed(1), l.reachMm.toFixed(2)])).toEqual([['open', 0, '30.0', '6.00'], ['open', 0, '24.0', '5.00']])
    for (const l of before) expect([l.hangingMm2, l.hangingReachMm, l.worst]).toEqual([l.areaMm2, l.reachMm, l.at])
  })

  it('is partly held by one tip: what the tip holds around itself is taken off, and it stays known by its place', () => {
    const now = withTips(tip(8, 0, 9))
    const one = right(now)
    expect([one.id, one.at, one.state]).toEqual([right(before).id, right(before).at, 'partly'])
    // closed form: a square of 0.5 grown by the 2 mm that a tip holds, cut off where the shelf ends 1 mm beside it
    const grown = 0.25 + 2 * 0.5 * 2 + 2 * 0.5 * 2 + Math.PI * 4
    const cut = 2 * 2 ** 2 * Math.acos(0.75 / 2) / 2 - 0.75 * Math.sqrt(4 - 0.75 ** 2) + 0.5 * (2 - 0.75)
    expect(Math.abs(one.heldShare * one.areaMm2 - (grown - cut))).toBeLessThan(0.35)
    expect(one.hangingMm2).toBeCloseTo(one.areaMm2 * (1 - one.heldShare), 6)
    // the farthest that still hangs is nearer now, and nowhere near the tip
    expect(one.hangingReachMm).toBeLessThan(one.reachMm)
    expect(Math.hypot(one.worst[0] - 8, one.worst[1])).toBeGreaterThan(2)
    expect(left(now)).toEqual(left(before))
  })

  it('is held once all of it is within reach, and hangs again when they are gone', () => {
    const rows = [4.6, 6.8, 8.6].flatMap(x => [-2.2, 0, 2.2].map(y => tip(x, y, 9)))
    const held = right(withTips(...rows))
    expect([held.id, held.state, held.heldShare, held.hangingMm2, held.hanging]).toEqual([right(before).id, 'held', 1, 0, []])
    expect(withTips()).toEqual(before)
  })

  it('is no less where the stilts were there before the first scan', () => {
    const tips = [tip(8, 0, 9), tip(-7, 1, 16)]
    const fresh = new ModelScan(shelves, raster)
    fresh.setStilts(tips)
    expect(fresh.runToEnd().ledges).toEqual(withTips(...tips))
  })

  it('is judged anew with other limits', () => {
    const own = new ModelScan(shelves, raster)
    own.setStilts([tip(8, 0, 9)])
    own.runToEnd()
    own.setSettings({ ...DEFAULT_SETTINGS, tipHoldMm: 7, flapMm: 2 })
    const now = own.runToEnd().ledges
    // a tip that holds 7 mm around itself holds all of the one shelf, and the other hangs less
    expect(right(now).state).toBe('held')
    expect([left(now).state, left(now).areaMm2.toFixed(1)]).toEqual(['open', '18.0'])
  })
})

describe('a span while stilts come and go', () => {
  const span = joinMeshes([box([-2, 0, 0], [0, 5, 8]), box([9, 0, 0], [11, 5, 8]), box([-1, 0, 6], [10, 5, 8])])

  it('is held by a row of tips under its middle', () => {
    const scan = new ModelScan(span, raster)
    const [wide] = scan.runToEnd().ledges
    expect([wide.kind, wide.wide, wide.state]).toEqual(['ledge', true, 'open'])
    scan.setStilts([tip(4.5, 0.8, 6), tip(4.5, 2.5, 6), tip(4.5, 4.2, 6)])
    const [now] = scan.runToEnd().ledges
    expect([now.id, now.wide, now.at]).toEqual([wide.id, true, wide.at])
    expect(now.heldShare).toBeGreaterThan(0.4)
  })

  it('that carries itself is noted, whatever stands under it', () => {
    const narrow = joinMeshes([box([-2, 0, 0], [0, 5, 8]), box([3.6, 0, 0], [5.6, 5, 8]), box([-1, 0, 6], [4.6, 5, 8])])
    const scan = new ModelScan(narrow, raster)
    expect(scan.runToEnd().ledges.map(l => [l.state, l.heldShare])).toEqual([['noted', 1]])
    scan.setStilts([tip(1.8, 2.5, 6)])
    expect(scan.runToEnd().ledges.map(l => [l.state, l.heldShare])).toEqual([['noted', 1]])
  })
})
