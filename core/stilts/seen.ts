import { add, distance, scale, sub, unit, type Vec3 } from '../mesh'
import type { Surface } from './surface'

/** A mark is looked at from so far outside the skin, mm. */
const OUTSIDE_MM = 0.05

/** Which points of the skin are seen from an eye: those with nothing of the part between. What stands under the part hides nothing, for it is taken off. @param points in the stand */
export function seenFrom(surface: Surface, eye: Vec3, points: readonly Vec3[]): boolean[] {
  return points.map(p => {
    const way = unit(sub(eye, p)), far = distance(p, eye) - OUTSIDE_MM
    return far > 0 && surface.cast(add(p, scale(way, OUTSIDE_MM)), way, far) === null
  })
}
