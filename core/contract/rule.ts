import { z } from 'zod'
import { WorthSchema } from './mark'
import { RoleSchema } from './plan'
import { finite } from './primitives'

/** From and to, each where it is asked for. */
const RangeSchema = z.tuple([finite.nullable(), finite.nullable()])

/** Which stilts are meant, by what they have in common; what is left out does not matter. */
export const SelectRuleSchema = z.object({
  gauge: z.string().min(1).max(40).optional(),
  role: RoleSchema.optional(),
  /** On another stilt are branches. */
  foot: z.enum(['plate', 'model', 'stilt', 'lost']).optional(),
  /** Of the skin that the tip touches. */
  worth: WorthSchema.optional(),
  /** Those at the finding that is chosen. */
  nearChosen: z.boolean().default(false),
  tipMm: RangeSchema.optional(),
  /** Of the tip above the plate, mm. */
  heightMm: RangeSchema.optional(),
  leanDeg: RangeSchema.optional(),
  /** Of the load that all tips carry, an estimate. */
  sharePercent: RangeSchema.optional(),
  /** All others instead. */
  everythingBut: z.boolean().default(false),
})
export type SelectRule = z.infer<typeof SelectRuleSchema>
