import type { Cup, Vent } from '../../contract'
import type { Vec3 } from '../../mesh'
import type { LayerGraph } from '../graph/layer-graph'
import { labelLayer, newLabels, type LayerLabels } from '../graph/layer-labels'
import type { Raster } from '../raster/body'
import type { BandSpans, Frame } from '../raster/spans'
import type { Suction } from '../sweeps/suction'

/** Walls thicker than this are not proposed to be drilled, mm. */
const THICKEST_MM = 12
/** A vent is looked for in this much height from the first layer of the space on, mm. */
const FOOT_MM = 1
/** Cups, largest first, that get a proposal. */
const MOST_CUPS = 60
/** Ways out that are tried in a layer. */
const DIRECTIONS = 32

/** What the skin at a point of the stand costs a hole: it counts as so many times its wall; Infinity where none may be. */
export type HoleCost = (at: Vec3) => number

/** The layers that the search looks at. */
export interface Layers {
  readonly raster: Raster
  readonly frame: Frame
  layerSpans(layer: number): BandSpans
}

/**
 * Gives every cup the place where a hole would vent it from its first layers on: through the thinnest wall, downward if that is as thin.
 * @param cost of the skin where a hole comes out; left out where all skin is alike
 */
export function proposeVents(layers: Layers, cups: readonly Cup[], suction: Suction, graph: LayerGraph, cost?: HoleCost): Cup[] {
  return cups.map((cup, i) => (i < MOST_CUPS && cup.id >= 0 ? { ...cup, vent: new VentSearch(layers, cup.id, suction, graph, cost).find(cup) } : cup))
}

/** Where a hole comes out. */
export function outletOf({ at, direction, wallMm }: Vent): Vec3 {
  return [at[0] + direction[0] * wallMm, at[1] + direction[1] * wallMm, at[2] + direction[2] * wallMm]
}

class VentSearch {
  readonly #layers: Layers
  readonly #id: number
  readonly #suction: Suction
  readonly #graph: LayerGraph
  readonly #seen = new Map<number, { spans: BandSpans; labels: LayerLabels }>()

  readonly #cost: HoleCost | undefined

  constructor(layers: Layers, id: number, suction: Suction, graph: LayerGraph, cost?: HoleCost) {
    this.#cost = cost
    this.#layers = layers
    this.#id = id
    this.#suction = suction
    this.#graph = graph
  }

