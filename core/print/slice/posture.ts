import type { Vec3 } from '../../mesh'
import { after, plateOf, type RigidMotion } from '../../pose'
import { allTriangles, BandIndex, bodyOf, frameOf, Int32List, mergedRuns, orSpans, spansOfLayers, SpanScratch, type BandSpans, type Body, type Frame, type Raster } from '../../scan'
import type { PartToSlice } from './plate-to-slice'

/** Spans of some layers of a part as it stands: all of it, and how many pixels of each layer are the part, and then its raft. */
export interface PostureSpans {
  readonly all: BandSpans
  readonly partPixels: Float64Array
  readonly raftPixels: Float64Array
}

const scratch = new SpanScratch(), runs = new Int32List(1 << 12)

/** A part with its stilts, turned and grown as it is printed, on a raster: every copy that is turned alike has the same layers. */
export class Posture {
  readonly frame: Frame
  readonly #model: Body
  readonly #index: BandIndex
  readonly #stilts: readonly Body[]
  readonly #raft: Body | null

  /** @param bandLayers layers that are asked for at once @throws MeshError `too-big-to-scan` */
  constructor(part: PartToSlice, turnDeg: number, growth: Vec3, raster: Raster, bandLayers: number) {
    const [gx, gy, gz] = growth, r = plateOf({ xMm: 0, yMm: 0, turnDeg })
    const placed: RigidMotion<'stand', 'plate'> = gx === 1 && gy === 1 && gz === 1 ? r : [gx * r[0], gx * r[1], 0, 0, gy * r[4], gy * r[5], 0, 0, 0, 0, gz, 0]
    this.#model = bodyOf(part.mesh, raster, after(placed, part.stand))
    this.#stilts = part.stilts.map(mesh => bodyOf(mesh, raster, placed))
    this.#raft = part.raft && bodyOf(part.raft, raster, placed)
    this.frame = frameOf([this.#model, ...this.#stilts, ...(this.#raft ? [this.#raft] : [])])
    this.#index = new BandIndex(this.#model, bandLayers, Math.max(1, this.frame.layerCount))
  }

  /** Layers of band `band`, those beyond the top among them, empty. */
  band(band: number): PostureSpans {
    const { bandLayers, bands } = this.#index, { frame } = this, first = band * bandLayers
    const whole: Frame = { ...frame, layerCount: first + bandLayers }
    const model = spansOfLayers(this.#model, band < bands ? this.#index.listOf(band) : NONE, first, bandLayers, whole, scratch)
    const partPixels = pixelsOf(model, frame.rows), raft = this.#raft && this.#together([this.#raft], first, bandLayers), withRaft = raft ? orSpans(model, raft) : model
    const raftPixels = withRaft === model ? new Float64Array(bandLayers) : pixelsOf(withRaft, frame.rows).map((p, l) => p - partPixels[l])
    const stilts = this.#together(this.#stilts, first, bandLayers)
    return { all: stilts ? orSpans(withRaft, stilts) : withRaft, partPixels, raftPixels }
  }

  /** Spans of several solids in the rows of all; null where none reaches these layers. */
  #together(bodies: readonly Body[], first: number, layers: number): BandSpans | null {
    runs.length = 0
    for (const body of bodies) {
      const [, row0, layer0] = body.origin
      if (layer0 >= first + layers || layer0 + body.layers <= first) continue
      const own: Frame = { row0, rows: body.rows, layerCount: first + layers }, { starts, pairs } = spansOfLayers(body, allTriangles(body), first, layers, own, scratch), shift = row0 - this.frame.row0
      runs.reserve(runs.length + 3 * (pairs.length >> 1))
      const { data } = runs
      let n = runs.length
      for (let l = 0; l < layers; l++) {
        for (let r = 0; r < own.rows; r++) {
          const at = l * own.rows + r, row = l * this.frame.rows + r + shift
          for (let s = starts[at]; s < starts[at + 1]; s++) {
            data[n++] = row
            data[n++] = pairs[2 * s]
            data[n++] = pairs[2 * s + 1]
          }
        }
      }
      runs.length = n
    }
    return runs.length > 0 ? mergedRuns(runs.data.subarray(0, runs.length), first, layers, this.frame.rows) : null
  }
}

const NONE = new Uint32Array(0)

function pixelsOf({ starts, pairs, layers }: BandSpans, rows: number): Float64Array {
  return Float64Array.from({ length: layers }, (_, l) => {
    let pixels = 0
    for (let s = starts[l * rows]; s < starts[(l + 1) * rows]; s++) pixels += pairs[2 * s + 1] - pairs[2 * s]
    return pixels
  })
}
