import { describe, expect, it } from 'vitest'
import { ModelScan } from '@oak-stilts/core/scan'
import { gaugeOf, sizesOf, type Stilt } from '@oak-stilts/core/stilts'
import { joinMeshes } from '../../../core/mesh'
import { bowl, box, sphere } from '../../../core/testing/shapes'
import { adviceFor, evidence, knownAt, NO_FILTER, NO_OPENINGS, passes, shareText, troublesOf, volumeText, worklistOf } from './index'

const scene = joinMeshes([sphere([0, 0, 12], 4, 48), sphere([20, 0, 9], 2, 40), box([12, 0, 8], [12.1, 0.1, 8.1]), bowl(9, 1, 8, 2, 30, 64)])
const result = new ModelScan(scene, { pixelMm: 0.1, layerMm: 0.1 }).runToEnd()
const nothing = { result: null, stilts: [], plate: [], near: { pairs: [], more: 0 }, verdicts: [], openings: NO_OPENINGS }
const lost: Stilt = {
  id: 'tip', part: 'part', number: 4, nodes: [], beams: [], alone: 0, bound: 0, gauge: 'medium', role: 'structural', sizes: sizesOf(gaugeOf('medium')), own: {},
  anchor: { point: [0, 0, 0], normal: [0, 0, -1] }, path: [[1, 2, 9], [1, 2, 6], [1, 2, 5]], foot: 'lost', footPinned: false,
}

describe('the worklist', () => {
  const list = worklistOf({ ...nothing, result, stilts: [lost] })
  it('lists stilts that are too near to each other by their numbers, nearest first, which may be left so', () => {
    const other = { ...lost, id: 'other', number: 8 }
    const near = [{ stilts: [lost.id, 'other'] as const, gapMm: -0.2, at: [1, 2, 4] as const }]
    const { findings, folded } = worklistOf({ ...nothing, result, stilts: [lost, other], near: { pairs: near, more: 7 } }), row = findings.find(f => f.kind === 'near')
    expect([row?.name, row?.figure, row?.layer, row?.stilts]).toEqual([`Stilts ${lost.number} and 8`, `${lost.number} and 8, touching`, Math.floor(4 / (result?.layerMm ?? 1)), [lost.id, 'other']])
    expect(folded.get('near')).toBe(7)
    expect(row && adviceFor(row).why).toContain('print as one')
    const waived = worklistOf({ ...nothing, result, stilts: [lost, other], near: { pairs: near, more: 7 } }, [{ id: 'w', part: 'part', kind: 'near', at: [1, 2, 4.3], reason: 'Both are cut away.' }])
    expect(waived.findings.find(f => f.kind === 'near')?.state).toBe('waived')
  })

  it('lists a cup that only several parts close, where it lies beside the part on the bench', () => {
    const [cup] = result.cups
    const troubles = troublesOf(null, copy => `part ${copy}`, ([x, y, z]) => [x - 10, y, z], 0.1, [{ cup: { ...cup, at: [cup.at[0], cup.at[1], cup.at[2]] }, copies: ['a', 'b'] }])
    const [row] = worklistOf({ ...nothing, plate: troubles }).findings
    expect([row.kind, row.layer, row.lastLayer, evidence(row, 'copies'), row.at[0], row.state]).toEqual(['between', cup.firstLayer, cup.lastLayer, ['a', 'b'], cup.at[0] - 10, 'open'])
    expect(adviceFor(row).help).toContain('Move one of them away')
  })

  it('puts what is lost first, then what carries most; a large cup before details', () => {
    expect(list.findings.map(f => f.name)).toEqual(['Lost stilt', 'Body', 'Limb', 'Limb', 'Cup', 'Flake'])
    expect(list.open).toBe(6)
  })
  it('names findings so that they stay the same over scans', () => {
    expect(new Set(list.findings.map(f => f.key)).size).toBe(list.findings.length)
    expect(worklistOf({ ...nothing, result }).findings.map(f => f.key)).toEqual(list.findings.slice(1).map(f => f.key))
  })
  it('explains each in two sentences with what helps', () => {
    for (const f of list.findings) {
      const { why, help } = adviceFor(f)
      for (const text of [why, help]) expect(text).toMatch(/^[A-Z].*\.$/)
      expect(why + help).not.toMatch(/undefined|NaN|null/)
    }
    const body = list.findings[1]
    expect(adviceFor(body).why).toContain(`Layer ${body.layer + 1} prints this region on nothing`)
    expect(adviceFor({ ...body, state: 'settled' }).help).toMatch(/Nothing is left/)
  })
  it('is empty before the first scan', () => {
    expect(worklistOf(nothing)).toEqual({ findings: [], folded: new Map(), open: 0 })
  })
  it('leaves out what is waived, wherever the part stands, and takes it back', () => {
    const limb = list.findings.find(f => f.name === 'Limb')
    const at = limb?.at ?? [0, 0, 0]
    const waiver = { id: 'w', part: 'part', kind: 'island' as const, at: [at[0] + 100, at[1], at[2]] as [number, number, number], reason: 'The base hides it.' }
    const waived = worklistOf({ ...nothing, result, stilts: [lost] }, [waiver], p => [p[0] + 100, p[1], p[2]])
    expect(waived.open).toBe(list.open - 1)
    const found = waived.findings.find(f => f.state === 'waived')
    expect(found?.key).toBe(limb?.key)
    expect(found && adviceFor(found).why).toBe('Left as it is: The base hides it.')
    // another kind at the same place, and another place, are not meant
    expect(worklistOf({ ...nothing, result, stilts: [lost] }, [{ ...waiver, kind: 'cup' }], p => [p[0] + 100, p[1], p[2]]).open).toBe(list.open)
    expect(worklistOf({ ...nothing, result, stilts: [lost] }, [waiver]).open).toBe(list.open)
  })
  it('filters by state, kind and class', () => {
    const shown = (filter: Partial<typeof NO_FILTER>): string[] => list.findings.filter(f => passes(f, { ...NO_FILTER, ...filter })).map(f => f.name)
    expect(shown({})).toHaveLength(list.findings.length)
    expect(shown({ kinds: ['cup'] })).toEqual(['Cup'])
    expect(shown({ kinds: ['island'], classes: ['flake'] })).toEqual(['Flake'])
    expect(shown({ states: ['settled', 'waived'] })).toEqual([])
  })
  it('keeps a ledge in the list under the same name while stilts hold more and more of it, and its waiver with it', () => {
    const shelf = joinMeshes([box([-3, -3, 0], [3, 3, 24]), box([3, -3, 9], [9, 3, 10.5])])
    const tip = (x: number, y: number): ReturnType<typeof box> => box([x - 0.3, y - 0.3, 0], [x + 0.3, y + 0.3, 9.3])
    const scan = new ModelScan(shelf, { pixelMm: 0.1, layerMm: 0.1 })
    const rowWith = (...tips: ReturnType<typeof box>[]): ReturnType<typeof worklistOf>['findings'][number] => {
      scan.setStilts(tips)
      return worklistOf({ ...nothing, result: scan.runToEnd() }).findings[0]
    }
    const open = rowWith(), partly = rowWith(tip(8, 0)), held = rowWith(...[4.6, 6.8, 8.6].flatMap(x => [-2.2, 0, 2.2].map(y => tip(x, y))))
    expect([open.state, partly.state, held.state]).toEqual(['open', 'partly', 'settled'])
    expect([partly.key, held.key]).toEqual([open.key, open.key])
    expect([open.figure, partly.figure]).toEqual(['6.00 mm out', expect.stringMatching(/^\d+ % held$/)])
    for (const f of [open, partly, held]) for (const text of Object.values(adviceFor(f))) expect(text).toMatch(/^[A-Z].*\.$/)
    expect(adviceFor(partly).why).toContain(`${evidence(partly, 'ledge')?.hangingMm2.toFixed(2)} mm² are still laid`)
    scan.setStilts([tip(8, 0)])
    const [x, y, z] = knownAt(open)
    expect(worklistOf({ ...nothing, result: scan.runToEnd() }, [{ id: 'w', part: 'part', kind: 'ledge', at: [x, y, z], reason: 'It sags where nobody looks.' }]).findings.map(f => f.state)).toEqual(['waived'])
  })
  it('never rounds a share up to all', () => {
    expect([shareText(1), shareText(0.9999), shareText(0.442), shareText(0)]).toEqual(['100 %', '99.9 %', '44 %', '0 %'])
  })
  it('writes volumes with units and enough digits', () => {
    expect([volumeText(5860), volumeText(41.234), volumeText(0.0512)]).toEqual(['5.86 cm³', '41.23 mm³', '0.051 mm³'])
  })
})

