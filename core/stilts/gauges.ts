import type { Gauge } from '../contract'

/** Built-in gauges (common practice and from memory); starting points that people change. Lean limit 45° for all. */
export const GAUGES: readonly Gauge[] = [
  { id: 'fine', name: 'Fine', tipDiameterMm: 0.2, penetrationMm: 0.15, coneLengthMm: 1.8, coneShortestMm: 1, kneeDiameterMm: 0.7, shaftFootDiameterMm: 0.8, footDiameterMm: 2.4, footHeightMm: 0.6, modelFootDiameterMm: 0.25, modelFootPenetrationMm: 0.15, preferredLeanDeg: 25, gapMm: 0.3 },
  { id: 'light', name: 'Light', tipDiameterMm: 0.35, penetrationMm: 0.2, coneLengthMm: 2.5, coneShortestMm: 1.2, kneeDiameterMm: 0.9, shaftFootDiameterMm: 1.1, footDiameterMm: 3.2, footHeightMm: 0.8, modelFootDiameterMm: 0.35, modelFootPenetrationMm: 0.2, preferredLeanDeg: 30, gapMm: 0.35 },
  { id: 'medium', name: 'Medium', tipDiameterMm: 0.5, penetrationMm: 0.3, coneLengthMm: 3, coneShortestMm: 1.5, kneeDiameterMm: 1.2, shaftFootDiameterMm: 1.5, footDiameterMm: 4.5, footHeightMm: 1, modelFootDiameterMm: 0.45, modelFootPenetrationMm: 0.25, preferredLeanDeg: 35, gapMm: 0.4 },
  { id: 'heavy', name: 'Heavy', tipDiameterMm: 0.8, penetrationMm: 0.4, coneLengthMm: 3, coneShortestMm: 1.5, kneeDiameterMm: 1.8, shaftFootDiameterMm: 2.2, footDiameterMm: 6, footHeightMm: 1.2, modelFootDiameterMm: 0.6, modelFootPenetrationMm: 0.3, preferredLeanDeg: 35, gapMm: 0.5 },
]

/** Lean from vertical that no cone and no shaft exceeds, degrees (common practice). */
export const LEAN_LIMIT_DEG = 45
/** A gap to the model under which a stilt is refused, mm (common practice): both would fuse. */
export const GAP_FLOOR_MM = 0.25
/** Share of the local thickness that a tip may go in (common practice). */
export const PENETRATION_SHARE = 0.4

/** A gauge by its id. @throws Error for an unknown one */
export function gaugeOf(id: string, gauges: readonly Gauge[] = GAUGES): Gauge {
  const gauge = gauges.find(g => g.id === id)
  if (!gauge) throw new Error(`There is no gauge "${id}".`)
  return gauge
}

/** The gauge of a stilt; where it is not known here, as in a plan from elsewhere, the one whose tip is nearest in size. */
export function gaugeFor({ gauge, sizes }: { readonly gauge: string; readonly sizes: { readonly tipDiameterMm: number } }, gauges: readonly Gauge[] = GAUGES): Gauge {
  return gauges.find(g => g.id === gauge) ?? gauges.reduce((a, b) => (Math.abs(b.tipDiameterMm - sizes.tipDiameterMm) < Math.abs(a.tipDiameterMm - sizes.tipDiameterMm) ? b : a))
}
