import { z } from 'zod'
import { WaivableKindSchema } from './finding'
import { IdSchema, pointIn } from './primitives'

/** A finding that somebody decided to leave as it is. It is known again by its kind and its place on the part. */
export const WaiverSchema = z.object({
  id: IdSchema,
  part: IdSchema,
  kind: WaivableKindSchema,
  /** In the coordinates of the source, so that it survives a change of pose. */
  at: pointIn<'source'>(),
  reason: z.string().trim().min(1).max(300),
})
export type Waiver = z.infer<typeof WaiverSchema>
