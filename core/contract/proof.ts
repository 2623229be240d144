import { z } from 'zod'
import { WorthSchema } from './mark'

const count = z.number().int().nonnegative()
const number = z.number()
const point = z.tuple([number, number, number])

/** What a proof looks at. */
export const ProofCheckKindSchema = z.enum(['hangs', 'floating', 'first-layer', 'suction', 'plate', 'tips', 'beams', 'slender', 'feet', 'sway', 'carriers', 'gaps', 'scars', 'skin'])
export type ProofCheckKind = z.infer<typeof ProofCheckKindSchema>

/** One thing that a proof looked at: its worst figure, what it may be, and where that is. */
export const ProofCheckSchema = z.object({
  kind: ProofCheckKindSchema,
  /** Whether it is as it should be; a note is neither. */
  state: z.enum(['good', 'bad', 'note']),
  /** How many places are not as they should be. */
  count,
  figure: number.nullable(),
  limit: number.nullable(),
  unit: z.enum(['', 'mm', 'mm²', '%']),
  /** In the stand of the part, mm. */
  at: point.nullable(),
  layer: count.nullable(),
  sentence: z.string(),
})
export type ProofCheck = z.infer<typeof ProofCheckSchema>

/** What `proof` prints. Loads and what can be borne are estimates; layers from 0; mm, mm², N. */
export const ProofReportSchema = z.object({
  /** Whether nothing that was looked at is bad, and the same in a sentence. */
  ready: z.boolean(),
  verdict: z.string(),
  checks: z.array(ProofCheckSchema),
  /** Where supports touch the model, the weakest first: load over capacity, with the side pull. */
  tips: z.array(z.object({ stilt: count, end: z.enum(['tip', 'foot']), share: number, layer: count.nullable(), pulledN: number, pressedN: number, contactMm2: number, at: point })),
  /** Beams and stretches between two places that hold them, the weakest first; by what share of their capacity is used. */
  beams: z.array(z.object({ kind: z.enum(['cone', 'shaft', 'branch', 'leg', 'brace']), stilts: z.array(count), share: number, layer: count.nullable() })),
  slender: z.array(z.object({ stilts: z.array(count), share: number, layer: count.nullable(), lengthMm: number, pressedN: number, bucklesAtN: number })),
  /** Stilts without which something would fall or break, and those that bear next to nothing. */
  needed: z.array(count),
  idle: z.array(count),
  scars: z.array(z.object({ worth: WorthSchema, count, areaMm2: number })),
  lanes: z.object({
    /** What the film pulls at the model, and what could be pulled before the weakest tip breaks; null where nothing is loaded. */
    pullN: z.array(number),
    canN: z.array(number.nullable()),
    swayMm: z.array(number.nullable()),
    softDeg: z.array(number.nullable()),
  }),
})
export type ProofReport = z.infer<typeof ProofReportSchema>
