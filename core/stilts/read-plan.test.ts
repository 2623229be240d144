import { describe, expect, it } from 'vitest'
import { PLAN_FORMAT, PlanFileSchema, type PlanFile } from '../contract'
import { writeStl } from '../mesh'
import { gaugeOf, graphOfStilt, isPlanFor, readStilts, shifted, sizesOf, solidOfStilts, type Stilt } from './index'

const stilt = (id: number, more: Partial<Stilt> = {}): Stilt => ({
  id, gauge: 'light', role: 'detail', sizes: sizesOf(gaugeOf('light')), byHand: [], contact: { point: [id, 0, 9], normal: [0, 0, -1] }, foot: 'plate', path: [[id, 0, 9], [id, 0, 6.5], [id, 0, 0]], ...more,
})
function planOf(...stilts: Stilt[]): PlanFile {
  const graphs = stilts.map(graphOfStilt)
  return { format: PLAN_FORMAT, version: 2, pose: null, nodes: graphs.flatMap(g => g.nodes), beams: graphs.flatMap(g => g.beams) }
}

describe('plans as files', () => {
  it('come back as they were', () => {
    expect(readStilts(PlanFileSchema.parse(JSON.parse(JSON.stringify(planOf(stilt(1), stilt(2))))))).toEqual({ stilts: [stilt(1), stilt(2)], notes: [] })
  })
  it.each<[string, Stilt, RegExp]>([
    ['all in one point', stilt(2, { path: [[0, 0, 5], [0, 0, 5], [0, 0, 5]] }), /without a length/],
    ['with a foot above the tip', stilt(2, { path: [[0, 0, 5], [0, 0, 7], [0, 0, 9]] }), /foot above the tip/],
    ['with a foot below the plate', stilt(2, { path: [[0, 0, 5], [0, 0, 3], [0, 0, -4]] }), /foot that is not on the plate/],
    ['with a foot in the air', stilt(2, { path: [[0, 0, 9], [0, 0, 7], [0, 0, 2]] }), /foot that is not on the plate/],
  ])('leave out what cannot be, with a word: %s', (_, bad, word) => {
    const { stilts, notes } = readStilts(planOf(stilt(1), bad))
    expect(stilts).toEqual([stilt(1)])
    expect(notes.join(' ')).toMatch(word)
  })
  it('take a stilt once that is written twice, give numbers that none has, and gauges that are known', () => {
    const twice = planOf(stilt(1), { ...stilt(1), id: 2 }, stilt(3, { gauge: 'unheard of' }))
    const { stilts, notes } = readStilts(twice)
    expect(stilts.map(s => [s.id, s.gauge])).toEqual([[1, 'light'], [3, 'light']])
    expect(notes).toHaveLength(2)
  })
  it('are refused with numbers that nothing can have, and are never written with such', () => {
    for (const far of [1e30, 1e300, -1e6]) expect(PlanFileSchema.safeParse(planOf(stilt(1, { path: [[far, 0, 9], [far, 0, 6], [far, 0, 0]] }))).success).toBe(false)
    const wrong = solidOfStilts([stilt(1)])
    wrong.positions[4] = NaN
    expect(() => writeStl(wrong, 'x')).toThrow(/no place that can be written/)
  })
  it('know what they were made for', () => {
    const plan: PlanFile = { ...planOf(stilt(1)), madeFor: { pixelMm: 0.05, layerMm: 0.05, triangles: 12, sizeMm: [1, 2, 3] } }
    expect(isPlanFor(plan, { triangles: 12, sizeMm: [1, 2, 3.005], pixelMm: 0.035 })).toBe(true)
    expect(isPlanFor(plan, { triangles: 12, sizeMm: [1, 2, 3.1], pixelMm: 0.05 })).toBe(false)
    expect(isPlanFor({ ...planOf(), version: 1 }, { triangles: 1, sizeMm: [9, 9, 9], pixelMm: 1 })).toBe(true)
    expect(shifted([stilt(1)], 0.5, -1)[0].path[2]).toEqual([1.5, -1, 0])
  })
})
