import type { LayerGraph } from '../graph/layer-graph'

/** What is connected to the plate when it is laid, through layers up to and including its own. */
export interface Grounded {
  /** For every solid component, 1 where it is. */
  readonly components: Uint8Array
  /** For every column the first layer in which it is; `NEVER` where it is in none. */
  readonly columns: Int32Array
}

export const NEVER = 0x7fffffff

/** Sweeps the layers upward; layer 0 is grounded by the plate. */
export function groundedWhenLaid(graph: LayerGraph): Grounded {
  const { columns } = graph, solids = graph.solidPixels.length, total = solids + columns.length
  const parent = new Int32Array(total), grounded = new Uint8Array(total)
  const components = new Uint8Array(solids), from = new Int32Array(columns.length).fill(NEVER)
  for (let i = 0; i < total; i++) parent[i] = i
  const find = (i: number): number => {
    while (parent[i] !== i) i = parent[i] = parent[parent[i]]
    return i
  }
  const join = (a: number, b: number): void => {
    a = find(a)
    b = find(b)
    if (a === b) return
    parent[a] = b
    grounded[b] |= grounded[a]
  }
  const begins = byLayer(columns.first, columns.length), ends = byLayer(columns.end, columns.length)
  let b = 0, e = 0
  /** Columns under way that are not grounded yet. */
  let open: number[] = []
  for (let k = 0; k < graph.layerCount; k++) {
    const firstOf = graph.solidStarts[k], endOf = graph.solidStarts[k + 1]
    if (k === 0) grounded.fill(1, firstOf, endOf)
    for (let i = graph.solidEdgeStarts[k]; i < graph.solidEdgeStarts[k + 1]; i++) join(graph.solidUpper[i], graph.solidLower[i])
    for (; b < begins.length && columns.first[begins[b]] === k; b++) {
      const c = begins[b]
      if (k === 0) grounded[solids + c] = 1
      else if (columns.below[c] >= 0) join(solids + c, columns.below[c])
      open.push(c)
    }
    for (; e < ends.length && columns.end[ends[e]] === k; e++) if (columns.above[ends[e]] >= 0) join(columns.above[ends[e]], solids + ends[e])
    for (let c = firstOf; c < endOf; c++) components[c] = grounded[find(c)]
    if (open.length === 0) continue
    open = open.filter(c => {
      if (k >= columns.end[c]) return false
      if (!grounded[find(solids + c)]) return true
      from[c] = k
      return false
    })
  }
  return { components, columns: from }
}

/** Numbers 0 to `length` in the order of some layers. */
function byLayer(layers: Int32Array, length: number): Uint32Array {
  return Uint32Array.from({ length }, (_, i) => i).sort((a, b) => layers[a] - layers[b])
}
