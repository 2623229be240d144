/** Copies of a part at several heights, so that their fullest layers do not come at once. */
export interface Stagger {
  /** Layers by which each step stands higher than the one before; the first stands as it did. */
  readonly stepLayers: number
  /** How many copies stand on each step, from the lowest up. */
  readonly copies: readonly number[]
  /** What the fullest layer above the feet pulls, N, as they stand and staggered. Estimates. */
  readonly wasN: number
  readonly mostN: number
}

/** So many steps at the most: each is a part of its own. */
const MOST_STEPS = 3
/** What is won less than this is not worth the resin, and a further step has to win so much more, as a share. Our own choice. */
const WORTH_IT = 0.1, WORTH_A_STEP = 0.05

/** The layer under a part in which least is pulled: there only shafts stand, and it can be drawn out. @param liftLayers layers under the part */
export function thinnestUnder(pullN: ArrayLike<number>, liftLayers: number): number {
  let at = 0
  for (let k = 1; k < Math.min(liftLayers, pullN.length); k++) if (pullN[k] < pullN[at]) at = k
  return at
}

/** What layers pull when all above one of them is raised: that one is there so many times more. */
export function raisedPull(pullN: ArrayLike<number>, at: number, byLayers: number): Float64Array {
  const out = new Float64Array(pullN.length + byLayers)
  for (let k = 0; k < out.length; k++) out[k] = pullN[k <= at ? k : k <= at + byLayers ? at : k - byLayers]
  return out
}

/**
 * The heights at which copies of a part pull least together: two or three steps, as few and as low as do nearly as well. Null where that
 * wins too little, or there is nothing under the part to be drawn out.
 * @param pullN what each layer of one copy pulls by itself, its stilts included @param others what everything else on the plate does
 * @param liftLayers layers under the part @param mostLayers how far a copy may be raised
 */
export function proposeStagger(pullN: ArrayLike<number>, others: ArrayLike<number>, copies: number, liftLayers: number, mostLayers: number): Stagger | null {
  if (copies < 2 || liftLayers < 2) return null
  const at = thinnestUnder(pullN, liftLayers), mostOf = (counts: readonly number[], step: number): number => {
    const sum = new Float64Array(Math.max(others.length, pullN.length + step * (counts.length - 1)))
    for (let k = 0; k < others.length; k++) sum[k] = others[k]
    counts.forEach((count, i) => {
      const own = raisedPull(pullN, at, i * step)
      for (let k = 0; k < own.length; k++) sum[k] += count * own[k]
    })
    let most = 0
    for (let k = at; k < sum.length; k++) most = Math.max(most, sum[k])
    return most
  }
  const wasN = mostOf([copies], 0)
  let best: Stagger | null = null
  for (let steps = 2; steps <= Math.min(MOST_STEPS, copies); steps++) {
    const counts = Array.from({ length: steps }, (_, i) => Math.floor(copies / steps) + (i < copies % steps ? 1 : 0)), tried = Array.from({ length: Math.floor(mostLayers / (steps - 1)) }, (_, i) => mostOf(counts, i + 1))
    const least = Math.min(...tried), step = tried.findIndex(n => n <= least + 0.01 * wasN) + 1
    if (step > 0 && tried[step - 1] <= (1 - WORTH_IT) * wasN && (!best || tried[step - 1] <= best.mostN - WORTH_A_STEP * wasN)) best = { stepLayers: step, copies: counts, wasN, mostN: tried[step - 1] }
  }
  return best
}
