import type { BandSpans, Frame, MadeLayers } from '../../scan'
import type { GreyRuns } from '../png/grey-runs'
import { readPng } from '../png/read-png'
import { PackageError } from '../package/package-error'
import type { OpenPackage } from '../package/read-package'

/** A pixel is solid from this shade on: half of it is lit. */
const SOLID_FROM = 128

/** The pictures of a package as layers that can be scanned: rows from the front of the plate to its back, pixels from its middle. */
export class PictureLayers implements MadeLayers {
  readonly frame: Frame
  readonly pixel0: number
  readonly firstLayer: number
  readonly columns: number
  /** What is lit of every layer, in pixels, shades by their share; and solid pixels that lie on an edge of the picture. */
  readonly litPixels: Float64Array
  readonly edgePixels: Int32Array
  /** Of all pixels of a layer that are solid, how many are so in the one below and in the one below that. */
  readonly overBelow: Float64Array
  readonly overNext: Float64Array
  readonly solidPixels: Float64Array
  readonly #found: OpenPackage
  readonly #middleX: number
  readonly #middleY: number

  private constructor(found: OpenPackage, facts: Pick<PictureLayers, 'frame' | 'pixel0' | 'firstLayer' | 'columns' | 'litPixels' | 'edgePixels' | 'overBelow' | 'overNext' | 'solidPixels'>) {
    this.#found = found
    const { pixelsX, pixelsY } = found.manifest.printer
    this.#middleX = Math.floor(pixelsX / 2)
    this.#middleY = Math.floor(pixelsY / 2)
    this.frame = facts.frame
    this.pixel0 = facts.pixel0
    this.firstLayer = facts.firstLayer
    this.columns = facts.columns
    this.litPixels = facts.litPixels
    this.edgePixels = facts.edgePixels
    this.overBelow = facts.overBelow
    this.overNext = facts.overNext
    this.solidPixels = facts.solidPixels
  }

  /** Looks through all pictures once; yields how many are done. @throws PackageError `picture` or `altered` */
  static *of(found: OpenPackage): Generator<number, PictureLayers, void> {
    const { manifest } = found, count = manifest.layers.length, { pixelsX: width, pixelsY: height } = manifest.printer
    const litPixels = new Float64Array(count), edgePixels = new Int32Array(count), overBelow = new Float64Array(count), overNext = new Float64Array(count), solidPixels = new Float64Array(count)
    let low = height, high = -1, left = width, right = 0, firstLayer = -1
    const last: SolidRows[] = []
    for (let k = 0; k < count; k++) {
      const picture = pictureOf(found, k), rows = solidRows(picture)
      for (let r = 0; r < height; r++) {
        const from = rows.starts[r], to = rows.starts[r + 1]
        for (let i = picture.starts[r]; i < picture.starts[r + 1]; i++) litPixels[k] += ((picture.pairs[2 * i + 1] - picture.pairs[2 * i]) * (picture.shades?.[i] ?? 255)) / 255
        if (from === to) continue
        low = Math.min(low, r)
        high = Math.max(high, r)
        left = Math.min(left, rows.pairs[2 * from])
        right = Math.max(right, rows.pairs[2 * to - 1])
        if (rows.pairs[2 * from] === 0) edgePixels[k]++
        if (rows.pairs[2 * to - 1] === width) edgePixels[k]++
        for (let s = from; s < to; s++) {
          solidPixels[k] += rows.pairs[2 * s + 1] - rows.pairs[2 * s]
          if (r === 0 || r === height - 1) edgePixels[k] += rows.pairs[2 * s + 1] - rows.pairs[2 * s]
        }
      }
      if (solidPixels[k] > 0 && firstLayer < 0) firstLayer = k
      if (k > 0) overBelow[k] = shared(rows, last[0])
      if (k > 1) overNext[k] = shared(rows, last[1])
      last.unshift(rows)
      last.length = Math.min(2, last.length)
      yield k + 1
    }
    const middleX = Math.floor(width / 2), middleY = Math.floor(height / 2)
    // pictures go from the back to the front
    const frame: Frame = high < 0 ? { row0: 0, rows: 0, layerCount: 0 } : { row0: height - 1 - high - middleY, rows: high - low + 1, layerCount: count }
    return new PictureLayers(found, { frame, pixel0: left - middleX, firstLayer: Math.max(0, firstLayer), columns: Math.max(0, right - left), litPixels, edgePixels, overBelow, overNext, solidPixels })
  }

