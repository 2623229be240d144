import type { Resin } from '../contract'

/**
 * An estimate of how long ordinary layers take, s: light, rest, and the plate up and down between them. Bottom and transition layers
 * come on top once, and are not counted.
 * Source: common practice: exposure + rest + travel ÷ speed, each way.
 */
export function secondsOfLayers(layers: number, { exposureS, restS, travelMm, travelUpMmMin, travelDownMmMin }: Resin): number {
  return layers * (exposureS + restS + 60 * (travelMm / travelUpMmMin + travelMm / travelDownMmMin))
}
