import type { Change, Gauge, PlanOptions } from '../contract'
import { grown, headAt, Room, rowsOfTrees, slimSizes, Ways, type Head, type HeadSeat } from '../forest'
import type { Mesh, Vec3 } from '../mesh'
import { moveMesh, normalToSource, toSource } from '../pose'
import type { ModelScan, ScanResult } from '../scan'
import { Clearance, gaugeOf, placeAtHeight, PlanDraft, routeBranch, routeStilt, rowsOfBraces, rowsOfBranch, rowsOfProp, rowsOfStilt, shapeOfBranch, shapeOfRoute, type Others, type Plate, type PlanIndex, type Stilt, type Surface } from '../stilts'
import { askedFor } from './asked-for'
import { besideWeak, type WeakTip } from './beside'
import { covered, type Cover } from './cover'
import { scanned, type HoldStep } from './hold'
import { legsUnder } from './legs'
import { bestSeat } from './seat'
import { gaugesOfRole, notHeldOf, slimmer, spotsFor, targetsOf, type Asked, type NotHeld, type Target, type Tried } from './targets'
import { bracesOfTrunks } from './trunk-braces'

export interface ForestOptions {
  readonly options: PlanOptions
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
  /** Makes what was added as strong as it has to be, and tells which tips bear too much all the same. @param first whether more will be added beside such tips, and what sways is best left until then */
  strengthen(draft: PlanDraft, first: boolean): Generator<HoldStep, Weak, void>
}

/** What making thicker does not help. */
export interface Weak {
  readonly tips: readonly WeakTip[]
  /** Stilts whose shafts make something sway. */
  readonly swaying: readonly string[]
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
const MOST_ASKED = 1
const NOT_ALL = 'The tips that could stand do not hold all of it. Place one by hand where it still hangs.'
/** From the axis of a way of its own to the skin, mm. */
export const WAY_CLEAR_MM = 0.85
/** How far a trunk keeps from the part at least, mm. */
export const GAP_MM = 0.35

/**
 * Holds what hangs by a forest: tips under all of it, gathered on shared trunks, as strong as they have to be; scans again, and plants more
 * under what is open yet and beside what bears too much. What stands already is kept, and kept clear of.
 */
export function* planForest(scan: ModelScan, surface: Surface, index: PlanIndex, part: string, of: ForestOptions): Generator<HoldStep, PlannedForest, void> {
  const kept = new Set([...index.nodes.values()].filter(n => n.part === part).map(n => n.id)), draft = new PlanDraft(index, [...kept]), tried: Tried[] = [], braced = new Set<string>(), onLegs = new Set<string>(), asked = new Map<string, number>()
  scan.setStilts(of.solids(draft.index))
  let result = yield* scanned(scan, 'all'), before = Infinity, weak: Weak = { tips: [], swaying: [] }
  const options: Asking = { ...of, ...askedFor(of.options, scan, result, surface) }
  yield 'Measuring the room around the part'
  const room = new Room(moveMesh(surface.faces, surface.stand)), ways = new Ways(room, WAY_CLEAR_MM, [options.plate.widthMm / 2, options.plate.depthMm / 2])
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const open = targetsOf(result, options), worse = open.length + weak.tips.length + weak.swaying.length
    // where tips stand closer than the scan asks for, or under flatter skin, nothing needs to be open
    if ((worse === 0 && round > 0) || (round > 1 && worse >= before)) break
    before = worse
    const { heads, stuck } = open.length === 0 && round > 0 ? NOTHING : round < SWEEPS ? yield* covered(scan, result, surface, room, ways, options, tried) : yield* underEach(scan, surface, room, ways, open, round, options, tried)
    const beside = besideWeak(scan, surface, room, ways, weak.tips, draft.index.stiltsOf(part).map(s => s.path[0]), role => slimmer(gaugesOfRole(role), options.gauges))
    if (heads.length + stuck.length + beside.length + weak.swaying.length === 0) break
    yield 'Gathering tips on trunks'
    const forest = grown([...heads, ...beside], { room, ways, plate: options.plate, gapMm: GAP_MM, shared: of.options.branches, reachMm: of.reachMm, others: { field: new Clearance(draft.index).field(part), limitMm: options.webMm } })
    draft.put(rowsOfTrees(surface, forest.trees, part, draft.index.nextNumber(part)))
    of.watch?.plan(draft.index)
    let more = 0
    const left = [...forest.left.map((head): HeadSeat => ({ ...head, gauges: [gaugeOf(head.gauge, options.gauges)] })), ...stuck]
    for (const [done, seat] of left.entries()) {
      if (done % 5 === 0) yield `Looking for other ways: ${done} of ${left.length} tips`
      more += Number(stoodBeside(surface, draft, part, seat, options))
    }
    yield 'Bracing tall trunks'
    const swaying = new Set(weak.swaying), braces = bracesOfTrunks(surface, draft.index, part, options.gauges, { mine: id => !kept.has(id), done: id => braced.has(id) && !swaying.has(id), swaying }, { field: new Clearance(draft.index).field(part), limitMm: options.webMm })
    draft.put(rowsOfBraces(draft.index, braces))
    const legs = stoodOnLegs(surface, room, draft, part, weak.swaying, options)
    for (const id of swaying) onLegs.add(id)
    if (forest.trees.length + more + braces.length + legs === 0) break
    for (const s of draft.index.stiltsOf(part)) braced.add(s.id)
    of.watch?.plan(draft.index)
    const found: Weak = yield* options.strengthen(draft, round === 0), key = ({ at }: WeakTip): string => at.join(' ')
    // what more beside it did not help is left as it is
    for (const w of found.tips) asked.set(key(w), (asked.get(key(w)) ?? 0) + 1)
    weak = { tips: found.tips.filter(w => (asked.get(key(w)) ?? 0) <= MOST_ASKED), swaying: found.swaying.filter(id => !onLegs.has(id) && !kept.has(id)) }
    of.watch?.plan(draft.index)
    scan.setStilts(options.solids(draft.index))
    result = yield* scanned(scan, 'reach')
  }
  result = yield* scanned(scan, 'all')
  return { change: draft.change('plan'), notHeld: notHeldOf(result, options, tried, NOT_ALL), result }
}

