import { describe, expect, it } from 'vitest'
import { applyEdit, DEFAULT_SETTINGS, inverseOf, type JobContent } from '@oak-stilts/core/contract'
import { gaugeOf, sizesOf, stiltsOfGraph, type Stilt } from '@oak-stilts/core/stilts'
import { stiltsEdit } from './job'

const stilt = (id: number, joints = 0): Stilt => ({
  id, gauge: 'light', role: 'detail', sizes: sizesOf(gaugeOf('light')), byHand: [], contact: { point: [id, 0, 0], normal: [0, 0, -1] }, foot: 'plate',
  path: [[id, 0, 20], [id, 0, 17.5], ...Array.from({ length: joints }, (_, j) => [id + 2 + j, 0, 12 - j] as const), [id + 2 + joints, 0, 0]],
})
const empty: JobContent = { name: 'job', pose: { tiltXDeg: 0, tiltYDeg: 0, turnDeg: 0, liftMm: 5 }, poseSettled: true, nodes: [], beams: [], settings: DEFAULT_SETTINGS, waivers: [] }
const ids = (job: JobContent): number[] => stiltsOfGraph(job).stilts.map(s => s.id)

describe('edits of stilts', () => {
  it('place, replace with fewer joints, and delete without leaving pieces behind', () => {
    let job = applyEdit(empty, stiltsEdit(empty, 'place', [stilt(1, 3), stilt(2)]))
    expect(ids(job)).toEqual([1, 2])
    expect([job.nodes.length, job.beams.length]).toEqual([6 + 3, 5 + 2])
    const straight = stiltsEdit(job, 'move', [stilt(1)])
    expect(straight.dropNodes).toHaveLength(3)
    const inverse = inverseOf(job, straight)
    const before = job
    job = applyEdit(job, straight)
    expect([job.nodes.length, job.beams.length, stiltsOfGraph(job).broken]).toEqual([6, 4, 0])
    expect(stiltsOfGraph(applyEdit(job, inverse)).stilts).toEqual(stiltsOfGraph(before).stilts)
    job = applyEdit(job, stiltsEdit(job, 'delete', [], [1]))
    expect([ids(job), job.nodes.length]).toEqual([[2], 3])
  })
})
