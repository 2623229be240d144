import { z } from 'zod'
import { finite, IdSchema, pointIn, positive } from './primitives'

const share = finite.min(-1.0001).max(1.0001)
/** A direction of length 1 along the axes of the source, after it was scaled and before it was mirrored. */
const DirectionSchema = z.tuple([share, share, share])

/** Takes the inside out of a part, down to a wall. */
export const HollowStepSchema = z.object({
  on: z.boolean(),
  /** Measured from the skin inward. */
  wallMm: positive.min(0.2).max(50),
  /** How fine the inner wall is made. */
  cellMm: positive.min(0.05).max(5),
  /** Which way was up, and what the ceilings had to keep to, where they were shaped to carry themselves. */
  carries: z.object({ up: DirectionSchema, slopeDeg: finite.min(10).max(80), flapMm: positive.max(20) }).nullable(),
})
export type HollowStep = z.infer<typeof HollowStepSchema>

/** Drills one round hole into a part. */
export const HoleStepSchema = z.object({
  id: IdSchema,
  on: z.boolean(),
  /** Where it begins, on the skin. */
  at: pointIn<'source'>(),
  into: DirectionSchema,
  diameterMm: positive.min(0.2).max(50),
  /** Where it ends; the same unless it tapers. */
  endDiameterMm: positive.min(0.2).max(50),
  /** Null where it goes through the whole part. */
  depthMm: positive.max(1000).nullable(),
})
export type HoleStep = z.infer<typeof HoleStepSchema>
/** Holes of one part at the most. */
export const MOST_HOLES = 100
