import { z } from 'zod'
import { count, finite, HashSchema, IdSchema, NameSchema, positive } from './primitives'
import { SmoothingSchema } from './printing'
import { ResinSchema } from './resin'

/** What went wrong with a print, as it is seen. */
export const SymptomSchema = z.enum(['missing', 'shift', 'wobble', 'stuck', 'broken', 'fused', 'nothing'])
export type Symptom = z.infer<typeof SymptomSchema>

/** A note as people write it, more than a line. */
const NoteSchema = z.string().max(2000)

/** How a print came out. Layers are counted from 0. */
export const OutcomeSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('good'), note: NoteSchema }),
  z.object({
    kind: z.literal('failed'),
    /** Where it failed; null where nobody can say. */
    layer: count.nullable(),
    symptom: SymptomSchema,
    /** The copies that failed, by what they are named in the print; all of them where the list is empty. */
    copies: z.array(z.string().max(60)).max(1000),
    note: NoteSchema,
  }),
])
export type Outcome = z.infer<typeof OutcomeSchema>

/** What of a job a print depended on, so that the next one can be set beside it. Lengths in mm, times in s, speeds in mm/min. */
export const PrintFactsSchema = z.object({
  printer: NameSchema,
  layerMm: positive.max(1),
  layers: count,
  resin: ResinSchema.pick({ name: true, exposureS: true, bottomExposureS: true, bottomLayers: true, transitionLayers: true, restS: true, travelMm: true, travelUpMmMin: true, travelDownMmMin: true }),
  smoothing: SmoothingSchema,
  /** Ranges of heights that were printed in a way of their own. */
  ranges: z.array(z.object({ fromMm: finite, toMm: finite })).max(20),
  parts: z.array(z.object({
    id: IdSchema, name: NameSchema, tiltXDeg: finite, tiltYDeg: finite, liftMm: finite, raft: z.string().max(20),
    stilts: count,
    /** Tips by the gauge that they were placed with; their smallest and largest diameter. */
    gauges: z.array(z.object({ name: NameSchema, count })).max(100),
    leastTipMm: finite.nonnegative(), mostTipMm: finite.nonnegative(),
    copies: z.array(z.string().max(60)).max(1000),
    /** Which recipe of plans it was planned with; null for none. */
    recipe: z.string().max(120).nullable(),
  })).max(200),
})
export type PrintFacts = z.infer<typeof PrintFactsSchema>

/** A print in the log. It stays when its job is deleted. */
export const PrintSchema = z.object({
  id: IdSchema,
  /** The job and its state, as far as layers depend on it; null for a print without a job. */
  job: z.object({ id: z.string().max(60), state: z.string().max(200) }).nullable(),
  name: NameSchema,
  at: z.string().datetime(),
  facts: PrintFactsSchema,
  seconds: finite.nonnegative(),
  resinMl: finite.nonnegative(),
  /** Of its package. */
  sha256: HashSchema.nullable(),
  /** Null while nobody has said how it came out. */
  outcome: OutcomeSchema.nullable(),
  /** Hash of a photograph. */
  photo: HashSchema.nullable(),
})
export type Print = z.infer<typeof PrintSchema>
export type FailedOutcome = Extract<Outcome, { kind: 'failed' }>
