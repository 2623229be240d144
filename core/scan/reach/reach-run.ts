import { BAND_LAYERS, type BandedBody } from '../graph/banded-body'
import { componentsOf } from '../graph/components-at'
import type { Raster } from '../raster/body'
import type { Frame } from '../raster/spans'
import type { ScanSettings } from '../settings'
import type { BandWithSupports } from '../supports/supported-spans'
import { ReachField } from './reach-field'
import type { LayerReach } from './reach-pieces'
import { sameState, type ReachState } from './reach-state'

/** What a layer adds to the over-reach, and the component of the model, within the layer, that every piece belongs to. */
export interface LoggedReach extends LayerReach {
  readonly components: Int32Array
}

/** Pixels around the model that the reach looks at. */
const AROUND = 2
/** Rows and pixels that the reach of a model is measured in: some around it, so that what touches it from outside is seen where it touches. */
export function aroundModel({ body, frame }: BandedBody): { row0: number; rows: number; col0: number; cols: number } {
  return { row0: frame.row0 - AROUND, rows: frame.rows + 2 * AROUND, col0: body.origin[0] - AROUND, cols: body.columns + 2 * AROUND }
}

/** Layers that the reach is measured in. */
export interface ReachBands {
  readonly frame: Frame
  /** Spans of a band with the supports that meet the model there; of these supports, those that stand by themselves, and the others. */
  bandWithSupports(band: number, bandLayers: number): BandWithSupports
}

/** The model's own bands, without supports. */
export class ModelBands implements ReachBands {
  readonly #model: BandedBody
  readonly frame: Frame

  constructor(model: BandedBody) {
    this.#model = model
    this.frame = model.frame
  }

  bandWithSupports(band: number): BandWithSupports {
    return { spans: this.#model.spans(band), supports: null, plain: null }
  }
}

/** Bands between two saved states. */
const SAVE_EVERY = 2

/** The reach through all layers, kept up to date: after a change it starts at the last state saved below it, and ends where nothing differs any more. */
export class ReachRun {
  readonly #model: BandedBody
  readonly #raster: Raster
  readonly #settings: ScanSettings
  #field: ReachField | null = null
  /** By layer; null where a layer adds nothing. */
  #log: (LoggedReach | null)[] = []
  #states = new Map<number, ReachState>()
  #dirtyFrom = 0
  #dirtyTo = Infinity
  #complete = false

  constructor(model: BandedBody, raster: Raster, settings: ScanSettings) {
    this.#model = model
    this.#raster = raster
    this.#settings = settings
  }

  /** By layer; null where nothing is over reach. Of the run before while a new one is under way. */
  get log(): readonly (LoggedReach | null)[] {
    return this.#log
  }

  /** Says that layers [from, to) are not what they were. */
  changed(from: number, to: number): void {
    if (from >= to) return
    this.#dirtyFrom = Math.min(this.#dirtyFrom, from)
    this.#dirtyTo = Math.max(this.#dirtyTo, to)
    this.#complete = false
  }

  /** Brings the log up to date; yields the layers done so far after every band. */
  *run(whole: ReachBands): Generator<number, void, void> {
    const layerCount = this.#model.frame.layerCount
    if (this.#complete || this.#model.frame.rows === 0) {
      this.#complete = true
      return
    }
    if (!this.#field || this.#field.frame.row0 !== whole.frame.row0 || this.#field.frame.rows !== whole.frame.rows) this.#field = new ReachField(whole.frame, aroundModel(this.#model), this.#raster, this.#settings)
    const field = this.#field
    const dirtyTo = this.#dirtyTo
    // a run that is given up half way leaves a log of two kinds, so the next one goes to the end
    this.#dirtyTo = Infinity
    let band = 0
    for (let b = Math.floor(Math.max(0, this.#dirtyFrom - 1) / BAND_LAYERS); b > 0; b--) {
      const state = this.#states.get(b * BAND_LAYERS - 1)
      if (!state) continue
      const below = whole.bandWithSupports(b - 1, BAND_LAYERS).spans
      field.restore(state, below, below.layers - 1)
      band = b
      break
    }
    if (band === 0) field.clear()
    for (; band * BAND_LAYERS < layerCount; band++) {
      const from = band * BAND_LAYERS
      const { spans, supports, plain } = whole.bandWithSupports(band, BAND_LAYERS)
      for (let l = 0; l < spans.layers && from + l < layerCount; l++) {
        const componentAt = componentsOf(this.#model, from + l)
        const found = field.advance(from + l, spans, l, supports, plain, componentAt)
        this.#log[from + l] = found.pieces.length > 0 || found.closed.length > 0 ? { ...found, components: Int32Array.from(found.pieces, p => componentAt(p.firstRow, p.firstPixel)) } : null
      }
      const end = from + BAND_LAYERS
      if ((band + 1) % SAVE_EVERY === 0 && end < layerCount) {
        const state = field.save(), old = this.#states.get(end - 1)
        this.#states.set(end - 1, state)
        if (old && end > dirtyTo && sameState(old, state)) break
      }
      yield Math.min(layerCount, end)
    }
    this.#log.length = layerCount
    this.#complete = true
    this.#dirtyFrom = Infinity
    this.#dirtyTo = 0
  }
}