describe('what is said about stilts', () => {
  const stands: Stilt = { ...lost, foot: 'plate' }, at = [1, 2, 9] as const, stilts = [stands.id]
  const verdicts = [
    { kind: 'gap' as const, at, stilts, gapMm: 0.1, limitMm: 0.4 }, { kind: 'gap' as const, at, stilts: ['gone'], gapMm: 0, limitMm: 0.4 }, { kind: 'thick' as const, at, stilts, tipMm: 0.5, thicknessMm: 0.25 },
    { kind: 'scar' as const, at, stilts, worth: 'off-limits' as const, areaMm2: 0.2 }, { kind: 'lean' as const, at, stilts, leanDeg: 50, limitDeg: 45 }, { kind: 'slender' as const, at, stilts, freeMm: 52, limitMm: 30 },
    { kind: 'forced' as const, at, stilts, because: 'It runs into the part.' }, { kind: 'tips' as const, at, stilts: [stands.id, stands.id], gapMm: 0.2, limitMm: 0.5 },
  ]
  const { findings, open } = worklistOf({ ...nothing, stilts: [stands], verdicts })
  it('is listed for stilts that are there, what is forbidden first, each with what helps', () => {
    expect([findings.map(f => `${f.kind} ${f.figure}`), open]).toEqual([['scar 4, 0.20 mm² off-limits', 'gap 4, 0.10 mm', 'tips 4 and 4, 0.20 mm', 'thick 4, 2.0 ×', 'lean 4, 50°', 'slender 4, 52 mm free', 'forced 4, forced'], 7])
    for (const f of findings) {
      const { why, help } = adviceFor(f)
      for (const text of [why, help]) expect(text).toMatch(/^[A-Z].*\.$/)
      expect(why).toMatch(/tilts? 4/)
    }
  })
  it('is listed worst first, and no more than somebody may go through', () => {
    const many = Array.from({ length: 260 }, (_, i) => ({ kind: 'slender' as const, at, stilts, freeMm: 31 + i, limitMm: 30 }))
    const list = worklistOf({ ...nothing, stilts: [stands], verdicts: many })
    expect([list.findings.length, list.findings[0].figure, list.folded.get('slender')]).toEqual([200, '4, 290 mm free', 60])
  })
})
