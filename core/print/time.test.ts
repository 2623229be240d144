import { describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER, DEFAULT_RESIN, type HeightRange } from '../contract'
import { costOf, exposureOf, secondsOf, secondsOfLayers, timesOfLayers } from './index'

const usual = { ...DEFAULT_RESIN, exposureS: 2, bottomExposureS: 20, bottomLayers: 3, transitionLayers: 0, restS: 1, travelMm: 6, travelUpMmMin: 60, travelDownMmMin: 180 }
const sum = (values: readonly number[]): number => values.reduce((a, b) => a + b, 0)

describe('how long layers take', () => {
  it('is light, rest and travel both ways (worked by hand: 2 + 1 + 6 ÷ 60 min + 6 ÷ 180 min a layer)', () => {
    expect(secondsOfLayers(1, usual)).toBeCloseTo(2 + 1 + 6 + 2, 9)
    expect(secondsOfLayers(100, DEFAULT_RESIN)).toBeCloseTo(100 * secondsOfLayers(1, DEFAULT_RESIN), 6)
  })
  it('is 892 s of light for 419 layers, 3 bottom ones of 20 s and 2 s for the others (worked by hand)', () => {
    const times = timesOfLayers(419, 0.05, usual, [], DEFAULT_PRINTER)
    expect(sum(times.map(t => t.exposureS))).toBeCloseTo(3 * 20 + 416 * 2, 9)
    expect(sum(times.map(secondsOf))).toBeCloseTo(892 + 419 * 9, 6)
  })
  it('goes over evenly from bottom layers to the others (worked by hand: 20, 20, 15.5, 11, 6.5, 2)', () => {
    const resin = { ...usual, bottomLayers: 2, transitionLayers: 3 }
    expect([0, 1, 2, 3, 4, 5, 6].map(k => exposureOf(resin, k))).toEqual([20, 20, 15.5, 11, 6.5, 2, 2])
  })
  it('of a range of heights is its own, but not the exposure of the first layers, and never faster than the printer', () => {
    const ranges: HeightRange[] = [{ id: 'a', fromMm: 0, toMm: 0.5, set: { exposureS: 4, travelUpMmMin: 30 }, why: '' }, { id: 'b', fromMm: 0.4, toMm: 1, set: { travelUpMmMin: 900, restS: 0 }, why: '' }]
    const times = timesOfLayers(30, 0.05, usual, ranges, { fastestMmMin: 300 })
    expect([times[0].exposureS, times[3].exposureS, times[9].exposureS, times[10].exposureS]).toEqual([20, 4, 4, 2])
    // the middle of layer 8 is 0.425 mm up, within both: the later one counts
    expect([times[7].travelUpMmMin, times[8].travelUpMmMin, times[19].restS, times[20].restS, times[20].travelUpMmMin]).toEqual([30, 300, 0, 1, 60])
  })
  it('and what it costs is by weight (worked by hand: 40 ml of 1.1 g/ml at 30 a kg)', () => {
    expect(costOf(40, { densityGMl: 1.1, pricePerKg: 30 })).toBeCloseTo(1.32, 9)
  })
})
