import { z } from 'zod'
import { finite, positive } from './primitives'

/** What is under the feet of stilts: nothing; a pad under each; pads that bars join; one whole plate. */
export const RaftKindSchema = z.enum(['none', 'pads', 'joined', 'plate'])
export type RaftKind = z.infer<typeof RaftKindSchema>

/** What a part's stilts stand on, made from their feet by a rule. */
export const RaftSchema = z.object({
  kind: RaftKindSchema,
  thicknessMm: positive.min(0.1).max(10),
  /** How far it goes beyond the feet, at its top. */
  marginMm: finite.min(0).max(20),
  /** Between its sides and the plate: under 90° they lean outward, so that a scraper gets under. */
  lipDeg: finite.min(30).max(90),
  /** Width of the bars that join pads. */
  barMm: positive.min(0.4).max(20),
  /** Feet that are farther apart are not joined. */
  reachMm: positive.max(200),
  /** Holes through a whole plate, so that it does not pull; none at 0. */
  ventMm: finite.min(0).max(20),
  ventEveryMm: positive.min(1).max(100),
})
export type Raft = z.infer<typeof RaftSchema>

/** No raft, with the sizes that one has at first (common practice and from memory). */
export const NO_RAFT: Raft = { kind: 'none', thicknessMm: 0.8, marginMm: 1, lipDeg: 55, barMm: 2, reachMm: 15, ventMm: 2, ventEveryMm: 8 }
