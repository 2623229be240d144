import { readFileSync } from 'node:fs'
import Module from 'manifold-3d'
import { describe, expect, it } from 'vitest'
import { prepareMesh, readModel, wholeOf } from '../core/mesh'
import { motionOfPose } from '../core/pose'
import { ModelScan } from '../core/scan'
import { demoStl } from '../server'
import { DEMO_JOBS } from './index'
import { polygonize } from './sculpt/polygonize'
import { limb, mass } from './sculpt/field'

const raster = { pixelMm: 0.05, layerMm: 0.05 }

describe('the demo models', () => {
  it.each(DEMO_JOBS)('$name is one closed manifold shell of printable size', async job => {
    const source = wholeOf(await readModel(readFileSync(await demoStl(job.model))))
    const { mesh, report } = prepareMesh(source)
    expect(report).toMatchObject({ unclosedEdges: 0, shells: 1, duplicateTriangles: 0, turnedShells: 0, sheets: 0 })
    expect(report.triangles).toBeGreaterThanOrEqual(80000)
    expect(report.triangles).toBeLessThanOrEqual(500000)
    expect(report.sizeMm[2]).toBeGreaterThanOrEqual(40)
    expect(report.sizeMm[2]).toBeLessThanOrEqual(90)
    // Reference library: manifold-3d takes only closed, oriented 2-manifolds, and agrees on the volume
    const wasm = await Module()
    wasm.setup()
    const solid = new wasm.Manifold(new wasm.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles }))
    expect(solid.volume() / report.volumeMm3).toBeCloseTo(1, 4)
    // layer areas at fifty heights
    const stand = motionOfPose(mesh.positions, job.pose, 0.05)
    const result = new ModelScan(mesh, raster, stand).runTo('graph')
    const posed = solid.transform([stand[0], stand[4], stand[8], 0, stand[1], stand[5], stand[9], 0, stand[2], stand[6], stand[10], 0, stand[3], stand[7], stand[11], 1])
    let strictly = 0
    for (let i = 0; i < 50; i++) {
      const k = 101 + Math.floor(((result.layerCount - 104) * i) / 50)
      const cut = posed.slice((k + 0.5) * 0.05)
      const outline = cut.toPolygons().reduce((sum, p) => sum + p.reduce((l, q, j) => l + Math.hypot(q[0] - p[(j + 1) % p.length][0], q[1] - p[(j + 1) % p.length][1]), 0), 0)
      const off = Math.abs(result.areaMm2[k] - cut.area())
      // half a percent; where a section is so small that a few pixels are more, pixels of its outline fall in or out like coins
      expect(off).toBeLessThanOrEqual(Math.max(0.005 * cut.area(), 3 * Math.sqrt(outline / 0.05) * 0.05 ** 2))
      if (off <= 0.005 * cut.area()) strictly++
      cut.delete()
    }
    expect(strictly).toBeGreaterThanOrEqual(49)
    const islands = result.islands.filter(i => i.state === 'open').length
    if (job.model === 'heron') expect(islands).toBeGreaterThanOrEqual(30)
    if (job.model === 'kelp') expect(islands).toBeGreaterThanOrEqual(60)
    if (job.model === 'bell') expect(result.cups[0]).toMatchObject({ ends: 'vent' })
    if (job.model === 'bell') expect(result.cups[0].volumeMm3).toBeGreaterThan(10000)
  }, 120000)
})

describe('sculpting', () => {
  it('gives a ball its volume and makes the same mesh every time', () => {
    const pieces = [mass([0.1, 0.2, 0.3], [4, 4, 4]), limb([0, 0, 3], [0, 0, 9], 1, 0.5, { blend: 0.5 })]
    const a = polygonize(pieces, 0.4), b = polygonize(pieces, 0.4)
    expect([...a.positions]).toEqual([...b.positions])
    expect(prepareMesh(a).report).toMatchObject({ unclosedEdges: 0, shells: 1 })
    const ball = prepareMesh(polygonize([mass([0.1, 0.2, 0.3], [4, 4, 4])], 0.3)).report.volumeMm3
    expect(ball / ((4 / 3) * Math.PI * 64)).toBeCloseTo(1, 1.7)
  })
})
