import { describe, expect, it } from 'vitest'
import { joinMeshes, prepareMesh, type Vec3 } from '../mesh'
import { DEFAULT_POSE, rotationOf, standOf, UNSHAPED } from '../pose'
import { Surface } from '../stilts'
import { box } from '../testing/shapes'
import { remedyInWords, tiltFor } from './remedy'

describe('a tilt that helps', () => {
  // a shelf over a wider floor: from the middle of its underside nothing leads down, until the floor is out of the way
  const mesh = prepareMesh(joinMeshes([box([-8, -10, 0], [0, 10, 2]), box([-8, -10, 2], [-6, 10, 20]), box([-8, -10, 20], [8, 10, 22])])).mesh
  const surface = new Surface(mesh, { shape: UNSHAPED, stand: standOf(mesh.positions, DEFAULT_POSE, 0.05) })
  const z = DEFAULT_POSE.liftMm
  it('is none where the way is open or never opens', () => {
    expect(tiltFor(surface, DEFAULT_POSE, [])).toBeNull()
    expect(remedyInWords(null, 3)).toBe('')
  })
  it('is the smallest about x or y that frees the way, as an independent turn of the mesh tells', () => {
    const place: Vec3 = [-2, 0, z + 20.05], found = tiltFor(surface, DEFAULT_POSE, [place])
    expect(found?.axis).toBe('y')
    // turned so, the underside of the shelf is reached by a vertical ray from below, and with three degrees less it is not
    const isFree = (byDeg: number): boolean => {
      const pose = { ...DEFAULT_POSE, tiltYDeg: byDeg }, r = rotationOf(pose), turned = prepareMesh({ ...mesh, positions: Float32Array.from({ length: mesh.positions.length }, (_, i) => [0, 1, 2].reduce((sum, k) => sum + r[3 * (i % 3) + k] * mesh.positions[3 * Math.floor(i / 3) + k], 0)) }).mesh, s = new Surface(turned)
      const p = [place[0], 0, 20], [x, y] = [0, 1].map(i => [0, 1, 2].reduce((sum, k) => sum + r[3 * i + k] * p[k], 0)), under = s.cast([x, y, -100], [0, 0, 1])
      return under !== null && under.point[2] > [0, 1, 2].reduce((sum, k) => sum + r[6 + k] * p[k], 0) - 0.5
    }
    expect([isFree(found?.byDeg ?? 0), isFree(((found?.byDeg ?? 0) / Math.abs(found?.byDeg ?? 1)) * 3)]).toEqual([true, false])
    expect(remedyInWords(found, 1)).toMatch(/^A further tilt of -?\d+° about y would open a straight way to it;/)
  })
})
