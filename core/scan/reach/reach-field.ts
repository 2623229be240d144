import type { Raster } from '../raster/body'
import { Int32List } from '../raster/growable'
import type { BandSpans, Frame } from '../raster/spans'
import type { ScanSettings } from '../settings'
import { EMPTY, HOLDS, PLAIN, ReachGrid, UNIT, UNSET } from './reach-grid'
import { ReachPieces, type LayerReach } from './reach-pieces'
import type { ReachState } from './reach-state'
import { ReachWaves } from './reach-waves'

/**
 * How far every pixel is from held material, layer by layer: D_k(x) = min over y, solid in this layer and the one below, of
 * max(0, D_{k−1}(y) − g) plus the distance from y to x within the layer, where g = layer height · cot(slope limit).
 * E = D + g·k stays what it was while a pixel stays solid, so only new pixels are worked on.
 * A tip holds farther than a flap may reach: distances from supports start at the difference of the two below zero, and what
 * descends from a support is clamped there, not at zero, as high above it as it holds to the side. So a tip never reaches less
 * far on a slope than on a flat, and far above it a flap counts as any other.
 */
export class ReachField {
  /** What is known of the layer that was laid last. */
  readonly grid: ReachGrid
  readonly #waves: ReachWaves
  readonly #pieces: ReachPieces
  /** First and end pixels of the runs of supports. */
  #supportRuns = new Int32List()
  #starts: Int32Array = new Int32Array(0)
  #pairs: Int32Array = new Int32Array(0)
  #base = 0

  /**
   * @param frame rows of the spans that will be given
   * @param box the model's first row, rows, first pixel and pixels: nothing beyond matters
   * @param unheldMm how far what begins on nothing counts from what holds it; as if it were held where left out
   */
  constructor(readonly frame: Frame, box: { row0: number; rows: number; col0: number; cols: number }, raster: Raster, settings: ScanSettings, unheldMm = 0) {
    this.grid = new ReachGrid(box, raster, settings)
    this.#waves = new ReachWaves(this.grid, Math.round((unheldMm * UNIT) / raster.pixelMm))
    this.#pieces = new ReachPieces(this.grid, raster, settings)
  }

  /** The layer that was advanced to last. */
  get layer(): number {
    return this.grid.layer
  }

  /**
   * Lays the next layer and tells what of it is over reach.
   * @param componentAt the component of the model, within the layer, that has a pixel: absolute row and pixel; −1 for none
   */
  advance(layer: number, spans: BandSpans, at: number, supports: BandSpans | null, plain: BandSpans | null, componentAt: (row: number, pixel: number) => number): LayerReach {
    this.lay(layer, spans, at, supports, plain)
    return this.#pieces.collect(layer, componentAt)
  }

  /**
   * Lays the next layer.
   * @param spans a band that holds it, its place there
   * @param supports runs of the supports that stand by themselves and touch something in it, in the same rows; null for none
   * @param plain runs of other supports in it, which hold nothing by themselves
   */
  lay(layer: number, spans: BandSpans, at: number, supports: BandSpans | null, plain: BandSpans | null): void {
    const grid = this.grid
    grid.layer = layer
    grid.drift = grid.perLayer * layer
    grid.fresh.length = 0
    const base = at * this.frame.rows
    this.#unmark()
    this.#mark(plain, at, PLAIN)
    this.#mark(supports, at, HOLDS)
    this.#exchange(spans.starts, spans.pairs, base)
    this.#starts = spans.starts
    this.#pairs = spans.pairs
    this.#base = base
    this.#waves.run()
  }

  /** Holds solid pixels of the layer that was laid last, as a tip does. */
  hold(pixels: Int32List): void {
    this.#waves.hold(pixels)
  }

