import { z } from 'zod'
import { PegPatternSchema } from './bed'
import { RunsSchema } from './mark'
import { AnchorSchema } from './plan'
import { finite, IdSchema, NameSchema, positive } from './primitives'

const MOST_POINTS = 20000

/** Where many stilts are spread at once. Its points are in the coordinates of the source, so that they survive every change of pose. */
export const SpreadWaySchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('line'), from: AnchorSchema, to: AnchorSchema }),
  /** Along an edge, or the border of a face: in order, what is held to the left of it as one looks at the skin. */
  z.object({ kind: z.literal('edge'), points: z.array(AnchorSchema).min(2).max(MOST_POINTS), closed: z.boolean() }),
  /** Over faces, named by the triangles of the file: along their outline first, by so much inside it, then within. */
  z.object({ kind: z.literal('face'), runs: RunsSchema, pattern: z.enum(['hexagonal', 'square']), marginMm: finite.min(0).max(50) }),
  /** Where a pointer went, with how much it was pressed, 0 to 1; 0.5 where it cannot tell. */
  z.object({ kind: z.literal('strokes'), points: z.array(AnchorSchema.extend({ pressure: finite.min(0).max(1) })).min(1).max(MOST_POINTS), pressure: z.enum(['nothing', 'spacing', 'gauge']) }),
  /** A bed of pegs under the part, in its stand: turned about its middle, then moved there. `bed` names the one of the workshop that it was dropped from. */
  z.object({ kind: z.literal('bed'), name: NameSchema, bed: IdSchema.nullable(), pattern: PegPatternSchema, xMm: finite.min(-2000).max(2000), yMm: finite.min(-2000).max(2000), turnDeg: finite.min(-360).max(360) }),
])
export type SpreadWay = z.infer<typeof SpreadWaySchema>

/** Stilts that were spread in one go. They can be taken up again: changed as one, and placed anew. */
export const SpreadSchema = z.object({
  id: IdSchema,
  part: IdSchema,
  gauge: z.string().min(1).max(40),
  spacingMm: positive.min(0.1).max(100),
  /** Distance that is kept to tips that stand already; 0 for none. */
  keepMm: finite.min(0).max(50),
  way: SpreadWaySchema,
})
export type Spread = z.infer<typeof SpreadSchema>
