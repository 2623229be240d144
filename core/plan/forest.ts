import type { Change, Gauge, PlanOptions } from '../contract'
import { grown, headAt, leastDiameter, rowsOfTrees, slimSizes, type Growing, type Head, type HeadSeat, type Room, type Ways } from '../forest'
import type { Mesh, Vec3 } from '../mesh'
import { normalToSource, toSource } from '../pose'
import type { ModelScan, ScanResult } from '../scan'
import { Clearance, gapVerdict, gaugeOf, PlanDraft, routeBranch, routeStilt, rowsOfBraces, rowsOfBranch, rowsOfStilt, LEAST_RIM_MM, shaftOf, shapeOfBranch, shapeOfRoute, type Others, type Plate, type PlanIndex, type Branch, type NoRoute, type Route, type Stilt, type StiltShape, type StiltSizes, type Surface } from '../stilts'
import { TipsApart, type Standing } from './apart'
import { askedFor, type PlanAim } from './asked-for'
import { besideWeak, type WeakTip } from './beside'
import { covered, whyNone, type Cover } from './cover'
import { freeSpaceOf } from './free-space'
import { scanned, type HoldStep } from './hold'
import { strutSlender } from './slender'
import { stiffened } from './stiffen'
import { StrutMaker } from './struts'
import type { Swaying } from './swaying'
import { bestSeat } from './seat'
import { gaugesOfRole, notHeldOf, slimmer, spotsFor, targetsOf, type Asked, type NotHeld, type Target, type Tried } from './targets'
import { bracesOfTrunks } from './trunk-braces'

export interface ForestOptions {
  readonly options: PlanOptions
  /** Only what a person picked, whatever else is asked for. */
  readonly aim?: PlanAim
  readonly gauges: readonly Gauge[]
  readonly plate: Plate
  /** A branch reaches so far across at the most, mm. */
  readonly reachMm: number
  /** Supports that are nearer to each other than this web together, mm. */
  readonly webMm: number
  /** The solids of a plan as it is printed. */
  solids(index: PlanIndex): readonly Mesh[]
  /** Told of every tip that is chosen, and of the plan whenever more was added. */
  readonly watch?: GrowthWatch
  /** Of green resin. */
  readonly modulusNMm2: number
  /** Tells which pieces sway too far with a plan as it is. */
  sways(draft: PlanDraft): Generator<HoldStep, readonly Swaying[], void>
  /**
   * Makes what was added as strong as it has to be, and tells which tips bear too much all the same.
   * @param stage the first of several: more will be added beside such tips, and what sways is best left until then; or all there is for some only of what hangs, where more will be planned for the rest, which these need not carry alone
   */
  strengthen(draft: PlanDraft, stage: 'first' | 'all' | 'some'): Generator<HoldStep, readonly WeakTip[], void>
}

/** Follows a plan while it is made. */
export interface GrowthWatch {
  /** A tip that was chosen, from its point to its knee. */
  tip(from: Vec3, to: Vec3, diameterMm: number): void
  /** The plan as it is then; tips that were told of stand in it now, or found no way. */
  plan(index: PlanIndex): void
}

type Asking = ForestOptions & Asked

export interface PlannedForest {
  readonly change: Change
  /** What still hangs, with the reason why. */
  readonly notHeld: readonly NotHeld[]
  readonly result: ScanResult
}

/** Rounds of tips and scans; in the first ones tips are chosen in one sweep, after that finding by finding, at other places in every round. */
const MOST_ROUNDS = 5, SWEEPS = 2
/** So often more is looked for beside a tip that bears too much. */
const MOST_ASKED = 2
const NOT_ALL = 'The tips that could stand do not hold all of it. Place one by hand where it still hangs.'
/** How far a trunk keeps from the part at least, mm. */
export const GAP_MM = 0.35

/**
 * Holds what hangs by a forest: tips under all of it, gathered on shared trunks, as strong as they have to be; scans again, and plants more
 * under what is open yet and beside what bears too much. What stands already is kept, and kept clear of.
 */
