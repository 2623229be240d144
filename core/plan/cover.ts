import type { Gauge, Island, Ledge, Role } from '../contract'
import { headAt, slimSizes, type Head, type HeadSeat, type Room, type Ways } from '../forest'
import type { Vec3 } from '../mesh'
import type { Covering, LaidPixel, ModelScan, Raster, ScanResult } from '../scan'
import type { Surface } from '../stilts'
import type { Standing, TipsApart } from './apart'
import { Demand } from './demand'
import type { HoldStep } from './hold'
import { bestSeat } from './seat'
import { targetsOf, tipsFor, type Asked, type Tried } from './targets'

/** Tips are put before something is quite out of reach: the raster and the seat on the skin take their share, mm. */
const SPARE_MM = 0.03
/** Of what a tip holds, a place for it is looked for within this share, and what it will hold is reckoned by it. */
const NEAR_SHARE = 0.8
/** Places for one tip: one in a square of this side, mm; so many of them are tried. */
const PLACES_MM = 0.25, MOST_TRIED = 10
/** Progress is told every so many layers. */
const LAYERS_A_STEP = 8
/** Between places that are tried, mm. */
const APART_MM = 0.4

/** Why no tip was tried at the places that there are. @param seats how one would stand at each of them; those that have no skin are left out */
export function whyNone(seats: readonly Standing[]): string {
  if (seats.length === 0) return 'It has no skin under it that looks down, so no tip can touch it.'
  return seats.includes('refused') ? 'Where a tip could touch it, no way leads down that keeps clear of the part and of what stands.' : 'A tip stands already wherever one could touch it, and does not hold all of it.'
}

/** Tips that cover what hangs: those with a way to the plate, and places where none was found. */
export interface Cover {
  readonly heads: Head[]
  readonly stuck: HeadSeat[]
}

/**
 * Chooses tips in one sweep from the plate up: wherever something is laid out of reach of all that holds, a tip is put where it holds most of what hangs
 * around and above; what it holds is known before the next one is chosen.
 * @param apart tips that stand already; takes those that are chosen
 * @param tried takes why some of it can have none
 */
export function* covered(scan: ModelScan, result: ScanResult, surface: Surface, room: Room, ways: Ways, apart: TipsApart, asked: Asked & { readonly gauges: readonly Gauge[]; readonly watch?: { tip(from: Vec3, to: Vec3, diameterMm: number): void } }, tried: Tried[]): Generator<HoldStep, Cover, void> {
  const heads: Head[] = [], stuck: HeadSeat[] = []
  if (!scan.modelTree) return { heads, stuck }
  const covering = scan.covering(SPARE_MM, { tipHoldMm: asked.holdMm ?? scan.settings.tipHoldMm, flapMm: asked.flat?.flapMm ?? scan.settings.flapMm }), demand = new Demand(scan), questions = new Questions(scan, result, asked), { pixelMm, layerMm } = scan.raster, tipHoldMm = asked.holdMm ?? scan.settings.tipHoldMm
  /** A tip at a place below what is laid there, and how it stands to the others; null where the skin is not there. */
  const seatAt = (place: LaidPixel, layer: number, gauges: readonly Gauge[], role: Role, begins: boolean): { readonly seat: HeadSeat; readonly at: LaidPixel; readonly how: Standing } | null => {
    const found = bestSeat(surface, [(place.pixel + 0.5) * pixelMm, (place.row + 0.5) * pixelMm, (layer + 0.5) * layerMm], tipHoldMm)
    // where the skin is worth less the tip stands a little beside the place
    return found && { seat: { point: found.point, normal: found.normal, gauges, role, begins }, at: { pixel: Math.floor(found.point[0] / pixelMm), row: Math.floor(found.point[1] / pixelMm) }, how: apart.look(found.point, slimSizes(gauges[0], role).tipDiameterMm) }
  }
  for (const layer of covering.layers()) {
    if (layer % LAYERS_A_STEP === 0) yield `Choosing tips: layer ${layer + 1} of ${scan.layerCount}`
    const labelAt = demand.labelsOf(layer)
    covering.sift((at, beginsHere, reachMm) => questions.answer(covering, at, labelAt(at), beginsHere, reachMm))
    for (let from = covering.farthest(); from; from = covering.farthest()) {
      const island = questions.islandAt(covering, from), begins = island?.layer === layer && questions.asksFor(island), { gauges, role } = tipsFor(island, begins, asked)
      let head: Head | null = null, at = from
      const seats = placesFor(covering, demand, from, layer, { pixelMm, layerMm, tipHoldMm }).filter(place => questions.isIn(covering, place)).flatMap(place => seatAt(place, layer, gauges, role, begins) ?? [])
      let reason = whyNone(seats.map(s => s.how))
      // where a tip stands at the best place already, it holds what it can: the next scan tells what is left
      const free = seats[0]?.how === 'taken' ? [] : seats.filter(s => s.how === 'apart' || s.how === 'near').sort((a, b) => Number(a.how === 'near') - Number(b.how === 'near'))
      for (const { seat, at: stands } of free) {
        const tip = headAt(surface, room, ways, seat)
        if (typeof tip === 'string') {
          reason = tip
          continue
        }
        head = tip
        at = stands
        break
      }
      if (head) {
        heads.push(head)
        apart.add(head.point, head.sizes.tipDiameterMm)
        asked.watch?.tip(head.point, head.knee, head.sizes.kneeDiameterMm)
      } else {
        if (seats[0]?.how === 'taken') at = seats[0].at
        else if (free.length > 0) {
          const [{ seat, at: stands }] = free
          stuck.push(seat)
          apart.add(seat.point, slimSizes(seat.gauges[seat.gauges.length - 1], role).tipDiameterMm)
          at = stands
        }
        tried.push(...questions.triedFor(island, labelAt(from), reason))
      }
      covering.hold(at, Math.max(pixelMm, (head?.sizes.tipDiameterMm ?? 0) / 2))
      // what no tip can be put to is let be
      covering.letBe(from, pixelMm)
      demand.hold([(at.pixel + 0.5) * pixelMm, (at.row + 0.5) * pixelMm, (layer + 0.5) * layerMm], NEAR_SHARE * tipHoldMm)
    }
  }
  return { heads, stuck }
}

