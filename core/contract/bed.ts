import { z } from 'zod'
import { GaugeSchema } from './gauge'
import { OwnSizesSchema } from './plan'
import { finite, NameSchema } from './primitives'

const place = finite.min(-2000).max(2000)

/** One peg: where it rises, from the middle of its bed, and what of its gauge was changed by hand. */
export const PegSchema = z.object({ xMm: place, yMm: place, gauge: z.string().min(1).max(40), own: OwnSizesSchema.default({}) })
export type Peg = z.infer<typeof PegSchema>

/** Pegs with their gauges: a pattern that rises from the plate to whatever stands above it. */
export const PegPatternSchema = z.object({ pegs: z.array(PegSchema).min(1).max(5000), gauges: z.array(GaugeSchema).min(1).max(50) })
  .refine(({ pegs, gauges }) => pegs.every(p => gauges.some(g => g.id === p.gauge)), 'names a gauge that it does not have')
export type PegPattern = z.infer<typeof PegPatternSchema>

/** A pattern that is kept, and the resins that it proved with. */
export const PegBedSchema = z.object({
  name: NameSchema,
  pattern: PegPatternSchema,
  provedWith: z.array(z.object({ resin: NameSchema, on: z.iso.date() })).max(200).default([]),
})
export type PegBed = z.infer<typeof PegBedSchema>
