import { Int32List } from './growable'
import type { Raster } from './body'
import type { ScanSettings } from './settings'
import type { BandSpans, Frame } from './spans'

/** Distances are whole 256ths of a pixel, so that a shift by layers changes no bit of them. */
const UNIT = 256
const DIAGONAL = Math.round(Math.SQRT2 * UNIT)
const EMPTY = 0x7fffffff
const UNSET = 0x7ffffffe
/** An old pixel is reached again only where that brings half a pixel: less is the noise of the raster. */
const SLACK = UNIT / 2
/** A label names a piece by its layer and its number there. */
const PER_LAYER = 65536

/** Over-reach that was laid in one layer, connected within it. */
export interface ReachPiece {
  /** Pixels over reach, and those of them that lie in a span held on opposite sides. */
  readonly pixels: number
  readonly bridged: number
  /** Farthest from what holds it, in pixels; where. */
  readonly reach: number
  readonly row: number
  readonly pixel: number
  /** First row and first pixel there. */
  readonly firstRow: number
  readonly firstPixel: number
  readonly sumX: number
  readonly sumY: number
  /** Width of the narrowest place where fronts from opposite sides meet, in pixels; 0 where none do. */
  readonly span: number
  /** Labels of pieces of earlier layers that it grew out of. */
  readonly from: readonly number[]
}

/** What one layer adds. */
export interface LayerReach {
  readonly pieces: readonly ReachPiece[]
  /** Runs of pixels over reach: row, first and end pixel, number of the piece. */
  readonly runs: Int32Array
  /** Pixels of earlier pieces found to be bridged now: label, pixels. */
  readonly closed: readonly (readonly [number, number])[]
}

/** Names a piece through all layers. */
export function labelOf(layer: number, piece: number): number {
  return layer * PER_LAYER + Math.min(piece, PER_LAYER - 1)
}
export function layerOfLabel(label: number): number {
  return Math.floor(label / PER_LAYER)
}
export function pieceOfLabel(label: number): number {
  return label % PER_LAYER
}

/** Pixels of one layer that may still turn out to be bridged. */
interface Pending {
  readonly layer: number
  readonly step: number
  /** Layer in which the last of them counts as healed. */
  readonly until: number
  readonly pixels: Int32Array
  readonly labels: Int32Array
  /** Way from what held the pixel when it was laid, in pixels, and its distance from there. */
  readonly wayX: Int32Array
  readonly wayY: Int32Array
  readonly distance: Int32Array
}

/** All that later layers depend on, sparse: everything else is solid and held. */
export interface ReachState {
  readonly layer: number
  readonly pixels: Int32Array
  readonly values: Int32Array
  readonly labels: Int32Array
  readonly tips: Uint8Array
  readonly pending: ReadonlyMap<number, readonly Pending[]>
}

/**
 * How far every pixel is from held material, layer by layer: D_k(x) = min over y, solid in this layer and the one below, of
 * max(0, D_{k−1}(y) − g) plus the distance from y to x within the layer, where g = layer height · cot(slope limit).
 * E = D + g·k stays what it was while a pixel stays solid, so only new pixels are worked on: waves run out from the old pixels
 * beside them and carry the point that they started from, which makes distances exact where the way is straight.
 * A tip holds farther than a flap may reach: distances from supports start at the difference of the two below zero.
 */
export class ReachField {
  readonly #cols: number
  readonly #rows: number
  readonly #col0: number
  readonly #row0: number
  readonly #perLayer: number
  readonly #limit: number
  readonly #tipBonus: number
  readonly #spanLimit: number
  readonly #value: Int32Array
  readonly #label: Int32Array
  readonly #source: Int32Array
  readonly #touched: Int32Array
  readonly #support: Uint8Array
  readonly #tip: Uint8Array
  #supportPixels = new Int32List()
  #pending = new Map<number, Pending[]>()
  #layer = -1
  #drift = 0
  readonly #heads = new Int32Array(1 << 14).fill(-1)
  readonly #nodePixel = new Int32List(1 << 14)
  readonly #nodeValue = new Int32List(1 << 14)
  readonly #nodeNext = new Int32List(1 << 14)
  readonly #fresh = new Int32List(1 << 12)
  #starts: Int32Array = new Int32Array(0)
  #pairs: Int32Array = new Int32Array(0)
  #base = 0

