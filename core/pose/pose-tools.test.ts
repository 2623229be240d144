import fc from 'fast-check'
import { Matrix4, Quaternion as ThreeQuaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { distance, unit, type Vec3 } from '../mesh'
import { caught, nearestAxis, posedBy, rotationOf, turnBetween, withoutZero, withZeroHere, type Pose, type Rotation } from './index'

const angle = fc.double({ min: -180, max: 180, noNaN: true }), part = fc.double({ min: -1, max: 1, noNaN: true })
const direction = fc.tuple(part, part, part).filter(v => Math.hypot(...v) > 0.05).map(v => unit(v))
const zero = fc.tuple(part, part, part, part).filter(v => Math.hypot(...v) > 0.1).map(v => v.map(x => x / Math.hypot(...v)) as unknown as NonNullable<Pose['zero']>)
const pose = fc.record<Pose>({ tiltXDeg: angle, tiltYDeg: fc.double({ min: -89.9, max: 89.9, noNaN: true }), turnDeg: angle, liftMm: fc.constant(5), zero })
const turned = (r: Rotation, v: Vec3): Vec3 => [0, 3, 6].map(i => r[i] * v[0] + r[i + 1] * v[1] + r[i + 2] * v[2]) as unknown as Vec3
const near = (a: Rotation, b: Rotation, within = 1e-5): void => a.forEach((v, i) => expect(Math.abs(v - b[i])).toBeLessThan(within))

describe('a rotation between two directions', () => {
  it('takes one to the other by the least turn (reference library: three 0.187)', () => {
    fc.assert(fc.property(direction, direction, (a, b) => {
      const r = turnBetween(a, b), m = new Matrix4().makeRotationFromQuaternion(new ThreeQuaternion().setFromUnitVectors(new Vector3(...a), new Vector3(...b))).elements
      expect(distance(turned(r, a), b)).toBeLessThan(1e-6)
      if (a[0] * b[0] + a[1] * b[1] + a[2] * b[2] > -0.99) for (let row = 0; row < 3; row++) for (let c = 0; c < 3; c++) expect(r[3 * row + c]).toBeCloseTo(m[4 * c + row], 5)
    }))
    for (const v of [[1, 0, 0], [0, 1, 0], [0, 0, -1]] as const) expect(distance(turned(turnBetween(v, [-v[0], -v[1], -v[2]]), v), [-v[0], -v[1], -v[2]])).toBeLessThan(1e-9)
  })
})

describe('a pose', () => {
  it('has a zero that comes before its tilts (reference library: three 0.187)', () => {
    fc.assert(fc.property(pose, p => {
      const [x, y, z, w] = p.zero as NonNullable<Pose['zero']>, q = new Matrix4().makeRotationFromQuaternion(new ThreeQuaternion(x, y, z, w)).elements
      const own = rotationOf({ ...p, zero: undefined }), whole = rotationOf(p)
      for (let row = 0; row < 3; row++) for (let c = 0; c < 3; c++) expect(whole[3 * row + c]).toBeCloseTo([0, 1, 2].reduce((s, k) => s + own[3 * row + k] * q[4 * c + k], 0), 9)
    }))
  })

  it('tells in its own angles how it stands after any turn of the plate', () => {
    fc.assert(fc.property(pose, direction, direction, (p, a, b) => {
      const by = turnBetween(a, b), after = rotationOf(posedBy(p, by)), before = rotationOf(p)
      near(after, [0, 3, 6].flatMap(i => [0, 1, 2].map(c => by[i] * before[c] + by[i + 1] * before[3 + c] + by[i + 2] * before[6 + c])))
    }))
  })

  it('is told where tilt y stands upright, too', () => {
    for (const tiltYDeg of [90, -90]) {
      const p: Pose = { tiltXDeg: 30, tiltYDeg, turnDeg: 20, liftMm: 5 }
      near(rotationOf(posedBy(p, [1, 0, 0, 0, 1, 0, 0, 0, 1])), rotationOf(p), 1e-6)
    }
  })

  it('stands the same once it is made the zero, and once it is measured from the file again', () => {
    fc.assert(fc.property(pose, p => {
      const here = withZeroHere(p)
      expect([here.tiltXDeg, here.tiltYDeg]).toEqual([0, 0])
      near(rotationOf(here), rotationOf(p), 1e-9)
      const back = withoutZero(here)
      expect(back.zero).toBe(undefined)
      near(rotationOf(back), rotationOf(p))
    }))
  })
})

describe('an angle that is dragged', () => {
  it('is whole and caught at 45°; in steps of 5° or in tenths where asked', () => {
    expect([43.6, 46.4, 43.4, 38.4, 12.3, 1.4, 1.6, -91.2, -0.2].map(a => caught(a, 'whole'))).toEqual([45, 45, 43, 38, 12, 1, 2, -90, 0])
    expect([43.26, 11, -2.4].map(a => caught(a, 'five'))).toEqual([45, 10, 0])
    expect([43.26, -0.04].map(a => caught(a, 'tenth'))).toEqual([43.3, 0])
  })
})

describe('the nearest axis', () => {
  it('is the one with the largest share', () => {
    expect(nearestAxis([0.1, -0.8, 0.5])).toEqual([0, -1, 0])
    expect(nearestAxis([0.1, 0.2, 0.9])).toEqual([0, 0, 1])
  })
})
