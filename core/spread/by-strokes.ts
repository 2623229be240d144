import { between, distance, type Vec3 } from '../mesh'
import type { Surface } from '../stilts'
import type { Spot, WayPoint } from './along'
import { PointGrid } from './point-grid'

/** A point where a pointer went over the skin, and how much it was pressed: 0 to 1. */
export interface StrokePoint extends WayPoint {
  readonly pressure: number
}
/** Points of a stroke farther apart than this belong to two of them, spacings. */
const APART = 4

/** Spacing at a pressure, as a share: half as wide where it is pressed most, half as much again where it is hardly pressed. */
export function spacingShare(pressure: number): number {
  return 1.5 - pressure
}

/** Spots where a pointer went, never nearer to each other than the spacing. @param by what the pressure sets: spacing, or how much thicker the gauge is */
export function byStrokes(surface: Surface, points: readonly StrokePoint[], spacingMm: number, by: 'nothing' | 'spacing' | 'gauge'): Spot[] {
  const taken = new PointGrid(spacingMm * 1.5), spots: Spot[] = []
  const take = (point: Vec3, normal: Vec3, pressure: number): void => {
    const apart = spacingMm * (by === 'spacing' ? spacingShare(pressure) : 1)
    if (taken.near(point, apart)) return
    taken.add(point)
    spots.push({ point, normal, ...(by === 'gauge' && { thicker: Math.round((pressure - 0.5) * 4) }) })
  }
  points.forEach((p, i) => {
    const before = points[i - 1]
    // a fast pointer leaves gaps
    if (before && distance(before.point, p.point) < APART * spacingMm) {
      const steps = Math.ceil(distance(before.point, p.point) / (spacingMm / 4))
      for (let s = 1; s < steps; s++) {
        const skin = surface.nearest(between(before.point, p.point, s / steps), spacingMm)
        if (skin) take(skin.point, skin.normal, before.pressure + ((p.pressure - before.pressure) * s) / steps)
      }
    }
    take(p.point, p.normal, p.pressure)
  })
  return spots
}
