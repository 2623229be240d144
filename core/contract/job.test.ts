import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { applyEdit, DEFAULT_SETTINGS, EditSchema, inverseOf, PlanFileSchema, type Edit, type JobContent, type PlanBeam, type PlanNode, type Waiver } from './index'

const knee = (n: number, x: number): PlanNode => ({ id: `${n}.knee`, stilt: n, kind: 'knee', at: [x, 0, 5] })
const beam = (n: number, d: number): PlanBeam => ({ id: `${n}.cone`, stilt: n, from: `${n}.tip`, to: `${n}.knee`, fromDiameterMm: d, toDiameterMm: 1 })
const waiver = (n: number, reason: string): Waiver => ({ id: `w${n}`, kind: 'island', at: [n, 0, 0], reason })
const start: JobContent = { name: 'job', pose: { tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm: 5 }, poseSettled: true, nodes: [knee(1, 1), knee(2, 2), knee(3, 3)], beams: [beam(1, 1), beam(2, 2)], settings: DEFAULT_SETTINGS, waivers: [waiver(1, 'spare')] }
const number = fc.integer({ min: 1, max: 6 })
const edit = fc.record<Edit>({
  label: fc.constant('edit'),
  putNodes: fc.uniqueArray(fc.tuple(number, fc.integer({ min: 0, max: 99 })), { selector: t => t[0], maxLength: 4 }).map(l => l.map(([n, x]) => knee(n, x))),
  dropBeams: fc.uniqueArray(number.map(n => `${n}.cone`), { maxLength: 3 }),
  pose: fc.record({ tiltXDeg: fc.integer({ min: -90, max: 90 }), tiltYDeg: fc.constant(0), turnDeg: fc.constant(0), liftMm: fc.constant(5) }),
  name: fc.constantFrom('a', 'b'),
  settings: fc.integer({ min: 1, max: 9 }).map(flapMm => ({ ...DEFAULT_SETTINGS, flapMm })),
  putWaivers: fc.uniqueArray(fc.integer({ min: 1, max: 4 }), { maxLength: 2 }).map(l => l.map(n => waiver(n, 'the wall hides it'))),
  dropWaivers: fc.uniqueArray(fc.constantFrom('w1', 'w2'), { maxLength: 2 }),
}, { requiredKeys: ['label'] })

const sorted = (job: JobContent): unknown => ({ ...job, nodes: [...job.nodes].sort((a, b) => a.id.localeCompare(b.id)), beams: [...job.beams].sort((a, b) => a.id.localeCompare(b.id)), waivers: [...job.waivers].sort((a, b) => a.id.localeCompare(b.id)) })

describe('edits', () => {
  it('are taken back by their inverse, step by step', () => {
    fc.assert(fc.property(fc.array(edit, { maxLength: 8 }), edits => {
      let job = start
      const inverses: Edit[] = []
      for (const e of edits) {
        expect(EditSchema.safeParse(e).success).toBe(true)
        inverses.push(inverseOf(job, e))
        job = applyEdit(job, e)
      }
      for (const i of inverses.reverse()) job = applyEdit(job, i)
      expect(sorted(job)).toEqual(sorted(start))
    }))
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
