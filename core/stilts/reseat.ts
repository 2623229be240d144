import { fromSource, normalFromSource } from '../pose'
import type { Gauge } from '../contract'
import { moveFoot } from './edit'
import { GAP_FLOOR_MM, gaugeFor } from './gauges'
import { routeStilt, shapeOfRoute, type Plate } from './route'
import { ownOn, wantedSizes, type StiltShape } from './stilt'
import type { Surface } from './surface'

/** Skin this near a place counts as the skin that was there, mm: it may have been made anew, a little finer or coarser. */
const SAME_SKIN_MM = 0.05

/** Why a stilt cannot stand any more, where what it touched or stood on was cut away or drilled through; null where that is there still. */
export function goneUnder(surface: Surface, { anchor, foot, footAnchor, sizes }: Pick<StiltShape, 'anchor' | 'foot' | 'footAnchor' | 'sizes'>): string | null {
  if (!surface.nearest(fromSource(surface, anchor.point), sizes.tipDiameterMm / 2 + SAME_SKIN_MM)) return 'What it touched is not there any more.'
  return foot === 'model' && footAnchor && !surface.nearest(fromSource(surface, footAnchor.point), sizes.footDiameterMm / 2 + SAME_SKIN_MM) ? 'What it stood on is not there any more.' : null
}

/**
 * Routes stilts anew from where their tips are now on the posed part, each in its place of the list. A foot that was put somewhere by
 * hand stays there where the stilt can lean to it. What cannot stand is kept without a foot, with the reason; nothing is dropped.
 */
export function reseatStilts(surface: Surface, stilts: readonly StiltShape[], gauges: readonly Gauge[], plate: Plate): StiltShape[] {
  return stilts.map(stilt => {
    const point = fromSource(surface, stilt.anchor.point), normal = normalFromSource(surface, stilt.anchor.normal)
    const gauge = gaugeFor(stilt, gauges), gone = goneUnder(surface, stilt)
    const route = gone ? { ok: false as const, reason: gone } : routeStilt(surface, point, normal, gauge, plate, wantedSizes(gauge, stilt.own, stilt.foot))
    if (!route.ok) {
      // a stub that shows where the tip is; it has no foot and makes no solid
      const stub = [point[0], point[1], point[2] - stilt.sizes.coneLengthMm] as const
      return { ...stilt, path: [point, stub, [stub[0], stub[1], stub[2] - 1]], foot: 'lost', footAnchor: undefined, legs: undefined, lostFor: route.reason }
    }
    const seated = { ...shapeOfRoute(surface, gauge, stilt.role, route, normal, ownOn(stilt.own, stilt.foot, route.foot)), gauge: stilt.gauge, anchor: stilt.anchor, ...(stilt.spread !== undefined && { spread: stilt.spread }) }
    if (!stilt.footPinned || stilt.foot !== 'plate') return seated
    const foot = stilt.path[stilt.path.length - 1]
    const pinned = moveFoot(surface, seated, foot[0], foot[1], gauge, plate, GAP_FLOOR_MM)
    return pinned.ok ? pinned.shape : seated
  })
}
