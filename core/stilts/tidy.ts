import type { PlanBeam } from '../contract'
import { sub, unit, cross, type Vec3 } from '../mesh'
import type { PlanDraft } from './plan-draft'

/** Two beams that meet at less than this, as the sine of the angle, are one. */
const STRAIGHT = 1e-4

/** Takes a joint away on which nothing hangs: the shaft goes straight past it. Gives whether it could. */
export function takeJointAway(draft: PlanDraft, id: string): boolean {
  const { index } = draft, around = index.beamsAt(id), above = around.find(b => b.to === id && isShaft(b)), below = around.find(b => b.from === id && isShaft(b))
  if (index.nodes.get(id)?.kind !== 'joint' || around.length !== 2 || !above || !below) return false
  draft.drop([id], [below.id])
  draft.put({ beams: [{ ...above, kind: below.kind === 'branch' ? 'branch' : above.kind, to: below.to, toDiameterMm: below.toDiameterMm }] })
  return true
}

/** Takes away joints in the middle of a straight shaft on which nothing hangs any more: their two beams become one. */
export function tidyJoints(draft: PlanDraft, nodes: Iterable<string>): void {
  const { index } = draft
  for (const id of nodes) {
    const node = index.nodes.get(id), around = index.beamsAt(id)
    if (node?.kind !== 'joint' || node.pinned || around.length !== 2) continue
    const above = around.find(b => b.to === id && isShaft(b)), below = around.find(b => b.from === id && isShaft(b))
    const top = above && index.nodes.get(above.from), end = below && index.nodes.get(below.to)
    if (!above || !below || !top || !end || !isStraight(top.at, node.at, end.kind === 'foot' && end.on.kind === 'plate' ? [end.at[0], end.at[1], end.fitted.footHeightMm] : end.at)) continue
    // above a foot on the model the last joint is where its cone begins
    if (end.kind === 'foot' && end.on.kind === 'model') continue
    takeJointAway(draft, id)
  }
}

function isShaft({ kind }: PlanBeam): boolean {
  return kind === 'shaft' || kind === 'branch'
}
function isStraight(a: Vec3, b: Vec3, c: Vec3): boolean {
  return Math.hypot(...cross(unit(sub(b, a)), unit(sub(c, b)))) < STRAIGHT
}
