import type { Raster } from '../raster/body'
import { Int32List } from '../raster/growable'
import type { ScanSettings } from '../settings'
import { EMPTY, HOLDS, NX, NY, UNIT, type ReachGrid } from './reach-grid'

/** A label names a piece by its layer and its number there. */
const PER_LAYER = 65536

/** Over-reach that was laid in one layer: connected within it, or grown out of the same earlier piece; all of it in one component of the model. */
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
export interface Pending {
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

/** Finds in every layer what is over reach, in pieces, and looks again later whether it is bridged. */
export class ReachPieces {
  readonly #grid: ReachGrid
  readonly #limit: number
  readonly #spanLimit: number
  /** By the layer in which they are due. */
  pending = new Map<number, Pending[]>()

  constructor(grid: ReachGrid, raster: Raster, settings: ScanSettings) {
    this.#grid = grid
    this.#limit = Math.round((settings.flapMm * UNIT) / raster.pixelMm)
    this.#spanLimit = Math.round((settings.spanMm * UNIT) / raster.pixelMm)
  }

  /**
   * Pieces of what was laid over reach in this layer, and earlier pixels that are bridged now.
   * @param componentAt the component of the model, within the layer, that has a pixel: absolute row and pixel; −1 for none
   */
  collect(layer: number, componentAt: (row: number, pixel: number) => number): LayerReach {
    const closed = this.#retest(layer)
    const { value, label, support } = this.#grid, fresh = this.#grid.fresh.data, count = this.#grid.fresh.length
    const over = this.#over
    over.length = 0
    const limit = this.#limit + this.#grid.drift
    for (let f = 0; f < count; f++) {
      const p = fresh[f]
      label[p] = -1
      if (value[p] > limit && !support[p]) over.push(p)
    }
    if (over.length === 0) return closed.length > 0 ? { pieces: [], runs: NO_RUNS, closed } : NOTHING
    const parent = new Int32Array(over.length)
    const grownFrom = this.#connect(layer, parent, componentAt)
    const drafts = this.#measureAll(layer, parent)
    for (let i = 0; i < grownFrom.length; i += 2) {
      const { from } = drafts[-2 - label[over.data[rootOf(parent, grownFrom.data[i + 1])]]]
      if (from[from.length - 1] !== grownFrom.data[i]) from.push(grownFrom.data[i])
    }
    const runs = this.#name(layer, parent)
    return { pieces: drafts.map(d => this.#settle(d)), runs, closed }
  }
  readonly #over = new Int32List()

  /**
   * Connects what is over reach in this layer: side by side, or grown out of the same earlier piece in one component. Gives what each
   * grew out of: label of the earlier piece, place in the list. Afterwards the labels of these pixels are −2 − their place in the list.
   */
  #connect(layer: number, parent: Int32Array, componentAt: (row: number, pixel: number) => number): Int32List {
    const { value, label, cols, steps, touched, drift, row0, col0 } = this.#grid, over = this.#over
    const limit = this.#limit + drift
    const grownFrom = this.#grownFrom
    grownFrom.length = 0
    /** By label of the earlier piece: component and place in the list, two numbers each. */
    const known = new Map<number, number[]>()
    let last = -1, lastRoot = -1
    for (let i = 0; i < over.length; i++) {
      const p = over.data[i]
      parent[i] = i
      label[p] = -2 - i
      for (let n = 0; n < 4; n++) {
        const q = p + steps[n]
        if (value[q] === EMPTY) continue
        const other = label[q]
        if (other <= -2) {
          unite(parent, -2 - other, i)
          continue
        }
        // what a nearer way reached in this layer is held from there, unless it still hangs
        if (other < 0 || value[q] <= (touched[q] === layer ? limit : drift)) continue
        // along a border the same two meet again and again
        const root = rootOf(parent, i)
        if (other === last && root === lastRoot) continue
        last = other
        lastRoot = root
        const row = Math.floor(p / cols), component = componentAt(row + row0, p - row * cols + col0)
        const list = known.get(other)
        let at = -1
        if (list) for (let m = 0; m < list.length && at < 0; m += 2) if (list[m] === component) at = list[m + 1]
        if (at >= 0) {
          unite(parent, at, i)
          lastRoot = rootOf(parent, i)
          continue
        }
        if (list) list.push(component, i)
        else known.set(other, [component, i])
        grownFrom.push(other)
        grownFrom.push(i)
      }
    }
    return grownFrom
  }
  readonly #grownFrom = new Int32List()

  /** Measures the pieces; their roots' labels become −2 − number of the piece. */
  #measureAll(layer: number, parent: Int32Array): Draft[] {
    const over = this.#over, cols = this.#grid.cols, label = this.#grid.label
    const drafts: Draft[] = []
    const open = this.#openAt
    open.length = this.#openPiece.length = 0
    let until = 0
    for (let i = 0; i < over.length; i++) {
      const p = over.data[i], root = rootOf(parent, i)
      if (root === i) {
        label[p] = -2 - drafts.length
        drafts.push(newDraft(this.#grid.row0 + Math.floor(p / cols), this.#grid.col0 + (p % cols)))
      }
      const number = -2 - label[over.data[root]]
      const reach = this.#measure(p, drafts[number], layer)
      if (reach === 0) continue
      open.push(p)
      this.#openPiece.push(number)
      until = Math.max(until, layer + Math.ceil(reach / Math.max(1, this.#grid.perLayer)))
    }
    const n = open.length
    if (n > 0 && layer + 1 <= until) {
      const pixels = open.toArray(), source = this.#grid.source
      this.#schedule({
        layer, step: 1, until, pixels,
        labels: Int32Array.from({ length: n }, (_, i) => labelOf(layer, this.#openPiece.data[i])),
        wayX: pixels.map(p => (p % cols) - (source[p] % cols)), wayY: pixels.map(p => Math.floor(p / cols) - Math.floor(source[p] / cols)),
        distance: pixels.map(p => this.#grid.trueReach(p)),
      }, layer + 1)
    }
    return drafts
  }
  readonly #openAt = new Int32List()
  readonly #openPiece = new Int32List()

  /** Adds a pixel to its piece; gives its reach where it hangs and may be bridged later, else 0. */
  #measure(p: number, draft: Draft, layer: number): number {
    const { cols, steps, value, touched, source, label } = this.#grid
    const reach = this.#grid.trueReach(p)
    const row = (p / cols) | 0, pixel = p - row * cols
    draft.pixels++
    draft.sumX += pixel + this.#grid.col0
    draft.sumY += row + this.#grid.row0
    if (reach > draft.reach) {
      draft.reach = reach
      draft.at = p
    }
    const s = source[p], sourceRow = (s / cols) | 0
    const ax = pixel - s + sourceRow * cols, ay = row - sourceRow
    // of two far ways that begin side by side one cannot come from the other side
    const far = ax * ax + ay * ay > FAR2
    // corner to corner as well: under a round lid fronts meet at one point
    for (let n = 0; n < 8; n++) {
      const q = p + steps[n]
      // of two that are over reach one looks at the other
      if (value[q] === EMPTY || touched[q] !== layer || (LATER[n] && label[q] <= -2)) continue
      const t = source[q]
      const apart = t > s ? t - s : s - t
      if (apart === 0 || (far && (apart <= 2 || (apart >= cols - 1 && apart <= cols + 1)))) continue
      const from = (t / cols) | 0
      const bx = pixel + NX[n] - t + from * cols, by = row + NY[n] - from
      const dot = ax * bx + ay * by
      if (dot >= 0 || dot * dot < OPPOSITE * OPPOSITE * (ax * ax + ay * ay) * (bx * bx + by * by)) continue
      const span = reach + this.#grid.trueReach(q)
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
    const over = this.#over, cols = this.#grid.cols, label = this.#grid.label
    const numbers = new Int32Array(over.length)
    for (let i = 0; i < over.length; i++) numbers[i] = -2 - label[over.data[rootOf(parent, i)]]
    const runs: number[] = []
    let before = -2, number = -1
    for (let i = 0; i < over.length; i++) {
      const p = over.data[i]
      label[p] = labelOf(layer, numbers[i])
      if (p === before + 1 && numbers[i] === number) runs[runs.length - 2]++
      else {
        const pixel = this.#grid.col0 + (p % cols)
        number = numbers[i]
        runs.push(this.#grid.row0 + Math.floor(p / cols), pixel, pixel + 1, number)
      }
      before = p
    }
    return Int32Array.from(runs)
  }

  #settle(d: Draft): ReachPiece {
    return {
      pixels: d.pixels, bridged: d.bridged, reach: d.reach / UNIT, span: d.span / UNIT, sumX: d.sumX, sumY: d.sumY,
      row: this.#grid.row0 + Math.floor(d.at / this.#grid.cols), pixel: this.#grid.col0 + (d.at % this.#grid.cols),
      firstRow: d.firstRow, firstPixel: d.firstPixel, from: [...new Set(d.from)].sort((a, b) => a - b),
    }
  }

  #schedule(pending: Pending, layer: number): void {
    if (layer > pending.until) return
    const list = this.pending.get(layer)
    if (list) list.push(pending)
    else this.pending.set(layer, [pending])
  }

  /** Looks again at pixels that hung when they were laid: an arch is two ledges until it closes. */
  #retest(layer: number): [number, number][] {
    const due = this.pending.get(layer)
    if (!due) return []
    this.pending.delete(layer)
    const closed = new Map<number, number>()
    for (const p of due) {
      const keep = new Int32List(p.pixels.length)
      for (let i = 0; i < p.pixels.length; i++) {
        const v = this.#grid.value[p.pixels[i]]
        if (v === EMPTY || v <= this.#grid.drift) continue
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

  /**
   * Whether p lies between held material on opposite sides within the span limit: where the straight way on, away from what holds
   * it, comes to other held material; or, near the end of a narrow opening, across that way.
   */
  #bridges(p: number, wayX: number, wayY: number, reach: number): boolean {
    const own = this.#grid.value[p]
    // what has healed is settled as it was
    if (own === EMPTY || own <= this.#grid.drift) return false
    const length = Math.sqrt(wayX * wayX + wayY * wayY) || 1, ax = wayX / length, ay = wayY / length
    const laid = own - (reach - (this.#grid.tip[p] >= 0 ? this.#grid.tipBonus : 0))
    return this.#meetsBeyond(p, ax, ay, reach, own, laid) || this.#liesAcross(p, -ay, ax, laid)
  }

  #meetsBeyond(p: number, ax: number, ay: number, reach: number, own: number, laid: number): boolean {
    const { value, cols, drift, supported } = this.#grid
    const row = (p / cols) | 0
    // half a pixel is added once, so that cutting off the rest rounds
    let x = p - row * cols + 0.5, y = row + 0.5
    // without supports, all that holds has healed since as well, and is so much farther
    const most = Math.floor((this.#spanLimit - reach - (supported ? 0 : Math.max(0, drift - laid))) / UNIT) + 1
    for (let step = 1; step <= most; step++) {
      const beforeX = x | 0, beforeY = y | 0
      x += ax
      y += ay
      let q = (y | 0) * cols + (x | 0), v = value[q]
      if (v === EMPTY) {
        // along a side the way slides on; only where it ends on both hands it ends
        const side = value[((y + ax) | 0) * cols + ((x - ay) | 0)] !== EMPTY ? 1 : value[((y - ax) | 0) * cols + ((x + ay) | 0)] !== EMPTY ? -1 : 0
        if (side === 0) return false
        x -= ay * side
        y += ax * side
        // but never over a gap: what stands a pixel apart holds nothing here
        if (!this.#areLinked(beforeX, beforeY, x | 0, y | 0)) return false
        q = (y | 0) * cols + (x | 0)
        v = value[q]
      }
      if (v > own || q === p) continue
      return reach + step * UNIT + this.#restAt(q, laid) <= this.#spanLimit + UNIT
    }
    return false
  }

  /** Whether two pixels at most two apart touch, or touch a solid one between them. */
  #areLinked(x0: number, y0: number, x1: number, y1: number): boolean {
    if (Math.abs(x1 - x0) <= 1 && Math.abs(y1 - y0) <= 1) return true
    const { value, cols } = this.#grid
    for (let y = Math.max(y0, y1) - 1; y <= Math.min(y0, y1) + 1; y++) {
      for (let x = Math.max(x0, x1) - 1; x <= Math.min(x0, x1) + 1; x++) if (value[y * cols + x] !== EMPTY) return true
    }
    return false
  }

  /** Whether a line through p meets held material on both sides, no farther apart than a span may be. */
  #liesAcross(p: number, bx: number, by: number, laid: number): boolean {
    const { value, cols, drift, supported } = this.#grid
    // later on, only what a support holds is as near as it was then
    if (!supported && drift > laid) return false
    const most = Math.floor(this.#spanLimit / UNIT) + 1
    const row = (p / cols) | 0, column = p - row * cols
    let steps = 0
    for (let side = 1; side >= -1; side -= 2) {
      const dx = bx * side, dy = by * side
      let x = column + 0.5, y = row + 0.5
      for (;;) {
        if (++steps > most) return false
        x += dx
        y += dy
        const q = (y | 0) * cols + (x | 0), v = value[q]
        if (v === EMPTY) return false
        if (supported ? this.#restAt(q, laid) === 0 : v <= laid) break
      }
    }
    return true
  }

  /** The way that is left from a pixel to what holds it, by the measure of the layer in which `laid` was. */
  #restAt(q: number, laid: number): number {
    const { drift, tipBonus, support, value } = this.#grid, v = value[q]
    if (support[q] === HOLDS) return 0
    return this.#grid.originOf(q) >= 0 && v - drift > -tipBonus ? Math.max(0, v - laid + tipBonus) : Math.max(0, Math.max(v, drift) - laid)
  }
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

/** Of the eight neighbours those that come later than their opposite. */
const LATER = [false, true, false, true, false, false, true, true]
/** Fronts meet from opposite sides where their directions are more than 120° apart. */
const OPPOSITE = -0.5
/** Squared, in pixels: a way is longer than what two neighbouring ways that begin side by side differ by, 2 and √2 at most. */
const FAR2 = 12
const NO_RUNS = new Int32Array(0)
const NOTHING: LayerReach = { pieces: [], runs: NO_RUNS, closed: [] }
