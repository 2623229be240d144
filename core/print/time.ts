import type { HeightRange, LayerTimes, Printer, Resin } from '../contract'

/**
 * An estimate of how long ordinary layers take, s: light, rest, and the plate up and down between them. Bottom and transition layers
 * come on top once, and are not counted.
 * Source: common practice: exposure + rest + travel ÷ speed, each way.
 */
export function secondsOfLayers(layers: number, resin: Resin): number {
  return layers * secondsOf(resin)
}

/** An estimate of how long one layer takes, s, by the same rule. */
export function secondsOf({ exposureS, restS, travelMm, travelUpMmMin, travelDownMmMin }: LayerTimes): number {
  return exposureS + restS + 60 * (travelMm / travelUpMmMin + travelMm / travelDownMmMin)
}

/** Exposure of layer k, s: that of bottom layers, going over evenly to that of all others. */
export function exposureOf({ exposureS, bottomExposureS, bottomLayers, transitionLayers }: Pick<Resin, 'exposureS' | 'bottomExposureS' | 'bottomLayers' | 'transitionLayers'>, k: number): number {
  const over = Math.max(0, Math.min(1, (k - bottomLayers + 1) / (transitionLayers + 1)))
  return bottomExposureS + (exposureS - bottomExposureS) * over
}

/** How every layer is printed: as the resin asks, but where a range of heights says otherwise, and never faster than the printer travels. */
export function timesOfLayers(layerCount: number, layerMm: number, resin: Resin, ranges: readonly HeightRange[], { fastestMmMin }: Pick<Printer, 'fastestMmMin'>): LayerTimes[] {
  return Array.from({ length: layerCount }, (_, k) => {
    const middle = (k + 0.5) * layerMm, set = Object.assign({}, ...ranges.filter(r => r.fromMm <= middle && middle < r.toMm).map(r => r.set)) as Partial<LayerTimes>
    const first = k < resin.bottomLayers + resin.transitionLayers, own = { ...set, ...(first && { exposureS: undefined }) }
    const pick = (name: keyof LayerTimes): number => own[name] ?? (name === 'exposureS' ? exposureOf(resin, k) : resin[name])
    return { exposureS: pick('exposureS'), restS: pick('restS'), travelMm: pick('travelMm'), travelUpMmMin: Math.min(fastestMmMin, pick('travelUpMmMin')), travelDownMmMin: Math.min(fastestMmMin, pick('travelDownMmMin')) }
  })
}

/** What some ml of a resin cost, in the currency of its price. */
export function costOf(ml: number, { densityGMl, pricePerKg }: Pick<Resin, 'densityGMl' | 'pricePerKg'>): number {
  return (ml * densityGMl * pricePerKg) / 1000
}
