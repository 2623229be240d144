import { between, distance, PointGrid, type Vec3 } from '../mesh'
import type { Surface } from '../stilts'
import type { Spot, WayPoint } from './along'

/** A point where a pointer went over the skin, and how much it was pressed: 0 to 1. */
export interface StrokePoint extends WayPoint {
  readonly pressure: number
}
/** Steps of a spacing by which what a fast pointer went over is looked at. */
const STEPS = 50

/** Spacing at a pressure, as a share: half as wide where it is pressed most, half as much again where it is hardly pressed. */
export function spacingShare(pressure: number): number {
  return 1.5 - pressure
}

/** Spots where a pointer went, never nearer to each other than the spacing. @param by what the pressure sets: spacing, or how much thicker the gauge is */
export function byStrokes(surface: Surface, points: readonly StrokePoint[], spacingMm: number, by: 'nothing' | 'spacing' | 'gauge'): Spot[] {
  const taken = new PointGrid(spacingMm * 1.5), spots: Spot[] = []
  const apartAt = (pressure: number): number => spacingMm * (by === 'spacing' ? spacingShare(pressure) : 1)
  const take = (point: Vec3, normal: Vec3, pressure: number): void => {
    if (taken.near(point, apartAt(pressure))) return
    taken.add(point)
    spots.push({ point, normal, ...(by === 'gauge' && { thicker: Math.round((pressure - 0.5) * 4) }) })
  }
  points.forEach((p, i) => {
    const before = points[i - 1]
    // a fast pointer leaves gaps; what lies between off the skin stays free
    if (before) {
      const steps = Math.ceil(distance(before.point, p.point) / (spacingMm / STEPS))
      for (let s = 1; s < steps; s++) {
        const at = between(before.point, p.point, s / steps), pressure = before.pressure + ((p.pressure - before.pressure) * s) / steps
        // only where one is due is the skin looked for
        const skin = taken.near(at, apartAt(pressure)) ? null : surface.nearest(at, spacingMm)
        if (skin) take(skin.point, skin.normal, pressure)
      }
    }
    take(p.point, p.normal, p.pressure)
  })
  return spots
}
