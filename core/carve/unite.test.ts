import { describe, expect, it } from 'vitest'
import { AS_MADE } from '../contract'
import { finishPart } from '../finish'
import { isClosed, joinMeshes, volumeOf, type Mesh, type Vec3 } from '../mesh'
import { box, reversed, sphere } from '../testing/shapes'
import { united } from './index'

/** Volume of two balls of one radius whose middles are apart, as one. Closed form: twice a ball less a lens, π (4 r + d)(2 r − d)² / 12. */
const twoBalls = (r: number, d: number): number => (8 / 3) * Math.PI * r ** 3 - (Math.PI * (4 * r + d) * (2 * r - d) ** 2) / 12
const balls = (r: number, d: number): Mesh => joinMeshes([sphere([0, 0, 0], r, 64), sphere([d, 0.01, 0.02], r, 64)])

describe('solids that run into each other', () => {
  it('are one, and skin tells where it comes from', async () => {
    const both = balls(8, 8), one = await united(both)
    expect(volumeOf(one) / twoBalls(8, 8)).toBeCloseTo(1, 2)
    expect(isClosed(one)).toBe(true)
    for (let i = 0; i < one.triangles.length / 3; i += 37) {
      const own = one.from?.[i] ?? -1, middle = (m: Mesh, t: number): Vec3 => [0, 1, 2].map(a => [0, 1, 2].reduce((sum, c) => sum + m.positions[3 * m.triangles[3 * t + c] + a] / 3, 0)) as unknown as Vec3
      // what is left of a face lies in it
      expect(Math.hypot(...middle(one, i).map((v, a) => v - middle(both, own)[a]))).toBeLessThan(1)
    }
  })

  it('keep a cavity, but for what the other fills', async () => {
    const cube = joinMeshes([box([0, 0, 0], [20, 20, 20]), reversed(box([5, 5, 5], [15, 15, 15])), box([10, 4, 4], [30, 16, 16])])
    expect(volumeOf(await united(cube))).toBeCloseTo(8000 - 500 + 10 * 144, 1)
  })

  it('are left as they are where they stand apart, and where there is only one', async () => {
    const apart = joinMeshes([box([0, 0, 0], [4, 4, 4]), box([10, 0, 0], [14, 4, 4])]), shell = joinMeshes([sphere([0, 0, 0], 6, 32), reversed(sphere([0, 0, 0], 3, 32))])
    expect(await united(apart)).toBe(apart)
    expect(await united(shell)).toBe(shell)
  })

  it('are hollowed as one: no wall is left around what was hidden', async () => {
    const { hollow } = await finishPart(balls(8, 8), { ...AS_MADE, hollow: { on: true, wallMm: 2, cellMm: 0.5, carries: null } })
    // the hollow of each ball, as one, is the least that there is
    expect(hollow?.hollowMm3).toBeGreaterThan(0.99 * twoBalls(6, 8))
    expect(hollow?.chambers).toHaveLength(1)
  })
})
