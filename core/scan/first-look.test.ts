import { describe, expect, it } from 'vitest'
import { joinMeshes } from '../mesh'
import { bowl, box, sphere } from '../testing/shapes'
import { firstLook } from './first-look'
import { ModelScan } from './index'

describe('a first look', () => {
  it('finds what is larger than its raster, where it is', () => {
    const balls = [[0, 0, 9], [7, 2, 14], [-6, 5, 20]] as const
    const mesh = joinMeshes([box([-8, -8, 0], [8, -7, 30]), ...balls.map(at => sphere(at, 2, 24))])
    const look = firstLook(mesh)
    expect(look).toMatchObject({ islands: 3, cups: 0 })
    for (const [x, y, z] of balls) expect(look.at.some(p => Math.hypot(p[0] - x, p[1] - y, p[2] - (z - 2)) < 0.6)).toBe(true)
  })

  it('misses what is smaller, which the scan finds', () => {
    const mesh = joinMeshes([box([-4, -4, 0], [4, 4, 1]), box([5, 0, 3.05], [5.1, 0.1, 3.2])])
    expect(firstLook(mesh).islands).toBe(0)
    expect(new ModelScan(mesh, { pixelMm: 0.05, layerMm: 0.05 }).runTo('graph').islands.filter(i => i.state === 'open')).toHaveLength(1)
  })

  it('sees a cup, and nothing where there is nothing', () => {
    expect(firstLook(bowl(6, 1.2, 8, 1.5, 0))).toMatchObject({ islands: 0, cups: 1 })
    expect(firstLook(box([-4, -4, 0], [4, 4, 6]))).toMatchObject({ islands: 0, cups: 0 })
    expect(firstLook({ positions: new Float32Array(0), triangles: new Uint32Array(0) })).toEqual({ islands: 0, cups: 0, at: [] })
  })
})
