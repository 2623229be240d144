import { type Change, type Improvement, type PlanMeasures } from '../contract'
import { gathered, hung, straightened } from '../plan'
import type { Proof, Proven } from '../proof'
import { changeOfStilts, Clearance, gaugeFor, judgeStilt, PlanDraft, type Others, type PlanIndex } from '../stilts'
import { withoutIdle } from './idle'
import type { ToReady } from './make-ready'
import { measuresOf } from './measures'
import { areasAlone, proved } from './proved'
import { braced } from './repair'
import { strengthened } from './strengthen'

/** A step of optimising: what it comes to, measured with all steps before it that were taken. */
export interface OptimiseStep {
  readonly step: Improvement
  /** Whether it is part of the result. */
  readonly taken: boolean
  /** How many stilts, braces or tips it changes. */
  readonly count: number
  readonly before: PlanMeasures
  /** Null where there was nothing to do. */
  readonly after: PlanMeasures | null
  /** What presses the shaft that is pressed most, as a share of what bends it out, before and after; null where there was nothing to do. */
  readonly pressed: readonly [number, number] | null
  /** Why it is no part of the result; empty where it is. */
  readonly why: string
}

export interface Optimised {
  /** All steps that were taken as one change. */
  readonly change: Change
  readonly proof: Proof
  readonly proven: Proven
  readonly steps: readonly OptimiseStep[]
}

/** A trunk higher than this is braced, mm (common practice: over about 30 mm). */
const TALL_MM = 30
/** Tries to take away what bears next to nothing. */
const IDLE_TRIES = 6
/** Stilts are hung on others beside being gathered, or else are not. */
const TRIES: Partial<Record<Improvement, number>> = { gather: 2 }
/** Resin that is not worth a change, mm³. */
const LITTLE_MM3 = 0.5

interface State {
  readonly change: Change
  readonly index: PlanIndex
  readonly proof: Proof
  readonly proven: Proven
  readonly measures: PlanMeasures
}

/** What was measured of a plan by the steps that led there, for the next time that it is asked for the same. */
export type OptimiseMemory = Map<string, { readonly alone: Float64Array; readonly now: State; readonly step: OptimiseStep | null }>

/**
 * Improves a plan that stands, hand work included but what is pinned: takes away what bears nothing, straightens what bends, gathers stilts on shared trunks, braces
 * what is tall or slender. Each step is proved by itself; one that opens anything, marks prized skin more, makes anything bad that was good, or gains nothing is left out.
 * Yields a sentence between steps.
 * @param memory of the same plan of the same part; what is in it is not measured again, and what is measured is put into it
 */
export function* optimised(of: ToReady, asked: readonly Improvement[], memory: OptimiseMemory = new Map()): Generator<string, Optimised, void> {
  const { part, scan } = of, all = [...of.index.nodes.values()].filter(n => n.part === part).map(n => n.id), known = memory.get(''), alone = known?.alone ?? (yield* areasAlone(scan)), steps: OptimiseStep[] = []
  function* look(index: PlanIndex, change: Change): Generator<string, State, void> {
    const { proof, proven } = yield* proved({ ...of, index })
    return { change, index, proof, proven, measures: measuresOf(proof, proven, alone) }
  }
  const changed = ({ change }: State): PlanDraft => {
    const draft = new PlanDraft(of.index, all)
    draft.apply(change)
    return draft
  }
  let now = known?.now ?? (yield* look(of.index, { label: 'optimise' }))
  const taken: Improvement[] = []
  memory.set('', { alone, now, step: null })
  for (const step of asked) {
    // a step that was not taken changes nothing for those after it
    const way = [...taken, step].join(' '), done = memory.get(way)
    if (done?.step) {
      steps.push(done.step)
      if (done.step.taken) taken.push(step)
      now = done.now
      continue
    }
    const before = now.measures, pressedBefore = mostPressed(now.proof)
    let best: State | null = null, count = 0, why = NOTHING[step]
    if (step === 'idle') {
      const tried = yield* withoutIdle(now, part, {
        tries: IDLE_TRIES, *look(gone) {
          const draft = changed(now)
          draft.apply(changeOfStilts(draft.index, part, 'take away', { drop: gone }))
          return yield* look(draft.index, draft.change('optimise'))
        }, worse: next => worse(now, next),
      })
      if (tried) {
        best = tried.next
        count = tried.count
        why = tried.why ?? ''
      }
    } else for (let attempt = 0; attempt < (TRIES[step] ?? 1); attempt++) {
      const draft = changed(now)
      count = yield* STEPS[step](of, draft, now, attempt)
      if (count === 0) break
      const next = yield* look(draft.index, draft.change('optimise'))
      why = worse(now, next) ?? (gains(step, now, next) ? '' : 'It would gain nothing.')
      best = next
      if (why === '') break
    }
    const found: OptimiseStep = { step, taken: why === '', count, before, after: best?.measures ?? null, pressed: best && [pressedBefore, mostPressed(best.proof)], why }
    steps.push(found)
    if (best && why === '') {
      now = best
      taken.push(step)
    }
    memory.set(way, { alone, now, step: found })
  }
  return { change: now.change, proof: now.proof, proven: now.proven, steps }
}

