import { describe, expect, it } from 'vitest'
import type { Mesh } from '../../mesh'
import { box, joinMeshes, sphere } from '../../testing/shapes'
import { ModelScan } from '../index'
import type { Covering, LaidPixel } from './covering'

const raster = { pixelMm: 0.1, layerMm: 0.1 }
function coveringOf(mesh: Mesh, ...stilts: Mesh[]): { covering: Covering; scan: ModelScan } {
  const scan = new ModelScan(mesh, raster)
  scan.setStilts(stilts)
  scan.runToEnd()
  return { covering: scan.covering(0), scan }
}
const at = (x: number, y: number): LaidPixel => ({ pixel: Math.floor(x / raster.pixelMm), row: Math.floor(y / raster.pixelMm) })
/** Pixels of the layer that are out of reach. */
function over(covering: Covering): LaidPixel[] {
  const out: LaidPixel[] = []
  covering.sift(p => {
    out.push(p)
    return 'ask'
  })
  return out
}

describe('covering', () => {
  const plate = box([0, 0, 4], [12, 8, 5])

  it('asks for all of what begins on nothing, and lets a tip hold a disc of 2 mm and no more (closed form)', () => {
    const { covering } = coveringOf(plate), layers = covering.layers()
    expect(layers.next().value).toBe(40)
    expect(over(covering)).toHaveLength(120 * 80)
    covering.hold(at(6, 4), 0)
    const left = new Set(over(covering).map(p => `${p.pixel} ${p.row}`))
    for (let x = 0; x < 120; x++) {
      for (let y = 0; y < 80; y++) {
        const d = Math.hypot(x - 60, y - 40) * raster.pixelMm
        // a way along the raster is a little longer than the straight one
        if (d < 1.9 || d > 2.05) expect([x, y, left.has(`${x} ${y}`)]).toEqual([x, y, d > 2])
      }
    }
  })
  it('finds what can be reached through the layer, not across a gap (second opinion: the boxes themselves)', () => {
    const { covering } = coveringOf(joinMeshes([box([0, 0, 4], [3, 8, 5]), box([3.5, 0, 4], [7, 8, 5])]))
    covering.layers().next()
    const near = covering.around(at(2.5, 4), 1.5, false)
    expect(near.length).toBeGreaterThan(0)
    for (let i = 0; i < near.length; i += 3) expect(near[i + 1]).toBeLessThan(30)
  })
  it('asks no more where a stilt stands already', () => {
    const { covering } = coveringOf(box([0, 0, 4], [2, 2, 5]), box([0.8, 0.8, 0], [1.2, 1.2, 4.2]))
    expect([...covering.layers()]).toEqual([])
  })
  it('goes on from what a tip holds, as high above it as it holds to the side', () => {
    // a small ball grows from its lowest point: one tip there holds all of it
    const { covering } = coveringOf(sphere([0, 0, 8], 1.2)), asked: number[] = []
    for (const layer of covering.layers()) {
      asked.push(layer)
      const from = covering.farthest()
      if (from) covering.hold(at(0, 0), 0.2)
      expect(over(covering)).toEqual([])
    }
    expect(asked).toHaveLength(1)
  })
  it('passes over a pixel for one layer, or lets it be for good', () => {
    const { covering } = coveringOf(plate), layers = covering.layers()
    layers.next()
    covering.sift(() => 'pass')
    expect(covering.farthest()).toBeNull()
    const again = coveringOf(joinMeshes([box([0, 0, 4], [2, 2, 5]), box([-6, 0, 5], [2, 2, 6])])).covering, steps = again.layers()
    steps.next()
    again.sift(() => 'let-be')
    // what is laid on it counts from there: the shelf above it is out of reach only beyond 1 mm
    expect(steps.next().value).toBe(50)
    expect(over(again).map(p => p.pixel).sort((a, b) => b - a)[0]).toBe(-11)
  })
})
