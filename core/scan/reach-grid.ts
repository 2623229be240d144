import type { Raster } from './body'
import { Int32List } from './growable'
import type { ScanSettings } from './settings'

/** Distances are whole 256ths of a pixel, so that a shift by layers changes no bit of them. */
export const UNIT = 256
/** Value of a pixel that is empty, and of one that is solid and has no distance yet. */
export const EMPTY = 0x7fffffff
export const UNSET = 0x7ffffffe

/** Columns and rows of the eight neighbours of a pixel, those beside it first. */
export const NX = [1, -1, 0, 0, 1, 1, -1, -1], NY = [0, 0, 1, -1, 1, -1, 1, -1]

/** What is known of every pixel of the layer that was laid last. Pixels are named by row · cols + column, with an empty border around them. */
export class ReachGrid {
  readonly cols: number
  readonly rows: number
  /** Absolute pixel and row of the first one, which belongs to the border. */
  readonly col0: number
  readonly row0: number
  /** What heals from layer to layer, how far a tip holds beyond a flap, both in units. */
  readonly perLayer: number
  readonly tipBonus: number
  /** Distance + what heals by layer · layer: stays what it was while a pixel stays solid. */
  readonly value: Int32Array
  /** Label of the piece that a pixel belongs to; −1 for none. */
  readonly label: Int32Array
  /** Pixel that the distance is measured from. */
  readonly source: Int32Array
  /** Layer in which the distance was set. */
  readonly touched: Int32Array
  readonly support: Uint8Array
  /** Whether the distance is measured from a support. */
  readonly tip: Uint8Array
  /** Pixels that are new in this layer. */
  readonly fresh = new Int32List(1 << 12)
  layer = -1
  /** What has healed up to this layer, units. */
  drift = 0

  /** @param box first row, rows, first pixel and pixels: nothing beyond matters */
  constructor(box: { row0: number; rows: number; col0: number; cols: number }, raster: Raster, settings: ScanSettings) {
    // an empty border all around saves tests of the edge
    this.cols = box.cols + 2
    this.rows = box.rows + 2
    this.col0 = box.col0 - 1
    this.row0 = box.row0 - 1
    const toUnits = UNIT / raster.pixelMm
    this.perLayer = Math.round((raster.layerMm / Math.tan((settings.slopeDeg * Math.PI) / 180)) * toUnits)
    this.tipBonus = Math.max(0, Math.round((settings.tipHoldMm - settings.flapMm) * toUnits))
    const n = this.cols * this.rows
    this.value = new Int32Array(n).fill(EMPTY)
    this.label = new Int32Array(n).fill(-1)
    this.source = new Int32Array(n)
    this.touched = new Int32Array(n).fill(-1)
    this.support = new Uint8Array(n)
    this.tip = new Uint8Array(n)
  }

  /** Value of a pixel in this layer where it was laid: its distance from held material; supports and their surroundings go below zero. */
  now(p: number): number {
    const d = this.value[p] - this.drift
    if (this.touched[p] === this.layer) return d
    return this.support[p] ? -this.tipBonus : d > 0 ? d : 0
  }

  /** Distance of a pixel of this layer from what holds it, without the bonus of tips. */
  trueReach(p: number): number {
    return this.value[p] - this.drift + (this.tip[p] ? this.tipBonus : 0)
  }

  /** Runs of a layer, clipped to the grid: first pixel and length. @param row0 first row of the runs */
  eachRun(starts: Int32Array, pairs: Int32Array, base: number, row0: number, visit: (p: number, n: number) => void): void {
    const shift = this.row0 + 1 - row0
    const low = this.col0 + 1, high = this.col0 + this.cols - 1
    for (let r = 1; r < this.rows - 1; r++) {
      const at = base + r - 1 + shift
      for (let s = starts[at]; s < starts[at + 1]; s++) {
        const from = Math.max(low, pairs[2 * s]), to = Math.min(high, pairs[2 * s + 1])
        if (from < to) visit(r * this.cols + from - this.col0, to - from)
      }
    }
  }
}
