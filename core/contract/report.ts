import { z } from 'zod'

const count = z.number().int().nonnegative()

/** What `scan` prints: layers from 0, layer k spans [k·h, (k+1)·h) above the plate; mm, mm², mm³. */
export const ScanReportSchema = z.object({
  layerHeightMm: z.number().positive(),
  pixelMm: z.number().positive(),
  layerCount: count,
  mesh: z.object({
    triangles: count,
    unclosedEdges: count,
    volumeMm3: z.number(),
    sizeMm: z.tuple([z.number(), z.number(), z.number()]),
  }),
  islands: z.array(z.object({
    layer: count,
    zMm: z.number(),
    areaMm2: z.number(),
    center: z.tuple([z.number(), z.number(), z.number()]),
    joinsLayer: count.nullable(),
    volumeMm3: z.number(),
    class: z.enum(['flake', 'detail', 'limb', 'body']),
    state: z.enum(['open', 'partly', 'held', 'noted', 'waived']),
  })),
  suction: z.array(z.object({
    firstLayer: count,
    lastLayer: count,
    peakAreaMm2: z.number(),
    volumeMm3: z.number(),
    ends: z.enum(['vent', 'closed', 'open']),
  })),
  /** Stilts that begin in the air. */
  floatingStilts: z.array(z.object({ layer: count, center: z.tuple([z.number(), z.number(), z.number()]) })),
  layers: z.object({ areaMm2: z.array(z.number()), unclosedRows: count }),
  seconds: z.number().nonnegative(),
})
export type ScanReport = z.infer<typeof ScanReportSchema>
