import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { copyRow, jobRow, partRow } from '../testing/jobs'
import { AnyPlanFileSchema, applyChange, BUILT_IN_GAUGES, changesToReplace, changeTo, ChangeSchema, checkPlan, contentOf, DEFAULT_SETTINGS, follow, listsOf, newId, TABLE_NAMES, type Change, type JobContent, type PlanBeam, type PlanNode, type RowOf, type TableName, type Waiver } from './index'

const node = (n: number, x: number, part = 'part'): PlanNode => ({ id: `n${n}`, part, kind: 'joint', at: [x, 0, 5], pinned: x % 2 === 0 })
const beam = (n: number, d: number): PlanBeam => ({ id: `b${n}`, part: 'part', kind: d % 2 ? 'shaft' : 'brace', from: `n${n}`, to: `n${n + 1}`, fromDiameterMm: d, toDiameterMm: 1 })
const waiver = (n: number, reason: string): Waiver => ({ id: `w${n}`, part: 'part', kind: 'island', at: [n, 0, 0], reason })
const make: { readonly [K in TableName]: (n: number, v: number) => RowOf<K> } = {
  parts: (n, v) => partRow(`p${n}`, { pose: { tiltXDeg: v, tiltYDeg: 0, liftMm: 5 } }), copies: (n, v) => copyRow(`c${n}`, 'part', { xPixels: v }),
  nodes: (n, v) => node(n, v), beams: (n, v) => beam(n, 1 + (v % 39)), waivers: (n, v) => waiver(n, `reason ${v}`), marks: (n, v) => ({ id: `m${n}`, part: 'part', worth: v % 2 ? 'prized' : 'spare', runs: [v, 3] }), spreads: (n, v) => ({ id: `s${n}`, part: 'part', gauge: 'light', spacingMm: v, keepMm: 0, way: { kind: 'line', from: { point: [0, 0, 0], normal: [0, 0, -1] }, to: { point: [v, 0, 0], normal: [0, 0, -1] } } }),
  checkWaivers: (n, v) => ({ id: `c${n}`, part: 'part', check: 'sway', count: v, beyond: v / 10, reason: `reason ${v}` }), proofs: (n, v) => ({ id: `p${n}`, of: `state ${v}`, checks: [] }),
  gauges: (n, v) => ({ ...BUILT_IN_GAUGES[0], id: `g${n}`, order: v }),
}
const start = (): JobContent => contentOf(jobRow('job', { nodes: [node(1, 1), node(2, 2), node(3, 3)], beams: [beam(1, 1), beam(2, 2)], waivers: [waiver(1, 'spare')] }))
/** All of a job, as it is stored and sent: to the byte and in order. */
const bytes = (job: JobContent): string => JSON.stringify({ ...job.fields, ...listsOf(job.tables) })

const rows = fc.uniqueArray(fc.tuple(fc.integer({ min: 1, max: 6 }), fc.integer({ min: 1, max: 90 })), { selector: t => t[0], maxLength: 4 })
const change: fc.Arbitrary<Change> = fc.record({
  put: fc.record(Object.fromEntries(TABLE_NAMES.map(name => [name, rows.map(l => l.map(([n, v]) => make[name](n, v)))])), { requiredKeys: [] }),
  drop: fc.record(Object.fromEntries(TABLE_NAMES.map(name => [name, rows.map(l => l.map(([n, v]) => make[name](n, v).id))])), { requiredKeys: [] }),
  set: fc.record({ name: fc.constantFrom('a', 'b'), layerMm: fc.constantFrom(0.025, 0.05), settings: fc.integer({ min: 1, max: 9 }).map(flapMm => ({ ...DEFAULT_SETTINGS, flapMm })) }, { requiredKeys: [] }),
}, { requiredKeys: [] }).map(c => ({ label: 'edit', ...c }) as Change)