export function* planForest(scan: ModelScan, surface: Surface, index: PlanIndex, part: string, of: ForestOptions): Generator<HoldStep, PlannedForest, void> {
  const kept = new Set([...index.nodes.values()].filter(n => n.part === part).map(n => n.id)), draft = new PlanDraft(index, [...kept]), tried: Tried[] = [], braced = new Set<string>(), asked = new Map<string, number>(), refused: Vec3[] = []
  scan.setStilts(of.solids(draft.index))
  let result = yield* scanned(scan, 'all'), before = Infinity, weak: readonly WeakTip[] = []
  const options: Asking = { ...of, ...askedFor(of.options, scan, result, surface, of.aim) }, onlySome = leavesBodies(result, options)
  const { room, ways } = yield* freeSpaceOf(surface, options.plate)
  /** Adds tips and what they stand on; gives whether there was anything to add. */
  const plant = function* (open: readonly Target[], round: number): Generator<HoldStep, boolean, void> {
    // in a sweep, where a tip stands counts as held; where one found no way does not
    const apart = new TipsApart(options.webMm, draft.index.stiltsOf(part).map(s => ({ at: s.path[0], diameterMm: s.sizes.tipDiameterMm })), round < SWEEPS ? [] : refused), { heads, stuck } = open.length === 0 && round > 0 ? NOTHING : round < SWEEPS ? yield* covered(scan, result, surface, room, ways, apart, options, tried) : yield* underEach(scan, surface, room, ways, apart, open, round, options, tried)
    const beside = besideWeak(scan, surface, room, ways, weak, apart, role => slimmer(gaugesOfRole(role), options.gauges), { ownOnly: options.chosen !== undefined, within: options.within })
    if (heads.length + stuck.length + beside.length === 0) return false
    yield 'Gathering tips on trunks'
    const forest = grown([...heads, ...beside], { room, ways, plate: options.plate, gapMm: GAP_MM, shared: of.options.branches, reachMm: of.reachMm, isOff: offSkin(surface), others: { field: new Clearance(draft.index).field(part), limitMm: options.webMm } })
    draft.put(rowsOfTrees(surface, forest.trees, part, draft.index.nextNumber(part)))
    of.watch?.plan(draft.index)
    let more = 0
    const left = [...forest.left.map((head): HeadSeat => ({ ...head, gauges: noThicker(gaugeOf(head.gauge, options.gauges), options.gauges) })), ...stuck].sort((a, b) => Number(b.begins ?? false) - Number(a.begins ?? false))
    for (const [done, seat] of left.entries()) {
      if (done % 5 === 0) yield `Looking for other ways: ${done} of ${left.length} tips`
      if (stoodBeside(surface, draft, part, seat, options)) more++
      else refused.push(seat.point)
    }
    yield 'Bracing tall trunks'
    const braces = bracesOfTrunks(surface, draft.index, part, options.gauges, { mine: id => !kept.has(id), asks: id => !braced.has(id) }, { field: draft.clearance.field(part), limitMm: options.webMm })
    draft.put(rowsOfBraces(draft.index, braces))
    const slender = (gauges?: readonly Gauge[]): number => strutSlender(new StrutMaker(surface, draft, part, options.webMm), draft, part, s => !kept.has(s.id), gauges)
    // what sways has the first choice of what it is tied to
    const tied = slender() + (onlySome ? 0 : yield* stiffened(surface, room, draft, part, kept, options)) + slender(options.gauges)
    for (const s of draft.index.stiltsOf(part)) braced.add(s.id)
    of.watch?.plan(draft.index)
    return forest.trees.length + more + braces.length + tied > 0
  }
  let rough = false
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const open = targetsOf(result, options), worse = open.length + weak.length
    // where tips stand closer than the scan asks for, or under flatter skin, nothing needs to be open
    const added = (worse > 0 || round === 0) && (round <= 1 || worse < before) && (yield* plant(open, round))
    if (!added && !rough) break
    before = added ? worse : Infinity
    // what comes first is made only as strong as tells where more has to stand
    rough = added && round === 0
    const found = yield* options.strengthen(draft, onlySome ? 'some' : rough ? 'first' : 'all'), key = ({ at }: WeakTip): string => at.join(' ')
    // what more beside it did not help is left as it is
    for (const w of found) asked.set(key(w), (asked.get(key(w)) ?? 0) + 1)
    weak = found.filter(w => (asked.get(key(w)) ?? 0) <= MOST_ASKED)
    of.watch?.plan(draft.index)
    scan.setStilts(options.solids(draft.index))
    result = yield* scanned(scan, 'reach')
  }
  result = yield* scanned(scan, 'all')
  return { change: draft.change('plan'), notHeld: notHeldOf(result, options, tried, NOT_ALL), result }
}

