import type { Gauge, Resin } from '../contract'

/** Tips that a part hangs on at first, as they are counted here. Our own choice. */
const FIRST_TIPS = 6
/** What carries the part is commonly too thin under this, mm. */
export const CARRIES_FROM_MM = 0.4

/** A gauge for what carries a part, with the reason as a sentence. */
export interface ProposedGauge {
  readonly gauge: Gauge
  readonly reason: string
}

/**
 * The gauge whose tips can carry a part: that many first tips as are usual have to take what its widest layer pulls from the film, with
 * the resin's margin, and are never thinner than what is commonly too thin. An estimate; the thinnest such gauge, or the thickest there is.
 * @param part its volume, mm³, and the area of its widest layer, mm²
 */
export function proposeGauge(gauges: readonly Gauge[], part: { readonly volumeMm3: number; readonly widestMm2: number }, resin: Pick<Resin, 'densityGMl' | 'releaseStressNMm2' | 'greenStrengthNMm2' | 'margin'>): ProposedGauge | null {
  if (gauges.length === 0) return null
  const pullN = part.widestMm2 * resin.releaseStressNMm2, each = (pullN * resin.margin) / FIRST_TIPS
  const neededMm = Math.max(CARRIES_FROM_MM, Math.sqrt((4 * each) / (Math.PI * resin.greenStrengthNMm2)))
  const sorted = [...gauges].sort((a, b) => a.tipDiameterMm - b.tipDiameterMm), enough = sorted.find(g => g.tipDiameterMm >= neededMm - 1e-9), gauge = enough ?? sorted[sorted.length - 1]
  const grams = (part.volumeMm3 / 1000) * resin.densityGMl
  return {
    gauge,
    reason: `${gauge.name} for what carries this part of ${grams.toFixed(grams < 10 ? 1 : 0)} g. By estimate its widest layer, ${part.widestMm2.toFixed(0)} mm², pulls ${pullN.toFixed(1)} N; ${FIRST_TIPS} tips that hold it with a margin of ${resin.margin} want ${neededMm.toFixed(2)} mm${neededMm === CARRIES_FROM_MM ? ', the least that carries' : ''}${enough ? '.' : ', which no gauge here has: stand more of them.'}`,
  }
}
