import { BAND_LAYERS, type BandedBody } from '../graph/banded-body'
import { componentsOf } from '../graph/components-at'
import type { Raster } from '../raster/body'
import { Int32List } from '../raster/growable'
import type { ScanSettings } from '../settings'
import { ReachField } from './reach-field'
import { EMPTY, HOLDS, NX, NY, UNIT } from './reach-grid'
import { aroundModel, type ReachBands } from './reach-run'

/** What begins on nothing counts as so far out until a tip holds it, mm: farther than any tip holds. */
const UNHELD_MM = 40

/** A pixel of the layer that was laid last, absolute. */
export interface LaidPixel {
  readonly pixel: number
  readonly row: number
}

/**
 * The reach of a model layer by layer while tips are chosen for it: in each layer it tells what is out of reach of all that holds so far, a
 * tip is put there, and what the tip holds is out of reach no more. What begins on nothing is out of reach as a whole.
 */
export class Covering {
  readonly #model: BandedBody
  readonly #bands: ReachBands
  readonly #field: ReachField
  readonly #pixelMm: number
  readonly #limit: number
  readonly #over = new Int32List()
  readonly #disc = new Int32List(256)
  readonly #seen: Int32Array
  #walks = 0
  #componentAt: (row: number, pixel: number) => number = nowhere
  layer = -1

  /** @param spareMm what is so near to the limit is taken as beyond it */
  constructor(model: BandedBody, bands: ReachBands, raster: Raster, settings: ScanSettings, spareMm: number) {
    this.#model = model
    this.#bands = bands
    this.#pixelMm = raster.pixelMm
    this.#field = new ReachField(bands.frame, aroundModel(model), raster, settings, UNHELD_MM)
    this.#limit = Math.round(((settings.flapMm - spareMm) * UNIT) / raster.pixelMm)
    this.#seen = new Int32Array(this.#field.grid.value.length)
    this.#field.clear()
  }

  /** Lays one layer after the other; yields each in which something is out of reach. */
  *layers(): Generator<number, void, void> {
    const { layerCount, rows } = this.#model.frame
    if (rows === 0) return
    for (let band = 0; band * BAND_LAYERS < layerCount; band++) {
      const from = band * BAND_LAYERS, { spans, supports, plain } = this.#bands.bandWithSupports(band, BAND_LAYERS)
      for (let l = 0; l < spans.layers && from + l < layerCount; l++) {
        this.layer = from + l
        this.#field.lay(this.layer, spans, l, supports, plain)
        this.#componentAt = componentsOf(this.#model, this.layer)
        const { fresh, support } = this.#field.grid
        this.#over.length = 0
        for (let f = 0; f < fresh.length; f++) if (support[fresh.data[f]] === 0) this.#over.push(fresh.data[f])
        this.#look()
        if (this.#over.length > 0) yield this.layer
      }
    }
  }

  /** Keeps what is still out of reach. */
  #look(): void {
    const { value, drift } = this.#field.grid, list = this.#over, limit = this.#limit + drift
    let n = 0
    for (let i = 0; i < list.length; i++) if (value[list.data[i]] > limit) list.data[n++] = list.data[i]
    list.length = n
  }

