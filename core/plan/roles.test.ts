import { describe, expect, it } from 'vitest'
import { joinMeshes, type Vec3 } from '../mesh'
import { ModelScan } from '../scan'
import { box, sphere } from '../testing/shapes'
import { ROLE_BY_LOAD } from './index'

const raster = { pixelMm: 0.05, layerMm: 0.05 }
function rolesOf(scan: ModelScan, ...points: Vec3[]): string[] {
  return scan.hangsOn(points, scan.runToEnd()).map(on => `${on}: ${ROLE_BY_LOAD[on]}`)
}

describe('what hangs on a stilt', () => {
  // a block in the air with two balls and a bud under it, and a shelf that juts out of its side
  const body = joinMeshes([box([-6, -6, 10], [6, 6, 22]), sphere([2, 0, 9], 1.8, 40), sphere([-3, 3, 9], 1.4, 40), sphere([-4, -4, 9.6], 0.6, 24), box([5.5, -3, 18], [11, 3, 19.5])])
  it('decides its role: the whole part, a limb or a ledge, or a detail', () => {
    const scan = new ModelScan(body, raster)
    // the larger ball has gathered most when it meets the block, so the part hangs on it; the block's flat underside juts out of that
    expect(rolesOf(scan, [2, 0, 7.2], [-3, 3, 7.6], [5, -5, 10], [-4, -4, 9], [9, 0, 18])).toEqual(['body: carrier', 'limb: structural', 'ledge: structural', 'detail: detail', 'ledge: structural'])
  })
  it('is a ledge, or nothing, of what stands on the plate', () => {
    const post = new ModelScan(joinMeshes([box([-1, -1, 0], [1, 1, 12]), box([-1, -1, 8], [9, 1, 10])]), raster)
    expect(rolesOf(post, [7, 0, 8], [0, 1, 4], [40, 40, 3])).toEqual(['ledge: structural', 'nothing: detail', 'nothing: detail'])
  })
  it('does not change with the stilts that hold it', () => {
    const scan = new ModelScan(body, raster)
    const before = rolesOf(scan, [9, 0, 18], [-5, 4, 10])
    scan.setStilts([box([8.7, -0.3, 0], [9.3, 0.3, 18.1]), box([-5.3, 3.7, 0], [-4.7, 4.3, 10.1])])
    expect(rolesOf(scan, [9, 0, 18], [-5, 4, 10])).toEqual(before)
  })
})
