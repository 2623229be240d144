import { z } from 'zod'

const count = z.number().int().nonnegative()

/** What was found in a mesh when it was read. */
export const MeshReportSchema = z.object({
  triangles: count,
  unclosedEdges: count,
  /** Seams without width that were zipped; holes that were closed. */
  zippedEdges: count,
  cappedLoops: count,
  duplicateTriangles: count,
  degenerateTriangles: count,
  /** Shells; of them turned, kept as cavities, left out as sheets without a thickness. */
  shells: count,
  turnedShells: count,
  cavities: count,
  sheets: count,
  /** More than 2 % of its edges are unclosed: what follows is not to be trusted. */
  tooDamaged: z.boolean(),
  volumeMm3: z.number(),
  sizeMm: z.tuple([z.number(), z.number(), z.number()]),
})
