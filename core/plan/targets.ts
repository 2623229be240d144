import type { FindingState, Gauge, Island, IslandClass, Ledge, Role } from '../contract'
import type { Vec3 } from '../mesh'
import { regionOf, type ModelScan, type ScanResult } from '../scan'
import { hangingSpots, spread, type Spots } from './spots'

/** What no stilt, or not enough of them, could be placed under. */
export interface NotHeld {
  readonly kind: 'island' | 'ledge'
  readonly layer: number
  /** The point to aim at, or the farthest one, in the stand. */
  readonly at: Vec3
  readonly reason: string
}

/** What a ledge is known by. */
export type LedgePlace = Pick<Ledge, 'firstLayer' | 'lastLayer' | 'at' | 'reachMm' | 'areaMm2'>

/** What of all that hangs is to be held. */
export interface Asked {
  /** Only these islands; all open ones where left out. */
  readonly only?: ReadonlySet<number>
  /** Holds what juts out too far as well; else only what begins on nothing, and all of it but what is a ledge of the body. */
  readonly ledges?: boolean
  /** Only this ledge. */
  readonly ledge?: Ledge
  /** Only these islands and ledges. */
  readonly chosen?: { readonly islands: ReadonlySet<number>; readonly ledges: readonly LedgePlace[] }
  /** Whether what hangs at a place, a little within the part, is asked for; all of it where left out. */
  within?(at: Vec3): boolean
  /** Tips are set as if each held no farther than this, mm; as far as the scan has it where left out. */
  readonly holdMm?: number
  /** Skin that is flat gets tips once it juts out this far. */
  readonly flat?: { readonly flapMm: number; isFlat(at: Vec3): boolean }
  /** Whether tips begin with the strongest gauge for what hangs. */
  readonly strong?: boolean
}

/** Gauges by what hangs, strongest wanted first; finer ones follow where that one finds no way. */
const GAUGES_FOR: Record<IslandClass, readonly string[]> = {
  body: ['heavy', 'medium', 'light', 'fine'],
  limb: ['medium', 'light', 'fine'],
  detail: ['light', 'fine'],
  flake: ['fine'],
}
/** Details under this weight get the fine gauge. */
const FINE_UNDER_MM3 = 1

const ROLE_FOR: Record<IslandClass, Role> = { body: 'carrier', limb: 'structural', detail: 'detail', flake: 'detail' }

/** What is to be held: an island, or a ledge of something that stands or is held. */
export interface Target {
  readonly of: { readonly kind: 'island'; readonly island: Island } | { readonly kind: 'ledge'; readonly ledge: Ledge }
  /** The island where it is open as a whole; else only `hanging` asks for tips. */
  readonly whole: Island | null
  readonly hanging: readonly number[]
  readonly gauges: readonly string[]
  readonly role: Role
}

/** What is still to be held of what was asked for. */
export function targetsOf(result: Pick<ScanResult, 'islands' | 'ledges'>, options: Asked): Target[] {
  const { only, ledge, chosen, within = () => true } = options
  if (chosen) {
    const ledges = new Set(chosen.ledges.flatMap(l => sameLedges(result.ledges, l)))
    return [...result.islands.filter(i => isOpen(i.state) && chosen.islands.has(i.id)).map(targetOfIsland).filter(t => t.whole || t.hanging.length > 0), ...[...ledges].filter(l => isOpen(l.state)).map(targetOfLedge)]
  }
  if (ledge) return sameLedges(result.ledges, ledge).filter(l => isOpen(l.state)).map(targetOfLedge)
  const islands = result.islands.filter(i => isOpen(i.state) && (!only || only.has(i.id)) && within(i.aim)).map(targetOfIsland).filter(t => t.whole || t.hanging.length > 0)
  if (!options.ledges || only) return islands
  // ledges of islands are theirs; what stands on the plate has some of its own
  const listed = new Set(islands.flatMap(t => t.hanging))
  return [...islands, ...result.ledges.filter(l => isOpen(l.state) && within(l.at) && !l.hanging.some(h => listed.has(h))).map(targetOfLedge)]
}

/** Gauges by their ids for a tip of a forest: such tips begin a size smaller than stilts that stand by themselves, and what bears too much is made thicker. */
export function slimmer(ids: readonly string[], gauges: readonly Gauge[]): Gauge[] {
  return known(ids.length > 1 ? ids.slice(1) : ids, gauges)
}

/** Gauges of a tip that carries something, or only saves a detail. */
export function gaugesOfRole(role: Role): readonly string[] {
  return role === 'detail' ? GAUGES_FOR.detail : GAUGES_FOR.limb
}

