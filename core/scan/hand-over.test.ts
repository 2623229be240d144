import { describe, expect, it } from 'vitest'
import { joinMeshes } from '../mesh'
import { bowl, box, knot, sphere } from '../testing/shapes'
import { DEFAULT_SETTINGS, ModelScan } from './index'

const raster = { pixelMm: 0.1, layerMm: 0.1 }
const mesh = joinMeshes([sphere([0, 0, 9], 3, 32), bowl(4, 0.8, 5, 1, 14, 32), knot(80, 12, 4, 2, 0.7, [12, 0, 9]), box([-9, -2, 6], [-5, 3, 6.8])])

describe('bands that are made elsewhere', () => {
  it('give the same scan, in whatever order they come and with or without their spans', () => {
    const alone = new ModelScan(mesh, raster).runToEnd()
    const elsewhere = new ModelScan(mesh, raster), scan = new ModelScan(mesh, raster)
    for (let b = scan.bands - 1; b >= 0; b -= 2) scan.takeBand(b, elsewhere.makeBand(b), b % 4 === 1 ? elsewhere.handOverSpans(b) : undefined)
    expect(scan.allBands).toBe(false)
    expect(scan.runToEnd()).toEqual(alone)
    expect(scan.allBands).toBe(true)
  })
  it('tell at any time what lies below the first gap', () => {
    const scan = new ModelScan(mesh, raster), whole = new ModelScan(mesh, raster).runToEnd()
    for (let b = 0; b < 3; b++) scan.takeBand(b, scan.makeBand(b))
    const part = scan.partial()
    expect([part.stage, part.covered, part.layerCount]).toEqual(['layers', 96, whole.layerCount])
    expect(part.islands.map(i => [i.layer, i.areaMm2]).sort()).toEqual(whole.islands.filter(i => i.layer < 96).map(i => [i.layer, i.areaMm2]).sort())
  })
})

describe('other limits', () => {
  it('judge again without a new scan of the layers, and give what a new scan gives', () => {
    const scan = new ModelScan(mesh, raster)
    const usual = scan.runToEnd()
    const strict = { ...DEFAULT_SETTINGS, flapMm: 0.4, slopeDeg: 60, detailVolumeMm3: 20, cupAreaMm2: 100, ventMm: 1.2 }
    scan.setSettings(strict)
    const other = scan.runToEnd()
    expect(other).toEqual(new ModelScan(mesh, raster, undefined, strict).runToEnd())
    expect(other.cups).toEqual([])
    scan.setSettings(DEFAULT_SETTINGS)
    expect(scan.runToEnd()).toEqual(usual)
  })
})
