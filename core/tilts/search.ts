import { areaOf, volumeOf, type Mesh } from '../mesh'
import { tiltOfUp, upOfTilt, type TiltAngles } from '../pose'
import { around, farthestFirst, sphereLattice } from './directions'
import type { TiltMeasures } from './measures'
import { isApart, ranked, scalesOf, scoreOf, worthALook, type Scales, type TriedTilt, type Weights } from './rank'
import { distinct, NO_SYMMETRY, type Symmetry } from './symmetry'

/** Tilts of the first round; they are about 12° apart. */
export const FIRST_ROUND = 300
/** Cells of the first round, mm: at the most, and at the least. Those of the second are finer by this. */
export const LARGEST_CELL_MM = 0.3
const SMALLEST_CELL_MM = 0.1, FINER = 2 / 3
/** Cells that the thickness of a part is to be at least, on the mean: what is thinner is lost on them. */
const CELLS_THICK = 6
/** Best ones of the first round that are looked at again, each with so many around it, so far off. */
const SEEDS = 12, AROUND = 6, AROUND_DEG = 4
const SEEDS_APART_DEG = 8
/** How much worse than today's tilt one may score and still be offered: it trades one thing for another. */
const WORSE_AT_MOST = 0.1
/** Tilts that are offered. */
export const OFFERED = 5

/** The cell of the first round for a part: small enough for its bars and blades. Its mean thickness is twice its volume by its skin. */
export function cellOf(mesh: Mesh): number {
  return Math.max(SMALLEST_CELL_MM, Math.min(LARGEST_CELL_MM, (2 * volumeOf(mesh)) / Math.max(1e-9, areaOf(mesh)) / CELLS_THICK))
}

/** What a search is told beside the tilt that it begins at. */
export interface SearchOptions {
  readonly symmetry?: Symmetry
  /** Whether a printer has room for a tilt; where it has for none, they are offered all the same. */
  readonly fits?: (tilt: TiltAngles) => boolean
  /** Cell of the first round, mm. */
  readonly cellMm?: number
  /** Tilts of the first round, where nothing is symmetrical. */
  readonly count?: number
}

/** What measures tilts, here or elsewhere. All of it may throw, which ends the search. */
export interface TiltMeter {
  /** Measures some tilts on coarse cells, in any order, and hands over each as it is done. */
  coarse(tilts: readonly TiltAngles[], cellMm: number, take: (index: number, measures: TiltMeasures) => void): Promise<void>
  /** Measures some tilts by the real scan. */
  full(tilts: readonly TiltAngles[], take: (index: number, measures: TiltMeasures) => void): Promise<void>
}

/**
 * A search over all tilts of a part: an even round over the sphere, a finer one about the best, and the real scan of the few that are
 * offered. The same part gives the same answer, however many workers measure. A turn about the vertical changes nothing that is judged here.
 */
export class TiltSearch {
  readonly symmetry: Symmetry
  /** The tilt that others are compared with. */
  now: TiltAngles
  /** A tilt that a person picked; it is measured along with those that are offered. */
  picked: TiltAngles | null = null
  readonly #fits: (tilt: TiltAngles) => boolean
  readonly #cellMm: number
  /** Tilts by their angles: measured coarsely, the finest measure counts; and by the real scan. */
  readonly #coarse = new Map<string, TriedTilt>()
  readonly #full = new Map<string, TriedTilt>()
  readonly #first: readonly TiltAngles[]
  /** The first round as it was measured, whatever finer measures came since. */
  readonly #round: TriedTilt[] = []
  /** Whether both rounds are over. */
  looked = false

  constructor(now: TiltAngles, { symmetry = NO_SYMMETRY, fits = () => true, cellMm = LARGEST_CELL_MM, count = FIRST_ROUND }: SearchOptions = {}) {
    this.now = now
    this.#fits = fits
    this.#cellMm = cellMm
    this.symmetry = symmetry
    const start = upOfTilt(now)
    this.#first = [now, ...farthestFirst(distinct(symmetry, sphereLattice(count)), start).map(up => tiltOfUp(up, now.zero))]
  }

  /** Tilts of the first round. */
  get total(): number {
    return this.#first.length
  }

