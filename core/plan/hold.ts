import { newId, type Gauge, type Role, type FindingState, type Island, type IslandClass, type Ledge } from '../contract'
import { OFF_LIMITS, PLAIN, PRIZED, SPARE } from '../marks'
import type { Mesh, Vec3 } from '../mesh'
import { regionOf, type ModelScan, type ScanResult } from '../scan'
import { beamsOfShape, routeStilt, shapeOfRoute, solidOfStilt, type NoRoute, type Others, type Plate, type StiltShape, type Surface } from '../stilts'
import { hangingSpots, spread, type Spots } from './spots'

/** What no stilt, or not enough of them, could be placed under. */
export interface NotHeld {
  readonly kind: 'island' | 'ledge'
  readonly layer: number
  /** The point to aim at, or the farthest one, in the stand. */
  readonly at: Vec3
  readonly reason: string
}

export interface HoldResult {
  /** The stilts that were added; the plan's own are not among them. */
  readonly added: StiltShape[]
  readonly notHeld: NotHeld[]
  /** How many of them come nearer to others than they should, since nothing else held there. */
  readonly near: number
  /** The scan with all stilts, old and new. */
  readonly result: ScanResult
}

export interface HoldOptions {
  readonly gauges: readonly Gauge[]
  readonly plate: Plate
  /** Stilts that new ones keep clear of; those that are placed are added to them. */
  readonly others?: Others
  /** Only these islands; all open ones where left out. */
  readonly only?: ReadonlySet<number>
  /** Holds what juts out too far as well; else only what begins on nothing, and all of it but what is a ledge of the body. */
  readonly ledges?: boolean
  /** Only this ledge. */
  readonly ledge?: Ledge
}

/** Rounds of hold and scan before what is still open is given up. */
const MOST_ROUNDS = 12
/** Rounds with one gap to others. */
const ROUNDS_A_GAP = 3
/** Shares of the gap to others that are kept in turn: what falls off does more harm than two stilts that grow together. After the last, any gap will do. */
const GAP_SHARES = [1, 0.5, 0]
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
interface Target {
  readonly of: { readonly kind: 'island'; readonly island: Island } | { readonly kind: 'ledge'; readonly ledge: Ledge }
  /** The island where it is open as a whole; else only `hanging` asks for tips. */
  readonly whole: Island | null
  readonly hanging: readonly number[]
  readonly gauges: readonly string[]
  readonly role: Role
}

/** A sentence of progress, or null only to let others have a turn. */
export type HoldStep = string | null

/**
 * Places stilts under every island that is still open, clear of others as long as that holds, scans again with them, and tries other points of what is open yet.
 * A generator: yields between short steps, so that it can be ended at any time.
 * @param scan a scan that was given the plan's supports; it is run first where it has not been
 * @param own the solids of these supports
 */
export function* holdOpenIslands(scan: ModelScan, surface: Surface, own: readonly Mesh[], options: HoldOptions): Generator<HoldStep, HoldResult, void> {
  const added: StiltShape[] = [], solids = [...own]
  const tried: { target: Target; reason: string }[] = []
  let result = yield* scanned(scan, 'all')
  const placing = new Placing(options.others)
  let rounds = 0
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const open = targetsOf(result, options)
    if (open.length === 0) break
    let placed = 0, tooNear = false
    for (const [done, target] of open.entries()) {
      yield `Placing stilts: ${done} of ${open.length} findings`
      const tips = yield* holdTarget(scan, surface, target, options, placing, round)
      tried.push({ target, reason: tips.stilts.length === 0 ? tips.reason : 'The tips that could stand do not hold all of it. Place one by hand where it still hangs.' })
      tooNear ||= tips.tooNear
      added.push(...tips.stilts)
      solids.push(...tips.stilts.map(solidOfStilt))
      placed += tips.stilts.length
    }
    if (placed === 0 && !(tooNear && placing.canComeNearer)) break
    if (tooNear && (placed === 0 || ++rounds >= ROUNDS_A_GAP)) {
      placing.comeNearer()
      rounds = 0
    }
    if (placed === 0) continue
    scan.setStilts(solids)
    // vents are not asked for in between
    result = yield* scanned(scan, 'reach')
  }
  if (added.length > 0) result = yield* scanned(scan, 'all')
  const notHeld = targetsOf(result, options).flatMap(({ of }): NotHeld[] => {
    const last = tried.findLast(t => sameThing(t.target.of, of))
    if (!last) return []
    return of.kind === 'island' ? [{ kind: of.kind, layer: of.island.layer, at: of.island.aim, reason: last.reason }] : [{ kind: of.kind, layer: of.ledge.firstLayer, at: of.ledge.at, reason: last.reason }]
  })
  return { added, notHeld, near: placing.near, result }
}

