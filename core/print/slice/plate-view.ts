import type { GreyRuns } from '../png/grey-runs'
import { readPng } from '../png/read-png'
import { writePng } from '../png/write-png'

/** Layers that are looked at, and the widest that the picture gets, in pixels. */
const LAYERS = 128, WIDEST = 640
/** The shade of the plate itself where something stands on it; the top is white. */
const LOWEST = 70

/** The print seen from above, put together of its layers as they are made: the higher, the brighter. */
export class PlateView {
  readonly #every: number
  readonly #layerCount: number
  readonly #step: number
  readonly #width: number
  readonly #height: number
  readonly #shades: Uint8Array

  constructor(layerCount: number, pixelsX: number, pixelsY: number) {
    this.#layerCount = Math.max(1, layerCount)
    this.#every = Math.max(1, Math.ceil(layerCount / LAYERS))
    this.#step = Math.ceil(pixelsX / WIDEST)
    this.#width = Math.floor(pixelsX / this.#step)
    this.#height = Math.floor(pixelsY / this.#step)
    this.#shades = new Uint8Array(this.#width * this.#height)
  }

  /** Whether the picture asks for a layer. */
  wants(layer: number): boolean {
    return layer % this.#every === 0 || layer === this.#layerCount - 1
  }

  add(layer: number, png: Uint8Array): void {
    if (!this.wants(layer)) return
    const { starts, pairs } = readPng(png), step = this.#step, shade = Math.round(LOWEST + ((255 - LOWEST) * (layer + 1)) / this.#layerCount)
    for (let y = 0; y < this.#height; y++) {
      const row = y * step + (step >> 1)
      for (let i = starts[row]; i < starts[row + 1]; i++) {
        const from = Math.ceil((pairs[2 * i] - (step >> 1)) / step), to = Math.min(this.#width, Math.ceil((pairs[2 * i + 1] - (step >> 1)) / step))
        if (to > from) this.#shades.fill(shade, y * this.#width + from, y * this.#width + to)
      }
    }
  }

  png(): Uint8Array {
    const starts = new Int32Array(this.#height + 1), pairs: number[] = [], shades: number[] = []
    for (let y = 0; y < this.#height; y++) {
      for (let x = 0, from = 0; x <= this.#width; x++) {
        const before = x > 0 ? this.#shades[y * this.#width + x - 1] : 0, now = x < this.#width ? this.#shades[y * this.#width + x] : -1
        if (x === 0 || now === before) continue
        if (before > 0) {
          pairs.push(from, x)
          shades.push(before)
        }
        from = x
      }
      starts[y + 1] = shades.length
    }
    const runs: GreyRuns = { width: this.#width, height: this.#height, starts, pairs: Int32Array.from(pairs), shades: Uint8Array.from(shades) }
    return writePng(runs)
  }
}
