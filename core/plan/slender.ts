import type { Gauge } from '../contract'
import { leastDiameter } from '../forest'
import { freeStretches, gaugeFor, longestFree, type Joint, type PlanDraft, type PlanIndex, type Stilt } from '../stilts'
import { eachStrut, strutDiameter, type StrutMaker } from './struts'
import { placesAlong, type MovingPlace } from './swaying'

/** A stretch is strutted within this share of its length around its middle. */
const MIDDLE = 0.3
/** A millimetre off the middle costs as much as so many of a strut. */
const OFF_MIDDLE = 1.5
/** So many places are tried for each stretch, and so often all are looked through. */
const MOST_TRIED = 60, MOST_ROUNDS = 3
/** What is nearly as thick as its length asks for may grow that much, which is less resin than a strut. */
const NEARLY = 0.95

/**
 * Struts the middles of stretches that are too slender for their length, from what stands near. Gives how many.
 * @param mine whether something may be joined to a stilt
 * @param gauges where they are given, stretches as well that are longer than their gauge allows
 */
export function strutSlender(make: StrutMaker, draft: PlanDraft, part: string, mine: (stilt: Stilt) => boolean, gauges?: readonly Gauge[]): number {
  let made = 0, places: readonly MovingPlace[] | null = null
  for (let round = 0; round < MOST_ROUNDS; round++) {
    let more = 0
    for (const { id } of draft.index.stiltsOf(part)) {
      const stilt = draft.index.stilt(id)
      if (!stilt || !mine(stilt)) continue
      const slender = slenderStretch(draft.index, stilt, gauges && gaugeFor(stilt, gauges))
      if (!slender) continue
      places ??= placesAlong(draft.index, draft.index.stiltsOf(part), [], mine)
      if (!strutOne(make, places, stilt, slender)) continue
      more++
      places = null
    }
    made += more
    if (more === 0) break
  }
  return made
}

/** From which height to which a stilt is not held for a length that it is too thin for, or that its gauge does not allow, mm; null where it is not. */
function slenderStretch(index: PlanIndex, stilt: Stilt, gauge: Gauge | undefined): { readonly lowMm: number; readonly highMm: number } | null {
  const found = freeStretches(index, stilt).find(({ lengthMm, thinMm }) => thinMm < NEARLY * leastDiameter(lengthMm) || (gauge && lengthMm > longestFree(gauge, thinMm)))
  return found ? { lowMm: stilt.path[found.to][2], highMm: stilt.path[found.from][2] } : null
}

function strutOne(make: StrutMaker, places: readonly MovingPlace[], stilt: Stilt, { lowMm, highMm }: { readonly lowMm: number; readonly highMm: number }): boolean {
  const middle = (lowMm + highMm) / 2, reach = MIDDLE * (highMm - lowMm), own: Joint[] = [], others: Joint[] = []
  for (const { joint } of places) {
    if (joint.host.id !== stilt.id) others.push(joint)
    else if (Math.abs(joint.at[2] - middle) <= reach) own.push(joint)
  }
  const found: { readonly upper: Joint; readonly lower: Joint; readonly lengthMm: number; readonly cost: number }[] = []
  const take = (upper: Joint, lower: Joint, lengthMm: number): void => void found.push({ upper, lower, lengthMm, cost: lengthMm + OFF_MIDDLE * Math.abs((upper.host.id === stilt.id ? upper : lower).at[2] - middle) })
  eachStrut(others, own, (u, l, lengthMm) => take(own[u], others[l], lengthMm))
  eachStrut(own, others, (u, l, lengthMm) => take(others[u], own[l], lengthMm))
  return found.sort((a, b) => a.cost - b.cost).slice(0, MOST_TRIED).some(({ upper, lower, lengthMm }) => make.mayTie(upper.host.id, lower.host.id) && make.put(lower, upper, strutDiameter(lengthMm)))
}
