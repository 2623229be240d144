import { describe, expect, it } from 'vitest'
import { proposeRanges } from './propose-ranges'

describe('ranges that are proposed', () => {
  const pulls = (of: (k: number) => number): Float64Array => Float64Array.from({ length: 400 }, (_, k) => of(k))
  it('are where layers pull most, with a margin, half as fast, and say why (worked by hand)', () => {
    const found = proposeRanges(pulls(k => (k < 10 ? 60 : k >= 200 && k < 260 ? 24 : k >= 270 && k < 280 ? 22 : 10)), 0.05, 10, { travelUpMmMin: 60 })
    expect(found).toEqual([{ fromMm: 9.5, toMm: 14.5, set: { travelUpMmMin: 30 }, why: expect.stringMatching(/^Layers 201 to 280 pull up to 24\.0 N, 2\.4 times as much as the middle one/) }])
  })
  it('stay apart where they lie apart, and never begin within the first layers', () => {
    const found = proposeRanges(pulls(k => (k === 12 || k === 300 ? 30 : 5)), 0.1, 10, { travelUpMmMin: 60 })
    expect(found.map(r => [r.fromMm, r.toMm])).toEqual([[1, 1.8], [29.5, 30.6]])
  })
  it('are none where no layer stands out, or none pulls', () => {
    expect(proposeRanges(pulls(k => 10 + (k % 3)), 0.05, 10, { travelUpMmMin: 60 })).toEqual([])
    expect(proposeRanges(pulls(() => 0), 0.05, 10, { travelUpMmMin: 60 })).toEqual([])
  })
})