  /** @param frame rows of the spans that will be given; @param box the model's first row, rows, first pixel and pixels: nothing beyond matters */
  constructor(readonly frame: Frame, box: { row0: number; rows: number; col0: number; cols: number }, raster: Raster, settings: ScanSettings) {
    // an empty border all around saves tests of the edge
    this.#cols = box.cols + 2
    this.#rows = box.rows + 2
    this.#col0 = box.col0 - 1
    this.#row0 = box.row0 - 1
    const toUnits = UNIT / raster.pixelMm
    this.#perLayer = Math.round((raster.layerMm / Math.tan((settings.slopeDeg * Math.PI) / 180)) * toUnits)
    this.#limit = Math.round(settings.flapMm * toUnits)
    this.#tipBonus = Math.max(0, Math.round((settings.tipHoldMm - settings.flapMm) * toUnits))
    this.#spanLimit = Math.round(settings.spanMm * toUnits)
    const n = this.#cols * this.#rows
    this.#value = new Int32Array(n).fill(EMPTY)
    this.#label = new Int32Array(n).fill(-1)
    this.#source = new Int32Array(n)
    this.#touched = new Int32Array(n).fill(-1)
    this.#support = new Uint8Array(n)
    this.#tip = new Uint8Array(n)
  }

  /** The layer that was advanced to last. */
  get layer(): number {
    return this.#layer
  }

  /** Value of a pixel in this layer where it was laid: its distance from held material; supports and their surroundings go below zero. */
  #now(p: number): number {
    const d = this.#value[p] - this.#drift
    if (this.#touched[p] === this.#layer) return d
    return this.#support[p] ? -this.#tipBonus : d > 0 ? d : 0
  }

  /**
   * Lays the next layer.
   * @param spans a band that holds it, its place there
   * @param supports runs of the supports that touch something in it, in the same rows; null for none
   */
  advance(layer: number, spans: BandSpans, at: number, supports: BandSpans | null, supportsAt: number): LayerReach {
    this.#layer = layer
    this.#drift = this.#perLayer * layer
    const base = at * this.frame.rows
    this.#fresh.length = 0
    this.#markSupports(supports, supportsAt)
    this.#exchange(spans.starts, spans.pairs, base)
    this.#starts = spans.starts
    this.#pairs = spans.pairs
    this.#base = base
    // the first layer lies on the plate
    if (layer > 0) {
      this.#seed()
      this.#spread()
    }
    this.#begin()
    return this.#collect(layer)
  }

