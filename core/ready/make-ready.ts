import { loadsOf, type Change } from '../contract'
import { holdOpenIslands, type NotHeld } from '../plan'
import type { Proof, Proven } from '../proof'
import { solidsOfPart } from '../raft'
import { changeOfStilts, Clearance, gaugeFor, judgeStilt, PlanDraft, type Others, type Plate } from '../stilts'
import { proved } from './proved'
import { braced, narrowedFeet, repaired, type Found, type Repairs } from './repair'

/** A part that is to be made ready: what is there of its plan is kept. */
export type ToReady = Omit<Proven, 'result' | 'roleOf'> & { readonly plate: Plate }

export interface Ready {
  /** All that was done to the plan, as one change. */
  readonly change: Change
  /** The proof of the plan as it is then, and what it is of. */
  readonly proof: Proof
  readonly proven: Proven
  /** Stilts that were placed, also beside others; braces that were put in; stilts that were made thicker. */
  readonly placed: number
  readonly braces: number
  readonly thickened: number
  /** What no stilt, or not enough of them, could be placed under. */
  readonly notHeld: readonly NotHeld[]
}

/**
 * Brings a part as it stands from its scan to a proof: holds what hangs, braces what is slender, proves, repairs once what bears too
 * much, holds what may hang since, and proves again. It never moves the part. Yields a sentence between steps.
 * @param of its scan has the loads of the resin; its stilts are set here
 */
export function* makeReady(of: ToReady): Generator<string, Ready, void> {
  const { scan, surface, part, raft, resin, gauges, plate } = of
  const draft = new PlanDraft(of.index, [...of.index.nodes.values()].filter(n => n.part === part).map(n => n.id))
  const done = { placed: 0, braces: 0, thickened: 0 }
  scan.setLoads(loadsOf(resin))

  const others = (): Others => ({ field: new Clearance(draft.index).field(part), limitMm: resin.webMm })
  const solids = (): ReturnType<typeof solidsOfPart> => solidsOfPart(draft.index, part, raft)
  const take = ({ change, ...more }: Repairs): number => {
    draft.apply(change)
    done.placed += more.placed
    done.braces += more.braces
    done.thickened += more.thickened
    return more.placed + more.braces + more.thickened + (change.put?.nodes?.length ?? 0)
  }
  function* hold(): Generator<string, readonly NotHeld[], void> {
    const standing = solids(), before = draft.index.stiltsOf(part).map(s => s.id)
    scan.setStilts(standing)
    const steps = holdOpenIslands(scan, surface, standing, { gauges, plate, others: others(), ledges: true })
    let step = steps.next()
    for (; !step.done; step = steps.next()) yield step.value ?? 'Placing stilts'
    const { added, notHeld } = step.value
    draft.apply(changeOfStilts(draft.index, part, 'hold', { add: added }))
    done.placed += added.length
    const known = new Set(before)
    draft.apply(narrowedFeet(of, draft.index, new Set(draft.index.stiltsOf(part).map(s => s.id).filter(id => !known.has(id)))))
    return notHeld
  }
  function* provenNow(): Generator<string, Pick<Ready, 'proof' | 'proven'>, void> {
    return yield* proved({ ...of, index: draft.index })
  }

  let notHeld = yield* hold()
  yield 'Bracing what is slender'
  const slender = draft.index.stiltsOf(part).filter(s => judgeStilt(surface, s, { gauge: gaugeFor(s, gauges), isHeld: n => draft.index.isHeld(n), diameters: draft.index.diametersOf(s) }).some(v => v.kind === 'slender'))
  take(braced(of, draft.index, slender, others))
  let found = yield* provenNow()
  yield 'Repairing'
  if (yield* repairedBy({ ...found.proof, roleOf: found.proven.roleOf })) {
    notHeld = yield* hold()
    found = yield* provenNow()
  }
  return { change: draft.change('make ready'), ...found, notHeld, ...done }

  /** Repairs what a proof found; gives whether there was anything that could be. */
  function* repairedBy(proof: Found): Generator<string, boolean, void> {
    let count = 0
    for (const step of repaired(of, draft.index, proof, others)) {
      yield 'Repairing'
      count += take(step)
    }
    return count > 0
  }
}
