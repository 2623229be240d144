import { z } from 'zod'
import { finite, positive } from './primitives'

/** A named set of support sizes, mm and degrees. */
export const GaugeSchema = z.object({
  id: z.string().min(1).max(40),
  name: z.string().min(1).max(60),
  tipDiameterMm: positive.max(10),
  penetrationMm: finite.min(0).max(5),
  coneLengthMm: positive.max(30),
  coneShortestMm: positive.max(30),
  kneeDiameterMm: positive.max(20),
  shaftFootDiameterMm: positive.max(20),
  footDiameterMm: positive.max(40),
  footHeightMm: positive.max(10),
  /** Tip of a foot that stands on the model. */
  modelFootDiameterMm: positive.max(10),
  modelFootPenetrationMm: finite.min(0).max(5),
  preferredLeanDeg: finite.min(0).max(80),
  gapMm: finite.min(0).max(5),
})
export type Gauge = z.infer<typeof GaugeSchema>
