import type { Gauge, Role } from '../contract'
import type { Vec3 } from '../mesh'
import { layerOfLabel, pieceOfLabel, regionOf, type FindingState, type Island, type IslandClass, type ModelScan, type Region, type ScanResult } from '../scan'
import { gaugeOf, routeStilt, solidOfStilt, stiltOfRoute, type Plate, type Stilt, type Surface } from '../stilts'

/** An island that no stilt could be placed under. */
export interface NotHeld {
  readonly island: number
  readonly layer: number
  readonly class: IslandClass
  readonly reason: string
}

export interface HoldResult {
  /** The stilts that were added; the plan's own are not among them. */
  readonly added: Stilt[]
  readonly notHeld: NotHeld[]
  /** The scan with all stilts, old and new. */
  readonly result: ScanResult
}

export interface HoldOptions {
  readonly gauges: readonly Gauge[]
  readonly plate: Plate
  /** Only these islands; all open ones where left out. */
  readonly only?: ReadonlySet<number>
  /** Holds what juts out too far as well; else only what begins on nothing, and all of it but what is a ledge of the body. */
  readonly ledges?: boolean
}

/** Rounds of hold and scan before what is still open is given up. */
const MOST_ROUNDS = 4
/** Tips under one island, at the most. */
const MOST_TIPS = 200

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

/**
 * Places stilts under every island that is still open, scans again with them, and tries other points of what is open yet.
 * A generator: yields a sentence of progress between steps.
 * @param scan a scan that has run with the plan's stilts
 */
export function* holdOpenIslands(scan: ModelScan, before: ScanResult, surface: Surface, own: readonly Stilt[], options: HoldOptions): Generator<string, HoldResult, void> {
  let nextId = own.reduce((n, s) => Math.max(n, s.id), 0) + 1
  const added: Stilt[] = []
  const reasons = new Map<number, string>()
  let result = before
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const open = result.islands.filter(i => isOpen(i.state) && (!options.only || options.only.has(i.id))).map(i => withoutLedges(i, result, options))
      .filter(i => i.state === 'open' || i.hanging.length > 0)
    if (open.length === 0) break
    let placed = 0
    for (const [done, island] of open.entries()) {
      if (done % 8 === 0) yield `Placing stilts: ${done} of ${open.length} islands`
      const tips = holdIsland(scan, surface, island, options, round, nextId)
      if (tips.stilts.length === 0) reasons.set(island.id, tips.reason)
      else reasons.set(island.id, 'The tips that could stand do not hold all of it. Place one by hand where it still hangs.')
      added.push(...tips.stilts)
      nextId += tips.stilts.length
      placed += tips.stilts.length
    }
    if (placed === 0) break
    scan.setStilts([...own, ...added].map(solidOfStilt))
    // vents are not asked for in between
    for (const step of scan.run()) {
      if (step.stage === 'reach' && step.result) {
        result = step.result
        break
      }
      yield `Scanning with stilts: ${Math.round((100 * step.done) / Math.max(1, step.total))} %`
    }
  }
  if (added.length > 0) result = scan.runToEnd()
  const notHeld = result.islands.map(i => withoutLedges(i, result, options)).filter(i => (i.state === 'open' || (i.state === 'partly' && i.hanging.length > 0)) && reasons.has(i.id)).map(i => ({ island: i.id, layer: i.layer, class: i.class, reason: reasons.get(i.id) as string }))
  return { added, notHeld, result }
}

/** Leaves a body's ledges to those who ask for them. */
function withoutLedges(island: Island, result: ScanResult, { ledges }: HoldOptions): Island {
  if (ledges || island.class !== 'body' || island.state !== 'partly') return island
  const listed = new Set(result.ledges.flatMap(l => l.hanging))
  return { ...island, hanging: island.hanging.filter(l => !listed.has(l)) }
}

function isOpen(state: FindingState): boolean {
  return state === 'open' || state === 'partly'
}

