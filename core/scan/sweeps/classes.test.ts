import type { Island } from '../../contract'
import { describe, expect, it } from 'vitest'
import { radians, joinMeshes, type Mesh } from '../../mesh'
import { box, curtain } from '../../testing/shapes'
import { classOfIsland, DEFAULT_SETTINGS, ModelScan } from '../index'

describe('the class of an island', () => {
  it('goes by what hangs on it, up to and with the limits', () => {
    const of = (area: number, volume: number, body = false): string => classOfIsland(body, area, volume, DEFAULT_SETTINGS)
    expect([of(0.03, 0.01), of(0.031, 0.001), of(0.001, 0.011), of(5, 8), of(5, 8.001), of(0.001, 0.0001, true)]).toEqual(['flake', 'detail', 'detail', 'detail', 'limb', 'body'])
  })
  it('is not decided by the last bit of a sum of pixels', () => {
    // twelve pixels of 0.05 mm, three of 0.1 mm
    expect(classOfIsland(false, 12 * 0.05 * 0.05, 0.001, DEFAULT_SETTINGS)).toBe('flake')
    expect(classOfIsland(false, 3 * 0.1 * 0.1, 0.001, DEFAULT_SETTINGS)).toBe('flake')
  })
})

describe('flakes', () => {
  const raster = { pixelMm: 0.1, layerMm: 0.1 }
  const block = box([0, 0, 0], [4, 4, 4])
  const flakesOf = (...extra: Mesh[]): Pick<Island, 'layer' | 'state' | 'joinsLayer'>[] =>
    new ModelScan(joinMeshes([block, ...extra]), raster).runToEnd().islands.filter(i => i.class === 'flake').map(({ layer, state, joinsLayer }) => ({ layer, state, joinsLayer }))
  /** One pixel in one layer. */
  const speck = (pixel: number, row: number, layer: number): Mesh => box([pixel / 10, row / 10, layer / 10], [(pixel + 1) / 10, (row + 1) / 10, (layer + 1) / 10])

  it('that never join are open: debris that floats in the vat', () => {
    expect(flakesOf(speck(60, 20, 20))).toEqual([{ layer: 20, state: 'open', joinsLayer: null }])
    // a free pixel in between, and a free layer above
    expect(flakesOf(speck(41, 20, 20))).toEqual([{ layer: 20, state: 'open', joinsLayer: null }])
    expect(flakesOf(speck(20, 20, 42))).toEqual([{ layer: 42, state: 'open', joinsLayer: null }])
  })
  it('that lie within a pixel of the rest cure together with it and are noted', () => {
    const noted = [{ layer: 20, state: 'noted', joinsLayer: null }]
    // corner to corner in the layer; beside what ends in the layer below, or begins in the one above
    expect(flakesOf(speck(40, 40, 20))).toEqual(noted)
    expect(flakesOf(speck(40, 20, 40))).toEqual([{ ...noted[0], layer: 40 }])
    expect(flakesOf(box([4, 2, 2.1], [7, 3, 3]), speck(70, 25, 20))).toEqual(noted)
  })
  it('that touch each other and nothing else are debris all the same', () => {
    expect(flakesOf(speck(60, 20, 20), speck(61, 21, 20)).map(f => f.state)).toEqual(['open', 'open'])
    // one of a chain touches the block: all of it does
    expect(flakesOf(speck(40, 40, 20), speck(41, 41, 20), speck(42, 42, 20)).map(f => f.state)).toEqual(['noted', 'noted', 'noted'])
  })
  it('along a blade as thin as a layer are noted', () => {
    // a blade of 0.1 mm that leaves the block and falls by 30°: its layers touch at their ends, corner to corner
    const xs = [3.9, 7.5], at = (x: number): number => 3.05 - (x - 3.9) * Math.tan(radians(30))
    const found = new ModelScan(joinMeshes([block, curtain(xs, xs.map(x => at(x)), xs.map(x => at(x) + 0.1), 1, 1.1)]), raster).runToEnd().islands
    expect(found.length).toBeGreaterThan(2)
    for (const i of found) if (i.class === 'flake') expect(i.state, JSON.stringify(i)).toBe('noted')
  })
  it('are judged anew with other limits', () => {
    const scan = new ModelScan(joinMeshes([block, box([4, 4, 2], [4.3, 4.3, 2.2])]), raster)
    const state = (): (string | undefined)[] => scan.runToEnd().islands.map(i => `${i.class} ${i.state}`)
    expect(state()).toEqual(['detail open'])
    scan.setSettings({ ...DEFAULT_SETTINGS, flakeAreaMm2: 0.1, flakeVolumeMm3: 0.1 })
    expect(state()).toEqual(['flake noted'])
  })
})
