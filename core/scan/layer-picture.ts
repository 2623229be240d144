import { labelLayer, newLabels } from './layer-labels'
import type { ModelScan, ScanResult } from './scan'

/** What a span of a layer picture shows. */
export const LAYER_CODES = { model: 0, stilt: 1, islandOpen: 2, islandHeld: 3, cup: 4 } as const

/** One layer as coloured spans: row, first pixel, end pixel and code, four numbers a span; absolute pixels. */
export interface LayerPicture {
  readonly layer: number
  readonly spans: Int32Array
  readonly regions: number
  readonly enclosed: number
}

/** Paints one layer after a scan: model, stilts, what still belongs to an island, and enclosed space that pulls. */
export function layerPicture(scan: ModelScan, result: ScanResult, layer: number): LayerPicture {
  const { model, stilts, all } = scan.layerSpans(layer)
  const { rows, row0 } = scan.frame
  const out: number[] = []
  const own = newLabels(), whole = newLabels()
  labelLayer(model.starts, 0, rows, model.pairs, own)
  labelLayer(all.starts, 0, rows, all.pairs, whole)
  const tree = scan.modelTree, suction = scan.wholeSuction
  const states = new Map(result.islands.map(i => [i.id, i.state]))
  for (let r = 0; r < rows; r++) {
    for (let s = all.starts[r] + 1; s < all.starts[r + 1]; s++) {
      if (!suction || whole.empty[s] < 0) continue
      const cup = suction.suction.cupOf[suction.graph.emptyStarts[layer] + whole.empty[s]]
      if (cup >= 0) out.push(r + row0, all.pairs[2 * s - 1], all.pairs[2 * s], LAYER_CODES.cup)
    }
    if (stilts) for (let s = stilts.starts[r]; s < stilts.starts[r + 1]; s++) out.push(r + row0, stilts.pairs[2 * s], stilts.pairs[2 * s + 1], LAYER_CODES.stilt)
    for (let s = model.starts[r]; s < model.starts[r + 1]; s++) {
      const island = tree ? tree.tree.islandOf[tree.graph.solidStarts[layer] + own.solid[s]] : -1
      const state = island >= 0 ? states.get(island) : undefined
      const code = state === undefined ? LAYER_CODES.model : state === 'open' || state === 'partly' ? LAYER_CODES.islandOpen : LAYER_CODES.islandHeld
      out.push(r + row0, model.pairs[2 * s], model.pairs[2 * s + 1], code)
    }
  }
  return { layer, spans: Int32Array.from(out), regions: whole.solidCount, enclosed: whole.emptyCount }
}
