import { describe, expect, it } from 'vitest'
import { bowl, box, joinMeshes } from '../../testing/shapes'
import { LAYER_CODES, layerPicture, ModelScan, regionOf } from '../index'

const raster = { pixelMm: 0.1, layerMm: 0.1 }
/** Pixels of one kind in a picture. */
function count(spans: Int32Array, code: number): number {
  let n = 0
  for (let i = 0; i < spans.length; i += 4) if (spans[i + 3] === code) n += spans[i + 2] - spans[i + 1]
  return n
}

describe('the layer picture', () => {
  it('tells the open island, its stilt and the space that pulls apart', () => {
    const scan = new ModelScan(bowl(5, 1, 6, 2, 5, 64), raster)
    let result = scan.runToEnd()
    const before = layerPicture(scan, result, 90)
    expect(count(before.spans, LAYER_CODES.hanging) * 0.01).toBeCloseTo(result.areaMm2[90], 6)
    const enclosed = count(before.spans, LAYER_CODES.cup) * 0.01
    expect(enclosed / (Math.PI * 16)).toBeCloseTo(1, 1)
    expect([before.pieces, before.enclosed]).toEqual([1, 1])
    scan.setStilts(box([-0.5, -0.5, 0], [0.5, 0.5, 5.4]))
    result = scan.runToEnd()
    expect(count(layerPicture(scan, result, 20).spans, LAYER_CODES.stilt)).toBe(100)
    expect(count(layerPicture(scan, result, 60).spans, LAYER_CODES.hanging)).toBe(0)
    expect(count(layerPicture(scan, result, 60).spans, LAYER_CODES.model) * 0.01).toBeCloseTo(result.areaMm2[60], 6)
    // the floor of the bowl is laid new in one layer; around the post 2 mm of it are within reach
    const floor = layerPicture(scan, result, 50)
    const reached = Math.PI * 2 * 2 + 4 * 2
    expect(floor.hangingPixels * 0.01 / (result.areaMm2[50] - 1 - reached)).toBeCloseTo(1, 1)
    expect(count(floor.spans, LAYER_CODES.freshHanging)).toBe(floor.hangingPixels)
  })

  it('shows what is new and what is gone against the layer below', () => {
    const scan = new ModelScan(joinMeshes([box([0, 0, 0], [4, 4, 3]), box([2, 0, 2.9], [8, 4, 6])]), raster)
    const result = scan.runToEnd()
    const at = (k: number, code: number): number => count(layerPicture(scan, result, k).spans, code) * 0.01
    expect([at(28, LAYER_CODES.fresh), at(28, LAYER_CODES.gone)]).toEqual([0, 0])
    expect(layerPicture(scan, result, 29).freshPixels * 0.01).toBeCloseTo(16, 6)
    expect(at(29, LAYER_CODES.freshHanging)).toBeCloseTo(12, 6)
    expect(at(30, LAYER_CODES.gone)).toBeCloseTo(8, 6)
  })

  it('is the same whether stilts came and went', () => {
    const scan = new ModelScan(box([0, 0, 3], [4, 4, 6]), raster)
    const first = scan.runToEnd()
    const picture = layerPicture(scan, first, 40)
    scan.setStilts(box([1, 1, 0], [2, 2, 4]))
    scan.runToEnd()
    scan.setStilts(null)
    const again = scan.runToEnd()
    expect(layerPicture(scan, again, 40)).toEqual(picture)
    expect(again).toEqual(first)
  })
})

describe('a region', () => {
  it('is the bitmap of its component', () => {
    const scan = new ModelScan(box([0, 0, 3], [1, 2, 6]), raster)
    scan.runToEnd()
    const region = regionOf(scan, 40, 0)
    expect([region.width, region.height, region.pixel0, region.row0]).toEqual([10, 20, 0, 0])
    expect(region.bits.reduce((a, b) => a + b, 0)).toBe(200)
  })
})
