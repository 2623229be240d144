import { describe, expect, it } from 'vitest'
import { motionOfPose } from '@oak-stilts/core/pose'
import { joinMeshes } from '../../../core/mesh'
import { box, knot, sphere } from '../../../core/testing/shapes'
import { outerPoints } from './outer-points'

describe('outer points', () => {
  it('stand as the whole mesh does, but for a hair, however it is tilted', () => {
    for (const mesh of [knot(400, 60, 12, 5, 2, [4, 2, 9]), sphere([0, 0, 0], 8, 96), joinMeshes([box([0, 0, 0], [20, 8, 5]), sphere([18, 4, 9], 3, 48)])]) {
      const few = outerPoints(mesh.positions)
      for (let i = 0; i < 40; i++) {
        const pose = { tiltXDeg: i * 37 - 180, tiltYDeg: i * 23 - 90, turnDeg: i * 11, liftMm: 5 }
        const all = motionOfPose(mesh.positions, pose, 0.05), some = motionOfPose(few, pose, 0.05)
        expect(Math.abs(all[11] - some[11])).toBeLessThan(0.25)
      }
      expect(few.length).toBeLessThan(Math.max(300, mesh.positions.length))
    }
  })
})