  /** All tilts that were tried, by their finest measure; those of the real scan are not among them. */
  get tried(): readonly TriedTilt[] {
    return [...this.#coarse.values()]
  }

  /** Those that the printer has room for. */
  get #fitting(): TriedTilt[] {
    const fitting = this.tried.filter(t => this.#fits(t.tilt))
    return (fitting.length > 0 ? fitting : [...this.tried]).sort(compare)
  }

  /** The scales of the first round, on which all tilts are compared; made anew only while it is under way. */
  get scales(): Scales {
    if (this.#scales?.of !== this.#round.length) this.#scales = { of: this.#round.length, scales: scalesOf(this.#round) }
    return this.#scales.scales
  }
  #scales: { readonly of: number; readonly scales: Scales } | null = null

  /** What the real scan says of a tilt; undefined where it was not asked. */
  fullOf(tilt: TiltAngles): TriedTilt | undefined {
    return this.#full.get(keyOf(tilt))
  }

  /** What is known of a tilt: by the real scan, else coarsely. */
  of(tilt: TiltAngles): TriedTilt | undefined {
    return this.fullOf(tilt) ?? this.#coarse.get(keyOf(tilt))
  }

  #put(tilt: TiltAngles, measures: TiltMeasures): TriedTilt {
    const tried = { up: upOfTilt(tilt), tilt, measures }
    this.#coarse.set(keyOf(tilt), tried)
    return tried
  }

  /** Rounds one and two. @param told called after every tilt */
  async look(meter: TiltMeter, weights: Weights, told: (done: number, total: number) => void = () => undefined): Promise<void> {
    const first = this.#first, expected = first.length + SEEDS * (1 + AROUND)
    let done = 0
    await meter.coarse(first, this.#cellMm, (i, m) => {
      this.#round.push(this.#put(first[i], m))
      told(++done, expected)
    })
    const second = this.#second(weights)
    await meter.coarse(second, this.#cellMm * FINER, (i, m) => {
      this.#put(second[i], m)
      told(++done, first.length + second.length)
    })
    this.looked = true
  }

  /** The best of the first round and what lies around them. */
  #second(weights: Weights): TiltAngles[] {
    const { scales } = this, seeds: TriedTilt[] = []
    for (const t of this.#fitting.sort((a, b) => scoreOf(a.measures, scales, weights) - scoreOf(b.measures, scales, weights) || compare(a, b))) {
      if (seeds.length === SEEDS) break
      if (isApart(t.up, seeds.map(s => s.up), this.symmetry, SEEDS_APART_DEG)) seeds.push(t)
    }
    const out = new Map<string, TiltAngles>()
    for (const seed of seeds) for (const tilt of [seed.tilt, ...around(seed.up, AROUND_DEG, AROUND).map(up => tiltOfUp(up, this.now.zero))]) out.set(keyOf(tilt), tilt)
    return [...out.values()]
  }

  /** The tilts that are worth a look by these weights, as far as coarse measures tell. Today's may be one of them; none is much worse than that one. */
  candidates(weights: Weights): TriedTilt[] {
    const { scales } = this, now = this.#coarse.get(keyOf(this.now)) ?? this.fullOf(this.now), most = now ? scoreOf(now.measures, scales, weights) + WORSE_AT_MOST : Infinity
    return worthALook(this.#fitting, scales, weights, this.symmetry, OFFERED).filter(t => scoreOf(t.measures, scales, weights) <= most)
  }

  /** Measures today's tilt, the one that was picked and the candidates by the real scan, those that were not yet. */
  async refine(meter: TiltMeter, weights: Weights, told: (done: number, total: number) => void = () => undefined): Promise<void> {
    const asked = [this.now, ...(this.picked ? [this.picked] : []), ...this.candidates(weights).map(c => c.tilt)]
    const wanted = [...new Map(asked.map(t => [keyOf(t), t])).values()].filter(t => !this.#full.has(keyOf(t)))
    let done = 0
    told(done, wanted.length)
    await meter.full(wanted, (i, measures) => {
      this.#full.set(keyOf(wanted[i]), { up: upOfTilt(wanted[i]), tilt: wanted[i], measures })
      told(++done, wanted.length)
    })
  }

  /** What is offered, best first: those of the candidates that the real scan has measured, by what it says, then the rest as they are. */
  offered(weights: Weights): TriedTilt[] {
    const candidates = this.candidates(weights), full = candidates.flatMap(c => this.fullOf(c.tilt) ?? [])
    return [...ranked(full, this.scales, weights), ...candidates.filter(c => !this.fullOf(c.tilt))]
  }
}

/** A name of a tilt: its angles. */
export function keyOf({ tiltXDeg, tiltYDeg }: TiltAngles): string {
  return `${tiltXDeg} ${tiltYDeg}`
}

/** An order that does not depend on which was measured first. */
function compare(a: TriedTilt, b: TriedTilt): number {
  return a.tilt.tiltXDeg - b.tilt.tiltXDeg || a.tilt.tiltYDeg - b.tilt.tiltYDeg
}

/** Measures by what is at hand, one tilt after the other. */
export function localMeter(coarse: (tilt: TiltAngles, cellMm: number) => TiltMeasures, full: (tilt: TiltAngles) => TiltMeasures): TiltMeter {
  return {
    async coarse(tilts, cellMm, take) {
      for (const [i, tilt] of tilts.entries()) take(i, coarse(tilt, cellMm))
    },
    async full(tilts, take) {
      for (const [i, tilt] of tilts.entries()) take(i, full(tilt))
    },
  }
}
