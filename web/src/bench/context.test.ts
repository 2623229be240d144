import { describe, expect, it } from 'vitest'
import { applyChange, contentOf, DEFAULT_SETTINGS, type Change, type JobContent, type Part } from '@oak-stilts/core/contract'
import { copyRow, jobRow, kneeRow, partRow } from '../../../core/testing/jobs'
import { touchesScan } from './context'

/** Whether a change makes another scan of the part on the bench. */
function scansAnew(change: Omit<Change, 'label'>): boolean {
  const job: JobContent = contentOf(jobRow('job', { parts: [partRow(), partRow('other')], nodes: [kneeRow(1)] }))
  const before = job.tables.parts.get('part') as Part, whole: Change = { label: 'change', ...change }
  const { touched } = applyChange(job, whole)
  return touchesScan(whole, touched, job.tables.parts.get('part') as Part, before, false)
}

describe('what makes a scan anew', () => {
  it('is not a name, a waiver, a place on the plate, another part, or the same numbers once more', () => {
    expect(scansAnew({ set: { name: 'other' }, put: { parts: [partRow('part', { name: 'other', poseSettled: false })] } })).toBe(false)
    expect(scansAnew({ put: { waivers: [{ id: 'w', part: 'part', kind: 'island', at: [0, 0, 0], reason: 'hidden' }] } })).toBe(false)
    expect(scansAnew({ put: { copies: [copyRow('copy', 'part', { xPixels: 100, turnDeg: 33 })] } })).toBe(false)
    expect(scansAnew({ put: { parts: [partRow('other', { pose: { tiltXDeg: 5, tiltYDeg: 0, liftMm: 5 } })], nodes: [kneeRow(2, 2, 'other')] } })).toBe(false)
  })
  it('is a pose, a stilt, a limit', () => {
    expect(scansAnew({ put: { parts: [partRow('part', { pose: { tiltXDeg: 1, tiltYDeg: 0, liftMm: 5 } })] } })).toBe(true)
    expect(scansAnew({ put: { nodes: [kneeRow(2)] } })).toBe(true)
    expect(scansAnew({ drop: { nodes: [kneeRow(1).id] } })).toBe(true)
    expect(scansAnew({ set: { settings: { ...DEFAULT_SETTINGS, flapMm: 1.2 } } })).toBe(true)
  })
})
