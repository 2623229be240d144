import { newId, type Gauge, type Role } from '../contract'
import type { Mesh } from '../mesh'
import type { ModelScan, ScanResult } from '../scan'
import { beamsOfShape, routeStilt, shapeOfRoute, solidOfStilt, type NoRoute, type Others, type Plate, type StiltShape, type Surface } from '../stilts'
import { bestSeat } from './seat'
import type { Spots } from './spots'
import { known, notHeldOf, spotsFor, targetsOf, type Asked, type NotHeld, type Target, type Tried } from './targets'

export interface HoldResult {
  /** The stilts that were added; the plan's own are not among them. */
  readonly added: StiltShape[]
  readonly notHeld: NotHeld[]
  /** How many of them come nearer to others than they should, since nothing else held there. */
  readonly near: number
  /** The scan with all stilts, old and new. */
  readonly result: ScanResult
}

export interface HoldOptions extends Asked {
  readonly gauges: readonly Gauge[]
  readonly plate: Plate
  /** Stilts that new ones keep clear of; those that are placed are added to them. */
  readonly others?: Others
}

/** Rounds of hold and scan before what is still open is given up. */
const MOST_ROUNDS = 12
/** Rounds with one gap to others. */
const ROUNDS_A_GAP = 3
/** Shares of the gap to others that are kept in turn: what falls off does more harm than two stilts that grow together. After the last, any gap will do. */
const GAP_SHARES = [1, 0.5, 0]
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
  const tried: Tried[] = []
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
      tried.push({ of: target.of, reason: tips.stilts.length === 0 ? tips.reason : 'The tips that could stand do not hold all of it. Place one by hand where it still hangs.' })
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
  return { added, notHeld: notHeldOf(result, options, tried), near: placing.near, result }
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
export function* scanned(scan: ModelScan, stage: 'reach' | 'all'): Generator<HoldStep, ScanResult, void> {
  for (const steps = scan.run(); ;) {
    const step = steps.next()
    if (step.done) return step.value
    if (stage === 'reach' && step.value.stage === 'reach' && step.value.result) return step.value.result
    yield `Scanning with stilts: ${Math.round((100 * step.value.done) / Math.max(1, step.value.total))} %`
  }
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
