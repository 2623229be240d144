import { describe, expect, it } from 'vitest'
import { distance, type Vec3 } from '../mesh'
import { fromSource, normalFromSource, standOf, UNSHAPED } from '../pose'
import { box, sphere } from '../testing/shapes'
import { gaugeOf, GAUGES, gapOfPath, reaimStilt, reseatStilts, routeStilt, shapeOfRoute, Surface, type StiltShape } from './index'
import type { Mesh } from '../mesh'

const plate = { widthMm: 200, depthMm: 200 }
const at = (mesh: Mesh, tiltXDeg: number): Surface => new Surface(mesh, { shape: UNSHAPED, stand: standOf(mesh.positions, { tiltXDeg, tiltYDeg: 0, liftMm: 8 }, 0.05) })
/** A stilt under a part, straight below its middle. */
function under(surface: Surface): StiltShape {
  const hit = surface.cast([0.3, 0.2, 0], [0, 0, 1])
  if (!hit) throw new Error('The part is missed.')
  const route = routeStilt(surface, hit.point, hit.normal, gaugeOf('light'), plate)
  if (!route.ok) throw new Error(route.reason)
  return shapeOfRoute(surface, gaugeOf('light'), 'detail', route, hit.normal)
}
const tipOf = (surface: Surface, s: StiltShape): Vec3 => fromSource(surface, s.anchor.point)

describe('a stilt that makes no sense any more', () => {
  it('is re-aimed to the nearest skin that faces down and has a way to the plate', () => {
    const ball = sphere([0, 0, 0], 6, 48), upright = under(at(ball, 0))
    for (const tilt of [115, 140, 165]) {
      const surface = at(ball, tilt), [lost] = reseatStilts(surface, [upright], GAUGES, plate)
      expect([lost.foot, lost.lostFor]).toEqual(['lost', expect.stringMatching(/looks up/)])
      const edited = reaimStilt(surface, lost, GAUGES, plate)
      if (!edited.ok) throw new Error(edited.reason)
      const { shape } = edited, tip = tipOf(surface, shape)
      expect([shape.foot, shape.gauge, shape.lostFor]).toEqual(['plate', 'light', undefined])
      expect(surface.distance(tip)).toBeLessThan(1e-3)
      expect(normalFromSource(surface, shape.anchor.normal)[2]).toBeLessThan(0)
      expect(gapOfPath(surface, shape)).toBeGreaterThanOrEqual(0.25 - 1e-6)
      // closed form: from where it was on the ball, the nearest skin that faces down lies below the equator, so many degrees off
      const least = 2 * 6 * Math.sin(((tilt - 90) * Math.PI) / 360)
      expect(distance(tip, tipOf(surface, lost))).toBeGreaterThan(least - 0.6)
      expect(distance(tip, tipOf(surface, lost))).toBeLessThan(least + 4)
    }
  })

  it('stays where it is where nothing near faces down, with the reason', () => {
    const slab = box([-40, -40, 0], [40, 40, 20]), surface = at(slab, 180), [lost] = reseatStilts(surface, [under(at(slab, 0))], GAUGES, plate)
    expect(reaimStilt(surface, lost, GAUGES, plate)).toMatchObject({ ok: false, reason: expect.stringMatching(/Nothing within 13 mm/) as string })
  })
})
