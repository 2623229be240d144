import type { Mesh } from '../../mesh'
import type { BandedBody } from '../graph/banded-body'
import type { LoneComponent } from '../graph/columns'
import type { LayerGraph } from '../graph/layer-graph'
import { allTriangles, bodyOf, type Body, type Raster } from '../raster/body'
import { spansOfLayers, SpanScratch, type BandSpans, type Frame } from '../raster/spans'
import { oddLayersOf, type OddLayers } from './odd-layers'

const scratch = new SpanScratch()
let serial = 0

/** Why a section does not stand by itself in a layer. */
const BY_SHAPE = 1, BY_MODEL = 2, BY_OTHERS = 4, BY_SPACE = 8

/** What a section is in a layer: it stands by itself; it is entangled with something; it comes within a pixel of the model. */
export const FREE = 1, ENTANGLED = 2, MEETS_MODEL = 4

/**
 * One solid of the supports layer by layer: its pixels, and where it stands by itself. In such layers nothing else is within a pixel of it, in
 * the layer or the ones next to it, so that it changes counts but nothing of what touches what.
 */
export class Section {
  readonly id = ++serial
  readonly mesh: Mesh
  readonly body: Body
  readonly frame: Frame
  /** First layer with a sample of it, and how many. */
  readonly first: number
  readonly layers: number
  readonly pixels: Int32Array
  /** Pixels that a layer shares with the one below. */
  readonly overlap: Int32Array
  /** Box of every layer: first and end pixel, first and end row. */
  readonly boxes: Int32Array
  readonly #sums: Float64Array
  readonly #firsts: Int32Array
  /** Reasons why layer l, or the pair of layers l − 1 and l, is entangled with something. */
  readonly #why: Uint8Array

  constructor(mesh: Mesh, raster: Raster) {
    this.mesh = mesh
    this.body = bodyOf(mesh, raster)
    const low = Math.max(0, this.body.origin[2])
    this.first = low
    this.layers = Math.max(0, this.body.origin[2] + this.body.layers - low)
    this.frame = { row0: this.body.origin[1], rows: this.body.rows, layerCount: this.first + this.layers }
    const n = this.layers
    this.pixels = new Int32Array(n)
    this.overlap = new Int32Array(n)
    this.boxes = new Int32Array(4 * n)
    this.#sums = new Float64Array(2 * n)
    this.#firsts = new Int32Array(2 * n)
    this.#why = new Uint8Array(n + 1)
    if (n === 0) return
    const spans = this.#spans()
    this.#keepRuns(spans)
    const odd: number[] = []
    for (let l = 0; l < n; l++) if (!this.#measureBlob(l)) odd.push(l)
    if (odd.length === 0) return
    this.#odd = oddLayersOf(odd, n, spans, this.frame, low)
    for (const o of this.#odd) this.#measure(o, spans)
    this.#pieceStarts = new Int32Array(n + 1)
    for (let l = 0; l < n; l++) this.#pieceStarts[l + 1] = this.#pieceStarts[l] + (this.#oddAt(l)?.piecesIn(l) ?? 1)
  }

  /** Measures layer l where it is one run a row, each overlapping the one before: one piece that encloses nothing. Gives whether it is. */
  #measureBlob(l: number): boolean {
    const runs = this.#runs, from = this.#runBounds[2 * l], to = this.#runBounds[2 * l + 1]
    if (from === to) return true
    const [pixel0, row0] = this.body.origin
    let pixels = 0, sumX = 0, sumY = 0, left = Infinity, right = -Infinity
    for (let i = from; i < to; i += 3) {
      const row = runs[i], a = runs[i + 1], b = runs[i + 2]
      if (i > from && (row !== runs[i - 3] + 1 || a >= runs[i - 1] || b <= runs[i - 2])) return false
      pixels += b - a
      sumX += ((a + b - 1 + 2 * pixel0) * (b - a)) / 2
      sumY += (row + row0) * (b - a)
      if (a < left) left = a
      if (b > right) right = b
    }
    this.pixels[l] = pixels
    this.#sums[2 * l] = sumX
    this.#sums[2 * l + 1] = sumY
    this.#firsts[2 * l] = runs[from] + row0
    this.#firsts[2 * l + 1] = runs[from + 1] + pixel0
    this.boxes.set([left + pixel0, right + pixel0, runs[from] + row0, runs[to - 3] + 1 + row0], 4 * l)
    if (l > 0) this.overlap[l] = from === this.#runBounds[2 * l - 2] && to === this.#runBounds[2 * l - 1] ? pixels : this.#shared(this.#runBounds[2 * l - 2], this.#runBounds[2 * l - 1], from, to)
    return true
  }

  /** Pixels that the runs [low, lowEnd) and [from, to) of two layers share, both one run a row. */
  #shared(low: number, lowEnd: number, from: number, to: number): number {
    const runs = this.#runs
    let shared = 0
    for (let i = low, j = from; i < lowEnd && j < to;) {
      if (runs[i] < runs[j]) i += 3
      else if (runs[j] < runs[i]) j += 3
      else {
        shared += Math.max(0, Math.min(runs[i + 2], runs[j + 2]) - Math.max(runs[i + 1], runs[j + 1]))
        i += 3
        j += 3
      }
    }
    return shared
  }

