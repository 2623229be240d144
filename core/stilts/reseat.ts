import { placeDirection, placePoint } from '../pose'
import type { Gauge } from '../contract'
import { gaugeFor } from './gauges'
import { routeStilt, type Plate } from './route'
import { sizesOf, type SizeName, type Stilt } from './stilt'
import type { Surface } from './surface'

/** What became of stilts after the part moved. */
export interface Reseated {
  readonly stilts: Stilt[]
  /** Numbers of those that found no way down, with the reason. They stay in the plan without a foot. */
  readonly lost: { readonly id: number; readonly reason: string }[]
}

/** Routes stilts anew from where their contacts are now on the posed part. What cannot stand is kept and listed, never dropped. */
export function reseatStilts(surface: Surface, stilts: readonly Stilt[], gauges: readonly Gauge[], plate: Plate): Reseated {
  const lost: { id: number; reason: string }[] = []
  const out = stilts.map((stilt): Stilt => {
    const point = placePoint(surface.placement, stilt.contact.point), normal = placeDirection(surface.placement, stilt.contact.normal)
    const gauge = gaugeFor(stilt, gauges)
    const wanted: Record<SizeName, number> = { ...sizesOf(gauge) }
    for (const name of stilt.byHand) wanted[name] = stilt.sizes[name]
    const route = routeStilt(surface, point, normal, gauge, plate, wanted)
    if (route.ok) return { ...stilt, path: route.path, sizes: route.sizes, foot: route.foot }
    lost.push({ id: stilt.id, reason: route.reason })
    // a stub that shows where the tip is; it has no foot and makes no solid
    const stub = [point[0], point[1], point[2] - stilt.sizes.coneLengthMm] as const
    return { ...stilt, path: [point, stub, [stub[0], stub[1], stub[2] - 1]], foot: 'none' }
  })
  return { stilts: out, lost }
}
