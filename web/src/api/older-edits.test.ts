import { describe, expect, it } from 'vitest'
import { applyChange, AS_MADE, contentOf, DEFAULT_SETTINGS, EditSchema, type JobContent, type Part } from '@oak-stilts/core/contract'
import { PlanIndex } from '@oak-stilts/core/stilts'
import { copyRow, jobRow, partRow } from '../../../core/testing/jobs'
import { upgradedEdits } from './older-edits'
import type { KeptEdit } from './unsent'

/** Edits as an older page kept them in the browser. */
const kept = (...edits: object[]): KeptEdit[] => edits.map((edit, i) => ({ batch: `batch-${i}`, edit: edit as KeptEdit['edit'] }))
const pose = { tiltXDeg: 7, tiltYDeg: 0, turnDeg: 0, liftMm: 5 }
const stilt = {
  label: 'place',
  putNodes: [
    { id: '1.tip', stilt: 1, at: [1, 0, 9], kind: 'tip', contact: { point: [1, 0, 0], normal: [0, 0, -1] }, gauge: 'light', role: 'detail', diameterMm: 0.4, penetrationMm: 0.2, byHand: ['tipDiameterMm'] },
    { id: '1.knee', stilt: 1, at: [1, 0, 6], kind: 'knee' }, { id: '1.foot', stilt: 1, at: [1, 0, 0], kind: 'foot', on: 'plate', diameterMm: 3, heightMm: 0.8 },
  ],
  putBeams: [{ id: '1.cone', stilt: 1, from: '1.tip', to: '1.knee', fromDiameterMm: 0.4, toDiameterMm: 0.9 }, { id: '1.shaft1', stilt: 1, from: '1.knee', to: '1.foot', fromDiameterMm: 0.9, toDiameterMm: 1.1 }],
}
function put(edits: readonly KeptEdit[], job: JobContent): { job: JobContent; left: number } {
  const upgraded = upgradedEdits(edits, job)
  for (const { edit } of upgraded.edits) {
    expect(EditSchema.safeParse(edit).success).toBe(true)
    applyChange(job, edit)
  }
  return { job, left: upgraded.left }
}

describe('edits that an older page kept', () => {
  it('do what they meant: name, pose, settings, stilts, waivers', () => {
    const { job, left } = put(kept(
      { label: 'rename', name: 'renamed' }, { label: 'tilt', pose, poseSettled: true }, { label: 'limits', settings: { ...DEFAULT_SETTINGS, flapMm: 2 } }, stilt,
      { label: 'waive', putWaivers: [{ id: 'w', kind: 'cup', at: [1, 2, 3], reason: 'hidden' }] },
    ), contentOf(jobRow('job')))
    expect([left, job.fields.name, job.fields.settings.flapMm, job.tables.parts.get('part')?.pose, job.tables.waivers.get('w')?.part]).toEqual([0, 'renamed', 2, { tiltXDeg: 7, tiltYDeg: 0, liftMm: 5 }, 'part'])
    expect(new PlanIndex(job.tables.nodes, job.tables.beams).stiltsOf('part')).toMatchObject([{ number: 1, path: [[1, 0, 9], [1, 0, 6], [1, 0, 0]], own: { tipDiameterMm: 0.4 } }])
    expect(put(kept({ label: 'delete', dropNodes: ['1.tip', '1.knee', '1.foot'], dropBeams: ['1.cone', '1.shaft1'] }), job).job.tables.nodes.size).toBe(0)
  })
  it('turn the copy; stilts that were placed on a turned part are left, with what follows, and counted', () => {
    const { job, left } = put(kept({ label: 'turn', pose: { ...pose, turnDeg: 40 } }, stilt, { label: 'rename', name: 'later' }), contentOf(jobRow('job', { copies: [copyRow()] })))
    expect([job.tables.copies.get('copy')?.turnDeg, job.tables.nodes.size, job.fields.name, left]).toEqual([40, 0, 'job', 2])
  })
  it('get what rows had not yet, such as the recipe of a part', () => {
    const part: Partial<Part> = { ...partRow() }
    delete part.recipe
    delete part.sizeSettled
    const [{ edit }] = upgradedEdits(kept({ label: 'tilt', step: 's', way: 'do', put: { parts: [part] } }), contentOf(jobRow())).edits
    expect(edit.put?.parts?.[0]).toMatchObject({ recipe: AS_MADE, sizeSettled: false })
    // what cannot be read ends it
    expect(upgradedEdits(kept({ label: 'tilt', step: 's', way: 'do', put: { parts: [{}] } }, { label: 'rename', step: 't', way: 'do', set: { name: 'x' } }), contentOf(jobRow()))).toEqual({ edits: [], left: 2 })
  })
  it('of today stay as they are', () => {
    const today = kept({ label: 'rename', step: 's', way: 'do', set: { name: 'x' } })
    expect(upgradedEdits(today, contentOf(jobRow()))).toEqual({ edits: today, left: 0 })
  })
})
