import { describe, expect, it } from 'vitest'
import { distance, volumeOf, type Mesh, type Vec3 } from '@oak-stilts/core/mesh'
import { solidOfStilt, type StiltShape } from '@oak-stilts/core/stilts'
import { uprightShape } from '../../../core/testing/jobs'
import type { Frustums } from './frustum-layer'
import { frustumsOf, STILT_PARTS } from './stilt-frustums'

interface Drawn {
  readonly a: Vec3
  readonly b: Vec3
  readonly ra: number
  readonly rb: number
}
function read(list: Frustums): Drawn[] {
  const out: Drawn[] = []
  for (let i = 0; i < list.length; i += 14) out.push({ a: [list[i], list[i + 1], list[i + 2]], b: [list[i + 3], list[i + 4], list[i + 5]], ra: list[i + 12], rb: list[i + 13] })
  return out
}
const all = (s: StiltShape): Drawn[] => STILT_PARTS.flatMap(part => read(frustumsOf(s).parts[part]))
/** Volume of round frustums (closed form). */
const volume = (list: readonly Drawn[]): number => list.reduce((v, { a, b, ra, rb }) => v + (Math.PI * distance(a, b) * (ra * ra + ra * rb + rb * rb)) / 3, 0)
/** A round body of which the solid is the inscribed 16-gon. */
const round = (mesh: Mesh): number => volumeOf(mesh) / ((16 / 2 / Math.PI) * Math.sin((2 * Math.PI) / 16))

describe('a stilt as it is drawn', () => {
  const bent = uprightShape(0, { path: [[0, 0, 9], [0.4, 0, 6.6], [2, 0, 4], [2, 0, 0]] })
  const stick = uprightShape(0, { foot: 'model', path: [[0, 0, 9], [0, 0, 8], [0, 0, 3], [0, 0, 2]], sizes: { ...uprightShape(0).sizes, kneeDiameterMm: 0.8, shaftFootDiameterMm: 0.8, footDiameterMm: 0.4, footHeightMm: 1, footPenetrationMm: 0 } })
  it('is as large as the solid that is printed (closed form: round frustums against the inscribed solid)', () => {
    for (const s of [uprightShape(0), stick]) expect(volume(all(s)) / round(solidOfStilt(s))).toBeCloseTo(1, 4)
    // mitred bends take a little away on one side and add it on the other
    expect(volume(all(bent)) / round(solidOfStilt(bent))).toBeCloseTo(1, 1)
  })
  it('goes on from one frustum to the next, with the same radius', () => {
    for (const s of [uprightShape(0), bent, stick]) {
      const list = all(s)
      for (let i = 0; i + 1 < list.length; i++) {
        expect(distance(list[i].b, list[i + 1].a)).toBeLessThan(1e-6)
        expect(list[i].rb).toBeCloseTo(list[i + 1].ra, 6)
      }
    }
  })
  it('leaves what is shared to another, and has as many rings as its gauge says', () => {
    expect(read(frustumsOf(bent, 2).parts.shafts)).toHaveLength(1)
    expect([frustumsOf(bent, 2).parts.feet.length, frustumsOf(bent, 2).rings.length]).toEqual([0, 0])
    expect(['fine', 'light', 'medium', 'heavy'].map(gauge => read(frustumsOf(uprightShape(0, { gauge, path: [[0, 0, 12], [0, 0, 9], [0, 0, 0]] })).rings).length)).toEqual([1, 2, 3, 4])
  })
  it('is nothing where it lost its foot', () => {
    expect(all({ ...bent, foot: 'lost' })).toEqual([])
  })
})
