import type { SizeName } from '@oak-stilts/core/stilts'

export const LABELS: Readonly<Record<SizeName, string>> = {
  tipDiameterMm: 'Tip diameter', penetrationMm: 'Penetration', coneLengthMm: 'Cone length', kneeDiameterMm: 'Knee diameter',
  shaftFootDiameterMm: 'Shaft diameter', footDiameterMm: 'Foot diameter', footHeightMm: 'Foot height', footPenetrationMm: 'Foot penetration',
}
/** The least and the most that a size can be, mm. */
export const LIMITS: Readonly<Record<SizeName, readonly [number, number]>> = {
  tipDiameterMm: [0.08, 5], penetrationMm: [0, 3], coneLengthMm: [0.4, 20], kneeDiameterMm: [0.2, 10], shaftFootDiameterMm: [0.2, 10], footDiameterMm: [0.2, 30], footHeightMm: [0.2, 5], footPenetrationMm: [0, 3],
}

/** Pixels under which a tip prints as something else than a tip. */
const LEAST_PIXELS = 4
/** Skin that is thinner than this is fine, mm; a ball leaves a bead on it. Our own choice. */
export const FINE_SKIN_MM = 1.5

/** What is to be known about a tip, as sentences; empty where there is nothing. */
export function tipWarnings(tip: { readonly tipShape: string; readonly tipDiameterMm: number }, pixelMm: number | null): string[] {
  return [
    ...(pixelMm !== null && tip.tipDiameterMm < LEAST_PIXELS * pixelMm - 1e-9 ? [`A tip of ${tip.tipDiameterMm.toFixed(2)} mm is finer than four pixels (${(LEAST_PIXELS * pixelMm).toFixed(2)} mm), and may not print.`] : []),
    ...(tip.tipShape === 'ball' ? ['A ball breaks off cleanly, and leaves a bead on fine skin.'] : []),
  ]
}
