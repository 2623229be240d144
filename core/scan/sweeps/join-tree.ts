import type { LayerGraph } from '../graph/layer-graph'

/** One island of the model as the sweep finds it; areas and volumes in pixels. */
export interface IslandRecord {
  /** The component (numbered through all layers) where it begins. */
  readonly component: number
  readonly firstLayer: number
  /** The layer where it meets something heavier or grounded; −1 where it never does. */
  joinsLayer: number
  /** The island that it meets there; −1 where that is grounded, or where it never does. */
  joins: number
  /** Pixels of all layers from birth until it joins, absorbed islands included. */
  volumePixels: number
  /** Largest area in one layer before it joins. */
  largestPixels: number
}

/** The join tree over height: islands, and for every component whose it is. */
export interface JoinTree {
  readonly islands: IslandRecord[]
  /** For every solid component the island that it belongs to in its own layer, or −1 where it is grounded. */
  readonly islandOf: Int32Array
  /** The never-joining island with most volume, where nothing is grounded by the plate; else −1. */
  readonly body: number
}

const GROUNDED = -1

/** The island that an island is part of once some layers are laid; −1 where that is grounded. @param island −1 where it is grounded already */
export function islandBy({ islands }: JoinTree, island: number, layers: number): number {
  let now = island
  while (now >= 0 && islands[now].joinsLayer >= 0 && islands[now].joinsLayer < layers) now = islands[now].joins
  return now
}

/**
 * Sweeps the layers upward and keeps one cluster for everything that is connected so far (the join tree of computational topology).
 * Where clusters meet, the grounded one goes on, else the one with more volume, then the earlier birth, the lower row, the lower
 * pixel; the others end at that layer. Layer 0 is grounded by the plate.
 */
export function joinTree(graph: LayerGraph): JoinTree {
  const total = graph.solidPixels.length
  const islands: IslandRecord[] = []
  const islandOf = new Int32Array(total).fill(GROUNDED)
  // clusters are sets of components; the root keeps the island that names the cluster, its volume and its area in this layer
  const parent = new Int32Array(total)
  const owner = new Int32Array(total)
  const volume = new Float64Array(total)
  for (let i = 0; i < total; i++) {
    parent[i] = i
    volume[i] = graph.solidPixels[i]
  }
  const find = (i: number): number => {
    while (parent[i] !== i) i = parent[i] = parent[parent[i]]
    return i
  }
  const stronger = (a: number, b: number): boolean => {
    const x = owner[a], y = owner[b]
    if (x === GROUNDED || y === GROUNDED) return x === GROUNDED
    if (volume[a] !== volume[b]) return volume[a] > volume[b]
    const p = islands[x], q = islands[y]
    if (p.firstLayer !== q.firstLayer) return p.firstLayer < q.firstLayer
    const rowOrder = graph.solidRow[p.component] - graph.solidRow[q.component]
    return rowOrder !== 0 ? rowOrder < 0 : graph.solidPixel[p.component] < graph.solidPixel[q.component]
  }
  const meetings: [number, number][] = []
  for (let k = 0; k < graph.layerCount; k++) {
    const from = graph.solidStarts[k], to = graph.solidStarts[k + 1]
    if (k === 0) {
      for (let c = from; c < to; c++) owner[c] = GROUNDED
      continue
    }
    // first see which clusters of the layer below each component touches, judged by what they had gathered below
    const firstEdge = graph.solidEdgeStarts[k], endEdge = graph.solidEdgeStarts[k + 1]
    const held = new Uint8Array(to - from)
    meetings.length = 0
    for (let e = firstEdge; e < endEdge; e++) {
      held[graph.solidUpper[e] - from] = 1
      meetings.push([graph.solidUpper[e], find(graph.solidLower[e])])
    }
    for (let c = from; c < to; c++) {
      if (held[c - from]) owner[c] = -2
      else {
        owner[c] = islands.length
        islands.push({ component: c, firstLayer: k, joinsLayer: -1, joins: -1, volumePixels: 0, largestPixels: 0 })
      }
    }
    mergeLayer(k, meetings)
    recordLayer(from, to)
  }

  function mergeLayer(k: number, list: readonly [number, number][]): void {
    const groups = new Map<number, number[]>()
    // components of this layer that share a cluster below belong together; collect clusters per connected group
    for (const [upper, below] of list) {
      const a = find(upper), b = find(below)
      if (a === b) continue
      const clustersA = groups.get(a) ?? (owner[a] === -2 ? [] : [a])
      const clustersB = groups.get(b) ?? (owner[b] === -2 ? [] : [b])
      groups.delete(a)
      groups.delete(b)
      // the representative is only a name here; volumes of the parts are settled below
      parent[a] = b
      groups.set(b, clustersA.concat(clustersB))
    }
    for (const [root, clusters] of groups) settle(k, root, clusters)
  }

  function settle(k: number, root: number, clusters: readonly number[]): void {
    let best = clusters[0]
    for (const c of clusters) if (c !== best && stronger(c, best)) best = c
    const survivor = owner[best]
    let sum = 0
    for (const c of clusters) {
      sum += volume[c]
      const island = owner[c]
      if (c !== best && island >= 0) {
        islands[island].joinsLayer = k
        islands[island].joins = survivor
        islands[island].volumePixels = volume[c]
      }
    }
    owner[root] = survivor
    volume[root] = sum
  }

  function recordLayer(from: number, to: number): void {
    const areas = new Map<number, number>()
    for (let c = from; c < to; c++) {
      const root = find(c)
      if (root !== c) volume[root] += graph.solidPixels[c]
      const island = owner[root]
      islandOf[c] = island
      if (island >= 0) areas.set(island, (areas.get(island) ?? 0) + graph.solidPixels[c])
    }
    for (const [island, area] of areas) if (area > islands[island].largestPixels) islands[island].largestPixels = area
  }

  let body = -1
  const grounded = graph.layerCount > 0 && graph.solidStarts[1] > graph.solidStarts[0]
  for (let i = 0; i < islands.length; i++) {
    if (islands[i].joinsLayer >= 0) continue
    islands[i].volumePixels = volume[find(islands[i].component)]
    if (!grounded && (body < 0 || islands[i].volumePixels > islands[body].volumePixels)) body = i
  }
  return { islands, islandOf, body }
}
