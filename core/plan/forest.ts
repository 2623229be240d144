import type { Change, Gauge } from '../contract'
import { grown, headAt, Room, rowsOfTrees, slimSizes, Ways, type Head, type HeadSeat } from '../forest'
import type { Vec3 } from '../mesh'
import { moveMesh, normalToSource, toSource } from '../pose'
import type { ModelScan, ScanResult } from '../scan'
import { Clearance, gaugeOf, PlanDraft, routeBranch, routeStilt, rowsOfBranch, rowsOfStilt, shapeOfBranch, shapeOfRoute, solidOfStructure, type Others, type Plate, type PlanIndex, type Stilt, type Surface } from '../stilts'
import { scanned, type HoldStep } from './hold'
import { bestSeat } from './seat'
import { known, notHeldOf, spotsFor, targetsOf, type Asked, type NotHeld, type Target } from './targets'

export interface ForestOptions extends Asked {
  readonly gauges: readonly Gauge[]
  readonly plate: Plate
  /** Supports that are nearer to each other than this web together, mm. */
  readonly webMm: number
}

export interface PlannedForest {
  readonly change: Change
  /** What hangs by a scan, with the reason why. */
  notHeldBy(result: ScanResult): NotHeld[]
  readonly result: ScanResult
}

const MOST_ROUNDS = 6
const NOT_ALL = 'The tips that could stand do not hold all of it. Place one by hand where it still hangs.'
/** From the axis of a way of its own to the skin, mm. */
const WAY_CLEAR_MM = 0.85
const GAP_MM = 0.35

/**
 * Holds what hangs by a forest: tips under all of it, gathered on shared trunks; scans again, and plants more under what is open yet.
 * What stands already is kept, and kept clear of.
 */
export function* planForest(scan: ModelScan, surface: Surface, index: PlanIndex, part: string, options: ForestOptions): Generator<HoldStep, PlannedForest, void> {
  const draft = new PlanDraft(index, [...index.nodes.values()].filter(n => n.part === part).map(n => n.id)), tried: { target: Target; reason: string }[] = []
  const solids = (): ReturnType<typeof solidOfStructure>[] => [...draft.index.structures().values()].filter(s => s.part === part).map(s => solidOfStructure(draft.index, s))
  scan.setStilts(solids())
  let result = yield* scanned(scan, 'all'), before = Infinity
  yield 'Measuring the room around the part'
  const room = new Room(moveMesh(surface.faces, surface.stand)), ways = new Ways(room, WAY_CLEAR_MM, [options.plate.widthMm / 2, options.plate.depthMm / 2])
  const { pixelMm, layerMm } = scan.raster
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const open = targetsOf(result, options), heads: Head[] = [], stuck: HeadSeat[] = []
    if (open.length === 0 || (round > 1 && open.length >= before)) break
    before = open.length
    for (const [done, target] of open.entries()) {
      yield `Choosing tips: ${done} of ${open.length} findings`
      // tips begin a size smaller than stilts that stand by themselves: what bears too much is made thicker
      const spots = yield* spotsFor(scan, target, round), gauges = known(target.gauges.length > 1 ? target.gauges.slice(1) : target.gauges, options.gauges)
      const missed: HeadSeat[] = []
      let found = 0, reason = 'No point of it lies on the surface.'
      for (const spot of spots.points) {
        if (found >= spots.wanted) break
        const inside: Vec3 = [(spot.pixel + 0.5) * pixelMm, (spot.row + 0.5) * pixelMm, (spot.layer + 0.5) * layerMm], seat = bestSeat(surface, inside, scan.settings.tipHoldMm)
        if (!seat) continue
        const at: HeadSeat = { point: seat.point, normal: seat.normal, gauges, role: target.role }, head = headAt(surface, room, ways, at)
        if (typeof head !== 'string') heads.push(head)
        else if (missed.length < spots.wanted) missed.push(at)
        if (typeof head === 'string') reason = head
        else found++
      }
      stuck.push(...missed.slice(0, spots.wanted - found))
      tried.push({ target, reason: found === 0 ? reason : NOT_ALL })
    }
    if (heads.length + stuck.length === 0) break
    yield 'Gathering tips on trunks'
    const forest = grown(heads, { room, ways, plate: options.plate, gapMm: GAP_MM, others: { field: new Clearance(draft.index).field(part), limitMm: options.webMm } })
    const rows = rowsOfTrees(surface, forest.trees, part, draft.index.nextNumber(part))
    draft.put(rows)
    let more = 0
    const left = [...forest.left.map((head): HeadSeat => ({ ...head, gauges: [gaugeOf(head.gauge, options.gauges)] })), ...stuck]
    for (const [done, seat] of left.entries()) {
      if (done % 5 === 0) yield `Looking for other ways: ${done} of ${left.length} tips`
      more += Number(stoodBeside(surface, draft, part, seat, options))
    }
    if (forest.trees.length + more === 0) break
    scan.setStilts(solids())
    result = yield* scanned(scan, 'reach')
  }
  result = yield* scanned(scan, 'all')
  return { change: draft.change('plan'), notHeldBy: now => notHeldOf(now, options, tried, NOT_ALL), result }
}

/** Hosts are looked for within this way across from a knee, mm, and so many of them are tried. */
const HOSTS_MM = 10, MOST_HOSTS = 8

/** Stands a tip that no trunk takes: as a branch of what stands near, by itself, or as a stick; gives whether it found a way. */
function stoodBeside(surface: Surface, draft: PlanDraft, part: string, { point, normal, role, gauges: wanted }: HeadSeat, { plate, webMm }: ForestOptions): boolean {
  const others: Others = { field: new Clearance(draft.index).field(part), limitMm: webMm }, number = draft.index.nextNumber(part)
  const near = (s: Stilt): number => s.path.slice(1).reduce((least, p) => (p[2] < point[2] ? Math.min(least, Math.hypot(p[0] - point[0], p[1] - point[1])) : least), Infinity)
  const hosts = draft.index.stiltsOf(part).map(s => ({ s, mm: near(s) })).filter(h => h.mm <= HOSTS_MM).sort((a, b) => a.mm - b.mm).slice(0, MOST_HOSTS).map(h => h.s)
  for (const gauge of wanted) {
    const sizes = slimSizes(gauge, role), anchored = { gauge: gauge.id, role, anchor: { point: toSource(surface, point as never), normal: [...normalToSource(surface, normal)] as [number, number, number] } }
    const branch = hosts.length > 0 ? routeBranch(surface, point, normal, gauge, hosts, { ...sizes, shaftFootDiameterMm: sizes.kneeDiameterMm }, others) : null
    if (branch?.ok) {
      const { tipShape, tipDiameterMm, penetrationMm, kneeDiameterMm } = branch.sizes
      draft.put(rowsOfBranch(draft.index, shapeOfBranch({ ...anchored, own: { tipShape, tipDiameterMm, penetrationMm, kneeDiameterMm } }, branch), branch.joint, number))
      return true
    }
    const route = routeStilt(surface, point, normal, gauge, plate, sizes, others)
    if (!route.ok) continue
    const { tipDiameterMm, kneeDiameterMm, shaftFootDiameterMm, footDiameterMm } = sizes
    draft.put(rowsOfStilt({ ...shapeOfRoute(surface, gauge, role, route, normal), own: route.foot === 'plate' ? { tipDiameterMm, kneeDiameterMm, shaftFootDiameterMm, footDiameterMm } : { tipDiameterMm, kneeDiameterMm } }, { part, number }))
    return true
  }
  return false
}
