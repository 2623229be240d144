import type { PlanNode } from '../contract'
import { fromSource, type Standing } from '../pose'

/**
 * Nodes of a part that was mirrored along its own x axis and is tilted so that it stands as its mirror image, left for right: each where
 * its image is. What touches the model is kept in the source's coordinates, which a mirror does not change.
 */
export function mirroredNodes(nodes: Iterable<PlanNode>, before: Standing, now: Standing): PlanNode[] {
  // where the part is centred differs by whole pixels
  const a = fromSource(before, [0, 0, 0]), b = fromSource(now, [0, 0, 0])
  const dx = a[0] + b[0], dy = b[1] - a[1], dz = b[2] - a[2]
  return [...nodes].map(n => ({ ...n, at: [dx - n.at[0], n.at[1] + dy, n.at[2] + dz] }))
}
