import type { Gauge, Role } from '../contract'
import type { Vec3 } from '../mesh'
import { regionOf, type FindingState, type Island, type IslandClass, type ModelScan, type Region, type ScanResult } from '../scan'
import { gaugeOf, routeStilt, solidOfStilts, stiltOfRoute, type Plate, type Stilt, type Surface } from '../stilts'

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
}

/** Rounds of hold and scan before what is still open is given up. */
const MOST_ROUNDS = 3
/** A tip holds this far around itself (common practice, from memory); wider regions get more tips. */
const TIP_REACH_MM = 2
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
    const open = result.islands.filter(i => isOpen(i.state) && (!options.only || options.only.has(i.id)))
    if (open.length === 0) break
    let placed = 0
    for (const [done, island] of open.entries()) {
      if (done % 8 === 0) yield `Placing stilts: ${done} of ${open.length} islands`
      const tips = holdIsland(scan, surface, island, options, round, nextId)
      if (tips.stilts.length === 0) reasons.set(island.id, tips.reason)
      else reasons.set(island.id, 'The tip does not reach the first layer of the region. Place one by hand beside it.')
      added.push(...tips.stilts)
      nextId += tips.stilts.length
      placed += tips.stilts.length
    }
    if (placed === 0) break
    scan.setStilts(solidOfStilts([...own, ...added]))
    const steps = scan.run()
    for (let step = steps.next(); ; step = steps.next()) {
      if (step.done) {
        result = step.value
        break
      }
      yield `Scanning with stilts: band ${step.value.done} of ${step.value.total}`
    }
  }
  const notHeld = result.islands.filter(i => isOpen(i.state) && reasons.has(i.id)).map(i => ({ island: i.id, layer: i.layer, class: i.class, reason: reasons.get(i.id) as string }))
  return { added, notHeld, result }
}

function isOpen(state: FindingState): boolean {
  return state === 'open' || state === 'partly'
}

function holdIsland(scan: ModelScan, surface: Surface, island: Island, options: HoldOptions, round: number, firstId: number): { stilts: Stilt[]; reason: string } {
  const modelTree = scan.modelTree
  if (!modelTree) return { stilts: [], reason: 'The model has not been scanned.' }
  const region = regionOf(scan, island.layer, island.component - modelTree.graph.solidStarts[island.layer])
  const { pixelMm } = scan.raster
  const names = island.class === 'detail' && island.volumeMm3 < FINE_UNDER_MM3 ? ['fine'] : GAUGES_FOR[island.class]
  const gauges = names.map(n => gaugeOf(n, options.gauges))
  const stilts: Stilt[] = []
  let reason = 'No point of its first layer lies on the surface.'
  const spots = spread(region, Math.floor(TIP_REACH_MM / pixelMm), round)
  const needed = spots.wanted
  for (const spot of spots.points) {
    if (stilts.length >= needed) break
    const seat = seatBelow(surface, [(spot.pixel + 0.5) * pixelMm, (spot.row + 0.5) * pixelMm, island.zMm])
    if (!seat) continue
    for (const gauge of gauges) {
      const route = routeStilt(surface, seat.point, seat.normal, gauge, options.plate)
      if (route.ok) {
        stilts.push(stiltOfRoute(surface, firstId + stilts.length, gauge, ROLE_FOR[island.class], route, seat.normal))
        break
      }
      reason = route.reason
    }
  }
  return { stilts, reason }
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