/** Gives legs to trunks that sway; how many. */
function stoodOnLegs(surface: Surface, room: Room, draft: PlanDraft, part: string, ids: readonly string[], { gauges, plate, webMm }: ForestOptions): number {
  let made = 0
  for (const id of ids) {
    const stilt = draft.index.stiltsOf(part).find(s => s.id === id)
    if (stilt?.foot !== 'plate' || stilt.alone !== stilt.nodes.length) continue
    const others: Others = { field: new Clearance(draft.index).field(part), limitMm: webMm, but: new Set(draft.index.structureAt(id)?.nodes) }, feet = [...draft.index.nodes.values()].flatMap(n => (n.kind === 'foot' && n.part === part && n.on.kind === 'plate' ? [n.at] : []))
    for (const { at, ...leg } of [...legsUnder(surface, room, stilt, gaugeOf(stilt.gauge, gauges), plate, others, feet)]) {
      // the first one has put a joint into the trunk
      const host = draft.index.stiltsOf(part).find(s => s.id === id), place = host && placeAtHeight(host, at.at[2])
      if (!place) continue
      draft.put(rowsOfProp(draft.index, { ...leg, at: place }))
      made++
    }
  }
  return made
}

const NOTHING: Cover = { heads: [], stuck: [] }

/** Tips under each thing that is still open, at other places of it in every round. */
function* underEach(scan: ModelScan, surface: Surface, room: Room, ways: Ways, open: readonly Target[], round: number, options: Asking, tried: Tried[]): Generator<HoldStep, Cover, void> {
  const { pixelMm, layerMm } = scan.raster, heads: Head[] = [], stuck: HeadSeat[] = []
  for (const [done, target] of open.entries()) {
    yield `Choosing tips: ${done} of ${open.length} findings`
    const spots = yield* spotsFor(scan, target, round), gauges = slimmer(target.gauges, options.gauges), missed: HeadSeat[] = []
    let found = 0, reason = 'No point of it lies on the surface.'
    for (const spot of spots.points) {
      if (found >= spots.wanted) break
      const inside: Vec3 = [(spot.pixel + 0.5) * pixelMm, (spot.row + 0.5) * pixelMm, (spot.layer + 0.5) * layerMm], seat = bestSeat(surface, inside, scan.settings.tipHoldMm)
      if (!seat) continue
      const at: HeadSeat = { point: seat.point, normal: seat.normal, gauges, role: target.role }, head = headAt(surface, room, ways, at)
      if (typeof head !== 'string') {
        heads.push(head)
        options.watch?.tip(head.point, head.knee, head.sizes.kneeDiameterMm)
        found++
        continue
      }
      reason = head
      if (missed.length < spots.wanted) missed.push(at)
    }
    stuck.push(...missed.slice(0, spots.wanted - found))
    tried.push({ of: target.of, reason: found === 0 ? reason : NOT_ALL })
  }
  return { heads, stuck }
}

