import type { Outcome } from '@oak-stilts/core/contract'
import type { DemoModel } from './jobs'

/** A print of the theatre's workshop, made up, as it is noted in the log of the demo. */
export interface DemoPrint {
  readonly model: DemoModel
  readonly at: string
  readonly seconds: number
  readonly resinMl: number
  readonly outcome: Outcome
  /** What the resin was set to then, where that was another value. */
  readonly exposureS?: number
}

/** Six prints: the buoy failed twice at the same height, which is the file and no chance. */
export const DEMO_PRINTS: readonly DemoPrint[] = [
  { model: 'lamp', at: '2026-09-12T15:20:00.000Z', seconds: 6420, resinMl: 1.9, outcome: { kind: 'good', note: 'For the lamp above the stage. Two drops had to be glued.' } },
  { model: 'bracket', at: '2026-09-19T09:05:00.000Z', seconds: 8260, resinMl: 9.4, outcome: { kind: 'good', note: '' } },
  { model: 'heron', at: '2026-09-26T18:40:00.000Z', seconds: 15700, resinMl: 11.2, outcome: { kind: 'failed', layer: 1010, symptom: 'missing', copies: [], note: 'The tip of the left wing stayed in the vat.' } },
  { model: 'bell-held', at: '2026-10-03T10:30:00.000Z', seconds: 14040, resinMl: 17.5, outcome: { kind: 'good', note: 'Came off the stilts clean.' } },
  { model: 'buoy', at: '2026-10-10T16:10:00.000Z', seconds: 11900, resinMl: 14.8, outcome: { kind: 'failed', layer: 236, symptom: 'broken', copies: [], note: 'The body hung half off its supports.' } },
  { model: 'buoy', at: '2026-10-17T16:45:00.000Z', seconds: 12400, resinMl: 14.8, exposureS: 3, outcome: { kind: 'failed', layer: 241, symptom: 'broken', copies: [], note: 'Again, with longer light.' } },
]
