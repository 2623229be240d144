import type { PlanBeam, PlanNode } from '../contract'
import { loadedBy, swaysFrom, type Loaded, type Proven } from '../proof'
import { thicknessAt, type PlanDraft, type PlanIndex, type PlanRows } from '../stilts'
import { asThick, movedAside } from './aside'
import { grownRows, roomAround } from './grown-rows'
import { resinSaved, slimBeams, tooLongOf } from './slim-beams'
import { slimTips } from './slim-tips'
import { softBeams } from './soft-beams'

/** Rounds of loading and growing at the most; and so many after something was made thinner. */
const MOST_ROUNDS = 8, ROUNDS_SLIM = 6
/** What is grown is brought to this share of what it may bear, so that one round is mostly enough, and lower where it was made thinner before; and by so much in one round at the most. */
const AIM = 0.85, AIM_SLIM = 0.75, MOST_AT_ONCE = 2
/** A tip is never thicker than this share of what it holds. */
const SHARE_OF_PART = 0.9
/** Growing goes on as long as a round leaves no more than this share of what is too much, but for so many rounds. */
const STILL_HELPS = 0.95, MOST_STALLED = 1
/** A stretch is no more than so many times as long as its radius of gyration; nor than that where both its ends are braced. */
const MOST_SLENDER = 110, MOST_SLENDER_BRACED = 150
/** What was too slender is so much thicker than it has to be. */
const SPARE = 1.01

/** So often beams are made thinner that bear little; beside pieces that sway by this share of what they may at least, so many of them. */
const SLIMMINGS = 2, SWAYS_FROM = 0.5, MOST_SWAYING = 12
/** Less than this share of its resin is not worth another look at what a plan bears. */
const WORTH_SLIMMING = 0.015
/** Where something bears more than this share of what it can already, nothing is made thinner: others would bear more for it. */
const WEAK = 0.8

/** So often room is made beside what has none. */
const MOST_ASIDES = 2

const NO_ROWS = { nodes: [], beams: [] }, NOTHING_YET = { strength: Infinity, sway: Infinity }

/** How far strengthening goes. */
interface Strengthening {
  readonly rounds?: number
  /** Whether what sways is made thicker as well. Where it is not, not all layers are loaded in the end. */
  readonly sway?: boolean
  /** What a plan much like this one bore in the layers that load it most. */
  readonly like?: Loaded
  /** No beam gets thicker than that, mm; as thick as any may be where left out. */
  readonly mostMm?: number
  /** Which of the beams that may be changed may be made thinner as well; all where left out. */
  readonly slims?: (id: string) => boolean
}

/**
 * Grows what bears more than it may: tips by their area, sections by the cube, slender ones by the fourth power of what they bear too much;
 * then what is softest, until the part sways no more than it may; each as far as there is room. Where there is none, knees and joints are moved
 * aside for it. Beams and tips that are thicker than they have to be in the end are made thinner. Braces that would still bear more than they may are let
 * go: what they would stiffen they cannot. Gives what bears what then. Yields between steps.
 * @param draft the plan, which is changed
 * @param mine whether a row may be changed
 */
