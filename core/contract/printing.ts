import { z } from 'zod'
import { finite, IdSchema, positive } from './primitives'
import { ResinSchema } from './resin'

/** How light and plate travel are set for a layer, s, mm and mm/min. */
export const LayerTimesSchema = z.object({
  exposureS: ResinSchema.shape.exposureS,
  restS: ResinSchema.shape.restS,
  travelMm: ResinSchema.shape.travelMm,
  travelUpMmMin: ResinSchema.shape.travelUpMmMin,
  travelDownMmMin: ResinSchema.shape.travelDownMmMin,
})
export type LayerTimes = z.infer<typeof LayerTimesSchema>

/** Layers between two heights that are printed in another way than the resin asks. */
export const HeightRangeSchema = z.object({
  id: IdSchema,
  /** From the plate, mm; a layer belongs to it where its middle does. */
  fromMm: finite.min(0).max(2000),
  toMm: positive.max(2000),
  /** What is set in place of the resin's; bottom and transition layers keep their exposure. */
  set: LayerTimesSchema.partial(),
  /** Why, as it was proposed. */
  why: z.string().max(300).default(''),
}).refine(r => r.toMm > r.fromMm, { message: 'must end above where it begins', path: ['toMm'] })
export type HeightRange = z.infer<typeof HeightRangeSchema>
/** Ranges of a job. */
export const MOST_RANGES = 20

/** How finely a pixel's share of light is found: rows and columns within a pixel, and layers within a layer. */
export const SMOOTHINGS = { none: { across: 1, layers: 1 }, twice: { across: 2, layers: 1 }, fourfold: { across: 4, layers: 1 }, finest: { across: 4, layers: 2 } } as const
export const SmoothingSchema = z.enum(Object.keys(SMOOTHINGS) as [keyof typeof SMOOTHINGS, ...(keyof typeof SMOOTHINGS)[]])
export type Smoothing = z.infer<typeof SmoothingSchema>
/** Shades that a smoothing gives, black among them. */
export function shadesOf(smoothing: Smoothing): number {
  const { across, layers } = SMOOTHINGS[smoothing]
  return across * across * layers + 1
}

/** How a job is printed, besides what its printer and its resin say. */
export const PrintSettingsSchema = z.object({
  smoothing: SmoothingSchema,
  /** Along x, y and z, %; null for what the resin says, the same along each. */
  shrinkagePercent: z.tuple([ResinSchema.shape.shrinkagePercent, ResinSchema.shape.shrinkagePercent, ResinSchema.shape.shrinkagePercent]).nullable(),
  /** Where two take in a layer, the later one counts. */
  ranges: z.array(HeightRangeSchema).max(MOST_RANGES),
  /** Room that laying out leaves between copies, mm; and whether it may turn them by quarters. */
  gapMm: finite.min(0).max(50),
  turns: z.boolean(),
})
export type PrintSettings = z.infer<typeof PrintSettingsSchema>
/** As the resin says, without shades. */
export const PLAIN_PRINT: PrintSettings = { smoothing: 'none', shrinkagePercent: null, ranges: [], gapMm: 2, turns: false }