/** Whether what is asked for leaves something open that carries the rest. */
function leavesBodies(result: ScanResult, asked: Asked): boolean {
  const wanted = new Set(targetsOf(result, asked).flatMap(t => t.whole ?? []))
  return targetsOf(result, {}).some(t => t.whole !== null && t.role === 'carrier' && !wanted.has(t.whole))
}

/** Whether beams keep a gap from the skin of a part. */
export function offSkin(surface: Surface): Growing['isOff'] {
  return (from, to, radiusMm, gapMm) => surface.gapOfBeam(from, to, radiusMm, radiusMm, gapMm, gapMm) >= gapMm
}

const NOTHING: Cover = { heads: [], stuck: [] }

/** Tips under each thing that is still open, at other places of it in every round. */
function* underEach(scan: ModelScan, surface: Surface, room: Room, ways: Ways, apart: TipsApart, open: readonly Target[], round: number, options: Asking, tried: Tried[]): Generator<HoldStep, Cover, void> {
  const { pixelMm, layerMm } = scan.raster, heads: Head[] = [], stuck: HeadSeat[] = []
  for (const [done, target] of open.entries()) {
    yield `Choosing tips: ${done} of ${open.length} findings`
    const spots = yield* spotsFor(scan, target, round), gauges = slimmer(target.gauges, options.gauges), missed: HeadSeat[] = []
    const seats: Standing[] = []
    let found = 0, reason: string | null = null
    // what is apart from all other tips goes before what is near to one
    for (const wanted of ['apart', 'near'] as const) for (const spot of spots.points) {
      if (found >= spots.wanted) break
      const inside: Vec3 = [(spot.pixel + 0.5) * pixelMm, (spot.row + 0.5) * pixelMm, (spot.layer + 0.5) * layerMm], seat = bestSeat(surface, inside, scan.settings.tipHoldMm)
      if (!seat) continue
      const how = apart.look(seat.point, slimSizes(gauges[0], target.role).tipDiameterMm)
      seats.push(how)
      if (how !== wanted) continue
      const at: HeadSeat = { point: seat.point, normal: seat.normal, gauges, role: target.role, begins: target.whole !== null }, head = headAt(surface, room, ways, at)
      if (typeof head !== 'string') {
        heads.push(head)
        apart.add(head.point, head.sizes.tipDiameterMm)
        options.watch?.tip(head.point, head.knee, head.sizes.kneeDiameterMm)
        found++
        continue
      }
      reason = head
      if (missed.length < spots.wanted) missed.push(at)
    }
    stuck.push(...missed.slice(0, spots.wanted - found))
    tried.push({ of: target.of, reason: found === 0 ? (reason ?? whyNone(seats)) : NOT_ALL })
  }
  return { heads, stuck }
}

/** A gauge and all that are finer, the thickest first. */
function noThicker(gauge: Gauge, gauges: readonly Gauge[]): Gauge[] {
  return [gauge, ...gauges.filter(g => g.tipDiameterMm < gauge.tipDiameterMm).sort((a, b) => b.tipDiameterMm - a.tipDiameterMm)]
}

/** What is longer than that is braced, mm: it has to be as thick as that asks for. */
const BRACED_FROM_MM = 30
/** Sizes of a shaft that is no more slender than it may be; null where it is not. */
function stoutSizes(sizes: StiltSizes, lengthMm: number): StiltSizes | null {
  const least = leastDiameter(Math.min(lengthMm, BRACED_FROM_MM))
  return least <= sizes.kneeDiameterMm ? null : { ...sizes, kneeDiameterMm: least, shaftFootDiameterMm: Math.max(least, sizes.shaftFootDiameterMm), footDiameterMm: Math.max(sizes.footDiameterMm, least + LEAST_RIM_MM) }
}

/** Hosts are looked for within this way across from a knee, mm, and so many of them are tried. */
const HOSTS_MM = 10, MOST_HOSTS = 8

