import type { GraphChunk, LayerGraph } from './layer-graph'
import { OUTSIDE } from './layer-labels'

/** Where one layer of a graph comes from. */
export interface LayerSource {
  readonly chunk: GraphChunk
  /** Layer within the chunk. */
  readonly at: number
}

/** A solid component that stands by itself: a section of a support that touches nothing else, added to what a layer has. */
export interface LoneComponent {
  readonly pixels: number
  readonly sumX: number
  readonly sumY: number
  readonly row: number
  readonly pixel: number
}

/** An edge between two layers that no chunk knows, by numbers within the layers. */
export interface LoneEdge {
  readonly upper: number
  readonly lower: number
  readonly overlap: number
}

/** What is added to a layer: components, numbered on from those of its source, and edges to the layer below. */
export interface LayerExtra {
  readonly components: readonly LoneComponent[]
  readonly edges: readonly LoneEdge[]
}

/** Sources of all layers of some chunks given in order. */
export function sourcesOf(chunks: readonly GraphChunk[]): LayerSource[] {
  return chunks.flatMap(chunk => Array.from({ length: chunk.layers }, (_, at) => ({ chunk, at })))
}

/** Puts layers together into one graph. A layer without a source is empty. */
export function joinLayers(sources: readonly (LayerSource | null)[], extras?: readonly (LayerExtra | null)[]): LayerGraph {
  const layerCount = sources.length
  let solids = 0, empties = 0, edges = 0, emptyEdges = 0
  for (let k = 0; k < layerCount; k++) {
    const s = sources[k], x = extras?.[k]
    if (s) {
      solids += s.chunk.solidStarts[s.at + 1] - s.chunk.solidStarts[s.at]
      empties += s.chunk.emptyStarts[s.at + 1] - s.chunk.emptyStarts[s.at]
      edges += s.chunk.solidEdgeStarts[s.at + 1] - s.chunk.solidEdgeStarts[s.at]
      emptyEdges += s.chunk.emptyEdgeStarts[s.at + 1] - s.chunk.emptyEdgeStarts[s.at]
    }
    if (x) {
      solids += x.components.length
      edges += x.edges.length
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
    const source = sources[k], extra = extras?.[k]
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
    if (extra) {
      for (const c of extra.components) {
        graph.solidPixels[s] = c.pixels
        graph.solidSumX[s] = c.sumX
        graph.solidSumY[s] = c.sumY
        graph.solidRow[s] = c.row
        graph.solidPixel[s++] = c.pixel
        graph.layerPixels[k] += c.pixels
      }
      for (const x of extra.edges) {
        graph.solidUpper[se] = solidBase + x.upper
        graph.solidLower[se] = solidBelow + x.lower
        graph.solidOverlap[se++] = x.overlap
      }
    }
    solidBelow = solidBase
    emptyBelow = emptyBase
  }
  graph.solidStarts[layerCount] = s
  graph.emptyStarts[layerCount] = e
  graph.solidEdgeStarts[layerCount] = se
  graph.emptyEdgeStarts[layerCount] = ee
  return graph
}
