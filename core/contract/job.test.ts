import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyEdit, DEFAULT_SETTINGS, EditSchema, inverseOf, PlanFileSchema, type Edit, type JobContent, type PlanBeam, type PlanNode, type Waiver } from './index'

const knee = (n: number, x: number): PlanNode => ({ id: `${n}.knee`, stilt: n, kind: 'knee', at: [x, 0, 5] })
const beam = (n: number, d: number): PlanBeam => ({ id: `${n}.cone`, stilt: n, from: `${n}.tip`, to: `${n}.knee`, fromDiameterMm: d, toDiameterMm: 1 })
const waiver = (n: number, reason: string): Waiver => ({ id: `w${n}`, kind: 'island', at: [n, 0, 0], reason })
const start: JobContent = { name: 'job', pose: { tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm: 5 }, poseSettled: true, nodes: [knee(1, 1), knee(2, 2), knee(3, 3)], beams: [beam(1, 1), beam(2, 2)], settings: DEFAULT_SETTINGS, waivers: [waiver(1, 'spare')] }
const number = fc.integer({ min: 1, max: 6 })
const some = <T>(of: fc.Arbitrary<T>, id: (t: T) => unknown) => fc.uniqueArray(of, { selector: id, maxLength: 4 })
const edit = fc.record<Edit>({
  label: fc.constant('edit'),
  putNodes: some(fc.tuple(number, fc.integer({ min: 0, max: 99 })), t => t[0]).map(l => l.map(([n, x]) => knee(n, x))),
  dropNodes: some(number.map(n => `${n}.knee`), id => id),
  putBeams: some(fc.tuple(number, fc.integer({ min: 1, max: 9 })), t => t[0]).map(l => l.map(([n, d]) => beam(n, d))),
  dropBeams: some(number.map(n => `${n}.cone`), id => id),
  pose: fc.record({ tiltXDeg: fc.integer({ min: -90, max: 90 }), tiltYDeg: fc.constant(0), turnDeg: fc.constant(0), liftMm: fc.constant(5) }),
  poseSettled: fc.boolean(),
  name: fc.constantFrom('a', 'b'),
  settings: fc.integer({ min: 1, max: 9 }).map(flapMm => ({ ...DEFAULT_SETTINGS, flapMm })),
  putWaivers: some(fc.integer({ min: 1, max: 4 }), n => n).map(l => l.map(n => waiver(n, 'the wall hides it'))),
  dropWaivers: some(fc.constantFrom('w1', 'w2'), id => id),
}, { requiredKeys: ['label'] })

const LISTS = ['nodes', 'beams', 'waivers'] as const
/** With its lists as sets of rows: their order says nothing, and rows that come back are the last. */
function asSets(job: JobContent): unknown {
  return { ...job, ...Object.fromEntries(LISTS.map(list => [list, Object.fromEntries(job[list].map(row => [row.id, row]))])) }
}
const ids = (job: JobContent, list: (typeof LISTS)[number]): string[] => job[list].map(row => row.id)

describe('edits', () => {
  it('are taken back by their inverse, step by step', () => {
    fc.assert(fc.property(fc.array(edit, { maxLength: 8 }), edits => {
      let job = start
      const inverses: Edit[] = []
      for (const e of edits) {
        expect(EditSchema.safeParse(e).success).toBe(true)
        inverses.push(inverseOf(job, e))
        const before = job
        job = applyEdit(job, e)
        for (const list of LISTS) {
          // no row twice, and those that stay do not change places
          expect(new Set(ids(job, list)).size).toBe(job[list].length)
          const stay = new Set(ids(before, list).filter(id => ids(job, list).includes(id)))
          expect(ids(job, list).filter(id => stay.has(id))).toEqual([...stay])
        }
      }
      const after = job
      for (const i of inverses.toReversed()) {
        expect(EditSchema.safeParse(i).success).toBe(true)
        job = applyEdit(job, i)
      }
      expect(asSets(job)).toEqual(asSets(start))
      // and done again
      for (const e of edits) job = applyEdit(job, e)
      expect(asSets(job)).toEqual(asSets(after))
    }), { numRuns: 400 })
  })
  it('put a row that they also drop', () => {
    const both: Edit = { label: 'both', putBeams: [beam(1, 7)], dropBeams: ['1.cone'] }
    expect(applyEdit(start, both).beams).toEqual([beam(1, 7), beam(2, 2)])
    expect(applyEdit(applyEdit(start, both), inverseOf(start, both))).toEqual(start)
  })
  it('leave alone what they do not name', () => {
    const next = applyEdit(start, { label: 'move', putNodes: [knee(2, 9)] })
    expect(next.nodes.map(n => n.at[0])).toEqual([1, 9, 3])
    expect(next.beams).toBe(start.beams)
  })
  it('are refused where they are not well formed', () => {
    expect(EditSchema.safeParse({ label: 'x', putNodes: [{ id: 'a', kind: 'knee', stilt: 1, at: [0, 0, NaN] }] }).success).toBe(false)
    expect(PlanFileSchema.safeParse({ format: 'other', version: 1, pose: null, nodes: [], beams: [] }).success).toBe(false)
  })
})
