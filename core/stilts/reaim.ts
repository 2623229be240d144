import type { Gauge } from '../contract'
import { distance, radians, type Vec3 } from '../mesh'
import { fromSource } from '../pose'
import type { Others } from './clearance'
import { moveTip, type Edited } from './edit'
import { gaugeFor } from './gauges'
import type { Plate } from './route'
import type { StiltShape } from './stilt'
import type { Surface, SurfacePoint } from './surface'

/** How far around its old place a tip is tried, mm; the nearest first. */
const RINGS_MM = [0.4, 0.8, 1.3, 2, 3, 4.5, 6.5, 9, 13]
const FARTHEST_MM = RINGS_MM[RINGS_MM.length - 1]
const AROUND = 12, ELEVATIONS = [-80, -50, -20, 10, 45]

/**
 * Finds the nearest place on the skin where a stilt that no longer makes sense can stand: its tip on what faces down, with a way to the
 * plate or the part. Gives why not where there is none within 13 mm.
 * @param suits whether skin may be touched at all
 */
export function reaimStilt(surface: Surface, stilt: StiltShape, gauges: readonly Gauge[], plate: Plate, others?: Others, suits: (place: SurfacePoint) => boolean = () => true): Edited {
  const tip = fromSource(surface, stilt.anchor.point), gauge = gaugeFor(stilt, gauges)
  let refused: Edited | null = null
  for (const ring of RINGS_MM) {
    const places = placesAround(surface, tip, ring).sort((a, b) => distance(a.point, tip) - distance(b.point, tip))
    for (const place of places) {
      if (!suits(place)) continue
      const { point, normal } = place
      const edited = moveTip(surface, stilt, point, normal, gauge, plate, others)
      if (edited.ok) return { ...edited, shape: { ...edited.shape, gauge: stilt.gauge } }
      refused ??= edited
    }
  }
  return { ok: false, problem: refused && !refused.ok ? refused.problem : 'blocked', reason: `Nothing within ${FARTHEST_MM} mm of its tip faces down and has a way to the plate. Delete it, or tilt the part.` }
}

/** Points of the skin about so far from one, which face down, each face once. */
function placesAround(surface: Surface, at: Vec3, ring: number): SurfacePoint[] {
  const found = new Map<number, SurfacePoint>()
  for (const elevation of ELEVATIONS) {
    const e = radians(elevation)
    for (let i = 0; i < AROUND; i++) {
      const a = (2 * Math.PI * i) / AROUND, from: Vec3 = [at[0] + ring * Math.cos(a) * Math.cos(e), at[1] + ring * Math.sin(a) * Math.cos(e), at[2] + ring * Math.sin(e)]
      const hit = surface.nearest(from, ring)
      if (hit && hit.normal[2] < 0 && distance(hit.point, at) <= FARTHEST_MM && !found.has(hit.face)) found.set(hit.face, hit)
    }
  }
  return [...found.values()]
}
