import { z } from 'zod'
import { WorthSchema } from './mark'
import { IdSchema } from './primitives'

const count = z.number().int().nonnegative()
const number = z.number()
const point = z.tuple([number, number, number])

/** What a proof looks at. */
export const ProofCheckKindSchema = z.enum(['hangs', 'floating', 'first-layer', 'suction', 'plate', 'written', 'tips', 'beams', 'slender', 'feet', 'sway', 'carriers', 'gaps', 'scars', 'skin'])
export type ProofCheckKind = z.infer<typeof ProofCheckKindSchema>

/** One place that a check speaks of. */
export const ProofPlaceSchema = z.object({
  /** In the stand of the part, mm; null where it is the whole of a layer, or of the part. */
  at: point.nullable(),
  /** From 0. */
  layer: count.nullable(),
  /** In the unit of the check. */
  figure: number.nullable(),
  /** Numbers of the stilts that it is about. */
  stilts: z.array(count),
})
export type ProofPlace = z.infer<typeof ProofPlaceSchema>

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
  /** The worst first, as many as are worth showing; where nothing is amiss, the one that comes nearest to it. */
  places: z.array(ProofPlaceSchema).max(100),
  sentence: z.string(),
})
export type ProofCheck = z.infer<typeof ProofCheckSchema>

/** A check that somebody decided to leave as it is, for as long as it is no worse than it was then. */
export const CheckWaiverSchema = z.object({
  id: IdSchema,
  part: IdSchema,
  check: ProofCheckKindSchema,
  /** How many places were not as they should be, and how far the worst was from its limit, in the unit of the check. */
  count,
  beyond: z.number().nonnegative(),
  reason: z.string().trim().min(1).max(300),
})
export type CheckWaiver = z.infer<typeof CheckWaiverSchema>

/** What a plan left open, and why. */
export const LeftOpenSchema = z.object({
  kind: z.enum(['island', 'ledge']),
  /** Where it begins, from 0. */
  layer: count,
  /** In the stand of the part, mm. */
  at: point,
  reason: z.string().max(600),
})
export type LeftOpen = z.infer<typeof LeftOpenSchema>

/** What the last proof of a part found. Its id is that of the part. */
export const KeptProofSchema = z.object({
  id: IdSchema,
  /** The state of the part that it is of: where this differs from what is there now, it is stale. */
  of: z.string().max(100),
  checks: z.array(ProofCheckSchema).max(40),
  /** What the last plan left open; left out where nothing was planned, or nothing is. */
  left: z.array(LeftOpenSchema).max(500).optional(),
})
export type KeptProof = z.infer<typeof KeptProofSchema>

/** What `proof` prints. Loads and what can be borne are estimates; layers from 0; mm, mm², N. */
export const ProofReportSchema = z.object({
  /** Whether nothing that was looked at is bad but what was waived, and the same in a sentence. */
  ready: z.boolean(),
  verdict: z.string(),
  checks: z.array(ProofCheckSchema.extend({ /** Why it may stay as it is; null where it was not waived. */ waived: z.string().nullable() })),
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

/** What `ready` prints: what it did, what is left to do as sentences, and the proof of it. */
export const ReadyReportSchema = z.object({
  /** The file that the job was written to. */
  out: z.string(),
  /** Stilts that were placed, braces that were put in, stilts that were made thicker. */
  placed: count,
  braces: count,
  thickened: count,
  left: z.array(z.string()),
  proof: ProofReportSchema,
})
export type ReadyReport = z.infer<typeof ReadyReportSchema>

/** What a plan comes to, to be set beside another one. */
export const PlanMeasuresSchema = z.object({
  openIslands: count,
  openLedges: count,
  /** Open islands by what hangs on them, and cups that pull. */
  openByClass: z.record(z.string(), count),
  openCups: count,
  tips: count,
  feet: count,
  /** Contact of all tips by what the skin there is worth, mm². */
  scarMm2: z.record(z.string(), number),
  /** What the supports add to the layers of the part, mm³. */
  resinMm3: number,
  /** Diameters of tips, rounded to a twentieth of a millimetre, and how many have each. */
  tipsBySize: z.array(z.object({ mm: number, count })),
  /** The largest share of its strength that a tip bears, and how far the part sways, mm; null where nothing is loaded. */
  weakest: number.nullable(),
  swayMm: number.nullable(),
})
export type PlanMeasures = z.infer<typeof PlanMeasuresSchema>

/** What `plan` prints: what it placed, what no tip could be placed under and why, what the plan comes to, and the proof of it. */
export const PlanReportSchema = z.object({
  /** The file that the plan was written to. */
  out: z.string(),
  placed: count,
  tips: count,
  feet: count,
  notHeld: z.array(LeftOpenSchema),
  measures: PlanMeasuresSchema,
  proof: ProofReportSchema,
})
export type PlanReport = z.infer<typeof PlanReportSchema>
