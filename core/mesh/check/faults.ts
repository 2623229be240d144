import type { Box, Mesh } from '../triangle-mesh'

/** What may be wrong with a mesh, or odd about it. */
export const FAULT_KINDS = ['unclosed', 'seam', 'many-faced', 'flipped', 'inside-out', 'repeated', 'collapsed', 'sliver', 'crossing', 'sheet', 'cavity', 'within'] as const
export type FaultKind = (typeof FAULT_KINDS)[number]

/** What preparing a mesh puts right; the others stay as they are. */
export const MENDED: ReadonlySet<FaultKind> = new Set(['unclosed', 'seam', 'flipped', 'inside-out', 'repeated', 'collapsed', 'sheet'])

/** Something that was found in a mesh as it came. */
export interface MeshFault {
  readonly kind: FaultKind
  /** Edges of unclosed, seam and many-faced; pairs of faces of crossing; shells of inside-out, sheet, cavity and within; faces of all others. */
  readonly count: number
  /** Whether there are more than were counted. */
  readonly more: boolean
  /** Where: x, y, z of both ends of segments, in the coordinates of the source; not all of them where there are very many. */
  readonly segments: Float32Array
}

/** Places of one kind that are kept. */
export const MOST_SEGMENTS = 1500

/** Collects the segments of a fault, as many as are kept. */
export class Places {
  readonly #mesh: Mesh
  readonly #values: number[] = []

  constructor(mesh: Mesh) {
    this.#mesh = mesh
  }

  /** The edge between two vertices. */
  edge(a: number, b: number): void {
    if (this.#values.length >= 6 * MOST_SEGMENTS) return
    const { positions: p } = this.#mesh
    this.#values.push(p[3 * a], p[3 * a + 1], p[3 * a + 2], p[3 * b], p[3 * b + 1], p[3 * b + 2])
  }

  /** The outline of a triangle of these. */
  face(triangles: Uint32Array, i: number): void {
    for (let c = 0; c < 3; c++) this.edge(triangles[3 * i + c], triangles[3 * i + ((c + 1) % 3)])
  }

  /** The edges of a box. */
  box({ min, max }: Box): void {
    if (this.#values.length + 72 > 6 * MOST_SEGMENTS) return
    const corner = (i: number): number[] => [i & 1 ? max[0] : min[0], i & 2 ? max[1] : min[1], i & 4 ? max[2] : min[2]]
    for (let i = 0; i < 8; i++) for (const bit of [1, 2, 4]) if (!(i & bit)) this.#values.push(...corner(i), ...corner(i | bit))
  }

  taken(): Float32Array {
    return Float32Array.from(this.#values)
  }
}
