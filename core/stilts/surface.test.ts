import { describe, expect, it } from 'vitest'
import { box, joinMeshes } from '../testing/shapes'
import { Surface } from './surface'

describe('a ray between two heights', () => {
  // two plates, at 2 to 3 and at 6 to 7
  const surface = new Surface(joinMeshes([box([-5, -5, 2], [5, 5, 3]), box([-5, -5, 6], [5, 5, 7])]))
  const down = (low: number, high: number): number | undefined => surface.castBetween([0, 0, 20], [0, 0, -2], [low, high])?.point[2]

  it('meets what is shown first, whatever is cut away above it', () => {
    expect(down(-Infinity, Infinity)).toBeCloseTo(7, 6)
    expect(down(-Infinity, 6.5)).toBeCloseTo(6, 6)
    expect(down(-Infinity, 5)).toBeCloseTo(3, 6)
    expect(down(-Infinity, 2.5)).toBeCloseTo(2, 6)
    expect(down(-Infinity, 1)).toBeUndefined()
  })
  it('does not go on below what is cut away', () => {
    expect(down(3.5, 5)).toBeUndefined()
    expect(down(2.5, 5)).toBeCloseTo(3, 6)
  })
  it('gives the distance from the eye also where the way is oblique', () => {
    const hit = surface.castBetween([20, 0, 12], [-1, 0, -0.5], [0, 4])
    expect(hit?.point[2]).toBeCloseTo(3, 6)
    expect(hit?.distanceMm).toBeCloseTo(Math.hypot(18, 9), 5)
  })
  it('sees a level ray only between the heights', () => {
    expect(surface.castBetween([20, 0, 2.5], [-1, 0, 0], [0, 4])?.point[0]).toBeCloseTo(5, 6)
    expect(surface.castBetween([20, 0, 2.5], [-1, 0, 0], [3, 4])).toBeNull()
  })
})
