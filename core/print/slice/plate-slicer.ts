import { pixelMmOf, SMOOTHINGS } from '../../contract'
import { Int32List, mergedRuns, type BandSpans } from '../../scan'
import type { GreyRuns } from '../png/grey-runs'
import { writePng } from '../png/write-png'
import { Coverage } from './coverage'
import { growthOf, type PlateToSlice } from './plate-to-slice'
import { Posture, type PostureSpans } from './posture'

/** A layer as the printer shows it. */
export interface SlicedLayer {
  readonly png: Uint8Array
  /** What is lit, in whole pixels: shades count by their share. */
  readonly pixels: number
  /** What of that is parts, and what rafts; the rest is stilts. */
  readonly partPixels: number
  readonly raftPixels: number
  /** What lies outside the picture, and is not lit. */
  readonly cutPixels: number
}

/** Layers that are made at once. */
export const SLICED_AT_ONCE = 16

/**
 * The layers of a plate as pictures, in bands, each of which can be made by itself and anywhere: from the spans that the scan is made of, of
 * parts and all that stands under them, moved to where each copy stands. Pictures are seen from above, the back of the plate at the top.
 */
export class PlateSlicer {
  readonly layerCount: number
  readonly #postures: Posture[] = []
  readonly #copies: { readonly posture: number; readonly x: number; readonly y: number }[] = []
  readonly #width: number
  readonly #height: number
  readonly #across: number
  readonly #layers: number
  readonly #coverage: Coverage | null
  /** Rows of the picture that anything may lie in. */
  readonly #rowsFrom: number
  readonly #rowsTo: number

  /** @throws MeshError `too-big-to-scan` */
  constructor(plate: PlateToSlice) {
    const { printer, printing, layerMm } = plate, { across, layers } = SMOOTHINGS[printing.smoothing], pixelMm = pixelMmOf(printer), growth = growthOf(plate)
    this.#width = printer.pixelsX
    this.#height = printer.pixelsY
    this.#across = across
    this.#layers = layers
    this.#coverage = across * layers > 1 ? new Coverage(this.#width, this.#height, across, layers) : null
    const known = new Map<string, number>(), raster = { pixelMm: pixelMm / across, layerMm: layerMm / layers }
    const middleX = Math.floor(this.#width / 2), middleY = Math.floor(this.#height / 2)
    let from = this.#height, to = 0
    for (const copy of plate.copies) {
      const part = plate.parts.find(p => p.id === copy.part), key = `${copy.part} ${copy.turnDeg}`
      if (!part) continue
      let posture = known.get(key)
      if (posture === undefined) {
        known.set(key, (posture = this.#postures.length))
        this.#postures.push(new Posture(part, copy.turnDeg, growth, raster, SLICED_AT_ONCE * layers))
      }
      // a copy stays on whole pixels however much it grows, so that all copies of a part have the same
      const x = Math.round(copy.xPixels * growth[0]) + middleX, y = Math.round(copy.yPixels * growth[1]) + middleY, { row0, rows } = this.#postures[posture].frame
      this.#copies.push({ posture, x, y })
      from = Math.min(from, this.#height - Math.ceil((row0 + rows) / across) - y)
      to = Math.max(to, this.#height - Math.floor(row0 / across) - y)
    }
    this.#rowsFrom = Math.max(0, Math.min(from, this.#height))
    this.#rowsTo = Math.max(this.#rowsFrom, Math.min(this.#height, to))
    this.layerCount = this.#postures.reduce((most, p) => Math.max(most, Math.ceil(p.frame.layerCount / layers)), 0)
  }

  get bands(): number {
    return Math.ceil(this.layerCount / SLICED_AT_ONCE)
  }

  /** The layers of a band, from the plate up. */
  *band(band: number): Generator<SlicedLayer, void, void> {
    const first = band * SLICED_AT_ONCE, count = Math.min(SLICED_AT_ONCE, this.layerCount - first), across = this.#across, share = across * across * this.#layers
    const postures = this.#postures.map(p => p.band(band)), { spans, cut } = this.#onPlate(postures)
    const fineRows = (this.#rowsTo - this.#rowsFrom) * across
    for (let l = 0; l < count; l++) {
      const fine = l * this.#layers, sum = (of: (p: PostureSpans) => Float64Array): number => {
        let pixels = 0
        for (const c of this.#copies) for (let k = fine; k < fine + this.#layers; k++) pixels += of(postures[c.posture])[k]
        return pixels / share
      }
      let lit = 0, cutPixels = 0
      for (let k = fine; k < fine + this.#layers; k++) {
        for (let s = spans.starts[k * fineRows]; s < spans.starts[(k + 1) * fineRows]; s++) lit += spans.pairs[2 * s + 1] - spans.pairs[2 * s]
        cutPixels += cut[k] / share
      }
      yield { png: writePng(this.#coverage ? this.#coverage.picture(spans, fine, fineRows, this.#rowsFrom) : this.#plain(spans, l)), pixels: lit / share, partPixels: sum(p => p.partPixels), raftPixels: sum(p => p.raftPixels), cutPixels }
    }
  }

  /** All copies in the rows of the picture, from the top down; and how much of each layer lies outside. */
  #onPlate(postures: readonly PostureSpans[]): { spans: BandSpans; cut: Float64Array } {
    const across = this.#across, width = this.#width * across, fineFrom = this.#rowsFrom * across, fineRows = (this.#rowsTo - this.#rowsFrom) * across, layers = SLICED_AT_ONCE * this.#layers, cut = new Float64Array(layers)
    runs.length = 0
    for (const { posture, x, y } of this.#copies) {
      const { all: { starts, pairs } } = postures[posture], { row0, rows } = this.#postures[posture].frame, shift = x * across
      // a row further back is a row further up
      const top = this.#height * across - 1 - (row0 + y * across) - fineFrom
      runs.reserve(runs.length + 3 * (pairs.length >> 1))
      const { data } = runs
      let n = runs.length
      for (let l = 0; l < layers; l++) {
        for (let r = rows - 1; r >= 0; r--) {
          const at = l * rows + r, row = top - r
          for (let s = starts[at]; s < starts[at + 1]; s++) {
            const a = pairs[2 * s] + shift, e = pairs[2 * s + 1] + shift
            if (a >= 0 && e <= width && row >= 0 && row < fineRows) {
              data[n++] = l * fineRows + row
              data[n++] = a
              data[n++] = e
              continue
            }
            const inA = Math.max(0, a), inE = Math.min(width, e)
            if (row < 0 || row >= fineRows || inE <= inA) cut[l] += e - a
            else {
              cut[l] += e - a - (inE - inA)
              data[n++] = l * fineRows + row
              data[n++] = inA
              data[n++] = inE
            }
          }
        }
      }
      runs.length = n
    }
    return { spans: mergedRuns(runs.data.subarray(0, runs.length), 0, layers, fineRows), cut }
  }

  /** A layer of whole pixels. */
  #plain({ starts, pairs }: BandSpans, layer: number): GreyRuns {
    const rows = this.#rowsTo - this.#rowsFrom, first = starts[layer * rows], own = new Int32Array(this.#height + 1)
    for (let r = 0; r < rows; r++) own[this.#rowsFrom + r + 1] = starts[layer * rows + r + 1] - first
    own.fill(starts[(layer + 1) * rows] - first, this.#rowsTo + 1)
    return { width: this.#width, height: this.#height, starts: own, pairs: pairs.subarray(2 * first, 2 * starts[(layer + 1) * rows]), shades: null }
  }
}

const runs = new Int32List(1 << 14)