export function* strengthened(of: Pick<Proven, 'scan' | 'part' | 'surface' | 'gauges' | 'resin'>, draft: Pick<PlanDraft, 'index' | 'clearance' | 'put' | 'drop'>, mine: (id: string) => boolean, { rounds = MOST_ROUNDS, sway = true, like, mostMm, slims = () => true }: Strengthening = {}): Generator<string, Loaded, void> {
  const { resin, surface, part } = of, limit = 1 / resin.margin
  let loaded = yield* loadedBy({ ...of, index: draft.index }, like), stalled = 0, whole = !like, letGo = false, asides = 0
  /** By how much all is over, and all that sways: the least so far. */
  let before = NOTHING_YET
  const blocked = new Set<string>()
  /** Once all was made thinner that may be, nothing is made thicker any more only because something sways. */
  let isSlim = !sway
  /** What only some layers said is asked of all of them in the end; gives whether it was already. */
  const allLayersSay = function* (): Generator<string, boolean, void> {
    if (whole || !isSlim || !sway) return true
    loaded = yield* loadedBy({ ...of, index: draft.index })
    whole = true
    stalled = 0
    before = NOTHING_YET
    return false
  }
  /** Makes what bears too much thicker, once; gives whether nothing more is to be done, or can be. */
  const once = function* (): Generator<string, boolean, void> {
    yield 'Making thicker what bears too much'
    const aim = limit * (sway && isSlim ? AIM_SLIM : AIM), tips = new Map<string, number>(), grow = new Map<string, number>(), least = new Map<string, number>(), by = (id: string, times: number): void => void grow.set(id, Math.max(grow.get(id) ?? 1, Math.min(MOST_AT_ONCE, times)))
    for (const { id, share } of loaded.ends) if (share > limit && mine(id)) tips.set(id, Math.min(MOST_AT_ONCE, Math.sqrt(share / aim)))
    for (const { id, share } of loaded.beams) if (share > limit && mine(id)) by(id, Math.cbrt(share / aim))
    for (const { beams, share } of loaded.stretches) if (share > limit) for (const id of beams) if (mine(id)) by(id, (share / aim) ** 0.25)
    for (const { beams, stretch } of loaded.stretches) {
      const leastMm = (4 * stretch.lengthMm) / (stretch.ends.every(e => e === 'joint') ? MOST_SLENDER_BRACED : MOST_SLENDER)
      if (leastMm > stretch.thinMm) for (const id of beams) if (mine(id) && draft.index.beams.get(id)?.kind !== 'cone') least.set(id, leastMm * SPARE)
    }
    // what found no strut, and is longer than its gauge allows
    for (const [id, mm] of tooLongOf(draft.index, part, of.gauges)) if (mine(id)) least.set(id, Math.max(least.get(id) ?? 0, mm * SPARE))
    const strong = [...grow].sort((a, b) => b[1] - a[1]).map(([id, times]) => asThick(draft.index.beams.get(id) as PlanBeam, times)), soft = softBeams(loaded, draft.index, resin.swayMm, blocked)
    const over = { strength: [...loaded.ends, ...loaded.beams, ...loaded.stretches].reduce((sum, { share }) => sum + Math.max(0, share / limit - 1), 0), sway: soft.over }
    if (!isSlim) for (const [id, times] of soft.times) if (mine(id)) by(id, times)
    if (over.strength + over.sway === 0 && grow.size + least.size === 0) return yield* allLayersSay()
    // what grows draws loads to itself, so one round may leave more than the one before
    const stalls = over.strength >= before.strength * STILL_HELPS && (!sway || over.sway >= before.sway * STILL_HELPS) && ++stalled > MOST_STALLED
    before = { strength: Math.min(before.strength, over.strength), sway: Math.min(before.sway, over.sway) }
    const shapes = new Map(draft.index.stiltsOf(part).map(s => [s.id, s]))
    const thickest = (id: string): number => {
      const shape = shapes.get(id)
      return shape ? SHARE_OF_PART * thicknessAt(surface, shape) : Infinity
    }
    const rows = stalls ? NO_ROWS : grownRows(draft.index, part, { tips, times: grow, least, mostMm }, thickest, roomAround(surface, draft.index, part, of.gauges, resin.webMm))
    const grown = new Set(rows.beams.map(b => b.id))
    for (const id of [...grow.keys(), ...least.keys()]) if (!grown.has(id)) blocked.add(id)
    draft.put(rows)
    const madeRoom = sway && asides < MOST_ASIDES && movedAside(draft, part, strong, of.gauges, mine, () => roomAround(surface, draft.index, part, of.gauges, resin.webMm)) > 0, stands = !madeRoom && rows.nodes.length + rows.beams.length === 0
    if (stands) {
      const useless = letGo || !sway ? [] : overloadedBraces(loaded, draft.index, limit).filter(mine)
      if (useless.length === 0) return yield* allLayersSay()
      letGoOf(draft, useless, part, resin.webMm)
      letGo = true
    }
    if (madeRoom) {
      asides++
      blocked.clear()
    }
    if (madeRoom || stands) {
      stalled = 0
      before = NOTHING_YET
    }
    loaded = yield* loadedBy({ ...of, index: draft.index }, loaded)
    whole = false
    return false
  }
  /** Makes some rows thinner, if nothing sways or breaks for it: that would cost more resin than it saves. Gives whether it did. */
  const thinner = function* (rows: PlanRows): Generator<string, boolean, void> {
    if (rows.nodes.length + rows.beams.length === 0) return false
    const asTheyWere: PlanRows = { nodes: rows.nodes.map(n => draft.index.nodes.get(n.id) as PlanNode), beams: rows.beams.map(b => draft.index.beams.get(b.id) as PlanBeam) }
    draft.put(rows)
    const slim = yield* loadedBy({ ...of, index: draft.index }, loaded)
    if (slim.sways.length > loaded.sways.length || worstOf(slim) > Math.max(1, worstOf(loaded))) {
      draft.put(asTheyWere)
      return false
    }
    loaded = slim
    whole = false
    return true
  }
  let most = rounds
  for (let round = 0; ; round++) {
    if (round < most && !(yield* once())) continue
    if (isSlim) break
    // what was made thicker on the way, and need not be, is made thinner again; a few rounds more for what that asks for
    isSlim = true
    yield 'Making thinner what bears little'
    let slimmed = false
    for (let n = 0; n < SLIMMINGS && worstOf(loaded) <= WEAK; n++) {
      const rows = slimBeams(draft.index, part, loaded, swaysFrom(loaded, resin, SWAYS_FROM * resin.swayMm, MOST_SWAYING), limit, resin.swayMm, id => mine(id) && slims(id), of.gauges)
      if (resinSaved(draft.index, part, rows.beams) < WORTH_SLIMMING || !(yield* thinner(rows))) break
      slimmed = true
    }
    if (yield* thinner(slimTips(draft.index, part, surface, of.gauges, loaded.ends, limit, mine))) slimmed = true
    if (!slimmed) break
    stalled = 0
    before = NOTHING_YET
    most = round + 1 + ROUNDS_SLIM
  }
  return whole || !sway ? loaded : yield* loadedBy({ ...of, index: draft.index })
}