  #unmark(): void {
    const marked = this.#supportRuns, { support } = this.grid
    for (let i = 0; i < marked.length; i += 2) support.fill(0, marked.data[i], marked.data[i + 1])
    marked.length = 0
  }

  #mark(supports: BandSpans | null, at: number, as: typeof HOLDS | typeof PLAIN): void {
    if (!supports) return
    if (as === HOLDS) this.grid.supported = true
    const { row0, rows } = this.frame, { support, value, tip, layer, drift, tipBonus } = this.grid, held = drift - tipBonus, runs = this.#supportRuns
    this.grid.eachRun(supports.starts, supports.pairs, at * rows, row0, rows, (p, n) => {
      const end = p + n
      support.fill(as, p, end)
      runs.push(p)
      runs.push(end)
      if (as !== HOLDS) return
      for (let i = p; i < end; i++) {
        // what was solid already is held from here; what is new comes next
        if (value[i] === EMPTY) continue
        value[i] = held
        tip[i] = layer
      }
    })
  }

  /** Empties what ends below this layer and lists what is new in it. */
  #exchange(starts: Int32Array, pairs: Int32Array, base: number): void {
    const { value, fresh, cols, col0 } = this.grid
    const shift = this.grid.row0 - this.frame.row0
    const old = this.#starts, oldPairs = this.#pairs, oldBase = this.#base
    const any = old.length > 0
    const low = col0 + 1, high = col0 + cols - 1
    for (let r = Math.max(1, -shift), end = Math.min(this.grid.rows - 1, this.frame.rows - shift); r < end; r++) {
      let i = starts[base + r + shift], j = any ? old[oldBase + r + shift] : 0
      const iEnd = starts[base + r + shift + 1], jEnd = any ? old[oldBase + r + shift + 1] : 0
      if (i === iEnd && j === jEnd) continue
      const rowBase = r * cols - col0
      // walk both rows at once: what only the upper has is new, what only the lower has is gone
      let x = low, inNew = false, inOld = false
      while (x < high) {
        const nextNew = inNew ? pairs[2 * i + 1] : i < iEnd ? pairs[2 * i] : EMPTY
        const nextOld = inOld ? oldPairs[2 * j + 1] : j < jEnd ? oldPairs[2 * j] : EMPTY
        const next = Math.min(nextNew, nextOld, high)
        if (next > x) {
          if (inNew && !inOld) {
            fresh.reserve(fresh.length + next - x)
            const list = fresh.data
            let n = fresh.length
            for (let p = rowBase + x, end = rowBase + next; p < end; p++) {
              value[p] = UNSET
              list[n++] = p
            }
            fresh.length = n
          } else if (inOld && !inNew) for (let p = rowBase + x, end = rowBase + next; p < end; p++) value[p] = EMPTY
          x = next
        }
        if (nextNew <= x) {
          if (inNew) i++
          inNew = !inNew
        }
        if (nextOld <= x) {
          if (inOld) j++
          inOld = !inOld
        }
      }
    }
  }

  /** What later layers depend on. */
  save(): ReachState {
    const { value, label, tip, drift, supported } = this.grid, list = new Int32List()
    this.grid.eachRun(this.#starts, this.#pairs, this.#base, this.frame.row0, this.frame.rows, (p, n) => {
      for (let i = p, end = p + n; i < end; i++) if (value[i] > drift || (supported && this.grid.matters(i))) list.push(i)
    })
    const pixels = list.toArray()
    return { layer: this.grid.layer, pixels, values: pixels.map(p => value[p]), labels: pixels.map(p => label[p]), tips: pixels.map(p => tip[p]), pending: new Map(Array.from(this.#pieces.pending, ([layer, list]) => [layer, [...list]])) }
  }

  /** Goes back to before the first layer. */
  clear(): void {
    this.grid.value.fill(EMPTY)
    this.grid.touched.fill(-1)
    this.grid.label.fill(-1)
    this.grid.tip.fill(-1)
    this.grid.supported = false
    this.#unmark()
    this.#starts = this.#pairs = NO_SPANS
    this.#pieces.pending.clear()
  }

  /** Goes back to a saved state. @param spans a band that holds its layer */
  restore(state: ReachState, spans: BandSpans, at: number): void {
    this.clear()
    this.grid.layer = state.layer
    this.grid.drift = this.grid.perLayer * state.layer
    this.#starts = spans.starts
    this.#pairs = spans.pairs
    this.#base = at * this.frame.rows
    this.grid.eachRun(spans.starts, spans.pairs, this.#base, this.frame.row0, this.frame.rows, (p, n) => {
      this.grid.value.fill(this.grid.drift, p, p + n)
    })
    for (let i = 0; i < state.pixels.length; i++) {
      const p = state.pixels[i]
      this.grid.value[p] = state.values[i]
      this.grid.label[p] = state.labels[i]
      this.grid.tip[p] = state.tips[i]
      if (state.tips[i] >= 0) this.grid.supported = true
    }
    this.#pieces.pending = new Map(Array.from(state.pending, ([layer, list]) => [layer, [...list]]))
  }
}

const NO_SPANS = new Int32Array(0)
