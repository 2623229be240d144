import fc from 'fast-check'
import { Euler, Matrix4, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { boundsOf } from '../mesh'
import { box, moved, sphere } from '../testing/shapes'
import { looksStanding, movedBounds, motionOfPose, movePoint, rotationOf, movePointBack, type Pose } from './index'

const angle = fc.double({ min: -180, max: 180, noNaN: true })
const pose = fc.record<Pose>({ tiltXDeg: angle, tiltYDeg: angle, turnDeg: angle, liftMm: fc.double({ min: 0, max: 50, noNaN: true }) })

describe('the convention of a pose', () => {
  it('is Rz(turn) · Ry(tiltY) · Rx(tiltX), right-handed (reference library: three 0.187, Euler order ZYX)', () => {
    fc.assert(fc.property(pose, p => {
      const r = rotationOf(p)
      const d = Math.PI / 180
      const m = new Matrix4().makeRotationFromEuler(new Euler(p.tiltXDeg * d, p.tiltYDeg * d, p.turnDeg * d, 'ZYX')).elements
      for (let row = 0; row < 3; row++) for (let col = 0; col < 3; col++) expect(r[3 * row + col]).toBeCloseTo(m[4 * col + row], 10)
    }))
  })

  it('tilts +90° about x so that what pointed along y points up', () => {
    const r = rotationOf({ tiltXDeg: 90, tiltYDeg: 0, turnDeg: 0, liftMm: 0 })
    expect([r[1], r[4], r[7]]).toEqual([0, 0, 1])
  })

  it('settles the lowest point at the lift and centres to within half a pixel', () => {
    const mesh = moved(box([0, 0, 0], [10, 20, 5]), [31.7, -12.3, 99])
    fc.assert(fc.property(pose, p => {
      const b = movedBounds(mesh.positions, motionOfPose(mesh.positions, p, 0.05))
      expect(b.min[2]).toBeCloseTo(p.liftMm, 4)
      expect(Math.abs(b.min[0] + b.max[0]) / 2).toBeLessThanOrEqual(0.0251)
      expect(Math.abs(b.min[1] + b.max[1]) / 2).toBeLessThanOrEqual(0.0251)
    }))
  })

  it('is rigid and can be taken back', () => {
    const mesh = sphere([3, 4, 5], 6, 12)
    fc.assert(fc.property(pose, p => {
      const m = motionOfPose(mesh.positions, p, 0.05)
      const a = movePoint(m, [1, 2, 3]), b = movePoint(m, [-4, 7, 0])
      expect(new Vector3(...a).distanceTo(new Vector3(...b))).toBeCloseTo(Math.hypot(5, 5, 3), 9)
      movePointBack(m, a).forEach((v, i) => expect(v).toBeCloseTo(i + 1, 9))
    }))
  })

  it('shifts by whole pixels where nothing is turned', () => {
    const mesh = box([0, 0, 0], [3.33, 4.44, 5])
    const m = motionOfPose(mesh.positions, { tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm: 5 }, 0.05)
    const c = boundsOf(mesh.positions)
    for (const [a, i] of [[3, 0], [7, 1]] as const) {
      const pixels = (m[a] + (c.min[i] + c.max[i]) / 2) / 0.05
      expect(Math.abs(pixels - Math.round(pixels))).toBeLessThan(1e-6)
    }
  })
})

describe('what looks made to stand', () => {
  it('is a broad flat or feet, not a point', () => {
    expect(looksStanding(box([0, 0, 0], [10, 10, 5]))).toBe(true)
    expect(looksStanding(sphere([0, 0, 0], 10, 64))).toBe(false)
  })
})
