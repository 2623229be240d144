import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { SelectRuleSchema, type Role, type SelectRule } from '../contract'
import { uprightShape } from '../testing/jobs'
import { auditTips, binsOf, gaugeOf, PlanIndex, rowsOfStilt, sizesOf, stiltsByRule, strongerSizes, type RuleFacts, type Stilt, type StiltShape } from './index'

const stilts = (...shapes: StiltShape[]): readonly Stilt[] => {
  const rows = shapes.map((s, i) => rowsOfStilt(s, { part: 'part', number: i + 1 }))
  return new PlanIndex(new Map(rows.flatMap(r => r.nodes.map(n => [n.id, n]))), new Map(rows.flatMap(r => r.beams.map(b => [b.id, b])))).stiltsOf('part')
}
const tip = (mm: number, role: Role, z = 4): StiltShape => uprightShape(z, { role, sizes: { ...uprightShape(0).sizes, tipDiameterMm: mm }, path: [[0, 0, z], [0, 0, z - 2], [0, 0, 0]] })
const roleOf = (s: Stilt): Role => s.role

describe('the audit of tips', () => {
  it('lists them lowest first, and flags what carries or holds a region under 0.40 mm; 0.01 does not matter (rules of the trade)', () => {
    const all = auditTips(stilts(tip(0.25, 'carrier', 9), tip(0.391, 'structural', 5), tip(0.385, 'structural', 6), tip(0.2, 'detail', 7), tip(0.1, 'carrier', 3), uprightShape(0, { foot: 'lost' })), roleOf, 0.4)
    expect(all.map(t => [t.heightMm, t.tipMm, t.weak])).toEqual([[3, 0.1, true], [5, 0.391, false], [6, 0.385, true], [7, 0.2, false], [9, 0.25, true]])
  })
  it('counts every tip in one bin of its size', () => {
    fc.assert(fc.property(fc.array(fc.tuple(fc.double({ min: 0.1, max: 2, noNaN: true }), fc.constantFrom<Role>('carrier', 'structural', 'detail')), { maxLength: 60 }), tips => {
      const audited = auditTips(stilts(...tips.map(([mm, role]) => tip(mm, role))), roleOf, 0.4), bins = binsOf(audited, 0.05)
      expect(bins.reduce((n, b) => n + b.ids.length, 0)).toBe(tips.length)
      for (const b of bins) {
        expect(b.count.carrier + b.count.structural + b.count.detail).toBe(b.ids.length)
        for (const id of b.ids) expect(Math.floor((audited.find(t => t.id === id)?.tipMm ?? 0) / 0.05 + 1e-6)).toBe(Math.round(b.fromMm / 0.05))
      }
    }), { numRuns: 40 })
    expect(binsOf([], 0.05)).toEqual([])
  })
  it('makes a tip stronger, and nothing below it thinner than that', () => {
    const fine = sizesOf(gaugeOf('fine'))
    expect([strongerSizes(fine, 0.4), strongerSizes(fine, 0.75)]).toEqual([{ tipDiameterMm: 0.4 }, { tipDiameterMm: 0.75, kneeDiameterMm: 0.75 }])
  })
})

describe('a rule to select by', () => {
  const all = stilts(tip(0.2, 'detail', 6), tip(0.5, 'carrier', 12), uprightShape(4, { gauge: 'medium', foot: 'lost' }), uprightShape(8, { path: [[0, 0, 14], [0, 0, 12], [6, 0, 0]] }))
  const facts: RuleFacts = { roleOf, shareOf: s => s.number / 10, worthOf: s => (s.number === 2 ? 'prized' : 'plain'), isNear: s => s.number > 2 }
  const by = (rule: Partial<SelectRule>): number[] => stiltsByRule(all, SelectRuleSchema.parse(rule), facts).map(s => s.number)
  it('means those that have all of it in common; or everything but these', () => {
    expect(by({})).toEqual([1, 2, 3, 4])
    expect([by({ gauge: 'medium' }), by({ role: 'carrier' }), by({ foot: 'lost' }), by({ worth: 'prized' }), by({ nearChosen: true })]).toEqual([[3], [2], [3], [2], [3, 4]])
    expect([by({ tipMm: [0.3, null] }), by({ heightMm: [null, 6] }), by({ leanDeg: [20, 30] }), by({ sharePercent: [15, 35] })]).toEqual([[2, 3, 4], [1, 3], [4], [2, 3]])
    expect(by({ tipMm: [0.3, null], everythingBut: true })).toEqual([1])
  })
})
