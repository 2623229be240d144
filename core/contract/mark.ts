import { z } from 'zod'
import { count, IdSchema } from './primitives'

/** What a face is worth: usual; scars are to be avoided; scars do no harm; nothing may touch it. */
export const WORTHS = ['plain', 'prized', 'spare', 'off-limits'] as const
export const WorthSchema = z.enum(WORTHS)
export type Worth = z.infer<typeof WorthSchema>

const MOST_RUNS = 2_000_000

/** Triangles of a file, as runs: how many are left out, how many are taken, and so on in turn. */
export const RunsSchema = z.array(count).max(MOST_RUNS).refine(runs => runs.length % 2 === 0, 'must come in pairs')

/** Faces of a part that were given a worth in one go. Where marks overlap, the one that was made last counts. */
export const MarkSchema = z.object({
  id: IdSchema,
  part: IdSchema,
  worth: WorthSchema,
  runs: RunsSchema,
})
export type Mark = z.infer<typeof MarkSchema>
