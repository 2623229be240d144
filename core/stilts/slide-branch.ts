import type { Change, Gauge, StandPoint } from '../contract'
import type { Vec3 } from '../mesh'
import { normalToSource, toSource } from '../pose'
import { branchSizes, routeBranch, rowsOfBranch, shapeOfBranch } from './branch'
import type { Others } from './clearance'
import { PlanDraft } from './plan-draft'
import type { PlanIndex } from './plan-index'
import type { NoRoute } from './route'
import type { Stilt, StiltShape } from './stilt'
import type { Surface } from './surface'
import { tidyJoints } from './tidy'

/** A branch with another tip and another joint: as it looks then, and the rows for it. */
export type SlidBranch = { readonly ok: true; readonly shape: StiltShape; readonly gapMm: number; readonly change: Pick<Change, 'put' | 'drop'> } | NoRoute

/**
 * Moves the tip of a branch to a point of the skin that its joint does not reach: the joint slides along the stilt that it hangs on.
 * Refused where something hangs on the branch itself, and where none can stand.
 */
export function slideBranch(surface: Surface, index: PlanIndex, branch: Stilt, point: Vec3, normal: Vec3, gauge: Gauge, others?: Others): SlidBranch {
  const { nodes, beams, alone, bound } = branch, joint = nodes[alone]
  const owner = index.stiltsOf(branch.part).find(s => s.id !== branch.id && s.nodes.slice(0, s.alone).includes(joint))
  if (!owner || bound < alone) return { ok: false, problem: 'blocked', reason: bound < alone ? 'Something hangs on this branch, so its joint stays where it is. Keep the tip nearer.' : 'What this branch hangs on is not there any more.' }
  const draft = new PlanDraft(index, [branch.id])
  draft.drop(nodes.slice(0, alone), beams.slice(0, alone))
  tidyJoints(draft, [joint])
  const host = draft.index.stilt(owner.id), { tipShape, tipDiameterMm, penetrationMm, kneeDiameterMm, shaftFootDiameterMm } = branch.sizes
  const way = host && routeBranch(surface, point, normal, gauge, [host], { ...branchSizes(gauge), ...branch.own, tipShape, tipDiameterMm, penetrationMm, kneeDiameterMm, shaftFootDiameterMm }, others)
  if (!way?.ok) return way ?? { ok: false, problem: 'blocked', reason: 'What this branch hangs on is not there any more.' }
  const { gauge: name, role, own } = branch, shape = shapeOfBranch({ gauge: name, role, own, anchor: { point: toSource(surface, point as StandPoint), normal: [...normalToSource(surface, normal)] } }, way)
  draft.put(rowsOfBranch(draft.index, shape, way.joint, branch.number, { tip: nodes[0], knee: nodes[1] }))
  const { put, drop } = draft.change('')
  return { ok: true, shape, gapMm: way.gapMm, change: { ...(put && { put }), ...(drop && { drop }) } }
}
