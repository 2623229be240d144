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
/** Makes a part the plug of a hole: what the hole would take out of it, smaller all around. */
export const PlugStepSchema = z.object({ hole: HoleStepSchema, clearanceMm: finite.min(0).max(2) })
export type PlugStep = z.infer<typeof PlugStepSchema>
/** Holes of one part at the most. */
export const MOST_HOLES = 100

/** Pegs on what lies below a cut, and sockets for them in what lies above. */
export const PegsSchema = z.object({
  shape: z.enum(['round', 'keyed']),
  diameterMm: positive.min(0.5).max(50),
  /** Its diameter at its end. */
  endDiameterMm: positive.min(0.5).max(50),
  /** How far it stands out. */
  depthMm: positive.min(0.5).max(100),
  /** Gap between peg and socket, all around and at the end. */
  clearanceMm: finite.min(0).max(2),
  /** Wall that is left beside a socket at least. */
  wallMm: finite.min(0.1).max(20),
  /** Their middles, on the plane. */
  at: z.array(pointIn<'source'>()).min(1).max(50),
})
export type Pegs = z.infer<typeof PegsSchema>

/** Cuts a part in two by a plane, and keeps one side. The other side is another part, with the same step. */
export const CutStepSchema = z.object({
  /** Both sides have the same. */
  id: IdSchema,
  /** A point of the plane. */
  at: pointIn<'source'>(),
  /** What it looks at is above. */
  normal: DirectionSchema,
  keeps: z.enum(['above', 'below']),
  /** Points in pieces of the section that the cut does not go through. */
  whole: z.array(pointIn<'source'>()).max(200),
  pegs: PegsSchema.nullable(),
})
export type CutStep = z.infer<typeof CutStepSchema>
/** Cuts that a part comes from at the most. */
export const MOST_CUTS = 20
