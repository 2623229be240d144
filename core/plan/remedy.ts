import { cross, dot, unit, type Vec3 } from '../mesh'
import { moveDirection, upOfTilt, type TiltAngles } from '../pose'
import type { Surface } from '../stilts'

/** A further tilt about an axis of the pose after which what found no way has a straight one to the plate. */
export interface TiltRemedy {
  readonly axis: 'x' | 'y'
  readonly byDeg: number
  /** To how many of the places. */
  readonly opens: number
}

/** Tilts are tried in such steps, up to so far, degrees. */
const STEP_DEG = 3, MOST_DEG = 45
/** Skin looks down enough for a tip where its normal goes down by this share, and is found within this of a place, mm. */
const LOOKS_DOWN = 0.3, SKIN_MM = 2
/** A ray begins so far under the skin, and a way has to be clear so far to each side of it, mm. */
const BELOW_MM = 0.3, ASIDE_MM = 0.7
const ASIDE = [[0, 0], [1, 0], [-1, 0], [0, 1], [0, -1]] as const

/** The tilt that opens a straight way down to most of some places, the smallest of those alike; null where none opens any. Other things may hang then, which only a scan tells. @param places a little within the part, in the stand of the surface */
export function tiltFor(surface: Surface, pose: TiltAngles, places: readonly Vec3[]): TiltRemedy | null {
  let best: TiltRemedy | null = null
  for (let deg = STEP_DEG; deg <= MOST_DEG; deg += STEP_DEG) for (const byDeg of [deg, -deg]) for (const axis of ['x', 'y'] as const) {
    const up = upOfTilt({ ...pose, tiltXDeg: pose.tiltXDeg + (axis === 'x' ? byDeg : 0), tiltYDeg: pose.tiltYDeg + (axis === 'y' ? byDeg : 0) }), [x, y, z] = moveDirection(surface.stand, up), opens = places.filter(p => isOpenDown(surface, p, [-x, -y, -z])).length
    if (opens > (best?.opens ?? 0)) best = { axis, byDeg, opens }
  }
  return best
}

/** Whether a shaft could go straight down from the skin under a place. */
function isOpenDown(surface: Surface, place: Vec3, down: Vec3): boolean {
  const skin = surface.cast(place, down, SKIN_MM)
  if (!skin || dot(skin.normal, down) < LOOKS_DOWN) return false
  const side: Vec3 = Math.abs(down[0]) < 0.8 ? [1, 0, 0] : [0, 1, 0], u = unit(cross(down, side)), v = cross(down, u)
  return ASIDE.every(([a, b]) => {
    const far = a === 0 && b === 0 ? BELOW_MM : ASIDE_MM + BELOW_MM, from: Vec3 = [0, 1, 2].map(i => skin.point[i] + far * down[i] + ASIDE_MM * (a * u[i] + b * v[i])) as unknown as Vec3
    return surface.cast(from, down) === null
  })
}

/** What would help, in a sentence; empty where no tilt does. */
export function remedyInWords(remedy: TiltRemedy | null, of: number): string {
  if (!remedy) return ''
  const { axis, byDeg, opens } = remedy
  return `A further tilt of ${byDeg}° about ${axis} would open a straight way to ${of === 1 ? 'it' : opens === of ? `all ${of}` : `${opens} of ${of}`}; scan it before you trust it.`
}