  /** Runs of layer k: row, first and end pixel, three numbers a run, relative to the origin of the section. */
  runs(k: number): Int16Array {
    const l = k - this.first
    return this.#runs.subarray(this.#runBounds[2 * l], this.#runBounds[2 * l + 1])
  }
  #runs = new Int16Array(0)
  /** Where the runs of every layer begin and end; layers that are alike have the same. */
  #runBounds = new Int32Array(0)

  /** Spans of all layers, in the section's own rows. */
  #spans(): BandSpans {
    return spansOfLayers(this.body, allTriangles(this.body), this.first, this.layers, this.frame, scratch)
  }

  #keepRuns(spans: BandSpans): void {
    const { rows } = this.frame
    const pixel0 = this.body.origin[0]
    const runs = new Int16Array((spans.pairs.length / 2) * 3), bounds = new Int32Array(2 * this.layers)
    let n = 0
    for (let l = 0; l < this.layers; l++) {
      const from = n
      for (let r = 0; r < rows; r++) {
        for (let s = spans.starts[l * rows + r]; s < spans.starts[l * rows + r + 1]; s++) {
          runs[n++] = r
          runs[n++] = spans.pairs[2 * s] - pixel0
          runs[n++] = spans.pairs[2 * s + 1] - pixel0
        }
      }
      const [a, b] = l > 0 ? [bounds[2 * l - 2], bounds[2 * l - 1]] : [0, 0]
      // most layers of a shaft are as the one below
      if (b - a === n - from && sameNumbers(runs, a, from, n - from)) {
        bounds[2 * l] = a
        bounds[2 * l + 1] = b
        n = from
      } else {
        bounds[2 * l] = from
        bounds[2 * l + 1] = n
      }
    }
    this.#runs = runs.slice(0, n)
    this.#runBounds = bounds
  }

  #measure({ from, to, chunk }: OddLayers, spans: BandSpans): void {
    for (let l = from; l < to; l++) {
      const at = l - from, c = chunk.solidStarts[at], parts = chunk.solidStarts[at + 1] - c, edges = chunk.solidEdgeStarts[at + 1] - chunk.solidEdgeStarts[at]
      if (parts > 1 || chunk.emptyStarts[at + 1] > chunk.emptyStarts[at] || edges > 1) {
        this.#why[l] |= BY_SHAPE
        this.#why[l + 1] |= BY_SHAPE
      }
      if (parts === 0) continue
      this.pixels[l] = chunk.layerPixels[at]
      this.#sums[2 * l] = chunk.solidSumX[c]
      this.#sums[2 * l + 1] = chunk.solidSumY[c]
      this.#firsts[2 * l] = chunk.solidRow[c]
      this.#firsts[2 * l + 1] = chunk.solidPixel[c]
      // what lies below the first one is not known to the chunk
      if (at > 0) this.overlap[l] = edges === 1 ? chunk.solidOverlap[chunk.solidEdgeStarts[at]] : 0
      this.#box(l, spans)
    }
  }

  /** Where a support is of an odd shape; nowhere where every layer is one piece. */
  #odd: readonly OddLayers[] = []
  /** The first piece of every layer, where some layers are odd. */
  #pieceStarts: Int32Array | null = null

  #oddAt(l: number): OddLayers | undefined {
    return this.#odd.find(o => o.has(l))
  }

  /** Pieces of the support, numbered through all layers. */
  get pieces(): number {
    return this.#pieceStarts ? this.#pieceStarts[this.layers] : this.layers
  }

  /** Pieces of layer k: the first, and one past the last. */
  piecesIn(k: number): readonly [number, number] {
    const l = k - this.first
    if (l < 0 || l >= this.layers || this.pixels[l] === 0) return [0, 0]
    return this.#pieceStarts ? [this.#pieceStarts[l], this.#pieceStarts[l + 1]] : [l, l + 1]
  }

  /** Pieces of the layer below that a piece of layer k lies on. */
  below(k: number, piece: number): readonly number[] {
    const l = k - this.first, starts = this.#pieceStarts, odd = this.#oddAt(l)
    if (!starts) return l > 0 && this.overlap[l] > 0 ? [piece - 1] : []
    if (odd && l > odd.from) return odd.below(l, piece - starts[l]).map(p => starts[l - 1] + p)
    return l > 0 && this.overlap[l] > 0 ? [starts[l - 1]] : []
  }

  /** A pixel of every piece of layer k, absolute: row and pixel, two numbers a piece. */
  pixelsOfPieces(k: number): Int32Array {
    const [from, to] = this.piecesIn(k), l = k - this.first, odd = this.#oddAt(l)
    if (!odd) return to > from ? this.#firsts.slice(2 * l, 2 * l + 2) : new Int32Array(0)
    const out = new Int32Array(2 * (to - from))
    for (let i = 0; i < to - from; i++) out.set([odd.chunk.solidRow[odd.componentOf(l, i)], odd.chunk.solidPixel[odd.componentOf(l, i)]], 2 * i)
    return out
  }

  /** The piece that run `i` of layer k, counted in threes as `runs` gives them, belongs to. */
  pieceOfRun(k: number, i: number): number {
    const l = k - this.first, starts = this.#pieceStarts
    return starts ? starts[l] + (this.#oddAt(l)?.pieceOfRun(l, i / 3) ?? 0) : l
  }

  #box(l: number, spans: BandSpans): void {
    const { rows, row0 } = this.frame
    let from = Infinity, to = -Infinity, row = -1, rowEnd = 0
    for (let r = 0; r < rows; r++) {
      const a = spans.starts[l * rows + r], b = spans.starts[l * rows + r + 1]
      if (b <= a) continue
      if (row < 0) row = r
      rowEnd = r + 1
      if (spans.pairs[2 * a] < from) from = spans.pairs[2 * a]
      if (spans.pairs[2 * b - 1] > to) to = spans.pairs[2 * b - 1]
    }
    this.boxes.set([from, to, row + row0, rowEnd + row0], 4 * l)
  }

  /** What the section is in each of its layers: `FREE` or `ENTANGLED`, and `MEETS_MODEL`; 0 where it has no pixel. Stays the same object while nothing changes. */
  get roles(): Uint8Array {
    if (this.#roles) return this.#roles
    const roles = new Uint8Array(this.layers), why = this.#why
    for (let l = 0; l < roles.length; l++) {
      if (this.pixels[l] === 0) continue
      const both = why[l] | why[l + 1]
      // what comes within a pixel of the model, or may do so, is all that the reach has to know of a support
      roles[l] = (both === 0 ? FREE : ENTANGLED) | (both & (BY_MODEL | BY_SHAPE) ? MEETS_MODEL : 0)
    }
    return (this.#roles = roles)
  }
  #roles: Uint8Array | null = null

  /** Stretches of layers that stand by themselves, each going on from layer to layer: first layer and one past the last, in turn. */
  get stretches(): readonly number[] {
    if (this.#stretches.of === this.roles) return this.#stretches.layers
    const roles = this.roles, layers: number[] = []
    for (let l = 0, from = -1; l <= roles.length; l++) {
      const free = (roles[l] & FREE) !== 0
      if (from >= 0 && (!free || this.overlap[l] === 0)) {
        layers.push(this.first + from, this.first + l)
        from = -1
      }
      if (free && from < 0) from = l
    }
    this.#stretches = { of: roles, layers }
    return layers
  }
  #stretches: { readonly of: Uint8Array | null; readonly layers: readonly number[] } = { of: null, layers: [] }

  #mark(l: number, reason: number): void {
    if ((this.#why[l] & reason) === reason) return
    this.#why[l] |= reason
    this.#roles = null
  }

  /** Whether it goes up from the plate without a gap, in one piece a layer. */
  get upright(): boolean {
    if (this.#upright !== undefined) return this.#upright
    let top = this.layers - 1
    while (top > 0 && this.pixels[top] === 0) top--
    let all = this.first === 0 && this.#odd.length === 0 && this.pixels[0] > 0
    for (let l = 1; all && l <= top; l++) all = this.overlap[l] > 0
    return (this.#upright = all)
  }
  #upright: boolean | undefined

  /** Whether layer k, counted from the plate, stands by itself. */
  free(k: number): boolean {
    return ((this.roles[k - this.first] ?? 0) & FREE) !== 0
  }

  /** Whether layer k, counted from the plate, is entangled with something and has to be looked at together with it. */
  entangled(k: number): boolean {
    return ((this.roles[k - this.first] ?? 0) & ENTANGLED) !== 0
  }

  /** Whether layer k comes within a pixel of the model, or may do so. */
  meetsModel(k: number): boolean {
    return ((this.roles[k - this.first] ?? 0) & MEETS_MODEL) !== 0
  }

  /** First pixel of layer k. */
  leftOf(k: number): number {
    return this.boxes[4 * (k - this.first)]
  }

  has(k: number): boolean {
    const l = k - this.first
    return l >= 0 && l < this.layers && this.pixels[l] > 0
  }

  /** The section in layer k as a component by itself. */
  component(k: number): LoneComponent {
    const l = k - this.first
    return { pixels: this.pixels[l], sumX: this.#sums[2 * l], sumY: this.#sums[2 * l + 1], row: this.#firsts[2 * l], pixel: this.#firsts[2 * l + 1] }
  }

  /** Marks where the section comes within a pixel of the model, in a layer or the ones next to it, or stands in an enclosed space of it. */
  meetModel(model: BandedBody, graph: LayerGraph, shutAt: (k: number, row: number, pixel: number) => boolean): void {
    if (this.layers === 0) return
    const layersOfModel = model.frame.layerCount, bounds = this.#runBounds
    let same = false, above = false
    for (let l = 0; l < this.layers; l++) {
      if (this.pixels[l] === 0) continue
      const k = this.first + l
      if (k < layersOfModel && this.#inSpaceOf(l, graph, k) && shutAt(k, this.#firsts[2 * l], this.#firsts[2 * l + 1])) {
        this.#mark(l, BY_SPACE)
        this.#mark(l + 1, BY_SPACE)
      }
      // a pair of layers is marked at its upper one
      const alike = l > 0 && bounds[2 * l] === bounds[2 * l - 2] && bounds[2 * l + 1] === bounds[2 * l - 1], below = alike ? same : k > 0 && k - 1 < layersOfModel && this.#touches(k, model, k - 1)
      // what is as the layer below touches what that one touched
      same = alike ? above : k < layersOfModel && this.#touches(k, model, k)
      above = k + 1 < layersOfModel && this.#touches(k, model, k + 1)
      if (below || same) this.#mark(l, BY_MODEL)
      if (same || above) this.#mark(l + 1, BY_MODEL)
    }
  }

  #inSpaceOf(l: number, graph: LayerGraph, k: number): boolean {
    const [from, to, row, rowEnd] = this.boxes.subarray(4 * l, 4 * l + 4)
    for (let e = graph.emptyStarts[k]; e < graph.emptyStarts[k + 1]; e++) {
      if (graph.emptyFrom[e] <= from && graph.emptyTo[e] >= to && graph.emptyRow[e] <= row && graph.emptyRowEnd[e] >= rowEnd) return true
    }
    return false
  }

  /** Whether the section in layer k, by its box, lies within a box; marks it as entangled if so. Gives whether that is new. */
  enclosedBy(k: number, from: number, to: number, row: number, rowEnd: number): boolean {
    const l = k - this.first
    if (this.#why[l] & BY_SPACE) return false
    const b = this.boxes
    if (from > b[4 * l] || to < b[4 * l + 1] || row > b[4 * l + 2] || rowEnd < b[4 * l + 3]) return false
    this.#mark(l, BY_SPACE)
    this.#mark(l + 1, BY_SPACE)
    return true
  }

  /** Whether the section in layer k, grown by a pixel to all sides, has a pixel of layer m of the model. */
  #touches(k: number, model: BandedBody, m: number): boolean {
    const { spans, at } = model.layer(m)
    const { rows, row0 } = model.frame
    const runs = this.runs(k), base = at * rows, pixel0 = this.body.origin[0], shift = this.frame.row0 - row0
    for (let i = 0; i < runs.length; i += 3) {
      const from = runs[i + 1] + pixel0 - 1, to = runs[i + 2] + pixel0 + 1
      for (let row = Math.max(0, runs[i] + shift - 1); row <= Math.min(rows - 1, runs[i] + shift + 1); row++) {
        for (let s = spans.starts[base + row]; s < spans.starts[base + row + 1]; s++) {
          if (spans.pairs[2 * s] >= to) break
          if (spans.pairs[2 * s + 1] > from) return true
        }
      }
    }
    return false
  }

  forgetOthers(): void {
    for (let i = 0; i < this.#why.length; i++) this.#why[i] &= ~BY_OTHERS
    this.#roles = null
  }

  /** Whether the boxes of two sections over all layers come within a pixel. */
  near(other: Section): boolean {
    return this.extent[0] <= other.extent[1] + 1 && other.extent[0] <= this.extent[1] + 1 && this.extent[2] <= other.extent[3] + 1 && other.extent[2] <= this.extent[3] + 1
      && this.first <= other.first + other.layers + 1 && other.first <= this.first + this.layers + 1
  }

  /** Box over all layers: first and end pixel, first and end row. */
  get extent(): readonly [number, number, number, number] {
    if (this.#extent) return this.#extent
    const e: [number, number, number, number] = [Infinity, -Infinity, Infinity, -Infinity]
    for (let l = 0; l < this.layers; l++) {
      if (this.pixels[l] === 0) continue
      for (const i of [0, 2]) {
        e[i] = Math.min(e[i], this.boxes[4 * l + i])
        e[i + 1] = Math.max(e[i + 1], this.boxes[4 * l + i + 1])
      }
    }
    return (this.#extent = e)
  }
  #extent: [number, number, number, number] | undefined

  /** Marks in both the layers where two sections come within a pixel of each other, in a layer or the ones next to it. */
  meet(other: Section): void {
    const from = Math.max(this.first, other.first) - 1, to = Math.min(this.first + this.layers, other.first + other.layers)
    for (let k = from; k <= to; k++) {
      // the pair of layers k − 1 and k, marked at k
      if (!pairTouches(this, other, k)) continue
      for (const s of [this, other]) if (k - s.first >= 0 && k - s.first <= s.layers) s.#mark(k - s.first, BY_OTHERS)
    }
  }
}

function sameNumbers(list: Int16Array, a: number, b: number, length: number): boolean {
  for (let i = 0; i < length; i++) if (list[a + i] !== list[b + i]) return false
  return true
}

/** Whether layer i of one section, grown by a pixel to all sides, meets layer j of another. */
function runsTouch(a: Section, i: number, b: Section, j: number): boolean {
  const p = a.runs(i), q = b.runs(j)
  const dx = b.body.origin[0] - a.body.origin[0], dy = b.body.origin[1] - a.body.origin[1]
  let first = 0
  for (let n = 0; n < p.length; n += 3) {
    // runs come row by row
    while (first < q.length && q[first] + dy < p[n] - 1) first += 3
    for (let m = first; m < q.length && q[m] + dy <= p[n] + 1; m += 3) if (q[m + 1] + dx <= p[n + 2] && q[m + 2] + dx >= p[n + 1]) return true
  }
  return false
}

function pairTouches(a: Section, b: Section, k: number): boolean {
  for (const i of [k - 1, k]) {
    if (!a.has(i)) continue
    for (const j of [k - 1, k]) {
      if (!b.has(j)) continue
      const p = 4 * (i - a.first), q = 4 * (j - b.first)
      if (a.boxes[p] <= b.boxes[q + 1] + 1 && b.boxes[q] <= a.boxes[p + 1] + 1 && a.boxes[p + 2] <= b.boxes[q + 3] + 1 && b.boxes[q + 2] <= a.boxes[p + 3] + 1 && runsTouch(a, i, b, j)) return true
    }
  }
  return false
}
