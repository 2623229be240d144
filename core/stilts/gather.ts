import type { Gauge } from '../contract'
import { fromSource, normalFromSource } from '../pose'
import { branchSizes, routeBranch, rowsOfBranch, shapeOfBranch } from './branch'
import type { Others } from './clearance'
import { gaugeFor } from './gauges'
import { changeOfStilts } from './plan-change'
import { PlanDraft } from './plan-draft'
import type { PlanIndex } from './plan-index'
import { routeStilt, shapeOfRoute, type NoRoute, type Plate } from './route'
import type { Stilt } from './stilt'
import type { Surface } from './surface'

/** From a stem branches reach so far across, mm. */
const STEM_REACH_MM = 40

/** Stilts that were gathered on one stem. */
export interface Gathered {
  readonly ok: true
  readonly draft: PlanDraft
  /** The tip that the stem carries on from. */
  readonly stem: string
  /** Branches that it has now; and why others stay as they are. */
  readonly count: number
  readonly reason: string | null
}

/**
 * Gathers stilts on a central stem, as for casting: the one in their middle becomes the stem, with the sizes and the base of a gauge, and
 * the others leave it as branches to where they touch, as thick as their tips and knees were. All stay editable.
 * @param index the graph that they are part of; it is not changed
 */
export function gatherOnStem(surface: Surface, index: PlanIndex, tips: readonly string[], gauge: Gauge, gauges: readonly Gauge[], plate: Plate, others?: Others): Gathered | NoRoute {
  const stilts = tips.flatMap(t => index.stilt(t) ?? []).filter(s => s.alone === s.nodes.length && s.foot !== 'lost')
  if (stilts.length < 2) return { ok: false, problem: 'blocked', reason: 'Select two or more stilts that stand by themselves; the one in their middle becomes the stem.' }
  const middle = [0, 1].map(a => stilts.reduce((sum, s) => sum + s.path[0][a], 0) / stilts.length), across = (s: Stilt): number => Math.hypot(s.path[0][0] - middle[0], s.path[0][1] - middle[1])
  const [central, ...rest] = [...stilts].sort((a, b) => across(a) - across(b) || a.number - b.number)
  const draft = new PlanDraft(index, stilts.map(s => s.id)), { part } = central
  const route = routeStilt(surface, fromSource(surface, central.anchor.point), normalFromSource(surface, central.anchor.normal), gauge, plate, undefined, others)
  if (!route.ok) return route
  const stem = shapeOfRoute(surface, gauge, central.role, route, normalFromSource(surface, central.anchor.normal))
  draft.apply(changeOfStilts(draft.index, part, '', { put: [{ stilt: central, shape: { ...stem, anchor: central.anchor } }] }))
  let count = 0, reason: string | null = null
  for (const s of rest) {
    const now = draft.index.stilt(s.id), host = draft.index.stilt(central.id)
    if (!now || !host) continue
    const own = gaugeFor(s, gauges), thick = s.sizes.kneeDiameterMm
    const branch = routeBranch(surface, fromSource(surface, s.anchor.point), normalFromSource(surface, s.anchor.normal), own, [host], { ...branchSizes(own), ...s.sizes, shaftFootDiameterMm: thick }, others, { reachMm: STEM_REACH_MM })
    if (!branch.ok) {
      reason ??= branch.reason
      continue
    }
    draft.apply(changeOfStilts(draft.index, part, '', { drop: [now] }))
    const { tipShape, tipDiameterMm, penetrationMm, kneeDiameterMm } = s.sizes
    draft.put(rowsOfBranch(draft.index, shapeOfBranch({ ...s, own: { ...s.own, tipShape, tipDiameterMm, penetrationMm, kneeDiameterMm } }, branch), branch.joint, s.number, { tip: s.nodes[0] }))
    count++
  }
  return count > 0 ? { ok: true, draft, stem: central.id, count, reason } : { ok: false, problem: 'blocked', reason: reason ?? 'None of the others can branch off it.' }
}
