import { noColumns, type Columns } from './columns'
import type { GraphChunk, LayerGraph } from './layer-graph'
import { OUTSIDE } from './layer-labels'

/** Where one layer of a graph comes from. */
export interface LayerSource {
  readonly chunk: GraphChunk
  /** Layer within the chunk. */
  readonly at: number
}

/** Sources of all layers of some chunks given in order. */
export function sourcesOf(chunks: readonly GraphChunk[]): LayerSource[] {
  return chunks.flatMap(chunk => Array.from({ length: chunk.layers }, (_, at) => ({ chunk, at })))
}

/**
 * Puts layers together into one graph. A layer without a source is empty.
 * @param columnsOf what stands beside these layers by itself, given where the components of every layer begin
 */
export function joinLayers(sources: readonly (LayerSource | null)[], columnsOf?: (solidStarts: Int32Array) => Columns): LayerGraph {
  const layerCount = sources.length
  let solids = 0, empties = 0, edges = 0, emptyEdges = 0
  for (let k = 0; k < layerCount; k++) {
    const s = sources[k]
    if (s) {
      solids += s.chunk.solidStarts[s.at + 1] - s.chunk.solidStarts[s.at]
      empties += s.chunk.emptyStarts[s.at + 1] - s.chunk.emptyStarts[s.at]
      edges += s.chunk.solidEdgeStarts[s.at + 1] - s.chunk.solidEdgeStarts[s.at]
      emptyEdges += s.chunk.emptyEdgeStarts[s.at + 1] - s.chunk.emptyEdgeStarts[s.at]
    }
  }
  const graph = {
    layerCount,
    solidStarts: new Int32Array(layerCount + 1),
    solidPixels: new Int32Array(solids),
    solidSumX: new Float64Array(solids),
    solidSumY: new Float64Array(solids),
    solidRow: new Int32Array(solids),
    solidPixel: new Int32Array(solids),
    solidEdgeStarts: new Int32Array(layerCount + 1),
    solidUpper: new Int32Array(edges),
    solidLower: new Int32Array(edges),
    solidOverlap: new Int32Array(edges),
    emptyStarts: new Int32Array(layerCount + 1),
    emptyPixels: new Int32Array(empties),
    emptyRow: new Int32Array(empties),
    emptyInRow: new Int32Array(empties),
    emptyInPixel: new Int32Array(empties),
    emptyFrom: new Int32Array(empties),
    emptyTo: new Int32Array(empties),
    emptyRowEnd: new Int32Array(empties),
    emptyEdgeStarts: new Int32Array(layerCount + 1),
    emptyUpper: new Int32Array(emptyEdges),
    emptyLower: new Int32Array(emptyEdges),
    layerPixels: new Int32Array(layerCount),
    unclosedRows: 0,
  }
  const solidFields = ['solidPixels', 'solidSumX', 'solidSumY', 'solidRow', 'solidPixel'] as const
  const emptyFields = ['emptyPixels', 'emptyRow', 'emptyInRow', 'emptyInPixel', 'emptyFrom', 'emptyTo', 'emptyRowEnd'] as const
  let s = 0, e = 0, se = 0, ee = 0, solidBelow = 0, emptyBelow = 0
  for (let k = 0; k < layerCount; k++) {
    const solidBase = s, emptyBase = e
    const source = sources[k]
    graph.solidStarts[k] = s
    graph.emptyStarts[k] = e
    graph.solidEdgeStarts[k] = se
    graph.emptyEdgeStarts[k] = ee
    if (source) {
      const { chunk, at } = source
      const from = chunk.solidStarts[at], to = chunk.solidStarts[at + 1]
      for (const f of solidFields) for (let i = from, o = s; i < to; i++) graph[f][o++] = chunk[f][i]
      s += to - from
      const fromE = chunk.emptyStarts[at], toE = chunk.emptyStarts[at + 1]
      if (toE > fromE) for (const f of emptyFields) for (let i = fromE, o = e; i < toE; i++) graph[f][o++] = chunk[f][i]
      e += toE - fromE
      for (let i = chunk.solidEdgeStarts[at]; i < chunk.solidEdgeStarts[at + 1]; i++) {
        graph.solidUpper[se] = solidBase + chunk.solidUpper[i]
        graph.solidLower[se] = solidBelow + chunk.solidLower[i]
        graph.solidOverlap[se++] = chunk.solidOverlap[i]
      }
      for (let i = chunk.emptyEdgeStarts[at]; i < chunk.emptyEdgeStarts[at + 1]; i++) {
        const upper = chunk.emptyUpper[i], lower = chunk.emptyLower[i]
        graph.emptyUpper[ee] = upper === OUTSIDE ? OUTSIDE : emptyBase + upper
        graph.emptyLower[ee++] = lower === OUTSIDE ? OUTSIDE : emptyBelow + lower
      }
      graph.layerPixels[k] = chunk.layerPixels[at]
      graph.unclosedRows += chunk.unclosedRows[at]
    }
    solidBelow = solidBase
    emptyBelow = emptyBase
  }
  graph.solidStarts[layerCount] = s
  graph.emptyStarts[layerCount] = e
  graph.solidEdgeStarts[layerCount] = se
  graph.emptyEdgeStarts[layerCount] = ee
  const columns = columnsOf?.(graph.solidStarts) ?? noColumns(layerCount)
  for (let k = 0; k < layerCount; k++) graph.layerPixels[k] += columns.totals.pixels[k]
  return { ...graph, columns }
}
