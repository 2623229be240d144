import { describe, expect, it } from 'vitest'
import { DEFAULT_RESIN } from '../contract'
import { secondsOfLayers } from './index'

describe('how long layers take', () => {
  it('is light, rest and travel both ways (worked by hand: 2 + 1 + 6 ÷ 60 min + 6 ÷ 180 min a layer)', () => {
    expect(secondsOfLayers(1, { ...DEFAULT_RESIN, exposureS: 2, restS: 1, travelMm: 6, travelUpMmMin: 60, travelDownMmMin: 180 })).toBeCloseTo(2 + 1 + 6 + 2, 9)
    expect(secondsOfLayers(100, DEFAULT_RESIN)).toBeCloseTo(100 * secondsOfLayers(1, DEFAULT_RESIN), 6)
  })
})