  find(cup: Cup): Vent | null {
    const { layerMm } = this.#layers.raster
    const last = Math.min(cup.lastLayer, cup.firstLayer + Math.floor(FOOT_MM / layerMm))
    const down = this.#down(cup.firstLayer), found = down ? [down] : []
    const step = Math.max(1, Math.floor((last - cup.firstLayer) / 4))
    for (let k = cup.firstLayer; k <= last; k += step) found.push(...this.#sideways(k))
    let best: Vent | null = null, least = Infinity
    for (const vent of found) {
      const costs = vent.wallMm * (this.#cost?.(outletOf(vent)) ?? 1)
      // a wall of no thickness costs something where nothing may be
      if (Number.isNaN(costs) || costs >= least) continue
      best = vent
      least = costs
    }
    return best
  }

  #layer(k: number): { spans: BandSpans; labels: LayerLabels } {
    const known = this.#seen.get(k)
    if (known) return known
    const spans = this.#layers.layerSpans(k)
    const labels = newLabels()
    labelLayer(spans.starts, 0, this.#layers.frame.rows, spans.pairs, labels)
    const made = { spans, labels }
    this.#seen.set(k, made)
    return made
  }

  /** Gaps of the cup in layer k: row, first and end pixel. */
  #gaps(k: number): [number, number, number][] {
    const { spans, labels } = this.#layer(k)
    const out: [number, number, number][] = []
    for (let r = 0; r < this.#layers.frame.rows; r++) {
      for (let s = spans.starts[r] + 1; s < spans.starts[r + 1]; s++) {
        const e = labels.empty[s]
        if (e >= 0 && this.#suction.cupOf[this.#graph.emptyStarts[k] + e] === this.#id) out.push([r, spans.pairs[2 * s - 1], spans.pairs[2 * s]])
      }
    }
    return out
  }

  /** What is at a pixel of layer k: solid, the outside, or a space that is shut. */
  #at(k: number, row: number, pixel: number): 'solid' | 'outside' | 'shut' {
    if (row < 0 || row >= this.#layers.frame.rows) return 'outside'
    const { spans, labels } = this.#layer(k)
    for (let s = spans.starts[row]; s < spans.starts[row + 1]; s++) {
      if (pixel >= spans.pairs[2 * s + 1]) continue
      if (pixel >= spans.pairs[2 * s]) return 'solid'
      const e = labels.empty[s]
      return e < 0 || this.#suction.cupOf[this.#graph.emptyStarts[k] + e] < 0 ? 'outside' : 'shut'
    }
    return 'outside'
  }

  #down(first: number): Vent | null {
    const { pixelMm, layerMm } = this.#layers.raster
    const gaps = this.#gaps(first)
    const every = Math.max(1, Math.round(0.2 / pixelMm))
    let columns: { row: number; pixel: number }[] = []
    for (const [row, from, to] of gaps) {
      if (row % every !== 0 && gaps.length > every * 2) continue
      for (let x = Math.floor((from + Math.min(to, from + every)) / 2); x < to; x += every) columns.push({ row, pixel: x })
    }
    for (let k = first - 1; k >= 0 && (first - k) * layerMm <= THICKEST_MM && columns.length > 0; k--) {
      const out = columns.filter(c => this.#at(k, c.row, c.pixel) === 'outside')
      if (out.length > 0) {
        // of those that come out first the one in the middle
        const x = out.reduce((s, c) => s + c.pixel, 0) / out.length, y = out.reduce((s, c) => s + c.row, 0) / out.length
        const c = out.reduce((a, b) => (Math.hypot(b.pixel - x, b.row - y) < Math.hypot(a.pixel - x, a.row - y) ? b : a))
        return {
          at: [(c.pixel + 0.5) * pixelMm, (c.row + this.#layers.frame.row0 + 0.5) * pixelMm, first * layerMm],
          direction: [0, 0, -1], wallMm: (first - 1 - k) * layerMm,
        }
      }
      columns = columns.filter(c => this.#at(k, c.row, c.pixel) === 'solid')
    }
    return null
  }

  /** Ways out in a layer: the one through the thinnest wall, or where skin has its price, the best of every direction. */
  #sideways(k: number): Vent[] {
    const { pixelMm, layerMm } = this.#layers.raster
    const gaps = this.#gaps(k)
    if (gaps.length === 0) return []
    const window = this.#bitmap(k, gaps, Math.ceil(THICKEST_MM / pixelMm))
    const { codes, width, row0, pixel0 } = window
    const most = Math.ceil(THICKEST_MM / pixelMm), together = this.#cost === undefined
    const best: ({ x: number; y: number; dx: number; dy: number; steps: number } | null)[] = Array.from({ length: together ? 1 : DIRECTIONS }, () => null)
    const ways = Array.from({ length: DIRECTIONS }, (_, i) => [Math.cos((2 * Math.PI * i) / DIRECTIONS), Math.sin((2 * Math.PI * i) / DIRECTIONS)] as const)
    const edge = (x: number, y: number): boolean => codes[y * width + x + 1] !== CUP || codes[y * width + x - 1] !== CUP || codes[(y + 1) * width + x] !== CUP || codes[(y - 1) * width + x] !== CUP
    for (const [row, from, to] of gaps) {
      const y = row - row0
      for (let x = from - pixel0; x < to - pixel0; x++) {
        if (!edge(x, y)) continue
        for (const [i, [dx, dy]] of ways.entries()) {
          const limit: number = (best[together ? 0 : i]?.steps ?? most + 1) - 1
          for (let step = 1; step <= limit; step++) {
            const code = codes[Math.round(y + dy * step) * width + Math.round(x + dx * step)]
            if (code === SOLID) continue
            if (code === OUT && step > 1) best[together ? 0 : i] = { x, y, dx, dy, steps: step }
            break
          }
        }
      }
    }
    return best.flatMap(b => (b ? [{
      at: [(b.x + pixel0 + 0.5) * pixelMm, (b.y + row0 + this.#layers.frame.row0 + 0.5) * pixelMm, (k + 0.5) * layerMm] as const,
      direction: [b.dx, b.dy, 0] as const, wallMm: (b.steps - 1) * pixelMm,
    }] : []))
  }

  /** The layer around some gaps as codes, with a margin. */
  #bitmap(k: number, gaps: readonly (readonly [number, number, number])[], margin: number): { codes: Uint8Array; width: number; row0: number; pixel0: number } {
    let from = Infinity, to = -Infinity
    for (const g of gaps) {
      from = Math.min(from, g[1])
      to = Math.max(to, g[2])
    }
    const row0 = gaps[0][0] - margin - 1, rowEnd = gaps[gaps.length - 1][0] + margin + 2, pixel0 = from - margin - 1
    const width = to + margin + 1 - pixel0
    const codes = new Uint8Array(width * (rowEnd - row0))
    const { spans, labels } = this.#layer(k)
    const fill = (y: number, a: number, b: number, code: number): void => {
      const low = Math.max(0, a - pixel0), high = Math.min(width, b - pixel0)
      if (low < high) codes.fill(code, y * width + low, y * width + high)
    }
    for (let y = 0; y < rowEnd - row0; y++) {
      const r = y + row0
      if (r < 0 || r >= this.#layers.frame.rows) continue
      for (let s = spans.starts[r]; s < spans.starts[r + 1]; s++) {
        fill(y, spans.pairs[2 * s], spans.pairs[2 * s + 1], SOLID)
        if (s === spans.starts[r] || labels.empty[s] < 0) continue
        const cup = this.#suction.cupOf[this.#graph.emptyStarts[k] + labels.empty[s]]
        if (cup >= 0) fill(y, spans.pairs[2 * s - 1], spans.pairs[2 * s], cup === this.#id ? CUP : SHUT)
      }
    }
    return { codes, width, row0, pixel0 }
  }
}

const OUT = 0, SOLID = 1, CUP = 2, SHUT = 3
