import { z } from 'zod'
import { finite, positive } from './primitives'

/** How the upper end of a stilt is shaped: straight in, or a small sphere that gives a clean break. */
export const TipShapeSchema = z.enum(['cone', 'ball'])
export type TipShape = z.infer<typeof TipShapeSchema>

/** A named set of support sizes, mm and degrees. */
export const GaugeSchema = z.object({
  id: z.string().min(1).max(40),
  name: z.string().trim().min(1).max(60),
  /** Where it stands among others, the smallest first; the first nine have the keys 1 to 9. */
  order: finite.min(-1e9).max(1e9).default(0),
  tipShape: TipShapeSchema.default('cone'),
  tipDiameterMm: positive.max(10),
  penetrationMm: finite.min(0).max(5),
  coneLengthMm: positive.max(30),
  coneShortestMm: positive.max(30),
  kneeDiameterMm: positive.max(20),
  /** Of a shaft of the usual height. */
  shaftFootDiameterMm: positive.max(20),
  /** A shaft opens downward by this angle to each side at least, so that it is thicker where it is tall; until it is as thick as it may be. */
  thickenDeg: finite.min(0).max(20).default(0),
  thickestMm: positive.max(20).default(3),
  footDiameterMm: positive.max(40),
  footHeightMm: positive.max(10),
  /** Tip of a foot that stands on the model. */
  modelFootDiameterMm: positive.max(10),
  modelFootPenetrationMm: finite.min(0).max(5),
  /** Over how many points it is spread, and how far each of them is from their middle. */
  modelFootPoints: z.number().int().min(1).max(4).default(1),
  modelFootSpreadMm: positive.max(20).default(1.2),
  preferredLeanDeg: finite.min(0).max(80),
  /** Lean from vertical that no cone and no shaft exceeds. */
  leanLimitDeg: finite.min(0).max(80).default(45),
  gapMm: finite.min(0).max(5),
  /** From tip to tip where many are spread. */
  spacingMm: positive.max(50).default(2),
  /** Free shaft above which it wants a brace. */
  longestMm: positive.max(500).default(30),
  braceDiameterMm: positive.max(10).default(0.7),
  /** Tip of a branch, and how thick that is where it joins. */
  branchTipMm: positive.max(10).default(0.25),
  branchBaseMm: positive.max(10).default(0.4),
})
export type Gauge = z.infer<typeof GaugeSchema>
/** Sizes of a gauge that are numbers of a stilt or of how it is placed. */
export type GaugeValue = Exclude<keyof Gauge, 'id' | 'name' | 'order' | 'tipShape'>

/** Every number of a gauge with the unit it is given in. */
export const GAUGE_VALUES: readonly { readonly name: GaugeValue; readonly label: string; readonly unit: string; readonly digits: number }[] = [
  { name: 'tipDiameterMm', label: 'Tip diameter', unit: 'mm', digits: 2 },
  { name: 'penetrationMm', label: 'Penetration', unit: 'mm', digits: 2 },
  { name: 'coneLengthMm', label: 'Cone length', unit: 'mm', digits: 2 },
  { name: 'coneShortestMm', label: 'Shortest cone', unit: 'mm', digits: 2 },
  { name: 'kneeDiameterMm', label: 'Knee diameter', unit: 'mm', digits: 2 },
  { name: 'shaftFootDiameterMm', label: 'Shaft diameter', unit: 'mm', digits: 2 },
  { name: 'thickenDeg', label: 'Thickens by', unit: '°', digits: 1 },
  { name: 'thickestMm', label: 'Thickest shaft', unit: 'mm', digits: 2 },
  { name: 'footDiameterMm', label: 'Foot diameter', unit: 'mm', digits: 2 },
  { name: 'footHeightMm', label: 'Foot height', unit: 'mm', digits: 2 },
  { name: 'modelFootDiameterMm', label: 'Foot on the model', unit: 'mm', digits: 2 },
  { name: 'modelFootPenetrationMm', label: 'Its penetration', unit: 'mm', digits: 2 },
  { name: 'modelFootPoints', label: 'Its points', unit: '', digits: 0 },
  { name: 'modelFootSpreadMm', label: 'Spread', unit: 'mm', digits: 2 },
  { name: 'preferredLeanDeg', label: 'Preferred lean', unit: '°', digits: 0 },
  { name: 'leanLimitDeg', label: 'Lean limit', unit: '°', digits: 0 },
  { name: 'gapMm', label: 'Gap', unit: 'mm', digits: 2 },
  { name: 'spacingMm', label: 'Spacing', unit: 'mm', digits: 2 },
  { name: 'longestMm', label: 'Longest unbraced', unit: 'mm', digits: 1 },
  { name: 'braceDiameterMm', label: 'Brace diameter', unit: 'mm', digits: 2 },
  { name: 'branchTipMm', label: 'Tip of a branch', unit: 'mm', digits: 2 },
  { name: 'branchBaseMm', label: 'Its base', unit: 'mm', digits: 2 },
]

/** The least and the most that a value of a gauge can be. */
export function gaugeLimits(name: GaugeValue): readonly [number, number] {
  const schema = GaugeSchema.shape[name] as z.ZodNumber | z.ZodDefault<z.ZodNumber>
  const { minValue, maxValue } = 'minValue' in schema ? schema : schema.unwrap()
  return [Math.max(name.endsWith('Deg') || name.toLowerCase().includes('penetration') || name === 'gapMm' ? 0 : 0.05, minValue ?? 0), maxValue ?? Infinity]
}

