import type { Gauge } from '../contract'
import { beamsOfShape, changeOfStilts, Clearance, gaugeFor, regaugeStilt, shaftOf, type Plate, type PlanDraft, type Stilt, type Surface } from '../stilts'

/** A way that is shorter by this, or leans less by that, is worth a change, mm and degrees. */
const SHORTER_MM = 0.5, STEEPER_DEG = 3

/**
 * Gives stilts that stand by themselves the straightest way that there is by now, where theirs bends or leans more than it has to. Their tips stay.
 * Gives how many were changed.
 * @param draft the plan, which is changed; it has to cover all of the part
 */
export function straightened(surface: Surface, draft: PlanDraft, part: string, { gauges, plate, webMm }: { readonly gauges: readonly Gauge[]; readonly plate: Plate; readonly webMm: number }): number {
  const field = new Clearance(draft.index).field(part)
  let count = 0
  for (const stilt of draft.index.stiltsOf(part)) {
    if (!isFree(stilt, draft)) continue
    const edited = regaugeStilt(surface, stilt, gaugeFor(stilt, gauges), plate)
    if (!edited.ok || edited.shape.foot !== 'plate') continue
    const before = shaftOf(stilt.path), after = shaftOf(edited.shape.path), beams = beamsOfShape(edited.shape), fewer = edited.shape.path.length < stilt.path.length
    if (after.lengthMm > before.lengthMm + 1e-6 || !(fewer || before.lengthMm - after.lengthMm > SHORTER_MM || before.leanDeg - after.leanDeg > STEEPER_DEG)) continue
    if (field.isNear(beams, webMm, new Set([stilt.id]))) continue
    draft.apply(changeOfStilts(draft.index, part, 'straighten', { put: [{ stilt, shape: edited.shape }] }))
    field.put(`straight ${stilt.id}`, beams.map(beam => ({ owner: stilt.id, beam })))
    count++
  }
  return count
}

/** Whether a stilt stands by itself on the plate, and nothing of it is meant to stay where it is. */
export function isFree(s: Stilt, { index }: PlanDraft): boolean {
  return s.foot === 'plate' && s.alone === s.nodes.length && s.bound === s.nodes.length && s.forced === undefined && s.spread === undefined && s.nodes.every(id => !index.nodes.get(id)?.pinned)
}
