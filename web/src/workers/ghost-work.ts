import type { Anchor, Gauge } from '@oak-stilts/core/contract'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { fromSource, normalFromSource } from '@oak-stilts/core/pose'
import { forcedRoute, gaugeOf, pickedStick, routeStilt, shapeOfRoute, type NoRoute, type Others, type Plate, type Stilt, type StiltShape, type Surface, type SurfacePoint } from '@oak-stilts/core/stilts'
import { createGhostFacts, type GhostFacts } from './ghost-facts'

/** What the pointer would place: a routed stilt and what there is to know about it, or why not. */
export type Ghost =
  | { readonly ok: true; readonly shape: StiltShape; readonly facts: GhostFacts }
  | { readonly ok: false; readonly at: SurfacePoint; readonly problem: NoRoute['problem']; readonly reason: string }

/** The stick that a second click would place, or why not. */
export type StickGhost =
  | { readonly ok: true; readonly shape: StiltShape; readonly gapMm: number; readonly landingDeg: number }
  | { readonly ok: false; readonly reason: string }

/** What is known of the part on the bench. */
interface GhostGround {
  surface(): Surface
  gauges(): readonly Gauge[]
  plate(): Plate
  stilts(): readonly Stilt[]
  others(): Others
}

type Heights = readonly [number, number]

/** What the pointer would place, as the worker of the surface finds it. */
export function createGhostWork(ground: GhostGround) {
  const factsOf = createGhostFacts(ground)

  function ghostAt(at: SurfacePoint, gauge: string): Ghost {
    const own = ground.surface(), g = gaugeOf(gauge, ground.gauges()), route = routeStilt(own, at.point, at.normal, g, ground.plate(), undefined, ground.others())
    if (!route.ok) return { ok: false, at, problem: route.problem, reason: route.reason }
    // what it carries is found by the scan that follows
    const shape = shapeOfRoute(own, g, 'detail', route, at.normal)
    return { ok: true, shape, facts: factsOf(shape, at, route.gapMm) }
  }

  return {
    /** The stilt that would stand where a ray meets the model; null where it meets nothing. */
    ghost(origin: Vec3, direction: Vec3, visibleMm: Heights, gauge: string): Ghost | null {
      const at = ground.surface().castBetween(origin, direction, visibleMm)
      return at ? ghostAt(at, gauge) : null
    },

    /** The stilt that would hold the surface right under a point inside the model; null where that is no surface. */
    ghostBelow(inside: Vec3, gauge: string): Ghost | null {
      const at = ground.surface().cast(inside, [0, 0, -1], 1)
      return at ? ghostAt(at, gauge) : null
    },

    /** The stilt that stands where a ray meets the model, against advice where there is some, which it keeps; null where it meets nothing. */
    forced(origin: Vec3, direction: Vec3, visibleMm: Heights, gauge: string): Ghost | null {
      const own = ground.surface(), at = own.castBetween(origin, direction, visibleMm)
      if (!at) return null
      const advised = ghostAt(at, gauge)
      if (advised.ok) return advised
      const g = gaugeOf(gauge, ground.gauges()), route = forcedRoute(own, at.point, at.normal, g, ground.plate())
      if (!route.ok) return { ok: false, at, problem: route.problem, reason: route.reason }
      const shape: StiltShape = { ...shapeOfRoute(own, g, 'detail', route, at.normal), forced: advised.reason }
      return { ok: true, shape, facts: factsOf(shape, at, route.gapMm) }
    },

    /** The stick between a point of the skin and where a ray meets the model; null where it meets nothing. */
    stick(from: Anchor, origin: Vec3, direction: Vec3, visibleMm: Heights, gauge: string): StickGhost | null {
      const own = ground.surface(), at = own.castBetween(origin, direction, visibleMm), g = gaugeOf(gauge, ground.gauges())
      if (!at) return null
      const stick = pickedStick(own, { point: fromSource(own, from.point), normal: normalFromSource(own, from.normal) }, at, g, undefined, ground.others())
      return stick.ok ? { ok: true, shape: shapeOfRoute(own, g, 'detail', stick, stick.upper.normal), gapMm: stick.gapMm, landingDeg: stick.landingDeg } : { ok: false, reason: stick.reason }
    },

    /** Which of some places, a little inside the part, a stilt of a gauge can stand under: x, y, z of its tip there, and 1 where it can. */
    standing(inside: readonly Vec3[], gauge: string): { readonly points: Float32Array; readonly stands: Uint8Array } {
      const own = ground.surface(), g = gaugeOf(gauge, ground.gauges()), others = ground.others()
      const seats = inside.flatMap(p => own.cast(p, [0, 0, -1], 1) ?? [])
      return {
        points: Float32Array.from(seats.flatMap(s => [...s.point])),
        stands: Uint8Array.from(seats, s => (routeStilt(own, s.point, s.normal[2] > 0 ? [0, 0, -1] : s.normal, g, ground.plate(), undefined, others).ok ? 1 : 0)),
      }
    },
  }
}
