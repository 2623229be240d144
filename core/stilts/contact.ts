import { dot, unit, type Vec3 } from '../mesh'
import type { StiltSizes } from './stilt'

/** The neck of a ball, as a share of its diameter. */
const NECK_SHARE = 0.8
/** How far below the middle of a ball, by its radius, it is as wide as its neck. */
export const NECK_AT = Math.sqrt(1 - NECK_SHARE ** 2)
/** A tip that meets the skin nearly along it is not taken to touch for ever: cosine of the slant that is counted at most. */
const LEAST_COSINE = 0.2

type Tip = Pick<StiltSizes, 'tipShape' | 'tipDiameterMm' | 'penetrationMm'>

/** The diameter where a cone begins, mm: that of its tip, or the neck of its ball. */
export function neckOf({ tipShape, tipDiameterMm }: Pick<StiltSizes, 'tipShape' | 'tipDiameterMm'>): number {
  return tipShape === 'ball' ? tipDiameterMm * NECK_SHARE : tipDiameterMm
}

/**
 * What a tip leaves on a flat skin: the diameter of its mark across the slant, and its area, mm and mm². A cone goes straight in; a ball
 * of diameter d that is sunk by p leaves 2·√(p·(d − p)), and once it is in beyond its neck, that. A slant makes an ellipse.
 * @param slantCos cosine of the angle between the tip's axis and the normal of the skin
 */
export function contactOf({ tipShape, tipDiameterMm, penetrationMm }: Tip, slantCos = 1): { readonly diameterMm: number; readonly areaMm2: number } {
  const cos = Math.max(LEAST_COSINE, Math.min(1, Math.abs(slantCos))), r = tipDiameterMm / 2
  if (tipShape !== 'ball') return { diameterMm: tipDiameterMm, areaMm2: (Math.PI * r * r) / cos }
  // distance of the ball's middle from the skin; negative inside
  const out = (r - penetrationMm) * cos, round = Math.sqrt(Math.max(0, r * r - out * out))
  const neck = NECK_SHARE * r, pastNeck = penetrationMm >= r * (1 + NECK_AT)
  const byBall = Math.PI * round * round, byNeck = pastNeck || (out < 0 && round < neck) ? (Math.PI * neck * neck) / cos : 0
  return byNeck > byBall ? { diameterMm: 2 * neck, areaMm2: byNeck } : { diameterMm: 2 * round, areaMm2: byBall }
}

/** The cosine of the slant at which a tip meets the skin. @param normal outward unit normal */
export function slantOf(path: readonly Vec3[], normal: Vec3): number {
  const [tip, knee] = path
  return Math.max(0, dot(unit([knee[0] - tip[0], knee[1] - tip[1], knee[2] - tip[2]]), normal))
}
