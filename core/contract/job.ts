import { z } from 'zod'
import { EditSchema, STORED_FIELDS, type JobContent } from './edit'
import { PartSchema, MeshSummarySchema } from './part'
import { count, finite, IdSchema, NameSchema } from './primitives'
import { TABLE_NAMES, TABLES, tablesOf, type RowLists, type TableName } from './tables'

export const JobSummarySchema = z.object({
  id: z.string(),
  name: z.string(),
  revision: count,
  updatedAt: z.string(),
  /** Its parts, oldest first. */
  parts: z.array(z.object({ name: PartSchema.shape.name, summary: MeshSummarySchema.pick({ triangles: true, sizeMm: true }), recipe: PartSchema.shape.recipe })),
  copies: count,
  stilts: count,
  /** Changes whenever a new picture was stored; null while there is none. */
  pictureVersion: z.string().nullable(),
  /** Put away: kept, but out of the way. */
  archived: z.boolean(),
})
export type JobSummary = z.infer<typeof JobSummarySchema>

/** The rows of a job as lists. What an older version wrote has no rows of kinds that came later. */
export const ROW_LISTS = Object.fromEntries(TABLE_NAMES.map(name => [name, z.array(TABLES[name]).default([])])) as unknown as { [K in TableName]: z.ZodDefault<z.ZodArray<(typeof TABLES)[K]>> }

/** A job as it travels: its fields, its rows as lists sorted by id. */
export const JobSchema = z.object({
  id: z.string(),
  revision: count,
  ...STORED_FIELDS,
  ...ROW_LISTS,
  /** Names of the batches of edits that were applied last, oldest first: who sent one and got no answer finds it here. */
  batches: z.array(z.string()),
})
export type Job = z.infer<typeof JobSchema>

/** A state of a job that was given a name, to go back to. */
export const VersionSchema = z.object({ id: IdSchema, name: NameSchema, createdAt: z.string(), stilts: count })
export type Version = z.infer<typeof VersionSchema>
/** All that a version holds: fields and rows. */
export const VersionContentSchema = z.object({ ...STORED_FIELDS, ...ROW_LISTS })
export type VersionContent = z.infer<typeof VersionContentSchema>
/** Versions of a job; the oldest has to go before there are more. */
export const MOST_VERSIONS = 50

/** What of a job changes, to be changed. */
export function contentOf(job: Job): JobContent {
  const { name, printer, resin, layerMm, settings, printing } = job
  return { fields: { name, printer, resin, layerMm, settings, printing }, tables: tablesOf(job as RowLists) }
}

/** Edits that go in one batch; a queue is cut into as many as it needs. */
export const MOST_EDITS_IN_BATCH = 200
/** Size of a batch, bytes of JSON, above which it is refused; and up to which edits are put together in one. */
export const BATCH_LIMIT_BYTES = 48 * 1024 * 1024, BATCH_AIM_BYTES = 1024 * 1024

export const EditBatchSchema = z.object({
  /** Names this batch, so that one sent twice after a lost answer is applied once. */
  batch: z.string().min(8).max(60),
  baseRevision: count,
  edits: z.array(EditSchema).min(1).max(MOST_EDITS_IN_BATCH),
})
export type EditBatch = z.infer<typeof EditBatchSchema>

export const EditAnswerSchema = z.object({ revision: count })
export type EditAnswer = z.infer<typeof EditAnswerSchema>

/** A part that was brought in for a job that is there already; it belongs to it once an edit puts it. */
export const BroughtInSchema = z.object({
  part: PartSchema.omit({ id: true }),
  /** Where the file has its copies, in mm across and along, from the middle of all that it holds. */
  places: z.array(z.tuple([finite, finite])).min(1),
})
export type BroughtIn = z.infer<typeof BroughtInSchema>

/** How far a file has come that is being brought in. */
export const BringingInSchema = z.object({
  stage: z.enum(['waiting', 'reading', 'preparing', 'storing']),
  /** Of the file, while it is read. */
  share: finite.min(0).max(1),
})
export type BringingIn = z.infer<typeof BringingInSchema>

/** An error as a problem document (RFC 9457); `detail` is a sentence for the person. */
export const ProblemSchema = z.object({
  type: z.string(),
  title: z.string(),
  status: z.number().int(),
  detail: z.string(),
  code: z.string(),
})
export type Problem = z.infer<typeof ProblemSchema>