/** What of all that hangs is asked for, by its pixels. */
class Questions {
  readonly #graph: NonNullable<ModelScan['modelTree']>
  readonly #asked: Asked
  readonly #raster: Raster
  readonly #flapMm: number
  readonly #islands: ReadonlyMap<number, Island>
  readonly #open = new Set<number>()
  readonly #labels = new Set<number>()
  readonly #carried: ReadonlySet<number>
  readonly #ledges = new Map<number, Ledge>()

  constructor(scan: ModelScan, { islands, ledges }: ScanResult, asked: Asked) {
    this.#graph = scan.modelTree as NonNullable<ModelScan['modelTree']>
    this.#flapMm = scan.settings.flapMm
    this.#asked = asked
    this.#raster = scan.raster
    this.#islands = new Map(islands.map(i => [i.id, i]))
    this.#carried = new Set(ledges.flatMap(l => (l.state === 'noted' ? l.hanging : [])))
    for (const { of, hanging } of targetsOf({ islands, ledges }, { ...asked, within: undefined })) {
      if (of.kind === 'island') this.#open.add(of.island.id)
      for (const label of hanging) {
        this.#labels.add(label)
        if (of.kind === 'ledge') this.#ledges.set(label, of.ledge)
      }
    }
  }

  islandAt(covering: Covering, at: LaidPixel): Island | null {
    const c = covering.componentOf(at)
    return c < 0 ? null : (this.#islands.get(this.#graph.tree.islandOf[this.#graph.graph.solidStarts[covering.layer] + c]) ?? null)
  }

  asksFor(island: Island): boolean {
    return this.#open.has(island.id)
  }

  /** @param label of what the last scan has over reach at a pixel; −1 for none */
  answer(covering: Covering, at: LaidPixel, label: number, beginsHere: boolean, reachMm: number): 'ask' | 'pass' | 'let-be' {
    const { flat } = this.#asked, inside = this.#inside(covering, at)
    if (!this.isIn(covering, at)) return beginsHere ? 'let-be' : 'pass'
    const island = this.islandAt(covering, at), asked = island !== null && this.asksFor(island)
    if (flat && !beginsHere && reachMm <= this.#flapMm - SPARE_MM) return flat.isFlat(inside) ? 'ask' : 'pass'
    if (beginsHere) return asked || (!island && !this.#asked.chosen) ? 'ask' : 'let-be'
    if (label >= 0 && this.#carried.has(label)) return 'let-be'
    return asked || (label >= 0 ? this.#labels.has(label) : reachMm > this.#flapMm && !this.#asked.chosen) ? 'ask' : 'pass'
  }

  /** Whether a place lies in what is asked for: tips stand nowhere else. */
  isIn(covering: Covering, at: LaidPixel): boolean {
    return this.#asked.within?.(this.#inside(covering, at)) ?? true
  }
  #inside({ layer }: Covering, { pixel, row }: LaidPixel): Vec3 {
    const { pixelMm, layerMm } = this.#raster
    return [(pixel + 0.5) * pixelMm, (row + 0.5) * pixelMm, (layer + 0.5) * layerMm]
  }

  triedFor(island: Island | null, label: number, reason: string): Tried[] {
    const ledge = this.#ledges.get(label)
    return [...(island ? [{ of: { kind: 'island' as const, island }, reason }] : []), ...(ledge ? [{ of: { kind: 'ledge' as const, ledge }, reason }] : [])]
  }
}

/** Places for a tip that is to hold a pixel, by what else they would hold. */
function placesFor(covering: Covering, demand: Demand, from: LaidPixel, layer: number, { pixelMm, layerMm, tipHoldMm }: { readonly pixelMm: number; readonly layerMm: number; readonly tipHoldMm: number }): LaidPixel[] {
  const nearMm = NEAR_SHARE * tipHoldMm, here = covering.around(from, 2 * nearMm, true), near = covering.around(from, nearMm, false), step = Math.max(1, Math.round(PLACES_MM / pixelMm)), cells = new Set<number>(), places: { at: LaidPixel; score: number }[] = []
  const weigh = demand.weigher([(from.pixel + 0.5) * pixelMm, (from.row + 0.5) * pixelMm, (layer + 0.5) * layerMm], nearMm, here)
  const count = near.length / 3, every = Math.max(1, Math.floor(count / 4000))
  for (let i = 0; i < near.length; i += 3 * every) {
    const row = near[i], pixel = near[i + 1], cell = Math.floor(row / step) * 100003 + Math.floor(pixel / step)
    if (cells.has(cell)) continue
    cells.add(cell)
    places.push({ at: { row, pixel }, score: weigh(pixel, row) })
  }
  places.sort((a, b) => b.score - a.score || a.at.row - b.at.row || a.at.pixel - b.at.pixel)
  const out: LaidPixel[] = []
  for (const { at } of places) {
    if (out.length >= MOST_TRIED) break
    if (out.every(o => Math.hypot(o.row - at.row, o.pixel - at.pixel) * pixelMm >= APART_MM)) out.push(at)
  }
  return out.length > 0 ? out : [from]
}
