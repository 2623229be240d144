import { OFF_LIMITS, PLAIN, PRIZED, SPARE } from '../marks'
import type { HoleCost } from '../scan'
import type { Surface } from '../stilts'

/** How many times its wall a hole counts for on skin of each worth. Our own choice. */
const COSTS: Readonly<Record<number, number>> = { [SPARE]: 0.5, [PLAIN]: 1, [PRIZED]: 5, [OFF_LIMITS]: Infinity }
/** Skin is looked for so far around where a hole comes out, mm. */
const NEAR_MM = 1

/** What holes cost on a part with marks: they prefer spare skin, avoid what is prized and keep off what is off limits. */
export function holeCostOf(surface: Surface): HoleCost {
  return at => {
    const hit = surface.nearest(at, NEAR_MM)
    return hit ? COSTS[surface.worthOf(hit.face)] : 1
  }
}
