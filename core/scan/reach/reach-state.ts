import type { Pending } from './reach-pieces'

/** All that later layers depend on, sparse: everything else is solid and held. */
export interface ReachState {
  readonly layer: number
  readonly pixels: Int32Array
  readonly values: Int32Array
  readonly labels: Int32Array
  /** Layers of the supports that they are measured from. */
  readonly tips: Int32Array
  readonly pending: ReadonlyMap<number, readonly Pending[]>
}

/** Whether two states are the same, so that everything above them is. */
export function sameState(a: ReachState, b: ReachState): boolean {
  return sameArray(a.pixels, b.pixels) && sameArray(a.values, b.values) && sameArray(a.labels, b.labels) && sameArray(a.tips, b.tips) && samePending(a.pending, b.pending)
}

function samePending(a: ReachState['pending'], b: ReachState['pending']): boolean {
  if (a.size !== b.size) return false
  for (const [layer, list] of a) {
    const other = b.get(layer)
    if (!other || other.length !== list.length) return false
    for (const [i, p] of list.entries()) {
      const q = other[i]
      if (p !== q && (p.step !== q.step || p.until !== q.until || !sameArray(p.pixels, q.pixels) || !sameArray(p.labels, q.labels) || !sameArray(p.distance, q.distance) || !sameArray(p.wayX, q.wayX) || !sameArray(p.wayY, q.wayY))) return false
    }
  }
  return true
}

function sameArray(a: ArrayLike<number>, b: ArrayLike<number>): boolean {
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false
  return true
}
