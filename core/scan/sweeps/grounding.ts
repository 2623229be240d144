import type { LayerGraph } from '../graph/layer-graph'

/** For every solid component, whether it connects to layer 0 through layers up to and including its own. */
export function groundedWhenLaid(graph: LayerGraph): Uint8Array {
  const total = graph.solidPixels.length
  const parent = new Int32Array(total)
  const grounded = new Uint8Array(total)
  const result = new Uint8Array(total)
  for (let i = 0; i < total; i++) parent[i] = i
  const find = (i: number): number => {
    while (parent[i] !== i) i = parent[i] = parent[parent[i]]
    return i
  }
  for (let k = 0; k < graph.layerCount; k++) {
    const from = graph.solidStarts[k], to = graph.solidStarts[k + 1]
    if (k === 0) grounded.fill(1, from, to)
    for (let e = graph.solidEdgeStarts[k]; e < graph.solidEdgeStarts[k + 1]; e++) {
      const a = find(graph.solidUpper[e]), b = find(graph.solidLower[e])
      if (a === b) continue
      parent[a] = b
      grounded[b] |= grounded[a]
    }
    for (let c = from; c < to; c++) result[c] = grounded[find(c)]
  }
  return result
}
