import { describe, expect, it } from 'vitest'
import { DEFAULT_RESIN, type FailedOutcome, type Print, type PrintFacts } from '../contract'
import { causesOf, changesBetween, NO_EVIDENCE, tallyBy, type FailureEvidence } from './causes'

const facts = (more: Partial<PrintFacts> = {}, copies = ['1']): PrintFacts => ({
  printer: 'Harbour 50', layerMm: 0.05, layers: 800, resin: { ...DEFAULT_RESIN }, smoothing: 'none', ranges: [],
  parts: [{ id: 'p', name: 'Buoy', tiltXDeg: 10, tiltYDeg: 0, liftMm: 5, raft: 'none', stilts: 30, gauges: [{ name: 'Medium', count: 30 }], leastTipMm: 0.5, mostTipMm: 0.5, copies, recipe: null }], ...more,
})
const failed = (more: Partial<FailedOutcome> = {}): FailedOutcome => ({ kind: 'failed', layer: 400, symptom: 'missing', copies: [], note: '', ...more })
const print = (outcome: Print['outcome'], more: Partial<Print> = {}): Print => ({ id: 'x', job: { id: 'j', state: 's' }, name: 'Buoy', at: '2026-01-01T00:00:00.000Z', facts: facts(), seconds: 1, resinMl: 1, sha256: null, outcome, photo: null, ...more })
const first = (of: Pick<Print, 'facts' | 'job'>, how: FailedOutcome, before: readonly Print[] = [], found: FailureEvidence = NO_EVIDENCE): string => causesOf(of, how, before, found)[0].kind
const five = ['1', '2', '3', '4', '5']

// made-up histories with a known cause; the rules are of the trade (common practice, no source)
describe('the likeliest cause of a failed print', () => {
  it('is the first layers where nothing is on the plate, whatever else is known', () => {
    expect(first(print(null), failed({ layer: null, symptom: 'nothing' }), [print(failed({ symptom: 'nothing', layer: null }))], { ...NO_EVIDENCE, tips: [{ stilt: 1, share: 0.9, diameterMm: 0.2 }] })).toBe('first-layers')
    expect(first(print(null), failed({ layer: 6 }))).toBe('first-layers')
  })
  it('is the file where it failed twice at the same height, however thin its tips are', () => {
    expect(first(print(null), failed({ layer: 405 }), [print(failed({ layer: 398 }))])).toBe('file')
    expect(first(print(null), failed({ layer: 405 }), [print(failed({ layer: 398 }))], { ...NO_EVIDENCE, tips: [{ stilt: 3, share: 0.5, diameterMm: 0.25 }] })).toBe('file')
    // at the same layer of other layers is another height
    expect(first(print(null), failed({ layer: 400, symptom: 'broken' }), [print(failed({ layer: 400 }), { facts: facts({ layerMm: 0.1 }) })], { ...NO_EVIDENCE, tips: [{ stilt: 3, share: 0.9, diameterMm: 0.25 }] })).toBe('thin-tips')
  })
  it('is the supports of a copy where one of many failed', () => {
    expect(first(print(null, { facts: facts({}, five) }), failed({ copies: ['3'] }))).toBe('supports-of-copy')
  })
  it('is the pull of the layer where all of many failed at one height', () => {
    expect(first(print(null, { facts: facts({}, five) }), failed(), [], { ...NO_EVIDENCE, pull: { atN: 30, middleN: 12, mostN: 30 } })).toBe('pull')
  })
  it('is tips before exposure', () => {
    for (const symptom of ['missing', 'broken', 'stuck'] as const) {
      const kinds = causesOf(print(null), failed({ symptom }), [], { ...NO_EVIDENCE, tips: [{ stilt: 7, share: 0.85, diameterMm: 0.3 }] }).map(c => c.kind)
      expect(kinds[0]).toBe('thin-tips')
      expect(kinds.at(-1)).toBe('exposure')
    }
  })
  it('is what the symptom says where nothing else is known', () => {
    expect(first(print(null), failed({ symptom: 'fused' }), [], { ...NO_EVIDENCE, near: 3 })).toBe('fused')
    expect(first(print(null), failed({ symptom: 'stuck' }))).toBe('film')
    expect(first(print(null), failed({ symptom: 'wobble' }))).toBe('shaken')
  })
  it('comes with what speaks for it, in figures', () => {
    const [cause] = causesOf(print(null), failed({ symptom: 'broken' }), [], { ...NO_EVIDENCE, tips: [{ stilt: 7, share: 0.85, diameterMm: 0.25 }, { stilt: 9, share: 0.75, diameterMm: 0.25 }] })
    expect(cause.evidence).toEqual(['2 tips are under 0.40 mm, the thinnest 0.25 mm.', 'The weakest, of stilt 7, bears 85 % of what it can (estimate).', '2 bear over 70 %.', 'Tips come before exposure.'])
    expect(cause.fix).toBe('stronger-tips')
  })
})

describe('what was changed between two prints', () => {
  it('is told in words, and is nothing where nothing was', () => {
    expect(changesBetween(facts(), facts())).toEqual([])
    const now = facts({ layerMm: 0.1, resin: { ...DEFAULT_RESIN, exposureS: 3 } }, five), [part] = now.parts
    expect(changesBetween(facts(), { ...now, parts: [{ ...part, tiltXDeg: 25, stilts: 44, leastTipMm: 0.4 }] })).toEqual(['layer height 0.05 mm → 0.1 mm', 'exposure 2.5 s → 3 s', 'copies 1 → 5', 'tilt about x 10° → 25°', 'stilts 30 → 44', 'tips 0.50 mm → 0.40 to 0.50 mm'])
    expect(changesBetween(facts(), { ...facts(), parts: [{ ...part, id: 'q', name: 'Bell' }] })).toEqual(['Bell is new', 'Buoy is not on the plate any more'])
  })
})

describe('how prints came out', () => {
  it('is counted by what they have in common, without those of which nobody has said', () => {
    const prints = [print({ kind: 'good', note: '' }), print(failed()), print(failed(), { facts: facts({ resin: { ...DEFAULT_RESIN, name: 'Clear' } }) }), print(null)]
    expect(tallyBy(prints, p => [p.facts.resin.name])).toEqual([{ name: 'Grey, standard', good: 1, failed: 1 }, { name: 'Clear', good: 0, failed: 1 }])
    expect(tallyBy(prints, p => p.facts.parts.flatMap(x => x.gauges.map(g => g.name)))).toEqual([{ name: 'Medium', good: 1, failed: 2 }])
  })
})
