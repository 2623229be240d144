import type { HeightRange, LayerTimes } from '../contract'

/** A range is proposed where layers pull more than this share of what the fullest one does, and that is this many times what the middle one pulls. */
const NEAR_MOST = 0.75, OVER_MIDDLE = 1.3
/** Ranges nearer to each other than this become one, and each begins and ends so much before and after, mm. */
const MARGIN_MM = 0.5
/** The plate goes up at this share of its speed there. Our own choice. */
const SLOWER = 0.5

/**
 * Ranges of heights that had better be printed more slowly: those in which layers pull nearly as much as the fullest one, where that stands out.
 * @param peelN what every layer pulls @param first layers that are printed in their own way anyway
 */
export function proposeRanges(peelN: ArrayLike<number>, layerMm: number, first: number, { travelUpMmMin }: Pick<LayerTimes, 'travelUpMmMin'>): Omit<HeightRange, 'id'>[] {
  const values = Array.from(peelN).slice(first).filter(n => n > 0).sort((a, b) => a - b)
  if (values.length === 0) return []
  const most = values[values.length - 1], middle = values[values.length >> 1]
  if (most < OVER_MIDDLE * middle) return []
  const ranges: { from: number; to: number; most: number }[] = []
  for (let k = first; k < peelN.length; k++) {
    if (peelN[k] < NEAR_MOST * most) continue
    const last = ranges[ranges.length - 1]
    if (last && (k - last.to) * layerMm <= 2 * MARGIN_MM) {
      last.to = k
      last.most = Math.max(last.most, peelN[k])
    } else ranges.push({ from: k, to: k, most: peelN[k] })
  }
  const round = (mm: number): number => Math.round(mm * 1000) / 1000
  return ranges.map(r => ({
    fromMm: round(Math.max(first * layerMm, r.from * layerMm - MARGIN_MM)), toMm: round((r.to + 1) * layerMm + MARGIN_MM), set: { travelUpMmMin: Math.max(1, Math.round(travelUpMmMin * SLOWER)) },
    why: `Layers ${r.from + 1} to ${r.to + 1} pull up to ${r.most.toFixed(1)} N, ${(r.most / middle).toFixed(1)} times as much as the middle one: there the plate goes up more slowly, so that they let go of the film more gently.`,
  }))
}
