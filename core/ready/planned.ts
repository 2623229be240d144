import { gaugesOfOptions, loadsOf, USUAL_OPTIONS, type Change, type PlanOptions, type ProofCheck, type Role } from '../contract'
import { planForest, remedyInWords, rolesOfTips, tiltFor, type GrowthWatch, type NotHeld, type PlanAim, type WeakTip } from '../plan'
import type { TiltAngles } from '../pose'
import { prove, swayedBy, type Loaded, type Proven, type Swayed } from '../proof'
import { solidsOfPart } from '../raft'
import { changeOfStilts, PlanDraft, type PlanIndex, type Stilt } from '../stilts'
import { shareOfIdle, withoutIdle } from './idle'
import type { Ready, ToReady } from './make-ready'
import { proved } from './proved'
import { tooLongOf } from './slim-beams'
import { swayingIn } from './soft-beams'
import { strengthened } from './strengthen'

/** A part that is to be planned, on the raft that is asked for, and what else is. */
export type ToPlan = ToReady & { readonly options?: PlanOptions; readonly aim?: PlanAim; readonly watch?: GrowthWatch; /** How the part is tilted, so that a tilt can be named that would help. */ readonly pose?: TiltAngles }

/**
 * Plans a part: tips under all that hangs, gathered on shared trunks, as thick as what they carry asks for, scanned and proved. What stands
 * already is kept as it is. It never moves the part. Yields a sentence between steps.
 * @param of its scan has the loads of the resin; its stilts are set here
 */
export function* planned(of: ToPlan): Generator<string, Ready, void> {
  const [usual, short] = REACHES_MM, first = yield* plannedWith(of, usual)
  if (first.placed === 0 || first.placed > MOST_PLANNED_TWICE || of.options?.branches === false || !isWeak(first)) return yield* thinned(of, first)
  const second = yield* plannedWith(of, short)
  const better = badness(second) - badness(first) || second.placed - first.placed
  return yield* thinned(of, better < 0 ? second : first)
}

/** How far branches reach across at the most, mm: first far, for few trunks; where what comes of it is weak, so short that trunks stand under the rim. */
const REACHES_MM = [9, 3] as const
/** Only what has no more tips than this is planned twice. */
const MOST_PLANNED_TWICE = 80

/** What is a little too much is not worth another plan: this much of what is there; of a plan of few tips, which is made at once, less. */
const A_LITTLE = 0.2, VERY_LITTLE = 0.02, FEW = 70
/** Whether something bears more than it may, or sways farther, by more than a little. */
function isWeak({ proof, placed }: Ready): boolean {
  return proof.checks.some(c => OF_STRENGTH.has(c.kind) && c.state === 'bad' && c.figure !== null && c.limit !== null && 1 - c.limit / c.figure > (placed > FEW ? A_LITTLE : VERY_LITTLE))
}
const OF_STRENGTH: ReadonlySet<ProofCheck['kind']> = new Set(['tips', 'beams', 'slender', 'sway'])
/** Checks that are bad; of those of strength the worst by how much it is too much of what may be, for a print fails where it is weakest. */
function badness({ proof }: Ready): number {
  const bad = proof.checks.filter(c => c.state === 'bad'), over = bad.map(c => (OF_STRENGTH.has(c.kind) && c.figure !== null && c.limit !== null ? c.figure / c.limit - 1 : 0))
  return bad.filter(c => !OF_STRENGTH.has(c.kind)).length + Math.max(0, ...over)
}

function* plannedWith(of: ToPlan, reachMm: number): Generator<string, Ready, void> {
  const { scan, surface, part, raft, resin, plate, options = USUAL_OPTIONS } = of, own = [...of.index.nodes.values()].filter(n => n.part === part).map(n => n.id), kept = new Set([...own, ...[...of.index.beams.values()].filter(b => b.part === part).map(b => b.id)])
  scan.setLoads(loadsOf(resin))
  let like: Loaded | undefined, swayed: Swayed | undefined
  const steps = planForest(scan, surface, of.index, part, {
    options, aim: of.aim, gauges: gaugesOfOptions(options, of.gauges), plate, watch: of.watch, reachMm, webMm: resin.webMm + WEB_SPARE_MM, modulusNMm2: resin.greenModulusNMm2, solids: index => solidsOfPart(index, part, raft),
    *sways(draft) {
      swayed = yield* swayedBy({ ...of, index: draft.index }, swayed)
      return swayingIn(swayed, resin.swayMm)
    },
    *strengthen(draft, stage) {
      const some = { sway: false, mostMm: Math.max(...of.gauges.map(g => g.shaftFootDiameterMm)) }
      like = yield* strengthened(of, draft, id => !kept.has(id), { ...(stage === 'first' ? FIRST : stage === 'some' ? some : {}), like })
      // what carries too much only because the rest is not planned yet asks for no more of these
      return stage === 'some' ? [] : weakTips(like, draft.index, part, resin.margin, scan.raster.layerMm)
    },
  })
  let step = steps.next()
  for (; !step.done; step = steps.next()) yield step.value ?? 'Choosing tips'
  const { change, result } = step.value, notHeld = withRemedies(of, step.value.notHeld), draft = new PlanDraft(of.index, own)
  draft.apply(change)
  const roles = rolesOfTips(scan, result, draft.index.stiltsOf(part)), proven: Proven = { ...of, result, index: draft.index, roleOf: (tip): Role => roles.get(tip) ?? 'detail' }
  return { change, proof: yield* prove(proven, like), proven, placed: tipsIn(change, kept), braces: 0, thickened: 0, notHeld }
}

