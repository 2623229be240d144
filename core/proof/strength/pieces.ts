import type { LayerGraph } from '../../scan'

/**
 * What hangs together of the model while it is printed, from where it begins on nothing, until it becomes a part of a larger one. What lies
 * on the plate takes up what does not.
 */
export interface Piece {
  readonly firstLayer: number
  /** The piece that it becomes a part of, and in which layer; −1 where it stays. */
  joins: number
  joinsIn: number
  /** Whether it lies on the plate. */
  readonly onPlate: boolean
}

/** What pieces lay in every layer: entries [starts[k], starts[k + 1]) are those of layer k, in pixels and sums of their numbers. */
export interface LaidPieces {
  readonly starts: Int32Array
  readonly piece: Int32Array
  readonly pixels: Float64Array
  readonly sumX: Float64Array
  readonly sumY: Float64Array
}

/** What of a graph says which pieces there are. */
export type PieceGraph = Pick<LayerGraph, 'layerCount' | 'solidStarts' | 'solidPixels' | 'solidSumX' | 'solidSumY' | 'solidEdgeStarts' | 'solidUpper' | 'solidLower'>

/** The pieces of a model over its height. */
export class Pieces {
  readonly list: Piece[] = []
  /** By component of the graph, through all layers. */
  readonly ofComponent: Int32Array
  readonly laid: LaidPieces
  /** What has been laid of each piece so far, pixels. */
  readonly #size: number[] = []

  constructor(graph: PieceGraph) {
    const total = graph.solidPixels.length, of = (this.ofComponent = new Int32Array(total).fill(-1)), starts = new Int32Array(graph.layerCount + 1)
    const piece: number[] = [], pixels: number[] = [], sumX: number[] = [], sumY: number[] = []
    for (let k = 0; k < graph.layerCount; k++) {
      this.#layPieces(graph, k)
      const place = new Map<number, number>()
      for (let c = graph.solidStarts[k]; c < graph.solidStarts[k + 1]; c++) {
        let at = place.get(of[c])
        if (at === undefined) {
          place.set(of[c], (at = piece.length))
          piece.push(of[c])
          pixels.push(0)
          sumX.push(0)
          sumY.push(0)
        }
        pixels[at] += graph.solidPixels[c]
        sumX[at] += graph.solidSumX[c]
        sumY[at] += graph.solidSumY[c]
        this.#size[of[c]] += graph.solidPixels[c]
      }
      starts[k + 1] = piece.length
    }
    this.laid = { starts, piece: Int32Array.from(piece), pixels: Float64Array.from(pixels), sumX: Float64Array.from(sumX), sumY: Float64Array.from(sumY) }
  }

  /** Says to which piece everything in layer k belongs, now that it has been laid. */
  #layPieces(graph: PieceGraph, k: number): void {
    const from = graph.solidStarts[k], count = graph.solidStarts[k + 1] - from, of = this.ofComponent
    // components of this layer and pieces below that touch are one from here on
    const parent = Array.from({ length: count }, (_, i) => i), below: number[] = [], indexOf = new Map<number, number>()
    const find = (i: number): number => {
      while (parent[i] !== i) i = parent[i] = parent[parent[i]]
      return i
    }
    for (let e = graph.solidEdgeStarts[k]; e < graph.solidEdgeStarts[k + 1]; e++) {
      const p = this.at(of[graph.solidLower[e]], k - 1)
      let i = indexOf.get(p)
      if (i === undefined) {
        indexOf.set(p, (i = parent.length))
        parent.push(i)
        below.push(p)
      }
      parent[find(graph.solidUpper[e] - from)] = find(i)
    }
    const joined = new Map<number, number[]>()
    below.forEach((p, i) => {
      const root = find(count + i), list = joined.get(root)
      if (list) list.push(p)
      else joined.set(root, [p])
    })
    const names = new Map<number, number>()
    for (let i = 0; i < count; i++) {
      const root = find(i)
      let name = names.get(root)
      if (name === undefined) {
        name = this.#together(k, joined.get(root) ?? [])
        names.set(root, name)
      }
      of[from + i] = name
    }
  }

  /** The piece that some become in a layer: the largest so far of those on the plate, or of all; a new one where there is none. */
  #together(layer: number, parts: readonly number[]): number {
    const { list } = this
    if (parts.length === 0) {
      this.#size.push(0)
      return list.push({ firstLayer: layer, joins: -1, joinsIn: Infinity, onPlate: layer === 0 }) - 1
    }
    const rank = (p: number): number => (list[p].onPlate ? Infinity : this.#size[p]), largest = parts.reduce((a, b) => (rank(b) > rank(a) ? b : a))
    for (const p of parts) if (p !== largest) Object.assign(list[p], { joins: largest, joinsIn: layer })
    return largest
  }

  /** What a piece has become by a layer. */
  at(piece: number, layer: number): number {
    let p = piece
    while (this.list[p].joinsIn <= layer) p = this.list[p].joins
    return p
  }
}
