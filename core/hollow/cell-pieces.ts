/** The corners of a cell are numbered by their bits: 1 along x, 2 along y, 4 along z. Its edges go from the one corner to the other. */
export const EDGES: readonly (readonly [number, number])[] = [[0, 1], [2, 3], [4, 5], [6, 7], [0, 2], [1, 3], [4, 6], [5, 7], [0, 4], [1, 5], [2, 6], [3, 7]]

/** Corners of each side of a cell, in turn around it. */
const SIDES: readonly (readonly number[])[] = [[0, 2, 6, 4], [1, 3, 7, 5], [0, 1, 5, 4], [2, 3, 7, 6], [0, 1, 3, 2], [4, 5, 7, 6]]

const edgeOf = (a: number, b: number): number => EDGES.findIndex(([p, q]) => (p === a && q === b) || (p === b && q === a))

/** What the surface is made of within a cell, by which of its corners are within (bit n for corner n). */
export interface CellPieces {
  /** How many pieces of surface pass through it. */
  readonly counts: Uint8Array
  /** Which piece each of the twelve edges is crossed by; 255 where none does. Twelve numbers a cell. */
  readonly ofEdge: Uint8Array
}

/**
 * All 256 ways a surface can pass through a cell. Crossed edges of a side are joined in pairs; where all four are, corners that are
 * within are parted, which is the same seen from the cell on the other side, so that what is built of it closes.
 * Source: Nielson, Dual Marching Cubes (2004), with one vertex for each piece.
 */
export function cellPieces(): CellPieces {
  const counts = new Uint8Array(256), ofEdge = new Uint8Array(12 * 256).fill(255)
  for (let within = 0; within < 256; within++) {
    const has = (corner: number): boolean => (within >> corner & 1) === 1
    const piece = EDGES.map((_, e) => e)
    const join = (e: number, f: number): void => {
      const from = piece[f], to = piece[e]
      for (let i = 0; i < 12; i++) if (piece[i] === from) piece[i] = to
    }
    for (const side of SIDES) {
      const edges = side.map((c, i) => edgeOf(c, side[(i + 1) % 4])), crossed = [0, 1, 2, 3].filter(i => has(side[i]) !== has(side[(i + 1) % 4]))
      if (crossed.length === 2) join(edges[crossed[0]], edges[crossed[1]])
      else if (crossed.length === 4) for (let i = 0; i < 4; i++) if (has(side[i])) join(edges[(i + 3) % 4], edges[i])
    }
    const seen: number[] = []
    EDGES.forEach(([a, b], e) => {
      if (has(a) === has(b)) return
      if (!seen.includes(piece[e])) seen.push(piece[e])
      ofEdge[12 * within + e] = seen.indexOf(piece[e])
    })
    counts[within] = seen.length
  }
  return { counts, ofEdge }
}