/** The largest share that anything bears of what it can. */
function worstOf({ ends, beams, stretches }: Loaded): number {
  return [...ends, ...beams, ...stretches].reduce((most, { share }) => Math.max(most, share), 0)
}

/** Takes braces out, but those without which stilts that are nearer to each other than they may be would not hang together any more. */
function letGoOf(draft: Pick<PlanDraft, 'index' | 'clearance' | 'put' | 'drop'>, braces: readonly string[], part: string, webMm: number): void {
  let near = draft.clearance.nearer(part, webMm).length
  for (const id of braces) {
    const brace = draft.index.beams.get(id) as PlanBeam
    draft.drop([], [id])
    const now = draft.clearance.nearer(part, webMm).length
    if (now > near) draft.put({ beams: [brace] })
    else near = now
  }
}

/** Braces between joints that would bend, or bend out, under what they bear. */
function overloadedBraces({ beams, stretches }: Loaded, index: PlanIndex, limit: number): string[] {
  const over = new Set([...beams.flatMap(b => (b.share > limit ? [b.id] : [])), ...stretches.flatMap(s => (s.share > limit ? s.beams : []))])
  return [...over].filter(id => {
    const b = index.beams.get(id)
    return b?.kind === 'brace' && index.nodes.get(b.to)?.kind === 'joint'
  })
}