const NOTHING: Readonly<Record<Improvement, string>> = { idle: 'Every stilt bears something.', straighten: 'No stilt that stands by itself has a straighter way.', gather: 'No stilts that stand by themselves could share a trunk; more lift gives branches room.', brace: 'Nothing that stands by itself is tall or slender without a brace.' }

const NONE_HUNG: ReturnType<typeof hung> = { count: 0, hosts: new Set() }

type Step = (of: ToReady, draft: PlanDraft, now: State, attempt: number) => Generator<string, number, void>
const STEPS: Readonly<Record<Exclude<Improvement, 'idle'>, Step>> = {
  *straighten(of, draft) {
    yield 'Straightening stilts'
    return straightened(of.surface, draft, of.part, { gauges: of.gauges, plate: of.plate, webMm: of.resin.webMm })
  },
  *gather(of, draft, _now, attempt) {
    const before = new Set(draft.index.beams.keys()), steps = gathered(of.surface, draft, of.part, { gauges: of.gauges, plate: of.plate, webMm: of.resin.webMm })
    let step = steps.next()
    for (; !step.done; step = steps.next()) yield step.value ?? 'Gathering stilts on trunks'
    const more = attempt === 0 ? hung(of.surface, draft, of.part, { gauges: of.gauges, webMm: of.resin.webMm }) : NONE_HUNG
    // tips stay what they are: only what is below them grows
    if (step.value + more.count > 0) yield* strengthened(of, draft, id => draft.index.beams.has(id) && (!before.has(id) || more.hosts.has(id)), { slims: id => !before.has(id) })
    return step.value + more.count
  },
  *brace(of, draft) {
    yield 'Bracing what is tall or slender'
    const { part, surface, gauges } = of, others = (): Others => ({ field: new Clearance(draft.index).field(part), limitMm: of.resin.webMm })
    const some = draft.index.stiltsOf(part).filter(s => s.foot === 'plate' && s.bound >= s.nodes.length && (s.path[1][2] > TALL_MM || judgeStilt(surface, s, { gauge: gaugeFor(s, gauges), isHeld: n => draft.index.isHeld(n), diameters: draft.index.diametersOf(s) }).some(v => v.kind === 'slender')))
    const { change, braces } = braced(of, draft.index, some, others)
    draft.apply(change)
    return braces
  },
}

/** Why one state is worse than another; null where it is not. */
function worse(before: State, { measures: m, proof }: State): string | null {
  const b = before.measures, bad = new Map(before.proof.checks.map(c => [c.kind, c.state === 'bad' ? c.count : 0])), now = proof.checks.find(c => c.state === 'bad' && c.count > (bad.get(c.kind) ?? 0))
  if (m.openIslands > b.openIslands || m.openLedges > b.openLedges) return 'It would leave something hanging.'
  if ((m.scarMm2.prized ?? 0) > (b.scarMm2.prized ?? 0) + 1e-9) return 'It would mark prized skin more.'
  return now ? `It would not do: ${now.sentence.charAt(0).toLowerCase()}${now.sentence.slice(1)}` : null
}
/** What is gained by braces has to be seen: so much less sway, mm, or of what bends a shaft out. */
const LITTLE_SWAY_MM = 0.005, LITTLE_PRESSED = 0.01

/** Whether a step is worth it: less resin, or for braces, a stiffer or less slender stand. */
function gains(step: Improvement, { measures: b, proof: was }: State, { measures: m, proof: is }: State): boolean {
  if (step !== 'brace') return m.tips < b.tips || m.resinMm3 < b.resinMm3 - LITTLE_MM3
  return (m.swayMm ?? 0) < (b.swayMm ?? 0) - LITTLE_SWAY_MM || mostPressed(is) < mostPressed(was) - LITTLE_PRESSED
}
function mostPressed({ stretches }: Proof): number {
  return stretches.reduce((most, s) => Math.max(most, s.share), 0)
}