/** Hosts are looked for within this way across from a knee, mm, and so many of them are tried. */
const HOSTS_MM = 10, MOST_HOSTS = 8

/** Stands a tip that no trunk takes: as a branch of what stands near, by itself, or as a stick; gives whether it found a way. */
function stoodBeside(surface: Surface, draft: PlanDraft, part: string, { point, normal, role, gauges: wanted }: HeadSeat, { plate, webMm, options }: ForestOptions): boolean {
  const others: Others = { field: new Clearance(draft.index).field(part), limitMm: webMm }, number = draft.index.nextNumber(part)
  const near = (s: Stilt): number => s.path.slice(1).reduce((least, p) => (p[2] < point[2] ? Math.min(least, Math.hypot(p[0] - point[0], p[1] - point[1])) : least), Infinity)
  const hosts = draft.index.stiltsOf(part).map(s => ({ s, mm: near(s) })).filter(h => h.mm <= HOSTS_MM).sort((a, b) => a.mm - b.mm).slice(0, MOST_HOSTS).map(h => h.s)
  for (const gauge of wanted) {
    const sizes = slimSizes(gauge, role), anchored = { gauge: gauge.id, role, anchor: { point: toSource(surface, point as never), normal: [...normalToSource(surface, normal)] as [number, number, number] } }
    const branch = hosts.length > 0 && options.branches ? routeBranch(surface, point, normal, gauge, hosts, { ...sizes, shaftFootDiameterMm: sizes.kneeDiameterMm }, others) : null
    if (branch?.ok) {
      const { tipShape, tipDiameterMm, penetrationMm, kneeDiameterMm } = branch.sizes
      draft.put(rowsOfBranch(draft.index, shapeOfBranch({ ...anchored, own: { tipShape, tipDiameterMm, penetrationMm, kneeDiameterMm } }, branch), branch.joint, number))
      return true
    }
    const route = routeStilt(surface, point, normal, gauge, plate, sizes, others)
    if (!route.ok || (route.foot === 'model' && !options.sticks)) continue
    const { tipDiameterMm, kneeDiameterMm, shaftFootDiameterMm, footDiameterMm } = sizes
    draft.put(rowsOfStilt({ ...shapeOfRoute(surface, gauge, role, route, normal), own: route.foot === 'plate' ? { tipDiameterMm, kneeDiameterMm, shaftFootDiameterMm, footDiameterMm } : { tipDiameterMm, kneeDiameterMm } }, { part, number }))
    return true
  }
  return false
}