  /**
   * Asks of every pixel out of reach whether something is to hold it; the others are passed over in this layer, or let be, as if they were held by themselves.
   * @param of the pixel, whether it begins on nothing, and its reach, mm
   */
  sift(of: (at: LaidPixel, beginsHere: boolean, reachMm: number) => 'ask' | 'pass' | 'let-be'): void {
    const { value, drift, tip } = this.#field.grid, list = this.#over, toMm = this.#pixelMm / UNIT
    let n = 0
    for (let i = 0; i < list.length; i++) {
      const p = list.data[i], reachMm = (value[p] - drift) * toMm, then = of(this.#at(p), reachMm >= UNHELD_MM / 2, reachMm)
      if (then === 'ask') list.data[n++] = p
      else if (then === 'let-be') {
        value[p] = drift
        tip[p] = -1
      }
    }
    list.length = n
  }

  /** The pixel of this layer that is farthest out of reach; the first one of those alike. Null where nothing is. */
  farthest(): LaidPixel | null {
    const { value } = this.#field.grid, list = this.#over
    let best = -1
    for (let i = 0; i < list.length; i++) if (best < 0 || value[list.data[i]] > value[best]) best = list.data[i]
    return best < 0 ? null : this.#at(best)
  }

  /** The component of the model, within this layer, that a pixel belongs to. */
  componentOf({ row, pixel }: LaidPixel): number {
    return this.#componentAt(row, pixel)
  }

  /**
   * What of this layer is laid on nothing and can be reached from a pixel through the layer, nearest first: row, pixel and steps of each.
   * @param onlyOver only what is out of reach
   */
  around(from: LaidPixel, withinMm: number, onlyOver: boolean): Int32Array {
    const { value, cols, steps, drift, touched, layer, support } = this.#field.grid, most = withinMm / this.#pixelMm, seen = this.#seen, walk = ++this.#walks, start = this.#place(from), sx = start % cols, sy = Math.floor(start / cols), out = this.#found, queue = this.#queue, limit = this.#limit + drift
    out.length = queue.length = 0
    queue.push(start)
    seen[start] = walk
    let step = 0
    for (let i = 0, end = 1; i < queue.length; i++) {
      if (i === end) {
        step++
        end = queue.length
      }
      const p = queue.data[i], py = Math.floor(p / cols), px = p - py * cols
      if (touched[p] === layer && support[p] !== HOLDS && (!onlyOver || value[p] > limit)) {
        out.push(py + this.#field.grid.row0)
        out.push(px + this.#field.grid.col0)
        out.push(step)
      }
      for (let n = 0; n < 8; n++) {
        const q = p + steps[n]
        if (seen[q] === walk || value[q] === EMPTY) continue
        if (n > 3 && value[p + NX[n]] === EMPTY && value[p + NY[n] * cols] === EMPTY) continue
        const x = px + NX[n] - sx, y = py + NY[n] - sy
        if (x * x + y * y > most * most) continue
        seen[q] = walk
        queue.push(q)
      }
    }
    return out.toArray()
  }
  readonly #found = new Int32List()
  readonly #queue = new Int32List()

  /** Puts a tip of a radius to a pixel of this layer. */
  hold(at: LaidPixel, radiusMm: number): void {
    const { value, cols, rows } = this.#field.grid, p = this.#place(at), r = Math.max(0, Math.floor(radiusMm / this.#pixelMm)), px = p % cols, py = Math.floor(p / cols)
    this.#disc.length = 0
    for (let y = -r; y <= r; y++) for (let x = -r; x <= r; x++) {
      if (x * x + y * y > r * r || px + x < 1 || py + y < 1 || px + x >= cols - 1 || py + y >= rows - 1) continue
      const q = p + y * cols + x
      if (value[q] !== EMPTY) this.#disc.push(q)
    }
    this.#field.hold(this.#disc)
    this.#look()
  }

  /** Lets what is out of reach around a pixel be, as if they were held by themselves: nothing can hold them, or nobody asks for it. */
  letBe(from: LaidPixel, withinMm: number): void {
    const { value, drift, tip } = this.#field.grid, found = this.around(from, withinMm, true)
    for (let i = 0; i < found.length; i += 3) {
      const p = this.#place({ row: found[i], pixel: found[i + 1] })
      value[p] = drift
      tip[p] = -1
    }
    this.#look()
  }

  #place({ row, pixel }: LaidPixel): number {
    const { row0, col0, cols } = this.#field.grid
    return (row - row0) * cols + pixel - col0
  }
  #at(p: number): LaidPixel {
    const { row0, col0, cols } = this.#field.grid, row = Math.floor(p / cols)
    return { row: row + row0, pixel: p - row * cols + col0 }
  }
}

function nowhere(): number {
  return -1
}