function holdIsland(scan: ModelScan, surface: Surface, island: Island, options: HoldOptions, round: number, firstId: number): { stilts: Stilt[]; reason: string } {
  const modelTree = scan.modelTree
  if (!modelTree) return { stilts: [], reason: 'The model has not been scanned.' }
  const reach = scan.settings.tipHoldMm / scan.raster.pixelMm
  if (island.state === 'partly') {
    const gauges = GAUGES_FOR[island.class === 'body' ? 'limb' : island.class].map(n => gaugeOf(n, options.gauges))
    return standAt(scan, surface, hangingSpots(scan, island, reach, round), gauges, island.class === 'body' ? 'structural' : ROLE_FOR[island.class], options, firstId)
  }
  const region = regionOf(scan, island.layer, island.component - modelTree.graph.solidStarts[island.layer])
  const names = island.class === 'detail' && island.volumeMm3 < FINE_UNDER_MM3 ? ['fine'] : GAUGES_FOR[island.class]
  const spots = spread(region, Math.floor(reach), round)
  const points = spots.points.map(p => ({ ...p, layer: island.layer }))
  return standAt(scan, surface, { points, wanted: spots.wanted }, names.map(n => gaugeOf(n, options.gauges)), ROLE_FOR[island.class], options, firstId)
}

/** Stands stilts at the first of some spots where they find a way down. */
function standAt(scan: ModelScan, surface: Surface, spots: { points: readonly Spot[]; wanted: number }, gauges: readonly Gauge[], role: Role, options: HoldOptions, firstId: number): { stilts: Stilt[]; reason: string } {
  const { pixelMm, layerMm } = scan.raster
  const stilts: Stilt[] = []
  let reason = 'No point of it lies on the surface.'
  for (const spot of spots.points) {
    if (stilts.length >= spots.wanted) break
    const seat = seatBelow(surface, [(spot.pixel + 0.5) * pixelMm, (spot.row + 0.5) * pixelMm, (spot.layer + 0.5) * layerMm])
    if (!seat) continue
    for (const gauge of gauges) {
      const route = routeStilt(surface, seat.point, seat.normal, gauge, options.plate)
      if (route.ok) {
        stilts.push(stiltOfRoute(surface, firstId + stilts.length, gauge, role, route, seat.normal))
        break
      }
      reason = route.reason
    }
  }
  return { stilts, reason }
}

interface Spot {
  readonly pixel: number
  readonly row: number
  readonly layer: number
}

/** Places looked at, at the most, when tips are spread over what hangs. */
const MOST_SAMPLES = 3000

/** Spreads tips over what hangs of an island that is held in part: where it reaches farthest first, then always what is farthest from all chosen. */
function hangingSpots(scan: ModelScan, island: Island, reach: number, round: number): { points: Spot[]; wanted: number } {
  const log = scan.reachLog
  const samples: Spot[] = []
  let deepest: { spot: Spot; reach: number } | null = null
  let pixels = 0
  for (const label of island.hanging) pixels += log[layerOfLabel(label)]?.pieces[pieceOfLabel(label)].pixels ?? 0
  const every = Math.max(1, Math.floor(pixels / MOST_SAMPLES))
  let count = 0
  for (const label of island.hanging) {
    const layer = layerOfLabel(label), number = pieceOfLabel(label), entry = log[layer]
    if (!entry) continue
    const piece = entry.pieces[number]
    const spot = { pixel: piece.pixel, row: piece.row, layer }
    if (!deepest || piece.reach > deepest.reach) deepest = { spot, reach: piece.reach }
    for (let i = 0; i < entry.runs.length; i += 4) {
      if (entry.runs[i + 3] !== number) continue
      for (let x = entry.runs[i + 1]; x < entry.runs[i + 2]; x++) if (count++ % every === 0) samples.push({ pixel: x, row: entry.runs[i], layer })
    }
  }
  if (!deepest || samples.length === 0) return { points: [], wanted: 0 }
  const nearest = new Float64Array(samples.length).fill(Infinity)
  const points: Spot[] = [deepest.spot]
  // a little less than a tip holds, for its way there bends with the outline
  const near = reach * 0.85
  for (;;) {
    const last = points[points.length - 1]
    let next = -1
    for (let i = 0; i < samples.length; i++) {
      const d = Math.hypot(samples[i].pixel - last.pixel, samples[i].row - last.row)
      if (d < nearest[i]) nearest[i] = d
      if (next < 0 || nearest[i] > nearest[next]) next = i
    }
    if (nearest[next] <= near || points.length >= MOST_TIPS) break
    points.push(samples[next])
  }
  const wanted = points.length
  // where no way leads down from one of them, the samples in between are tried, other ones in every round
  for (let i = round % 7; i < samples.length && points.length < wanted + 12; i += Math.max(1, Math.floor(samples.length / 12))) points.push(samples[i])
  return { points, wanted }
}

