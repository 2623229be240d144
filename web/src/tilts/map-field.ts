import type { Quaternion } from '@oak-stilts/core/contract'
import { dot, type Vec3 } from '@oak-stilts/core/mesh'
import { fromZero, tiltOfUp, toZero, upOfTilt, type TiltAngles } from '@oak-stilts/core/pose'
import { fromDisc, imagesOf, onDisc, type Symmetry, type TriedTilt } from '@oak-stilts/core/tilts'

/** Values on a square around the disc of all tilts, row by row from the top. */
export interface MapField {
  readonly size: number
  readonly values: Float32Array
  /** 1 where a tilt nearby was tried. */
  readonly tried: Uint8Array
}

/** A direction farther than this from all that were tried is not known, degrees. */
const KNOWN_DEG = 15
const KNOWN = Math.cos((KNOWN_DEG * Math.PI) / 180)

/** Where a tilt lies on the map: right is a tilt about y, up a tilt about x, from −1 to 1. The middle is how its angles are nought. */
export function placeOf(tilt: TiltAngles): readonly [number, number] {
  const [x, y] = onDisc(fromZero(upOfTilt(tilt), tilt.zero))
  return [-x, y]
}

/** The tilt at a place of the map, in whole degrees; null outside it. */
export function tiltAt(x: number, y: number, zero?: Quaternion): TiltAngles | null {
  const direction = fromDisc(-x, y)
  if (!direction) return null
  const { tiltXDeg, tiltYDeg } = tiltOfUp(toZero(direction, zero), zero)
  return { tiltXDeg: Math.round(tiltXDeg) || 0, tiltYDeg: Math.round(tiltYDeg) || 0, ...(zero && { zero }) }
}

/**
 * A value of all tilts, from those that were tried: the nearest count most. Beyond the disc it goes on as at its edge.
 * Source: Shepard's inverse distance weighting.
 */
export function fieldOf(tried: readonly TriedTilt[], symmetry: Symmetry, zero: Quaternion | undefined, valueOf: (t: TriedTilt) => number, size: number): MapField {
  const points: { at: Vec3; value: number }[] = tried.flatMap(t => {
    const value = valueOf(t)
    return imagesOf(symmetry, t.up).map(up => ({ at: fromZero(up, zero), value }))
  })
  const values = new Float32Array(size * size), known = new Uint8Array(size * size)
  for (let row = 0; row < size; row++) {
    for (let column = 0; column < size; column++) {
      let x = ((column + 0.5) / size) * 2 - 1, y = 1 - ((row + 0.5) / size) * 2
      const r = Math.hypot(x, y)
      if (r > 1) {
        x /= r * (1 + 1e-9)
        y /= r * (1 + 1e-9)
      }
      const direction = fromDisc(-x, y)
      if (!direction) continue
      let sum = 0, weights = 0, nearest = -1
      for (const { at, value } of points) {
        const c = dot(at, direction)
        if (c > nearest) nearest = c
        // beyond 40° nothing is told
        if (c < 0.77) continue
        const w = 1 / (1 - c + 2e-4) ** 2
        sum += w * value
        weights += w
      }
      values[row * size + column] = weights > 0 ? sum / weights : 0
      known[row * size + column] = nearest >= KNOWN ? 1 : 0
    }
  }
  return { size, values, tried: known }
}