/** Stands a tip that no trunk takes: as a branch of what stands near, by itself, or as a stick; gives whether it found a way. */
function stoodBeside(surface: Surface, draft: PlanDraft, part: string, { point, normal, role, gauges: wanted }: HeadSeat, { plate, webMm, options }: ForestOptions): boolean {
  const others: Others = { field: draft.clearance.field(part), limitMm: webMm }, number = draft.index.nextNumber(part)
  const near = (s: Stilt): number => s.path.slice(1).reduce((least, p) => (p[2] < point[2] ? Math.min(least, Math.hypot(p[0] - point[0], p[1] - point[1])) : least), Infinity)
  const hosts = draft.index.stiltsOf(part).map(s => ({ s, mm: near(s) })).filter(h => h.mm <= HOSTS_MM).sort((a, b) => a.mm - b.mm).slice(0, MOST_HOSTS).map(h => h.s)
  const keepsClear = (shape: StiltShape, gauge: Gauge): boolean => gapVerdict(surface, shape, gauge) === null, finest = wanted[wanted.length - 1]
  const ways = [...wanted.map(gauge => ({ gauge, sizes: slimSizes(gauge, role), thin: false })), ...(finest ? [{ gauge: finest, sizes: thinSizes(slimSizes(finest, role)), thin: true }] : [])].map(way => {
    const anchored = { gauge: way.gauge.id, role, anchor: { point: toSource(surface, point as never), normal: [...normalToSource(surface, normal)] as [number, number, number] } }
    let branch: Branch | NoRoute | null | undefined, shaft: { readonly route: Route | NoRoute; readonly own: StiltSizes } | undefined
    return {
      branched: (tight: boolean): boolean => {
        branch ??= hosts.length > 0 && options.branches ? routeBranch(surface, point, normal, way.gauge, hosts, { ...way.sizes, shaftFootDiameterMm: way.sizes.kneeDiameterMm }, others) : null
        if (!branch?.ok || branch.tight !== tight) return false
        const { tipShape, tipDiameterMm, penetrationMm, kneeDiameterMm } = branch.sizes, shape = shapeOfBranch({ ...anchored, own: { tipShape, tipDiameterMm, penetrationMm, kneeDiameterMm } }, branch)
        if (tight && !keepsClear(shape, way.gauge)) return false
        draft.put(rowsOfBranch(draft.index, shape, branch.joint, number))
        return true
      },
      stood: (tight: boolean): boolean => {
        shaft ??= shaftFor(surface, point, normal, way.gauge, plate, way.sizes, others)
        const { route, own: { tipDiameterMm, kneeDiameterMm, shaftFootDiameterMm, footDiameterMm } } = shaft
        if (!route.ok || route.tight !== tight || (route.foot === 'model' && !options.sticks)) return false
        // thin is only what is short
        if (way.thin && stoutSizes(shaft.own, shaftOf(route.path).lengthMm)) return false
        const shape = shapeOfRoute(surface, way.gauge, role, route, normal)
        if (tight && !keepsClear(shape, way.gauge)) return false
        draft.put(rowsOfStilt({ ...shape, own: route.foot === 'plate' ? { tipDiameterMm, kneeDiameterMm, shaftFootDiameterMm, footDiameterMm } : { tipDiameterMm, kneeDiameterMm } }, { part, number }))
        return true
      },
    }
  })
  // what keeps the gap of its gauge all along goes before what only has it below its cone; what comes nearer than that is left
  return [false, true].some(tight => ways.some(way => way.branched(tight) || way.stood(tight)))
}

/** A shaft of its own, as thick as its length asks for if there is room for that. */
function shaftFor(surface: Surface, point: Vec3, normal: Vec3, gauge: Gauge, plate: Plate, sizes: StiltSizes, others: Others): { readonly route: Route | NoRoute; readonly own: StiltSizes } {
  const thin = routeStilt(surface, point, normal, gauge, plate, sizes, others), thick = thin.ok && stoutSizes(sizes, shaftOf(thin.path).lengthMm), stout = thick ? routeStilt(surface, point, normal, gauge, plate, thick, others) : thin
  return thick && stout.ok && (!stout.tight || !thin.ok || thin.tight) ? { route: stout, own: thick } : { route: thin, own: sizes }
}

/** A shaft that passes where the finest gauge has no room: so many times as thick as its own, and no thinner than that, mm. */
const THIN = 0.7, THINNEST_MM = 0.35
function thinSizes(sizes: StiltSizes): StiltSizes {
  const kneeDiameterMm = Math.max(THINNEST_MM, sizes.tipDiameterMm, THIN * sizes.kneeDiameterMm)
  return { ...sizes, kneeDiameterMm, shaftFootDiameterMm: Math.max(kneeDiameterMm, THIN * sizes.shaftFootDiameterMm) }
}
