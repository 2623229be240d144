import { radians } from '../../mesh'
import type { Raster } from '../raster/body'
import { Int32List } from '../raster/growable'
import type { ScanSettings } from '../settings'

/** Distances are whole 256ths of a pixel, so that a shift by layers changes no bit of them. */
export const UNIT = 256
/** Value of a pixel that is empty, and of one that is solid and has no distance yet. */
export const EMPTY = 0x7fffffff
export const UNSET = 0x7ffffffe

/** A pixel of a support that stands by itself; and of one that does not, which is as good as what it is connected to. */
export const HOLDS = 1, PLAIN = 2

/** Columns and rows of the eight neighbours of a pixel, those beside it first. */
export const NX = [1, -1, 0, 0, 1, 1, -1, -1], NY = [0, 0, 1, -1, 1, -1, 1, -1]

/** What is known of every pixel of the layer that was laid last. Pixels are named by row · cols + column, with an empty border around them. */
export class ReachGrid {
  readonly cols: number
  /** From a pixel to its eight neighbours, those beside it first. */
  readonly steps: Int32Array
  readonly rows: number
  /** Absolute pixel and row of the first one, which belongs to the border. */
  readonly col0: number
  readonly row0: number
  /** What heals from layer to layer, how far a tip holds beyond a flap, both in units. */
  readonly perLayer: number
  readonly tipBonus: number
  /** Layers above a support in which what descends from it goes on from below zero. */
  readonly tipLayers: number
  /** Distance + what heals by layer · layer: stays what it was while a pixel stays solid. */
  readonly value: Int32Array
  /** Label of the piece that a pixel belongs to; −1 for none. */
  readonly label: Int32Array
  /** Pixel that the distance is measured from. */
  readonly source: Int32Array
  /** Layer in which the distance was set. */
  readonly touched: Int32Array
  /** What a pixel is of supports: `HOLDS`, `PLAIN` or 0 for none. */
  readonly support: Uint8Array
  /** Layer of the support that the distance is measured from; −1 where it is not measured from one. */
  readonly tip: Int32Array
  /** Pixels that are new in this layer. */
  readonly fresh = new Int32List(1 << 12)
  layer = -1
  /** Whether anything has been laid so far that a support holds. */
  supported = false
  /** What has healed up to this layer, units. */
  drift = 0

  /** @param box first row, rows, first pixel and pixels: nothing beyond matters */
  constructor(box: { row0: number; rows: number; col0: number; cols: number }, raster: Raster, settings: ScanSettings) {
    // an empty border all around saves tests of the edge
    this.cols = box.cols + 2
    this.rows = box.rows + 2
    this.steps = Int32Array.from(NX, (x, n) => x + NY[n] * this.cols)
    this.col0 = box.col0 - 1
    this.row0 = box.row0 - 1
    const toUnits = UNIT / raster.pixelMm
    this.perLayer = Math.round((raster.layerMm / Math.tan(radians(settings.slopeDeg))) * toUnits)
    this.tipBonus = Math.max(0, Math.round((settings.tipHoldMm - settings.flapMm) * toUnits))
    this.tipLayers = Math.round(settings.tipHoldMm / raster.layerMm)
    const n = this.cols * this.rows
    this.value = new Int32Array(n).fill(EMPTY)
    this.label = new Int32Array(n).fill(-1)
    this.source = new Int32Array(n)
    this.touched = new Int32Array(n).fill(-1)
    this.support = new Uint8Array(n)
    this.tip = new Int32Array(n).fill(-1)
  }

  /**
   * Distance of a pixel of this layer from held material, as other pixels are to be measured from it: what was laid earlier has
   * healed meanwhile, but never below zero. Supports begin below zero; what descends from them heals down to that, as long as they
   * are as near below as they hold to the side, and is material like any other from there on.
   */
  now(p: number): number {
    const d = this.value[p] - this.drift
    if (d > 0 || this.touched[p] === this.layer) return d
    if (this.support[p] === HOLDS) return -this.tipBonus
    return this.tip[p] >= 0 && this.layer - this.tip[p] <= this.tipLayers ? Math.max(d, -this.tipBonus) : 0
  }

  /** The layer of the support that is measured from where a pixel of this layer is measured from; −1 for none. */
  originOf(p: number): number {
    if (this.support[p] === HOLDS) return this.layer
    const tip = this.tip[p]
    return tip >= 0 && (this.value[p] > this.drift || this.touched[p] === this.layer || this.layer - tip <= this.tipLayers) ? tip : -1
  }

  /** Whether a pixel is more than held material like any other, so that what is laid later depends on it. */
  matters(p: number): boolean {
    return this.value[p] > this.drift || (this.tip[p] >= 0 && this.layer - this.tip[p] <= this.tipLayers)
  }

  /** Distance of a pixel of this layer from what holds it, without the bonus of tips. */
  trueReach(p: number): number {
    return this.value[p] - this.drift + (this.tip[p] >= 0 ? this.tipBonus : 0)
  }

  /** Runs of a layer, clipped to the grid: first pixel and length. @param row0 first row of the runs @param rows how many there are */
  eachRun(starts: Int32Array, pairs: Int32Array, base: number, row0: number, rows: number, visit: (p: number, n: number) => void): void {
    const low = this.col0 + 1, high = this.col0 + this.cols - 1
    for (let r = Math.max(1, row0 - this.row0), end = Math.min(this.rows - 1, row0 + rows - this.row0); r < end; r++) {
      const at = base + r + this.row0 - row0
      for (let s = starts[at]; s < starts[at + 1]; s++) {
        const from = Math.max(low, pairs[2 * s]), to = Math.min(high, pairs[2 * s + 1])
        if (from < to) visit(r * this.cols + from - this.col0, to - from)
      }
    }
  }
}