  #markSupports(supports: BandSpans | null, at: number): void {
    const marked = this.#supportPixels
    for (let i = 0; i < marked.length; i++) this.#support[marked.data[i]] = 0
    marked.length = 0
    if (!supports) return
    this.#eachRun(supports.starts, supports.pairs, at * this.frame.rows, (p, n) => {
      for (let i = p; i < p + n; i++) {
        this.#support[i] = 1
        marked.push(i)
      }
    })
  }

  /** Runs of a layer, clipped to the field: first pixel and length. */
  #eachRun(starts: Int32Array, pairs: Int32Array, base: number, visit: (p: number, n: number) => void): void {
    const shift = this.#row0 + 1 - this.frame.row0
    const low = this.#col0 + 1, high = this.#col0 + this.#cols - 1
    for (let r = 1; r < this.#rows - 1; r++) {
      const at = base + r - 1 + shift
      for (let s = starts[at]; s < starts[at + 1]; s++) {
        const from = Math.max(low, pairs[2 * s]), to = Math.min(high, pairs[2 * s + 1])
        if (from < to) visit(r * this.#cols + from - this.#col0, to - from)
      }
    }
  }

  /** Empties what ends below this layer and lists what is new in it. */
  #exchange(starts: Int32Array, pairs: Int32Array, base: number): void {
    const shift = this.#row0 + 1 - this.frame.row0
    const old = this.#starts, oldPairs = this.#pairs, oldBase = this.#base
    const any = old.length > 0
    const low = this.#col0 + 1, high = this.#col0 + this.#cols - 1
    for (let r = 1; r < this.#rows - 1; r++) {
      let i = starts[base + r - 1 + shift], j = any ? old[oldBase + r - 1 + shift] : 0
      const iEnd = starts[base + r + shift], jEnd = any ? old[oldBase + r + shift] : 0
      if (i === iEnd && j === jEnd) continue
      const rowBase = r * this.#cols - this.#col0
      // walk both rows at once: what only the upper has is new, what only the lower has is gone
      let x = low, inNew = false, inOld = false
      while (x < high) {
        const nextNew = inNew ? pairs[2 * i + 1] : i < iEnd ? pairs[2 * i] : EMPTY
        const nextOld = inOld ? oldPairs[2 * j + 1] : j < jEnd ? oldPairs[2 * j] : EMPTY
        const next = Math.min(nextNew, nextOld, high)
        if (next > x) {
          if (inNew && !inOld) {
            for (let c = x; c < next; c++) {
              this.#value[rowBase + c] = UNSET
              this.#fresh.push(rowBase + c)
            }
          } else if (inOld && !inNew) this.#value.fill(EMPTY, rowBase + x, rowBase + next)
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

  /** Gives every new pixel beside an old one its distance from there, and sends waves out from those that may have something to pass on. */
  #seed(): void {
    const value = this.#value, touched = this.#touched, support = this.#support, tip = this.#tip
    const cols = this.#cols, fresh = this.#fresh.data, count = this.#fresh.length, layer = this.#layer, drift = this.#drift
    const steps = [1, -1, cols, -cols, cols + 1, 1 - cols, cols - 1, -cols - 1]
    for (let f = 0; f < count; f++) {
      const p = fresh[f]
      if (support[p]) {
        // a support counts as held wherever it comes from; whether it stands is judged elsewhere
        value[p] = drift - this.#tipBonus
        touched[p] = layer
        tip[p] = 1
        this.#source[p] = p
        continue
      }
      let best = UNSET, from = -1
      for (let n = 0; n < 8; n++) {
        const q = p + steps[n], v = value[q]
        if (v >= UNSET || (touched[q] === layer && !support[q])) continue
        if (n > 3 && value[p + NX[n]] === EMPTY && value[p + NY[n] * cols] === EMPTY) continue
        const known = v - drift
        const d = (support[q] ? -this.#tipBonus : known > 0 ? known : 0) + (n > 3 ? DIAGONAL : UNIT)
        if (d < best) {
          best = d
          from = q
        }
      }
      if (from < 0) continue
      tip[p] = support[from] || (tip[from] && value[from] > drift) ? 1 : 0
      value[p] = best + drift
      touched[p] = layer
      this.#source[p] = from
    }
    for (let f = 0; f < count; f++) {
      const p = fresh[f], own = value[p]
      if (own === UNSET) continue
      for (let n = 0; n < 8; n++) {
        const v = value[p + steps[n]]
        // beside a wave that starts as far out, half a pixel is the noise of the raster
        if (v === UNSET || (v !== EMPTY && v - SLACK > own && v > drift)) {
          this.#push(p, own - drift)
          break
        }
      }
    }
  }

  #lay(p: number, distance: number, source: number): void {
    this.#tip[p] = this.#support[source] || (this.#tip[source] && this.#now(source) > 0) ? 1 : 0
    this.#touched[p] = this.#layer
    this.#value[p] = distance + this.#drift
    this.#source[p] = source
    this.#push(p, distance)
  }

  #push(p: number, distance: number): void {
    // rounding may make a way a hair shorter than the one it goes on from: never behind what is worked on
    const bucket = Math.min(this.#heads.length - 1, Math.max(this.#current, (distance + this.#tipBonus) >> 8))
    const node = this.#nodePixel.length
    this.#nodePixel.push(p)
    this.#nodeValue.push(distance)
    this.#nodeNext.push(this.#heads[bucket])
    this.#heads[bucket] = node
    if (bucket > this.#highest) this.#highest = bucket
  }
  #highest = -1
  #current = 0

  /** Nearest first, each pixel passes on the point that its distance is measured from. */
  #spread(): void {
    const value = this.#value, cols = this.#cols, heads = this.#heads, drift = this.#drift, touched = this.#touched, layer = this.#layer
    const steps = [1, -1, cols, -cols, cols + 1, 1 - cols, cols - 1, -cols - 1]
    for (let bucket = 0; bucket <= this.#highest; bucket++) {
      this.#current = bucket
      while (heads[bucket] >= 0) {
        const node = heads[bucket]
        heads[bucket] = this.#nodeNext.data[node]
        const p = this.#nodePixel.data[node], d = this.#nodeValue.data[node]
        if (value[p] - drift !== d) continue
        const s = this.#source[p]
        for (let n = 0; n < 8; n++) {
          const q = p + steps[n], v = value[q]
          if (v === EMPTY) continue
          // no way is shorter than the one to here, and what is held needs none
          const known = v - drift
          if (v !== UNSET && (known <= d || known <= 0)) continue
          const old = v !== UNSET && touched[q] !== layer
          if (old && known - SLACK <= d) continue
          const most = v === UNSET ? UNSET : old ? known - SLACK : known
          let source = s, distance = this.#distance(s, q)
          if (distance >= most) continue
          if (n > 3 && value[p + NX[n]] === EMPTY && value[p + NY[n] * cols] === EMPTY) continue
          if (!this.#sees(q, s)) {
            source = p
            distance = d + (n > 3 ? DIAGONAL : UNIT)
            if (distance >= most) continue
          }
          this.#lay(q, distance, source)
        }
      }
    }
    this.#highest = -1
    this.#current = 0
    this.#nodePixel.length = this.#nodeValue.length = this.#nodeNext.length = 0
  }

  /** What no old pixel reaches begins here: it lies on the plate, or is an island or a support, and is judged as if it were held. */
  #begin(): void {
    const fresh = this.#fresh.data
    for (let f = 0; f < this.#fresh.length; f++) {
      const p = fresh[f]
      if (this.#value[p] !== UNSET) continue
      this.#value[p] = this.#drift
      this.#touched[p] = this.#layer
      this.#source[p] = p
      this.#tip[p] = 0
    }
  }

  #distance(s: number, q: number): number {
    const cols = this.#cols
    const qy = (q / cols) | 0, sy = (s / cols) | 0
    const dx = q - qy * cols - (s - sy * cols), dy = qy - sy
    return this.#now(s) + Math.round(Math.sqrt(dx * dx + dy * dy) * UNIT)
  }

  /** Whether the straight way from q to s is solid: it is where the next pixel on it already has s; else all of it is walked. */
  #sees(q: number, s: number): boolean {
    const cols = this.#cols
    const sy = (s / cols) | 0, sx = s - sy * cols
    let y = (q / cols) | 0, x = q - y * cols
    const steps = Math.max(Math.abs(sx - x), Math.abs(sy - y))
    if (steps <= 1) return true
    const dx = (sx - x) / steps, dy = (sy - y) / steps
    let fx = x, fy = y
    for (let i = 1; i < steps; i++) {
      fx += dx
      fy += dy
      x = (fx + 0.5) | 0
      y = (fy + 0.5) | 0
      const p = y * cols + x
      if (this.#value[p] === EMPTY) return false
      if (i === 1 && this.#touched[p] === this.#layer && this.#source[p] === s) return true
    }
    return true
  }

  /** Pieces of what was laid over reach in this layer, and earlier pixels that are bridged now. */
  #collect(layer: number): LayerReach {
    const closed = this.#retest(layer)
    const value = this.#value, label = this.#label, fresh = this.#fresh.data
    const over = this.#over
    over.length = 0
    const limit = this.#limit + this.#drift
    for (let f = 0; f < this.#fresh.length; f++) {
      const p = fresh[f]
      label[p] = -1
      if (value[p] > limit && !this.#support[p]) over.push(p)
    }
    if (over.length === 0) return closed.length > 0 ? { pieces: [], runs: NO_RUNS, closed } : NOTHING
    const parent = new Int32Array(over.length)
    const grownFrom = this.#connect(layer, parent)
    const drafts = this.#measureAll(layer, parent)
    for (const [from, i] of grownFrom) drafts[-2 - label[over.data[rootOf(parent, i)]]].from.push(from)
    const runs = this.#name(layer, parent)
    return { pieces: drafts.map(d => this.#settle(d)), runs, closed }
  }
  readonly #over = new Int32List()

  /**
   * Connects what is over reach in this layer: side by side, or grown out of the same earlier piece. Gives what each grew out of.
   * Afterwards the labels of these pixels are −2 − their place in the list.
   */
  #connect(layer: number, parent: Int32Array): Map<number, number> {
    const value = this.#value, label = this.#label, cols = this.#cols, over = this.#over
    const grownFrom = new Map<number, number>()
    let last = -1, lastAt = 0
    for (let i = 0; i < over.length; i++) {
      const p = over.data[i]
      parent[i] = i
      label[p] = -2 - i
      for (let n = 0; n < 4; n++) {
        const q = p + NX[n] + NY[n] * cols
        if (value[q] === EMPTY) continue
        const known = label[q]
        if (known <= -2) unite(parent, -2 - known, i)
        else if (known >= 0 && this.#touched[q] !== layer && value[q] > this.#drift) {
          if (known === last) unite(parent, lastAt, i)
          else {
            const at = grownFrom.get(known)
            if (at === undefined) grownFrom.set(known, i)
            else unite(parent, at, i)
            last = known
            lastAt = i
          }
        }
      }
    }
    return grownFrom
  }

  /** Measures the pieces; their roots' labels become −2 − number of the piece. */
  #measureAll(layer: number, parent: Int32Array): Draft[] {
    const over = this.#over, cols = this.#cols, label = this.#label
    const drafts: Draft[] = []
    const open = this.#openAt
    open.length = this.#openPiece.length = 0
    let until = 0
    for (let i = 0; i < over.length; i++) {
      const p = over.data[i], root = rootOf(parent, i)
      if (root === i) {
        label[p] = -2 - drafts.length
        drafts.push(newDraft(this.#row0 + Math.floor(p / cols), this.#col0 + (p % cols)))
      }
      const number = -2 - label[over.data[root]]
      const reach = this.#measure(p, drafts[number], layer)
      if (reach === 0) continue
      open.push(p)
      this.#openPiece.push(number)
      until = Math.max(until, layer + Math.ceil(reach / Math.max(1, this.#perLayer)))
    }
    const n = open.length
    if (n > 0 && layer + 1 <= until) {
      const pixels = open.toArray(), source = this.#source
      this.#schedule({
        layer, step: 1, until, pixels,
        labels: Int32Array.from({ length: n }, (_, i) => labelOf(layer, this.#openPiece.data[i])),
        wayX: pixels.map(p => (p % cols) - (source[p] % cols)), wayY: pixels.map(p => Math.floor(p / cols) - Math.floor(source[p] / cols)),
        distance: pixels.map(p => this.#trueReach(p)),
      }, layer + 1)
    }
    return drafts
  }
  readonly #openAt = new Int32List()
  readonly #openPiece = new Int32List()

  /** Distance of a pixel of this layer from what holds it, without the bonus of tips. */
  #trueReach(p: number): number {
    return this.#value[p] - this.#drift + (this.#tip[p] ? this.#tipBonus : 0)
  }

  /** Adds a pixel to its piece; gives its reach where it hangs and may be bridged later, else 0. */
  #measure(p: number, draft: Draft, layer: number): number {
    const cols = this.#cols, value = this.#value
    const reach = this.#trueReach(p)
    const row = Math.floor(p / cols), pixel = p % cols
    draft.pixels++
    draft.sumX += pixel + this.#col0
    draft.sumY += row + this.#row0
    if (reach > draft.reach) {
      draft.reach = reach
      draft.at = p
    }
    const s = this.#source[p]
    const ax = pixel - (s % cols), ay = row - Math.floor(s / cols)
    for (let n = 0; n < 4; n++) {
      const q = p + NX[n] + NY[n] * cols
      if (value[q] === EMPTY || this.#touched[q] !== layer) continue
      const t = this.#source[q]
      if (t === s) continue
      const bx = (q % cols) - (t % cols), by = Math.floor(q / cols) - Math.floor(t / cols)
      const dot = ax * bx + ay * by
      if (dot >= 0 || dot * dot < OPPOSITE * OPPOSITE * (ax * ax + ay * ay) * (bx * bx + by * by)) continue
      const span = reach + this.#trueReach(q)
      if (draft.span === 0 || span < draft.span) draft.span = span
    }
    // the other side is no nearer than the one it is measured from
    if (2 * reach > this.#spanLimit + 2 * UNIT) return 0
    if (!this.#bridges(p, ax, ay, reach)) return reach
    draft.bridged++
    return 0
  }

  /** Gives the pixels the labels of their pieces, and the runs that they make. */
  #name(layer: number, parent: Int32Array): Int32Array {
    const over = this.#over, cols = this.#cols, label = this.#label
    const numbers = new Int32Array(over.length)
    for (let i = 0; i < over.length; i++) numbers[i] = -2 - label[over.data[rootOf(parent, i)]]
    const runs: number[] = []
    let before = -2, number = -1
    for (let i = 0; i < over.length; i++) {
      const p = over.data[i]
      label[p] = labelOf(layer, numbers[i])
      if (p === before + 1 && numbers[i] === number) runs[runs.length - 2]++
      else {
        const pixel = this.#col0 + (p % cols)
        number = numbers[i]
        runs.push(this.#row0 + Math.floor(p / cols), pixel, pixel + 1, number)
      }
      before = p
    }
    return Int32Array.from(runs)
  }

  #settle(d: Draft): ReachPiece {
    return {
      pixels: d.pixels, bridged: d.bridged, reach: d.reach / UNIT, span: d.span / UNIT, sumX: d.sumX, sumY: d.sumY,
      row: this.#row0 + Math.floor(d.at / this.#cols), pixel: this.#col0 + (d.at % this.#cols),
      firstRow: d.firstRow, firstPixel: d.firstPixel, from: d.from.sort((a, b) => a - b),
    }
  }

  #schedule(pending: Pending, layer: number): void {
    if (layer > pending.until) return
    const list = this.#pending.get(layer)
    if (list) list.push(pending)
    else this.#pending.set(layer, [pending])
  }

  /** Looks again at pixels that hung when they were laid: an arch is two ledges until it closes. */
  #retest(layer: number): [number, number][] {
    const due = this.#pending.get(layer)
    if (!due) return []
    this.#pending.delete(layer)
    const closed = new Map<number, number>()
    for (const p of due) {
      const keep = new Int32List(p.pixels.length)
      for (let i = 0; i < p.pixels.length; i++) {
        const v = this.#value[p.pixels[i]]
        if (v === EMPTY || v <= this.#drift) continue
        if (this.#bridges(p.pixels[i], p.wayX[i], p.wayY[i], p.distance[i])) closed.set(p.labels[i], (closed.get(p.labels[i]) ?? 0) + 1)
        else keep.push(i)
      }
      if (keep.length === 0) continue
      const kept = keep.toArray()
      const only = (list: Int32Array): Int32Array => (kept.length === list.length ? list : kept.map(i => list[i]))
      // at longer and longer intervals, and once more when the last has healed
      const step = p.step * 3
      this.#schedule({ ...p, step, pixels: only(p.pixels), labels: only(p.labels), wayX: only(p.wayX), wayY: only(p.wayY), distance: only(p.distance) }, Math.max(layer + 1, Math.min(layer + step, p.until)))
    }
    return [...closed]
  }

  /** Whether the straight way on, away from what holds p, comes to other held material within the span limit. */
  #bridges(p: number, wayX: number, wayY: number, reach: number): boolean {
    const value = this.#value, cols = this.#cols
    const length = Math.sqrt(wayX * wayX + wayY * wayY) || 1
    const ax = wayX / length, ay = wayY / length
    const own = value[p]
    // what has healed is settled as it was
    if (own === EMPTY || own <= this.#drift) return false
    const laid = own - (reach - (this.#tip[p] ? this.#tipBonus : 0))
    let x = p % cols, y = Math.floor(p / cols)
    const most = Math.floor((this.#spanLimit - reach) / UNIT) + 1
    for (let step = 1; step <= most; step++) {
      x += ax
      y += ay
      let q = Math.round(y) * cols + Math.round(x), v = value[q]
      if (v === EMPTY) {
        // along a side the way slides on; only where it ends on both hands it ends
        const left = Math.round(y + ax) * cols + Math.round(x - ay), right = Math.round(y - ax) * cols + Math.round(x + ay)
        const side = value[left] !== EMPTY ? 1 : value[right] !== EMPTY ? -1 : 0
        if (side === 0) return false
        x -= ay * side
        y += ax * side
        q = Math.round(y) * cols + Math.round(x)
        v = value[q]
      }
      if (v > own || q === p) continue
      const rest = this.#support[q] ? 0 : Math.max(0, Math.max(v, this.#drift) - laid) + (this.#tip[q] && v > this.#drift ? this.#tipBonus : 0)
      return reach + step * UNIT + rest <= this.#spanLimit + UNIT
    }
    return false
  }

  /** What later layers depend on. */
  save(): ReachState {
    const pixels = new Int32List(), values = new Int32List(), labels = new Int32List(), tips: number[] = []
    this.#eachRun(this.#starts, this.#pairs, this.#base, (p, n) => {
      for (let i = p; i < p + n; i++) {
        if (this.#value[i] <= this.#drift) continue
        pixels.push(i)
        values.push(this.#value[i])
        labels.push(this.#label[i])
        tips.push(this.#tip[i])
      }
    })
    return { layer: this.#layer, pixels: pixels.toArray(), values: values.toArray(), labels: labels.toArray(), tips: Uint8Array.from(tips), pending: new Map(Array.from(this.#pending, ([layer, list]) => [layer, [...list]])) }
  }

  /** Goes back to before the first layer. */
  clear(): void {
    this.#value.fill(EMPTY)
    this.#touched.fill(-1)
    this.#label.fill(-1)
    this.#markSupports(null, 0)
    this.#starts = this.#pairs = NO_RUNS
    this.#pending.clear()
  }

  /** Goes back to a saved state. @param spans a band that holds its layer */
  restore(state: ReachState, spans: BandSpans, at: number): void {
    this.clear()
    this.#layer = state.layer
    this.#drift = this.#perLayer * state.layer
    this.#starts = spans.starts
    this.#pairs = spans.pairs
    this.#base = at * this.frame.rows
    this.#eachRun(spans.starts, spans.pairs, this.#base, (p, n) => this.#value.fill(this.#drift, p, p + n))
    for (let i = 0; i < state.pixels.length; i++) {
      const p = state.pixels[i]
      this.#value[p] = state.values[i]
      this.#label[p] = state.labels[i]
      this.#tip[p] = state.tips[i]
    }
    this.#pending = new Map(Array.from(state.pending, ([layer, list]) => [layer, [...list]]))
  }
}

/** Whether two states are the same, so that everything above them is. */
export function sameState(a: ReachState, b: ReachState): boolean {
  return sameArray(a.pixels, b.pixels) && sameArray(a.values, b.values) && sameArray(a.labels, b.labels) && sameArray(a.tips, b.tips) && samePending(a.pending, b.pending)
}

function samePending(a: ReachState['pending'], b: ReachState['pending']): boolean {
  if (a.size !== b.size) return false
  for (const [layer, list] of a) {
    const other = b.get(layer)
    if (!other || other.length !== list.length) return false
    for (const [i, p] of list.entries()) {
      const q = other[i]
      if (p !== q && (p.step !== q.step || p.until !== q.until || !sameArray(p.pixels, q.pixels) || !sameArray(p.labels, q.labels) || !sameArray(p.distance, q.distance) || !sameArray(p.wayX, q.wayX) || !sameArray(p.wayY, q.wayY))) return false
    }
  }
  return true
}

function sameArray(a: ArrayLike<number>, b: ArrayLike<number>): boolean {
  if (a.length !== b.length) return false
  for (let i = 0; i < a.length; i++) if (a[i] !== b[i]) return false
  return true
}

interface Draft {
  pixels: number
  bridged: number
  reach: number
  at: number
  sumX: number
  sumY: number
  span: number
  readonly firstRow: number
  readonly firstPixel: number
  readonly from: number[]
}

function newDraft(firstRow: number, firstPixel: number): Draft {
  return { pixels: 0, bridged: 0, reach: -1, at: 0, sumX: 0, sumY: 0, span: 0, firstRow, firstPixel, from: [] }
}

function rootOf(parent: Int32Array, i: number): number {
  while (parent[i] !== i) i = parent[i] = parent[parent[i]]
  return i
}

/** Joins two sets; the smaller number stays the root. */
function unite(parent: Int32Array, i: number, j: number): void {
  const a = rootOf(parent, i), b = rootOf(parent, j)
  if (a < b) parent[b] = a
  else parent[a] = b
}

const NX = [1, -1, 0, 0, 1, 1, -1, -1], NY = [0, 0, 1, -1, 1, -1, 1, -1]
/** Fronts meet from opposite sides where their directions are more than 120° apart. */
const OPPOSITE = -0.5
const NO_RUNS = new Int32Array(0)
const NOTHING: LayerReach = { pieces: [], runs: NO_RUNS, closed: [] }
