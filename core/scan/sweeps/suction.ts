import type { CupEnd } from '../../contract'
import type { LayerGraph } from '../graph/layer-graph'
import { OUTSIDE } from '../graph/layer-labels'
import { Int32List } from '../raster/growable'

/** A space that pulls while it is printed, or a sealed cavity; areas and volumes in pixels. */
export interface CupRecord {
  readonly firstLayer: number
  readonly lastLayer: number
  readonly peakPixels: number
  /** The layer where it encloses most. */
  readonly peakLayer: number
  readonly volumePixels: number
  readonly ends: CupEnd
  /** An empty component of the peak layer that belongs to it, numbered through all layers. */
  readonly peakComponent: number
}

/** The cups, and for every enclosed empty component whose it is (−1 where it is open below). */
export interface Suction {
  readonly cups: CupRecord[]
  readonly cupOf: Int32Array
}

/** What the sweep needs to know of a graph. */
export type EmptyGraph = Pick<LayerGraph, 'layerCount' | 'emptyStarts' | 'emptyPixels' | 'emptyEdgeStarts' | 'emptyUpper' | 'emptyLower' | 'layerPixels'>

interface Cluster {
  firstLayer: number
  lastLayer: number
  /** Enclosed pixels per layer from `firstLayer` on. */
  pixels: number[]
  components: number[]
}

/**
 * Sweeps the enclosed empty space upward. A space joins those that it overlaps in the layer below and is open where any of them
 * reaches the outside; what is not open pulls on the film, for the newest layer lies on it and the plate closes layer 0 from below.
 * Spaces that meet are one cup.
 */
export function findSuction(graph: EmptyGraph): Suction {
  const total = graph.emptyPixels.length
  const parent = new Int32Array(total + 1)
  for (let i = 0; i <= total; i++) parent[i] = i
  const outside = total
  const find = (i: number): number => {
    while (parent[i] !== i) i = parent[i] = parent[parent[i]]
    return i
  }
  const rootOf = (component: number): number => find(component === OUTSIDE ? outside : component)
  const clusters = new Map<number, Cluster>()
  const cups: CupRecord[] = []
  const cupOf = new Int32Array(total).fill(-1)
  let top = graph.layerCount - 1
  while (top > 0 && graph.layerPixels[top] === 0) top--

  const end = (cluster: Cluster, ends: CupEnd): void => {
    let volumePixels = 0, peakPixels = 0, peakLayer = cluster.firstLayer
    cluster.pixels.forEach((n, i) => {
      volumePixels += n
      if (n > peakPixels) {
        peakPixels = n
        peakLayer = cluster.firstLayer + i
      }
    })
    let peakComponent = cluster.components[0]
    for (const c of cluster.components) {
      cupOf[c] = cups.length
      if (c >= graph.emptyStarts[peakLayer] && c < graph.emptyStarts[peakLayer + 1]) peakComponent = c
    }
    cups.push({ firstLayer: cluster.firstLayer, lastLayer: cluster.lastLayer, peakPixels, peakLayer, volumePixels, ends, peakComponent })
  }

  for (let k = 0; k <= top; k++) {
    const from = graph.emptyStarts[k], to = graph.emptyStarts[k + 1]
    for (let c = from; c < to; c++) clusters.set(c, { firstLayer: k, lastLayer: k, pixels: [graph.emptyPixels[c]], components: [c] })
    // first everything that reaches the outside in this layer, each for itself, so that the order of the edges does not matter
    const firstEdge = graph.emptyEdgeStarts[k], endEdge = graph.emptyEdgeStarts[k + 1]
    for (let changed = true; changed;) {
      changed = false
      for (let e = firstEdge; e < endEdge; e++) {
        const a = rootOf(graph.emptyUpper[e]), b = rootOf(graph.emptyLower[e]), open = find(outside)
        if (a === b || (a !== open && b !== open)) continue
        const shut = a === open ? b : a
        vent(shut, k)
        parent[shut] = open
        changed = true
      }
    }
    for (let e = firstEdge; e < endEdge; e++) {
      const a = rootOf(graph.emptyUpper[e]), b = rootOf(graph.emptyLower[e])
      if (a === b) continue
      const merged = mergeClusters(clusters.get(a) as Cluster, clusters.get(b) as Cluster)
      clusters.delete(a)
      parent[a] = b
      clusters.set(b, merged)
    }
    for (const [root, cluster] of clusters) {
      if (cluster.lastLayer < k) {
        clusters.delete(root)
        end(cluster, 'closed')
      }
    }
  }
  for (const cluster of clusters.values()) end(cluster, 'open')

  /** A cluster reaches the outside in layer k: until the layer before, it was a cup. */
  function vent(root: number, k: number): void {
    const cluster = clusters.get(root)
    if (!cluster) return
    clusters.delete(root)
    if (cluster.firstLayer === k) return
    cluster.pixels.length = Math.min(cluster.pixels.length, k - cluster.firstLayer)
    cluster.components = cluster.components.filter(c => c < graph.emptyStarts[k])
    cluster.lastLayer = Math.min(cluster.lastLayer, k - 1)
    end(cluster, 'vent')
  }
  return { cups, cupOf }
}