/** The lowest surface point under a point of the first layer, which lies within the model. */
function seatBelow(surface: Surface, inside: Vec3): { point: Vec3; normal: Vec3 } | null {
  const down = surface.cast(inside, [0, 0, -1], 1)
  if (!down) return null
  // a triangle seen edge on, or one of a crease, may look up by a hair; a tip may then stand under it all the same
  const normal: Vec3 = down.normal[2] > 0 ? [0, 0, -1] : down.normal
  return { point: down.point, normal }
}

interface Spots {
  /** Places to try, best first: every one farthest from those before. */
  readonly points: { pixel: number; row: number }[]
  /** How many of them suffice. */
  readonly wanted: number
}

/** Spreads tips over a region: the deepest inside point first, then always the pixel farthest from all chosen, until all are in reach. */
function spread(region: Region, reach: number, round: number): Spots {
  const { width, height, bits } = region
  const depth = depthOf(region)
  const nearest = new Float64Array(bits.length).fill(Infinity)
  let best = -1
  for (let i = 0; i < bits.length; i++) if (bits[i] && (best < 0 || depth[i] > depth[best])) best = i
  const points: { pixel: number; row: number }[] = []
  let wanted = 0
  const spare = 10
  while (best >= 0 && points.length < MOST_TIPS) {
    const bx = best % width, by = Math.floor(best / width)
    points.push({ pixel: bx + region.pixel0, row: by + region.row0 })
    let next = -1
    for (let y = 0; y < height; y++) {
      for (let x = 0; x < width; x++) {
        const i = y * width + x
        if (!bits[i]) continue
        const d = Math.hypot(x - bx, y - by)
        if (d < nearest[i]) nearest[i] = d
        // of pixels about as far, the deeper one inside carries better
        if (nearest[i] > 0 && (next < 0 || nearest[i] + Math.min(depth[i], 6) > nearest[next] + Math.min(depth[next], 6))) next = i
      }
    }
    let farthest = 0
    for (let i = 0; i < bits.length; i++) if (bits[i] && nearest[i] > farthest) farthest = nearest[i]
    if (wanted === 0 && farthest <= reach) wanted = points.length
    if (wanted > 0 && points.length >= wanted + spare) break
    best = next
  }
  if (wanted === 0) wanted = points.length
  // a later round starts elsewhere
  const turned = round > 0 ? [...points.slice(round), ...points.slice(0, round)] : points
  return { points: turned, wanted }
}

/** Chessboard distance of every pixel of a region to the nearest pixel outside it. */
function depthOf(region: Region): Int32Array {
  const { width, height, bits } = region
  const depth = new Int32Array(bits.length)
  const at = (x: number, y: number): number => (x < 0 || y < 0 || x >= width || y >= height ? 0 : depth[y * width + x])
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) if (bits[y * width + x]) depth[y * width + x] = 1 + Math.min(at(x - 1, y), at(x, y - 1), at(x - 1, y - 1), at(x + 1, y - 1))
  }
  for (let y = height - 1; y >= 0; y--) {
    for (let x = width - 1; x >= 0; x--) {
      const i = y * width + x
      if (bits[i]) depth[i] = Math.min(depth[i], 1 + Math.min(at(x + 1, y), at(x, y + 1), at(x + 1, y + 1), at(x - 1, y + 1)))
    }
  }
  return depth
}

