import { describe, expect, it } from 'vitest'
import { DEFAULT_PRINTER, DEFAULT_SETTINGS, type Job } from '@oak-stilts/core/contract'
import { sameForScan } from './context'

const job = { name: 'job', pose: { tiltXDeg: 5, tiltYDeg: 0, turnDeg: 0, liftMm: 5 }, poseSettled: false, nodes: [], beams: [], settings: DEFAULT_SETTINGS, waivers: [], printer: DEFAULT_PRINTER } as unknown as Job

describe('what makes a scan anew', () => {
  it('is not a name, a waiver, or the same numbers once more', () => {
    expect(sameForScan({ ...job, name: 'other', poseSettled: true }, job)).toBe(true)
    expect(sameForScan({ ...job, pose: { ...job.pose }, settings: { ...job.settings } }, job)).toBe(true)
    expect(sameForScan({ ...job, waivers: [{ id: 'w', kind: 'island', at: [0, 0, 0], reason: 'hidden' }] }, job)).toBe(true)
  })
  it('is a pose, a stilt, a limit', () => {
    expect(sameForScan({ ...job, pose: { ...job.pose, turnDeg: 1 } }, job)).toBe(false)
    expect(sameForScan({ ...job, nodes: [] }, job)).toBe(false)
    expect(sameForScan({ ...job, settings: { ...job.settings, flapMm: 1.2 } }, job)).toBe(false)
  })
})