/** What is planned keeps so much more from each other than it must, mm: what is written is rounded. */
const WEB_SPARE_MM = 0.01
/** Plans of more tips than that keep what bears next to nothing: every look at what is missed without it takes a scan. */
const MOST_THINNED = 250, THINNING_TRIES = 4
/** So much of the resin has to be in what bears next to nothing, or else it stays. */
const WORTH_THINNING = 0.12

/** A plan without what bears next to nothing, where nothing hangs or gives way without it. */
function* thinned(of: ToPlan, whole: Ready): Generator<string, Ready, void> {
  const { part, options = USUAL_OPTIONS } = of, own = new Set([...of.index.nodes.values()].filter(n => n.part === part).map(n => n.id)), bad = new Map(whole.proof.checks.map(c => [c.kind, c.state === 'bad' ? c.count : 0]))
  // where more was asked for than has to be, all of it stays
  if (options.holdMm !== null || options.slopeDeg > 0 || options.what === 'first') return whole
  if (whole.placed === 0 || whole.proven.index.stiltsOf(part).length > MOST_THINNED) return whole
  if (shareOfIdle(whole.proven.index, part, whole.proof.idle) < WORTH_THINNING) return whole
  const without = (gone: readonly Stilt[]): PlanDraft => {
    const draft = new PlanDraft(of.index, [...own])
    draft.apply(whole.change)
    draft.apply(changeOfStilts(draft.index, part, 'take away', { drop: gone }))
    return draft
  }
  const tooLong = (index: PlanIndex): number => tooLongOf(index, part, of.gauges).size, long = tooLong(whole.proven.index)
  const tried = yield* withoutIdle({ ...whole, index: whole.proven.index }, part, {
    tries: THINNING_TRIES, mayGo: s => !own.has(s.id), *look(gone) {
      const draft = without(gone), change = draft.change('plan')
      return { ...whole, change, placed: tipsIn(change, own), index: draft.index, ...(yield* proved({ ...of, index: draft.index })) }
    }, worse: ({ proof, index }) => proof.checks.find(c => c.state === 'bad' && c.count > (bad.get(c.kind) ?? 0))?.sentence ?? (tooLong(index) > long ? 'It would leave a shaft longer than its gauge allows.' : null),
    // what braces a shaft that is too long without it bears nothing, and has to stay
    misses({ index }, gone) {
      const now = tooLong(index)
      return now > long ? gone.filter(s => tooLong(without(gone.filter(g => g !== s)).index) < now) : []
    },
  })
  return tried && tried.why === null ? tried.next : whole
}

/** How many tips a change adds. @param kept nodes that were there before */
function tipsIn({ put }: Change, kept: ReadonlySet<string>): number {
  return (put?.nodes ?? []).filter(n => n.kind === 'tip' && !kept.has(n.id)).length
}

/** As long as more tips are to come, growing goes no farther than to tell which ones it does not help. */
const FIRST = { rounds: 3, sway: false }
/** Tips that one more is wanted beside are those that bear more than this share of what they may; of more than that three times as much, two more, and so on. */
const WEAK_FROM = 1.05, A_TIP_FOR = 3, MOST_BESIDE = 3

function weakTips({ ends, beams }: Loaded, index: PlanIndex, part: string, margin: number, layerMm: number): WeakTip[] {
  const found = new Map<string, WeakTip>(), add = (id: string, over: number, layer: number): void => {
    const node = index.nodes.get(id)
    if (node?.kind === 'tip' && over > WEAK_FROM && !found.has(id)) found.set(id, { at: node.at, laidMm: layer * layerMm, wanted: Math.min(MOST_BESIDE, Math.ceil(over / A_TIP_FOR)) })
  }
  for (const { id, share, layer } of ends) add(id, share * margin, layer)
  // a beam that only one tip hangs on is helped by another tip as well
  const lone = new Map(index.stiltsOf(part).flatMap(s => s.beams.slice(0, s.alone).map(b => [b, s.id] as const)))
  for (const { id, share, layer } of beams) add(lone.get(id) ?? '', share * margin, layer)
  return [...found.values()]
}

const NO_TILT = 'No tilt of up to 45° about x or y opens a straight way to it; a stick between two points, or a waiver, is left.'
/** What is left, each with the tilt that would open a way to it where one does. */
function withRemedies({ surface, pose }: ToPlan, notHeld: readonly NotHeld[]): NotHeld[] {
  return notHeld.map(n => (pose ? { ...n, reason: `${n.reason} ${remedyInWords(tiltFor(surface, pose, [n.at]), 1) || NO_TILT}` } : n))
}
