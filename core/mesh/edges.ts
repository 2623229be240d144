/** Every undirected edge of a mesh once, as runs over half-edges sorted by their lower vertex. */
export interface EdgeRuns {
  /** Half-edge numbers (3 · triangle + corner), sorted so that the half-edges of one undirected edge are neighbours. */
  readonly halfEdges: Uint32Array
  /** First entry of every edge in `halfEdges`, and one past the last. */
  readonly starts: Uint32Array
  readonly edgeCount: number
}

/** Start and end vertex of a half-edge. */
export function halfEdgeEnds(triangles: Uint32Array, halfEdge: number): [number, number] {
  const triangle = halfEdge - (halfEdge % 3)
  return [triangles[halfEdge], triangles[triangle + ((halfEdge + 1) % 3)]]
}

/** Groups the half-edges of welded triangles by undirected edge. Linear in the number of triangles but for fans of many hundred. */
export function edgeRuns(triangles: Uint32Array, vertexCount: number): EdgeRuns {
  const n = triangles.length
  const low = new Uint32Array(n), high = new Uint32Array(n)
  const first = new Uint32Array(vertexCount + 1)
  for (let t = 0; t < n; t += 3) {
    for (let c = 0; c < 3; c++) {
      const a = triangles[t + c], b = triangles[t + (c === 2 ? 0 : c + 1)]
      low[t + c] = a < b ? a : b
      high[t + c] = a < b ? b : a
      first[low[t + c] + 1]++
    }
  }
  for (let v = 0; v < vertexCount; v++) first[v + 1] += first[v]
  const cursor = first.slice(0, vertexCount)
  const halfEdges = new Uint32Array(n)
  for (let h = 0; h < n; h++) halfEdges[cursor[low[h]]++] = h
  const starts = new Uint32Array(n + 1)
  let edgeCount = 0
  for (let v = 0; v < vertexCount; v++) {
    const from = first[v], to = first[v + 1]
    if (to - from > 48) halfEdges.subarray(from, to).sort((a, b) => high[a] - high[b] || a - b)
    else {
      for (let i = from + 1; i < to; i++) {
        const h = halfEdges[i]
        let j = i - 1
        while (j >= from && (high[halfEdges[j]] > high[h])) {
          halfEdges[j + 1] = halfEdges[j]
          j--
        }
        halfEdges[j + 1] = h
      }
    }
    for (let i = from; i < to; i++) {
      if (i === from || high[halfEdges[i]] !== high[halfEdges[i - 1]]) starts[edgeCount++] = i
    }
  }
  starts[edgeCount] = n
  return { halfEdges, starts: starts.slice(0, edgeCount + 1), edgeCount }
}