function mergeClusters(a: Cluster, b: Cluster): Cluster {
  const [older, newer] = a.firstLayer <= b.firstLayer ? [a, b] : [b, a]
  newer.pixels.forEach((n, i) => {
    const at = newer.firstLayer + i - older.firstLayer
    while (older.pixels.length <= at) older.pixels.push(0)
    older.pixels[at] += n
  })
  older.lastLayer = Math.max(older.lastLayer, newer.lastLayer)
  if (older.components.length < newer.components.length) {
    for (const c of older.components) newer.components.push(c)
    older.components = newer.components
  } else for (const c of newer.components) older.components.push(c)
  return older
}

/**
 * Spaces that hold resin while the part hangs from the plate: the same sweep from the last layer down to the first, with the
 * last layer open below. What is sealed all around is no pool, nor what the plate closes.
 */
export function findPools(graph: LayerGraph): CupRecord[] {
  const n = graph.layerCount, total = graph.emptyPixels.length
  const turned = new Int32Array(total), back = new Int32Array(total)
  const emptyStarts = new Int32Array(n + 1), emptyPixels = new Int32Array(total), emptyEdgeStarts = new Int32Array(n + 1), layerPixels = new Int32Array(n)
  let at = 0
  for (let k = n - 1; k >= 0; k--) {
    emptyStarts[n - 1 - k] = at
    // layers below the part count too: through them it drains
    layerPixels[n - 1 - k] = 1
    for (let c = graph.emptyStarts[k]; c < graph.emptyStarts[k + 1]; c++) {
      turned[c] = at
      back[at] = c
      emptyPixels[at++] = graph.emptyPixels[c]
    }
  }
  emptyStarts[n] = at
  const upper = new Int32List(), lower = new Int32List()
  let top = n - 1
  while (top > 0 && graph.layerPixels[top] === 0) top--
  for (let k = n - 1; k >= 0; k--) {
    emptyEdgeStarts[n - 1 - k] = upper.length
    if (k >= top) {
      for (let c = graph.emptyStarts[k]; c < graph.emptyStarts[k + 1]; c++) {
        upper.push(turned[c])
        lower.push(OUTSIDE)
      }
    }
    if (k + 1 >= n) continue
    for (let e = graph.emptyEdgeStarts[k + 1]; e < graph.emptyEdgeStarts[k + 2]; e++) {
      upper.push(graph.emptyLower[e] === OUTSIDE ? OUTSIDE : turned[graph.emptyLower[e]])
      lower.push(graph.emptyUpper[e] === OUTSIDE ? OUTSIDE : turned[graph.emptyUpper[e]])
    }
  }
  emptyEdgeStarts[n] = upper.length
  const { cups } = findSuction({ layerCount: n, emptyStarts, emptyPixels, emptyEdgeStarts, emptyUpper: upper.toArray(), emptyLower: lower.toArray(), layerPixels })
  return cups.filter(c => c.ends === 'vent').map(c => ({
    ...c, firstLayer: n - 1 - c.lastLayer, lastLayer: n - 1 - c.firstLayer, peakLayer: n - 1 - c.peakLayer, peakComponent: back[c.peakComponent],
  }))
}