  spans(firstLayer: number, layers: number): BandSpans {
    const { row0, rows } = this.frame, { pixelsY } = this.#found.manifest.printer, starts = new Int32Array(layers * rows + 1), parts: Int32Array[] = []
    let n = 0
    for (let l = 0; l < layers; l++) {
      const solid = solidRows(pictureOf(this.#found, firstLayer + l)), own: number[] = []
      for (let r = 0; r < rows; r++) {
        const y = pixelsY - 1 - (row0 + r + this.#middleY)
        for (let s = solid.starts[y]; s < solid.starts[y + 1]; s++) own.push(solid.pairs[2 * s] - this.#middleX, solid.pairs[2 * s + 1] - this.#middleX)
        starts[l * rows + r + 1] = n + own.length / 2
      }
      n += own.length / 2
      parts.push(Int32Array.from(own))
    }
    const pairs = new Int32Array(2 * n)
    let at = 0
    for (const p of parts) {
      pairs.set(p, at)
      at += p.length
    }
    return { firstLayer, layers, starts, pairs, unclosedRows: new Int32Array(layers) }
  }
}

/** Solid stretches by row, as in spans. */
interface SolidRows {
  readonly starts: Int32Array
  readonly pairs: Int32Array
}

/** A picture of as many pixels as the printer has. @throws PackageError `picture` or `altered` */
function pictureOf({ manifest: { printer: { pixelsX, pixelsY } }, layer }: OpenPackage, k: number): GreyRuns {
  let picture: GreyRuns
  try {
    picture = readPng(layer(k))
  } catch (error) {
    if (error instanceof PackageError) throw error
    throw new PackageError('picture', `The picture of layer ${k + 1} cannot be shown: ${(error as Error).message}`)
  }
  if (picture.width !== pixelsX || picture.height !== pixelsY) throw new PackageError('picture', `The picture of layer ${k + 1} has ${picture.width} × ${picture.height} pixels; the printer shows ${pixelsX} × ${pixelsY}.`)
  return picture
}

function solidRows({ height, starts, pairs, shades }: GreyRuns): SolidRows {
  const own = new Int32Array(height + 1), out = new Int32Array(pairs.length)
  let n = 0
  for (let r = 0; r < height; r++) {
    const rowFirst = n
    for (let i = starts[r]; i < starts[r + 1]; i++) {
      if (shades && shades[i] < SOLID_FROM) continue
      if (n > rowFirst && out[n - 1] === pairs[2 * i]) out[n - 1] = pairs[2 * i + 1]
      else {
        out[n++] = pairs[2 * i]
        out[n++] = pairs[2 * i + 1]
      }
    }
    own[r + 1] = n >> 1
  }
  return { starts: own, pairs: out.slice(0, n) }
}

/** Pixels that two layers share. */
function shared(a: SolidRows, b: SolidRows): number {
  let pixels = 0
  for (let r = 0; r + 1 < a.starts.length; r++) {
    for (let i = a.starts[r], j = b.starts[r]; i < a.starts[r + 1] && j < b.starts[r + 1];) {
      const from = Math.max(a.pairs[2 * i], b.pairs[2 * j]), endA = a.pairs[2 * i + 1], endB = b.pairs[2 * j + 1], to = Math.min(endA, endB)
      if (to > from) pixels += to - from
      if (endA <= endB) i++
      else j++
    }
  }
  return pixels
}
