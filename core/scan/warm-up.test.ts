import { describe, expect, it } from 'vitest'
import { prepareMesh } from '../mesh'
import { ModelScan } from './index'
import { lump, warmUp } from './warm-up'

describe('the lump to warm up with', () => {
  it('is closed and has something of all that a scan looks for', () => {
    const { mesh, report } = prepareMesh(lump())
    expect(report).toMatchObject({ unclosedEdges: 0, shells: 1, turnedShells: 0 })
    const found = new ModelScan(mesh, { pixelMm: 0.15, layerMm: 0.15 }).runToEnd()
    expect(found.islands.length).toBeGreaterThan(3)
    expect(found.ledges.length).toBeGreaterThan(0)
  })
  it('changes nothing of what is scanned afterwards', () => {
    const mesh = lump(), raster = { pixelMm: 0.2, layerMm: 0.2 }
    const before = new ModelScan(mesh, raster).runToEnd()
    warmUp()
    expect(new ModelScan(mesh, raster).runToEnd()).toEqual(before)
  })
})
