import type { LayerGraph } from '../../scan'

/** What hangs together of the model while it is printed: from where it begins, or where several come together to it, until it joins more. */
export interface Piece {
  readonly firstLayer: number
  /** The pieces that came together to it; none where it began on nothing. */
  readonly of: readonly number[]
  /** The piece that it becomes a part of; −1 where it stays. */
  joins: number
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
        const parts = joined.get(root) ?? []
        name = parts.length === 1 ? parts[0] : this.#begin(k, parts)
        names.set(root, name)
      }
      of[from + i] = name
    }
  }

  #begin(layer: number, of: readonly number[]): number {
    const id = this.list.length
    this.list.push({ firstLayer: layer, of, joins: -1, onPlate: layer === 0 || of.some(p => this.list[p].onPlate) })
    for (const p of of) this.list[p].joins = id
    return id
  }

  /** What a piece has become by a layer. */
  at(piece: number, layer: number): number {
    for (let p = piece; ; ) {
      const next = this.list[p].joins
      if (next < 0 || this.list[next].firstLayer > layer) return p
      p = next
    }
  }
}
