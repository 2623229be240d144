import type { Vec3 } from '../mesh'
import type { StiltSizes, Surface } from '../stilts'

/** How the top of a peg meets the skin. */
export interface Touch {
  /** How deep it goes in where it does: at the deepest, and on average, mm. */
  readonly deepestMm: number
  readonly meanMm: number
  /** Of the skin, mm². */
  readonly contactMm2: number
  /** Of its top that goes in, seen from above, 0 to 1. */
  readonly share: number
}

/** Cells of equal area that the top of a peg is looked at by. */
const CELLS = 120
/** From each to the next: cells lie evenly in a disc then (Vogel 1979, the head of a sunflower). */
const TURN = Math.PI * (3 - Math.sqrt(5))
/** A wall touches along its height, which no look from below measures: cosine of the steepest skin that is counted. */
const LEAST_COSINE = 0.2

/**
 * What the upright top of a peg touches, by rays up through cells of equal area: a measure of the real skin, so that an edge, a hole or a
 * slope under part of it shows.
 * @param tip where its axis meets the skin
 */
export function touchOf(surface: Surface, tip: Vec3, { tipShape, tipDiameterMm, penetrationMm, coneLengthMm }: Pick<StiltSizes, 'tipShape' | 'tipDiameterMm' | 'penetrationMm' | 'coneLengthMm'>): Touch {
  const radius = tipDiameterMm / 2, cell = (Math.PI * radius * radius) / CELLS, from = tip[2] - coneLengthMm
  let inside = 0, sum = 0, deepestMm = 0, contactMm2 = 0
  for (let i = 0; i < CELLS; i++) {
    const r = radius * Math.sqrt((i + 0.5) / CELLS), x = tip[0] + r * Math.cos(i * TURN), y = tip[1] + r * Math.sin(i * TURN)
    // a ball falls off toward its rim
    const top = tip[2] + penetrationMm - (tipShape === 'ball' ? radius - Math.sqrt(radius * radius - r * r) : 0)
    const hit = top > from ? surface.cast([x, y, from], [0, 0, 1], top - from) : null
    if (!hit || hit.normal[2] >= 0) continue
    const deep = top - hit.point[2]
    inside++
    sum += deep
    deepestMm = Math.max(deepestMm, deep)
    contactMm2 += cell / Math.max(LEAST_COSINE, -hit.normal[2])
  }
  return { deepestMm, meanMm: inside > 0 ? sum / inside : 0, contactMm2, share: inside / CELLS }
}
