import { Int32List } from '../raster/growable'

/** Number of a component within its layer; outside is the empty space that reaches the border. */
export const OUTSIDE = -1

/** Connected components of the solid and of the enclosed empty space of one layer. */
export interface LayerLabels {
  /** Component of every span of the layer, counted from its first span. */
  solid: Int32Array
  /** Component of the gap before every span; of a row's first span, which has the outside before it, always OUTSIDE. */
  empty: Int32Array
  solidCount: number
  emptyCount: number
}

/** Room for labels that is used again for every layer. */
export function newLabels(): LayerLabels {
  return { solid: new Int32Array(256), empty: new Int32Array(256), solidCount: 0, emptyCount: 0 }
}

/** Beyond every pixel. */
export const FAR = 0x7fffffff

const parents = new Int32List(1024)

function find(parent: Int32Array, i: number): number {
  while (parent[i] !== i) {
    parent[i] = parent[parent[i]]
    i = parent[i]
  }
  return i
}

/** Joins two sets; the smaller number stays the root, so that components are numbered by their first span. */
function unite(parent: Int32Array, i: number, j: number): void {
  const a = find(parent, i), b = find(parent, j)
  if (a < b) parent[b] = a
  else parent[a] = b
}

/**
 * Labels one layer. Solid is connected through neighbouring rows that overlap by a pixel, empty space likewise: a diagonal touch
 * neither holds nor vents.
 * @param starts first span of every row, from `base` on; one more entry ends the last row
 * @param pairs start and end pixel of every span
 */
export function labelLayer(starts: Int32Array, base: number, rows: number, pairs: Int32Array, out: LayerLabels): void {
  const first = starts[base]
  const n = starts[base + rows] - first
  if (out.solid.length < n) {
    out.solid = new Int32Array(n * 2)
    out.empty = new Int32Array(n * 2)
  }
  labelSolid(starts, base, rows, pairs, first, n, out)
  labelEmpty(starts, base, rows, pairs, first, n, out)
}

function labelSolid(starts: Int32Array, base: number, rows: number, pairs: Int32Array, first: number, n: number, out: LayerLabels): void {
  parents.reserve(n + 1)
  const parent = parents.data
  for (let i = 0; i < n; i++) parent[i] = i
  for (let r = 1; r < rows; r++) {
    let i = starts[base + r - 1], j = starts[base + r]
    const iEnd = j, jEnd = starts[base + r + 1]
    while (i < iEnd && j < jEnd) {
      if (pairs[2 * i + 1] <= pairs[2 * j]) i++
      else if (pairs[2 * j + 1] <= pairs[2 * i]) j++
      else {
        if (parent[i - first] !== parent[j - first]) unite(parent, i - first, j - first)
        if (pairs[2 * i + 1] < pairs[2 * j + 1]) i++
        else j++
      }
    }
  }
  out.solidCount = compress(parent, 0, n, out.solid)
}

function labelEmpty(starts: Int32Array, base: number, rows: number, pairs: Int32Array, first: number, n: number, out: LayerLabels): void {
  // node 0 is the outside, node i + 1 the gap before span i
  parents.reserve(n + 1)
  const parent = parents.data
  let inner = 0
  for (let i = 0; i <= n; i++) parent[i] = i
  for (let r = 0; r < rows; r++) {
    const s = starts[base + r]
    if (starts[base + r + 1] > s) {
      parent[s - first + 1] = 0
      inner += starts[base + r + 1] - s - 1
    }
  }
  if (inner === 0) {
    out.empty.fill(OUTSIDE, 0, n)
    out.emptyCount = 0
    return
  }
  for (let r = 0; r <= rows; r++) {
    // rows before the first and after the last are empty
    const i0 = r === 0 ? first : starts[base + r - 1], iEnd = r === 0 ? first : starts[base + r]
    const j0 = r === rows ? iEnd : starts[base + r], jEnd = r === rows ? iEnd : starts[base + r + 1]
    if (iEnd - i0 < 2 && jEnd - j0 < 2) continue
    if (iEnd - i0 === 2 && jEnd - j0 === 2) {
      // the usual case, the two walls of a ring: one gap each, and what is around
      const iFrom = pairs[2 * i0 + 1], iTo = pairs[2 * i0 + 2], jFrom = pairs[2 * j0 + 1], jTo = pairs[2 * j0 + 2]
      const a = i0 - first + 2, b = j0 - first + 2
      if (iFrom < jTo && jFrom < iTo && parent[a] !== parent[b]) unite(parent, a, b)
      if (iFrom < pairs[2 * j0] || iTo > pairs[2 * j0 + 3]) unite(parent, a, 0)
      if (jFrom < pairs[2 * i0] || jTo > pairs[2 * i0 + 3]) unite(parent, b, 0)
      continue
    }
    // every two gaps of both rows that overlap; first and last gap reach to infinity
    for (let i = i0, j = j0; ;) {
      const iTo = i < iEnd ? pairs[2 * i] : FAR, jTo = j < jEnd ? pairs[2 * j] : FAR
      const iFrom = i > i0 ? pairs[2 * i - 1] : -FAR, jFrom = j > j0 ? pairs[2 * j - 1] : -FAR
      if ((iFrom > jFrom ? iFrom : jFrom) < (iTo < jTo ? iTo : jTo)) {
        const a = i === iEnd ? 0 : i - first + 1, b = j === jEnd ? 0 : j - first + 1
        if (parent[a] !== parent[b]) unite(parent, a, b)
      }
      if (iTo < jTo) i++
      else if (jTo < iTo) j++
      else {
        if (iTo === FAR) break
        i++
        j++
      }
    }
  }
  parent[0] = 0
  out.emptyCount = compress(parent, 1, n, out.empty)
}

/** Numbers the roots in order; node 0 is the outside where `shift` is 1. */
function compress(parent: Int32Array, shift: number, n: number, labels: Int32Array): number {
  let count = 0
  for (let i = 0; i < n; i++) {
    const root = find(parent, i + shift)
    if (shift === 1 && root === 0) labels[i] = OUTSIDE
    else if (root === i + shift) labels[i] = count++
    else labels[i] = labels[root - shift]
  }
  return count
}