const usual = { tipShape: 'cone', modelFootPoints: 1, modelFootSpreadMm: 1.2, thickenDeg: 0, leanLimitDeg: 45 } as const
/** Built-in gauges (common practice and from memory); starting points that people change. */
export const BUILT_IN_GAUGES: readonly Gauge[] = [
  { ...usual, id: 'fine', name: 'Fine', order: 10, tipDiameterMm: 0.2, penetrationMm: 0.15, coneLengthMm: 1.8, coneShortestMm: 1, kneeDiameterMm: 0.7, shaftFootDiameterMm: 0.8, thickestMm: 1.2, footDiameterMm: 2.4, footHeightMm: 0.6, modelFootDiameterMm: 0.25, modelFootPenetrationMm: 0.15, preferredLeanDeg: 25, gapMm: 0.3, spacingMm: 1.2, longestMm: 15, braceDiameterMm: 0.6, branchTipMm: 0.2, branchBaseMm: 0.4 },
  { ...usual, id: 'light', name: 'Light', order: 20, tipDiameterMm: 0.35, penetrationMm: 0.2, coneLengthMm: 2.5, coneShortestMm: 1.2, kneeDiameterMm: 0.9, shaftFootDiameterMm: 1.1, thickestMm: 1.6, footDiameterMm: 3.2, footHeightMm: 0.8, modelFootDiameterMm: 0.35, modelFootPenetrationMm: 0.2, preferredLeanDeg: 30, gapMm: 0.35, spacingMm: 2, longestMm: 25, braceDiameterMm: 0.7, branchTipMm: 0.25, branchBaseMm: 0.4 },
  { ...usual, id: 'medium', name: 'Medium', order: 30, tipDiameterMm: 0.5, penetrationMm: 0.3, coneLengthMm: 3, coneShortestMm: 1.5, kneeDiameterMm: 1.2, shaftFootDiameterMm: 1.5, thickestMm: 2.4, footDiameterMm: 4.5, footHeightMm: 1, modelFootDiameterMm: 0.45, modelFootPenetrationMm: 0.25, preferredLeanDeg: 35, gapMm: 0.4, spacingMm: 2.5, longestMm: 30, braceDiameterMm: 0.9, branchTipMm: 0.25, branchBaseMm: 0.4 },
  { ...usual, id: 'heavy', name: 'Heavy', order: 40, tipDiameterMm: 0.8, penetrationMm: 0.4, coneLengthMm: 3, coneShortestMm: 1.5, kneeDiameterMm: 1.8, shaftFootDiameterMm: 2.2, thickestMm: 3.5, footDiameterMm: 6, footHeightMm: 1.2, modelFootDiameterMm: 0.6, modelFootPenetrationMm: 0.3, preferredLeanDeg: 35, gapMm: 0.5, spacingMm: 3, longestMm: 45, braceDiameterMm: 1.2, branchTipMm: 0.25, branchBaseMm: 0.4 },
]

/** Whether two gauges are alike in all but their ids and their order. */
export function alike(a: Gauge, b: Gauge): boolean {
  return (Object.keys(GaugeSchema.shape) as (keyof Gauge)[]).every(k => k === 'id' || k === 'order' || a[k] === b[k])
}

/** Of some gauges those that stilts have and that not everybody has as they are. */
export function gaugesToKeep(gauges: readonly Gauge[], used: ReadonlySet<string>): Gauge[] {
  return gauges.filter(g => used.has(g.id) && !BUILT_IN_GAUGES.some(b => b.id === g.id && alike(b, g)))
}

/** A gauge that may be chosen, and where it comes from. */
export interface OfferedGauge {
  readonly gauge: Gauge
  readonly from: 'job' | 'resin' | 'workshop' | 'built-in'
}

/**
 * The gauges to choose from, in order: a job's own, its resin's set, the workshop's, and the built-in ones where the resin brings none.
 * Of two with one id that of the job counts; what stilts of the job have that is not the job's own is what is built in, whatever the
 * resin or the workshop makes of it.
 * @param used ids of the gauges that stilts of the job have
 */
export function gaugesFor({ job, resin, workshop, used }: { readonly job: readonly Gauge[]; readonly resin: readonly Gauge[]; readonly workshop: readonly Gauge[]; readonly used: ReadonlySet<string> }): OfferedGauge[] {
  const found = new Map<string, OfferedGauge>()
  const take = (gauges: readonly Gauge[], from: OfferedGauge['from']): void => {
    for (const gauge of gauges) if (!found.has(gauge.id)) found.set(gauge.id, { gauge, from })
  }
  take(job, 'job')
  take(BUILT_IN_GAUGES.filter(g => used.has(g.id)), 'built-in')
  take(resin, 'resin')
  take(workshop.filter(g => resin.length === 0 || !BUILT_IN_GAUGES.some(b => b.id === g.id)), 'workshop')
  if (resin.length === 0) take(BUILT_IN_GAUGES, 'built-in')
  return [...found.values()].sort((a, b) => a.gauge.order - b.gauge.order || (a.gauge.id < b.gauge.id ? -1 : 1))
}