/** Gauges and role of a tip of a forest by what it is for: an island as a whole, some of one that is held in part, or where there is none, a ledge. */
export function tipsFor(island: Island | null, whole: boolean, { gauges, strong }: { readonly gauges: readonly Gauge[]; readonly strong?: boolean }): { readonly gauges: Gauge[]; readonly role: Role } {
  const of = island ? targetOfIsland(whole || island.state === 'partly' ? island : { ...island, state: 'partly' }) : { gauges: GAUGES_FOR.limb, role: 'structural' as const }
  return { gauges: strong ? known(GAUGES_FOR.body, gauges) : slimmer(of.gauges, gauges), role: of.role }
}

function targetOfIsland(island: Island): Target {
  const { class: c, hanging } = island
  const of = { kind: 'island' as const, island }
  if (island.state === 'partly') return { of, whole: null, hanging, gauges: GAUGES_FOR[c === 'body' ? 'limb' : c], role: c === 'body' ? 'structural' : ROLE_FOR[c] }
  return { of, whole: island, hanging, gauges: c === 'detail' && island.volumeMm3 < FINE_UNDER_MM3 ? ['fine'] : GAUGES_FOR[c], role: ROLE_FOR[c] }
}

function targetOfLedge(ledge: Ledge): Target {
  return { of: { kind: 'ledge', ledge }, whole: null, hanging: ledge.hanging, gauges: GAUGES_FOR.limb, role: 'structural' }
}

/** What tips were looked for, and why not all of it could be held if it could not. */
export interface Tried {
  readonly of: Target['of']
  readonly reason: string
}

/** What is still open of what was tried, with the reason why. @param otherwise the reason of what was not tried; left out where there is none */
export function notHeldOf(result: ScanResult, asked: Asked, tried: readonly Tried[], otherwise?: string): NotHeld[] {
  return targetsOf(result, asked).flatMap(({ of }): NotHeld[] => {
    const reason = tried.findLast(t => sameThing(t.of, of))?.reason ?? otherwise
    if (reason === undefined) return []
    return of.kind === 'island' ? [{ kind: of.kind, layer: of.island.layer, at: of.island.aim, reason }] : [{ kind: of.kind, layer: of.ledge.firstLayer, at: of.ledge.at, reason }]
  })
}

/** Whether two rounds speak of the same thing. */
function sameThing(a: Target['of'], b: Target['of']): boolean {
  if (a.kind === 'island') return b.kind === 'island' && a.island.id === b.island.id
  return b.kind === 'ledge' && isKnownAs(b.ledge, a.ledge)
}

/** The ledge of a list that another one is, or what is left of it. */
function sameLedges(list: readonly Ledge[], ledge: LedgePlace): Ledge[] {
  const same = list.filter(l => isKnownAs(l, ledge))
  // one that was listed before the model alone was measured may since have become several
  return same.length > 0 ? same : list.filter(l => samePlace(l, ledge))
}

function isKnownAs(l: LedgePlace, o: LedgePlace): boolean {
  return l.firstLayer === o.firstLayer && l.at.every((v, i) => v === o.at[i])
}

function samePlace(l: LedgePlace, o: LedgePlace): boolean {
  return l.lastLayer >= o.firstLayer && l.firstLayer <= o.lastLayer && Math.hypot(l.at[0] - o.at[0], l.at[1] - o.at[1]) <= Math.max(2 * o.reachMm, Math.sqrt(o.areaMm2))
}

function isOpen(state: FindingState): boolean {
  return state === 'open' || state === 'partly'
}

/** Places under a finding that may be tried for tips, a little inside the part, stand coordinates; empty before it was scanned. @param most so many at the most */
export function spotsUnder(scan: ModelScan, what: { readonly island: Island } | { readonly ledge: Ledge }, most: number): Vec3[] {
  const { modelTree } = scan, { pixelMm, layerMm } = scan.raster
  if (!modelTree) return []
  const steps = spotsFor(scan, 'island' in what ? targetOfIsland(what.island) : targetOfLedge(what.ledge), 0)
  let step = steps.next()
  while (!step.done) step = steps.next()
  return step.value.points.slice(0, most).map(({ pixel, row, layer }) => [(pixel + 0.5) * pixelMm, (row + 0.5) * pixelMm, (layer + 0.5) * layerMm])
}

export function* spotsFor(scan: ModelScan, { whole, hanging }: Target, round: number): Generator<null, Spots, void> {
  const { modelTree } = scan, reach = scan.settings.tipHoldMm / scan.raster.pixelMm
  if (!modelTree) return { points: [], wanted: 0 }
  return whole ? yield* spread(regionOf(scan, whole.layer, whole.component - modelTree.graph.solidStarts[whole.layer]), whole.layer, Math.floor(reach), round) : yield* hangingSpots(scan, hanging, reach, round)
}

/** Gauges by their ids, as far as there are such; where there is none of them, the one with the finest tip. */
export function known(ids: readonly string[], gauges: readonly Gauge[]): Gauge[] {
  const found = ids.flatMap(id => gauges.find(g => g.id === id) ?? [])
  return found.length > 0 ? found : [gauges.reduce((a, b) => (b.tipDiameterMm < a.tipDiameterMm ? b : a))]
}

