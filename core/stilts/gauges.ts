import { BUILT_IN_GAUGES, type Gauge } from '../contract'

/** The gauges that everybody has. */
export const GAUGES = BUILT_IN_GAUGES

/** A gap to the model under which a stilt is refused, mm (common practice): both would fuse. */
export const GAP_FLOOR_MM = 0.25
/** The end of a tip or foot that is left out when gaps to the skin it touches are measured, mm. */
export const TIP_LEFT_OUT_MM = 1
/** A face carries a stick where it is turned from the stick's way by at most this. */
export const LANDING_LIMIT_DEG = 62
/** Feet that are so far apart let resin out between them, mm. */
export const FEET_APART_MM = 0.9
/** A foot is wider than its shaft by this at least, mm. */
export const LEAST_RIM_MM = 0.4
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