describe('changes', () => {
  it('are taken back by their inverse, to the byte and in order, over all tables', () => {
    fc.assert(fc.property(fc.array(change, { maxLength: 8 }), changes => {
      const job = start(), states = [bytes(job)], inverses: Change[] = []
      for (const c of changes) {
        expect(ChangeSchema.safeParse(c).success).toBe(true)
        const known = new Map(TABLE_NAMES.map(name => [name, new Set(job.tables[name].keys())]))
        const { inverse, touched } = applyChange(job, c)
        inverses.push(inverse)
        for (const name of TABLE_NAMES) {
          const put = (c.put?.[name] ?? []).map(r => r.id), dropped = c.drop?.[name] ?? []
          expect([...(touched.rows.get(name) ?? [])].sort()).toEqual([...new Set([...put, ...dropped])].sort())
          // what nobody named is there as before
          for (const id of known.get(name) ?? []) if (!dropped.includes(id)) expect(job.tables[name].has(id)).toBe(true)
        }
        states.push(bytes(job))
      }
      for (const i of inverses.toReversed()) {
        states.pop()
        expect(ChangeSchema.safeParse(i).success).toBe(true)
        applyChange(job, i)
        expect(bytes(job)).toBe(states[states.length - 1])
      }
    }), { numRuns: 400 })
  })
  it('put a row that they also drop', () => {
    const job = start(), before = bytes(job)
    const { inverse } = applyChange(job, { label: 'both', put: { beams: [beam(1, 7)] }, drop: { beams: ['b1'] } })
    expect(job.tables.beams.get('b1')).toEqual(beam(1, 7))
    applyChange(job, inverse)
    expect(bytes(job)).toBe(before)
  })
  it('turn one state of a job into another in one step that can be taken back, with no row that is the same in both', () => {
    fc.assert(fc.property(fc.array(change, { maxLength: 6 }), fc.array(change, { maxLength: 6 }), (first, second) => {
      const now = start(), then = start()
      for (const c of first) applyChange(now, c)
      for (const c of second) applyChange(then, c)
      const before = bytes(now), back = changeTo(now, then, 'go back')
      expect(ChangeSchema.safeParse(back).success).toBe(true)
      for (const name of TABLE_NAMES) for (const row of back.put?.[name] ?? []) expect(JSON.stringify(now.tables[name].get(row.id))).not.toBe(JSON.stringify(row))
      const { inverse } = applyChange(now, back)
      expect(bytes(now)).toBe(bytes({ ...then, fields: { ...then.fields, name: now.fields.name } }))
      applyChange(now, inverse)
      expect(bytes(now)).toBe(before)
    }), { numRuns: 200 })
  })
  it('turn one job into another, all of it but for its name, whatever both hold', () => {
    fc.assert(fc.property(fc.array(change, { maxLength: 6 }), fc.array(change, { maxLength: 6 }), (first, second) => {
      const theirs = start(), mine = start()
      for (const c of first) applyChange(theirs, c)
      for (const c of second) applyChange(mine, c)
      const { name } = theirs.fields
      for (const c of changesToReplace(theirs, mine, 'keep')) applyChange(theirs, c)
      expect(bytes(theirs)).toBe(bytes({ ...mine, fields: { ...mine.fields, name } }))
    }), { numRuns: 100 })
  })
  it('are refused where they are not well formed', () => {
    expect(ChangeSchema.safeParse({ label: 'x', put: { nodes: [{ ...node(1, 1), at: [0, 0, NaN] }] } }).success).toBe(false)
    expect(AnyPlanFileSchema.safeParse({ format: 'other', version: 1, pose: null, nodes: [], beams: [] }).success).toBe(false)
  })
})

describe('the history', () => {
  it('is followed as undo and redo go, and forgets what was undone once something new is done', () => {
    const done: string[] = [], undone: string[] = []
    const go = (way: 'do' | 'undo' | 'redo', step: string): unknown => {
      follow(done, undone, { step, way })
      return [[...done], [...undone]]
    }
    go('do', 'a')
    go('do', 'b')
    expect(go('do', 'c')).toEqual([['a', 'b', 'c'], []])
    expect(go('undo', 'c')).toEqual([['a', 'b'], ['c']])
    expect(go('undo', 'b')).toEqual([['a'], ['c', 'b']])
    expect(go('redo', 'b')).toEqual([['a', 'b'], ['c']])
    expect(go('do', 'd')).toEqual([['a', 'b', 'd'], []])
    // its beginning was forgotten
    expect(go('undo', 'unheard of')).toEqual([['a', 'b', 'd'], []])
  })
})

describe('ids', () => {
  it('are never the same and sort by their making', () => {
    const ids = Array.from({ length: 100_000 }, newId)
    expect(new Set(ids).size).toBe(ids.length)
    expect([...ids].sort()).toEqual(ids)
  })
})

describe('a plan', () => {
  const check = (nodes: PlanNode[], beams: PlanBeam[]): string[] => checkPlan(new Map(nodes.map(n => [n.id, n])), new Map(beams.map(b => [b.id, b]))).map(p => p.problem)
  const shaft = (n: number, from: string, to: string): PlanBeam => ({ ...beam(n, 1), from, to })
  it('is sound where every beam has its ends in one part; braces may close circles, shafts may not', () => {
    const three = [node(1, 1), node(2, 2), node(3, 3)]
    expect(check(three, [shaft(1, 'n1', 'n2'), shaft(2, 'n2', 'n3')])).toEqual([])
    expect(check(three, [shaft(1, 'n1', 'n2'), shaft(2, 'n2', 'n3'), { ...shaft(3, 'n3', 'n1'), kind: 'brace' }])).toEqual([])
    expect(check(three, [shaft(1, 'n1', 'n2'), shaft(2, 'n2', 'n3'), shaft(3, 'n3', 'n1')])).toEqual(['circle'])
    expect(check(three, [shaft(1, 'n1', 'n9')])).toEqual(['no-end'])
    expect(check([node(1, 1), node(2, 2, 'other')], [shaft(1, 'n1', 'n2')])).toEqual(['other-part'])
  })
})
