import { z } from 'zod'
import { finite } from './primitives'

const count = z.number().int().nonnegative()

/** What was found in a mesh when it was read. */
export const MeshReportSchema = z.object({
  triangles: count,
  unclosedEdges: count,
  /** Seams without width that were zipped; holes that were closed. */
  zippedEdges: count,
  cappedLoops: count,
  /** Faces turned against their neighbours, edges of more than two faces, faces without a direction, pairs of faces that run through each other. Not counted by older versions. */
  flippedFaces: count.default(0),
  manyFacedEdges: count.default(0),
  slivers: count.default(0),
  crossingPairs: count.nullable().default(null),
  duplicateTriangles: count,
  degenerateTriangles: count,
  /** Shells; of them turned, kept as cavities, left out as sheets without a thickness. */
  shells: count,
  turnedShells: count,
  cavities: count,
  /** Shells that face outward within other solid. */
  solidsWithin: count.default(0),
  sheets: count,
  /** More than 2 % of its edges are unclosed: what follows is not to be trusted. */
  tooDamaged: z.boolean(),
  volumeMm3: z.number(),
  sizeMm: z.tuple([z.number(), z.number(), z.number()]),
})

/** What may be wrong with a mesh, or odd about it. */
export const FaultKindSchema = z.enum(['unclosed', 'seam', 'many-faced', 'flipped', 'inside-out', 'repeated', 'collapsed', 'sliver', 'crossing', 'sheet', 'cavity', 'within'])

/** What was found in a mesh as it came, and where: x, y, z of both ends of segments, in the coordinates of the source, not all where there are very many. */
export const MeshFaultsSchema = z.array(z.object({ kind: FaultKindSchema, count, more: z.boolean(), segments: z.array(finite) }))
export type MeshFaults = z.infer<typeof MeshFaultsSchema>
