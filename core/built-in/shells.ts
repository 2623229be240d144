import type { Mesh, Vec3 } from '../mesh'

/** A piece of a mesh whose triangles hang together. */
export interface ShellPiece {
  /** Numbers of its triangles. */
  readonly triangles: readonly number[]
  readonly low: Vec3
  readonly high: Vec3
}

/**
 * The pieces of a mesh, the one with the most triangles first. What meets in a corner alone does not hang together; where more than two
 * faces meet at an edge, as where two pieces have an edge in common, those hang together that were written nearest to each other.
 */
export function piecesOf({ positions: p, triangles: t }: Mesh): ShellPiece[] {
  const count = t.length / 3, vertices = p.length / 3, parent = new Int32Array(count).map((_, i) => i)
  const find = (n: number): number => {
    while (parent[n] !== n) n = parent[n] = parent[parent[n]]
    return n
  }
  /** The one other face at an edge, seen from either side; and edges of more than two. */
  const first = new Map<number, number>(), more = new Map<number, number[]>()
  for (let n = 0; n < count; n++) {
    for (let c = 0; c < 3; c++) {
      const a = t[3 * n + c], b = t[3 * n + ((c + 1) % 3)], key = Math.min(a, b) * vertices + Math.max(a, b), other = first.get(key)
      // faces that run along the edge from its lower corner are told by their number, the others by its complement
      const side = a < b ? n : ~n
      if (other === undefined) first.set(key, side)
      else more.set(key, [...(more.get(key) ?? [other]), side])
    }
  }
  for (const sides of more.values()) {
    const ahead = sides.filter(s => s >= 0), back = sides.filter(s => s < 0).map(s => ~s)
    for (const n of ahead) {
      const nearest = back.reduce<number | null>((best, m) => (best === null || Math.abs(m - n) < Math.abs(best - n) ? m : best), null)
      if (nearest !== null) parent[find(n)] = find(nearest)
    }
  }
  const pieces = new Map<number, { triangles: number[]; low: [number, number, number]; high: [number, number, number] }>()
  for (let n = 0; n < count; n++) {
    const root = find(n)
    let piece = pieces.get(root)
    if (!piece) pieces.set(root, (piece = { triangles: [], low: [Infinity, Infinity, Infinity], high: [-Infinity, -Infinity, -Infinity] }))
    piece.triangles.push(n)
    for (let c = 0; c < 3; c++) {
      for (const a of [0, 1, 2] as const) {
        const x = p[3 * t[3 * n + c] + a]
        if (x < piece.low[a]) piece.low[a] = x
        if (x > piece.high[a]) piece.high[a] = x
      }
    }
  }
  return [...pieces.values()].sort((a, b) => b.triangles.length - a.triangles.length)
}
