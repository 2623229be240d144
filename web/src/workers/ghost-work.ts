import type { Anchor, Gauge } from '@oak-stilts/core/contract'
import { distance, type Vec3 } from '@oak-stilts/core/mesh'
import { fromSource, normalFromSource } from '@oak-stilts/core/pose'
import { contactOf, forcedRoute, gaugeFor, gaugeOf, hasCutterRoom, judgeStilt, pickedStick, routeStilt, shapeOfRoute, slantOf, thicknessAt, type NoRoute, type Others, type Plate, type Route, type Stilt, type StiltShape, type Surface, type SurfacePoint } from '@oak-stilts/core/stilts'

/** What there is to know about a stilt before it stands. */
export interface GhostFacts {
  readonly gapMm: number
  /** The gap is under what the gauge asks for where that counts. */
  readonly tight: boolean
  /** What the skin is worth where it touches, as core/marks counts it; and what it leaves there, mm². */
  readonly worth: number
  readonly scarMm2: number
  /** Width of its mark, and how thick the part is there, mm. */
  readonly tipMm: number
  readonly thicknessMm: number
  /** Estimate: of the load that all tips carry, by contact area. */
  readonly share: number
  /** What it leaves between its tip and the nearest other one, mm; Infinity where there is none. */
  readonly nearTipMm: number
  readonly cutterRoom: boolean
}

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
  /** Contact area of all tips that stand, for the stilts as they were last seen. */
  let contacts: { readonly of: readonly Stilt[]; readonly areaMm2: number } = { of: [], areaMm2: 0 }
  function contactOfAll(): number {
    const of = ground.stilts()
    if (contacts.of !== of) contacts = { of, areaMm2: of.reduce((sum, s) => sum + (s.foot === 'lost' ? 0 : contactOf(s.sizes).areaMm2), 0) }
    return contacts.areaMm2
  }

  function factsOf(shape: StiltShape, at: SurfacePoint, { gapMm }: Pick<Route, 'gapMm'>): GhostFacts {
    const own = ground.surface(), contact = contactOf(shape.sizes, slantOf(shape.path, at.normal))
    const nearTipMm = ground.stilts().reduce((least, s) => (s.foot === 'lost' ? least : Math.min(least, distance(s.path[0], at.point) - contactOf(s.sizes).diameterMm / 2)), Infinity) - contact.diameterMm / 2
    const tight = judgeStilt(own, shape, { gauge: gaugeFor(shape, ground.gauges()) }).some(v => v.kind === 'gap')
    return { gapMm, tight, worth: own.worthOf(at.face), scarMm2: contact.areaMm2, tipMm: contact.diameterMm, thicknessMm: thicknessAt(own, shape), share: contact.areaMm2 / (contactOfAll() + contact.areaMm2), nearTipMm, cutterRoom: hasCutterRoom(own, shape.path) }
  }

  function ghostAt(at: SurfacePoint, gauge: string): Ghost {
    const own = ground.surface(), g = gaugeOf(gauge, ground.gauges()), route = routeStilt(own, at.point, at.normal, g, ground.plate(), undefined, ground.others())
    if (!route.ok) return { ok: false, at, problem: route.problem, reason: route.reason }
    // what it carries is found by the scan that follows
    const shape = shapeOfRoute(own, g, 'detail', route, at.normal)
    return { ok: true, shape, facts: factsOf(shape, at, route) }
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
      return { ok: true, shape, facts: factsOf(shape, at, route) }
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