/** The stilts that new ones keep clear of, and how near they may come by now. */
class Placing {
  readonly #all: Others | undefined
  #share = 0
  /** How many were stood nearer than they should. */
  near = 0

  constructor(all: Others | undefined) {
    this.#all = all
  }

  /** Undefined where any gap will do. */
  get others(): Others | undefined {
    return this.#all && this.canComeNearer ? { ...this.#all, limitMm: this.#all.limitMm * GAP_SHARES[this.#share] } : undefined
  }

  get canComeNearer(): boolean {
    return this.#share < GAP_SHARES.length
  }

  comeNearer(): void {
    this.#share++
  }

  /** Takes one that was stood. */
  take(shape: StiltShape): void {
    if (!this.#all) return
    const key = newId(), beams = beamsOfShape(shape)
    if (this.#all.field.isNear(beams, this.#all.limitMm)) this.near++
    this.#all.field.put(key, beams.map(beam => ({ owner: key, beam })))
  }
}

/** Scans as far as a stage. */
function* scanned(scan: ModelScan, stage: 'reach' | 'all'): Generator<HoldStep, ScanResult, void> {
  for (const steps = scan.run(); ;) {
    const step = steps.next()
    if (step.done) return step.value
    if (stage === 'reach' && step.value.stage === 'reach' && step.value.result) return step.value.result
    yield `Scanning with stilts: ${Math.round((100 * step.value.done) / Math.max(1, step.value.total))} %`
  }
}

/** What is still to be held of what was asked for. */
function targetsOf(result: ScanResult, options: HoldOptions): Target[] {
  const { only, ledge } = options
  if (ledge) return sameLedges(result.ledges, ledge).filter(l => isOpen(l.state)).map(targetOfLedge)
  const islands = result.islands.filter(i => isOpen(i.state) && (!only || only.has(i.id))).map(targetOfIsland).filter(t => t.whole || t.hanging.length > 0)
  if (!options.ledges || only) return islands
  // ledges of islands are theirs; what stands on the plate has some of its own
  const listed = new Set(islands.flatMap(t => t.hanging))
  return [...islands, ...result.ledges.filter(l => isOpen(l.state) && !l.hanging.some(h => listed.has(h))).map(targetOfLedge)]
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

/** Whether two rounds speak of the same thing. */
function sameThing(a: Target['of'], b: Target['of']): boolean {
  if (a.kind === 'island') return b.kind === 'island' && a.island.id === b.island.id
  return b.kind === 'ledge' && isKnownAs(b.ledge, a.ledge)
}

/** The ledge of a list that another one is, or what is left of it. */
function sameLedges(list: readonly Ledge[], ledge: Ledge): Ledge[] {
  const same = list.filter(l => isKnownAs(l, ledge))
  // one that was listed before the model alone was measured may since have become several
  return same.length > 0 ? same : list.filter(l => samePlace(l, ledge))
}

function isKnownAs(l: Ledge, o: Ledge): boolean {
  return l.firstLayer === o.firstLayer && l.at.every((v, i) => v === o.at[i])
}

function samePlace(l: Ledge, o: Ledge): boolean {
  return l.lastLayer >= o.firstLayer && l.firstLayer <= o.lastLayer && Math.hypot(l.at[0] - o.at[0], l.at[1] - o.at[1]) <= Math.max(2 * o.reachMm, Math.sqrt(o.areaMm2))
}

function isOpen(state: FindingState): boolean {
  return state === 'open' || state === 'partly'
}

/** Stilts that were stood at some spots; why no more of them, and whether others that stand too near had a part in that. */
interface Stood {
  readonly stilts: StiltShape[]
  readonly reason: string
  readonly tooNear: boolean
}

function* holdTarget(scan: ModelScan, surface: Surface, target: Target, options: HoldOptions, placing: Placing, round: number): Generator<HoldStep, Stood, void> {
  if (!scan.modelTree) return { stilts: [], reason: 'The model has not been scanned.', tooNear: false }
  const spots = yield* spotsFor(scan, target, round)
  return yield* standAt(scan, surface, spots, known(target.gauges, options.gauges), target.role, options, placing)
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

function* spotsFor(scan: ModelScan, { whole, hanging }: Target, round: number): Generator<null, Spots, void> {
  const { modelTree } = scan, reach = scan.settings.tipHoldMm / scan.raster.pixelMm
  if (!modelTree) return { points: [], wanted: 0 }
  return whole ? yield* spread(regionOf(scan, whole.layer, whole.component - modelTree.graph.solidStarts[whole.layer]), whole.layer, Math.floor(reach), round) : yield* hangingSpots(scan, hanging, reach, round)
}

/** Gauges by their ids, as far as there are such; where there is none of them, the one with the finest tip. */
function known(ids: readonly string[], gauges: readonly Gauge[]): Gauge[] {
  const found = ids.flatMap(id => gauges.find(g => g.id === id) ?? [])
  return found.length > 0 ? found : [gauges.reduce((a, b) => (b.tipDiameterMm < a.tipDiameterMm ? b : a))]
}

/** Stands stilts at the first of some spots where they find a way down. */
function* standAt(scan: ModelScan, surface: Surface, spots: Spots, gauges: readonly Gauge[], role: Role, options: HoldOptions, placing: Placing): Generator<HoldStep, Stood, void> {
  const { pixelMm, layerMm } = scan.raster
  const stilts: StiltShape[] = []
  let reason = 'No point of it lies on the surface.', tooNear = false
  for (const spot of spots.points) {
    if (stilts.length >= spots.wanted) break
    const seat = bestSeat(surface, [(spot.pixel + 0.5) * pixelMm, (spot.row + 0.5) * pixelMm, (spot.layer + 0.5) * layerMm], scan.settings.tipHoldMm)
    if (!seat) continue
    yield null
    let refused: NoRoute | null = null
    for (const gauge of gauges) {
      const route = routeStilt(surface, seat.point, seat.normal, gauge, options.plate, undefined, placing.others)
      if (route.ok) {
        const shape = shapeOfRoute(surface, gauge, role, route, seat.normal)
        placing.take(shape)
        stilts.push(shape)
        refused = null
        break
      }
      refused = route
    }
    if (!refused) continue
    // that others stand too near is worth more to know than what else was found
    if (refused.problem === 'too-near' || !tooNear) reason = refused.reason
    tooNear ||= refused.problem === 'too-near'
  }
  return { stilts, reason, tooNear }
}

/** A place for a tip, and what the skin there is worth. */
interface Seat {
  readonly point: Vec3
  readonly normal: Vec3
  readonly worth: number
}

/** How gladly a tip is placed on skin of each worth. */
const RANK: Readonly<Record<number, number>> = { [SPARE]: 0, [PLAIN]: 1, [PRIZED]: 2, [OFF_LIMITS]: 3 }
/** Shares of what a tip holds by which it may be moved to better skin, and of that no more than this to skin that is spare. */
const MOVES = [0.3, 0.55, 0.8], SPARE_SHARE = 0.55
const MOVED_TO = 12
/** A tip that is moved stays at what begins there, mm. */
const MOVED_UP_MM = 0.5

/** The seat below a point, or one beside it on skin that is worth less, as near as can be: what hangs there is within reach of both. */
function bestSeat(surface: Surface, inside: Vec3, holdMm: number): Seat | null {
  const own = seatBelow(surface, inside)
  if (!own || own.worth === SPARE || !surface.marked) return own
  let best = own
  for (const share of MOVES) {
    if (own.worth === PLAIN && share > SPARE_SHARE) break
    for (let i = 0; i < MOVED_TO; i++) {
      const a = (2 * Math.PI * i) / MOVED_TO, seat = seatBelow(surface, [inside[0] + share * holdMm * Math.cos(a), inside[1] + share * holdMm * Math.sin(a), inside[2]])
      if (seat && RANK[seat.worth] < RANK[best.worth] && Math.abs(seat.point[2] - own.point[2]) <= MOVED_UP_MM) best = seat
    }
    // what is nearest of its worth is taken, and nothing farther for a little better
    if (best !== own) break
  }
  return best
}

/** The lowest surface point under a point of the first layer, which lies within the model. */
function seatBelow(surface: Surface, inside: Vec3): Seat | null {
  const down = surface.cast(inside, [0, 0, -1], 1)
  if (!down) return null
  // a triangle seen edge on, or one of a crease, may look up by a hair; a tip may then stand under it all the same
  const normal: Vec3 = down.normal[2] > 0 ? [0, 0, -1] : down.normal
  return { point: down.point, normal, worth: surface.worthOf(down.face) }
}
