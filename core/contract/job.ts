import { z } from 'zod'
import { MeshReportSchema } from './mesh-report'
import { ScanSettingsSchema, WaiverSchema } from './scan-settings'
import { PlanBeamSchema, PlanNodeSchema, PoseSchema } from './plan'

const count = z.number().int().nonnegative()

export const PrinterSchema = z.object({
  name: z.string().min(1).max(80),
  widthMm: z.number().positive(),
  depthMm: z.number().positive(),
  heightMm: z.number().positive(),
  pixelMm: z.number().positive(),
  layerMm: z.number().positive(),
})
export type Printer = z.infer<typeof PrinterSchema>

/** The printer that a job has until another is chosen. */
export const DEFAULT_PRINTER: Printer = { name: 'Harbour 50', widthMm: 153.36, depthMm: 77.76, heightMm: 165, pixelMm: 0.05, layerMm: 0.05 }
/** The resin that goes with it; a name only until resins have numbers of their own. */
export const DEFAULT_RESIN = 'grey resin'

/** What was found in a mesh when it was brought in. */
export const MeshSummarySchema = MeshReportSchema.extend({
  /** Not counted by older versions. */
  zippedEdges: count.default(0),
  /** Its lowest part is a broad flat or a set of feet. */
  looksStanding: z.boolean(),
})
export type MeshSummary = z.infer<typeof MeshSummarySchema>

export const JobSummarySchema = z.object({
  id: z.string(),
  name: z.string(),
  revision: count,
  updatedAt: z.string(),
  mesh: MeshSummarySchema,
  stilts: count,
  /** Changes whenever a new picture was stored; null while there is none. */
  pictureVersion: z.string().nullable(),
})
export type JobSummary = z.infer<typeof JobSummarySchema>

/** A name as people read it: no control characters, no half of a character. */
export const JobNameSchema = z.string().trim().min(1).max(120).refine(isPlainText, 'must be plain text')

function isPlainText(text: string): boolean {
  // eslint-disable-next-line no-control-regex
  return !/[\u0000-\u001f\u007f]/.test(text) && !/[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/.test(text)
}

export const JobSchema = z.object({
  id: z.string(),
  name: z.string(),
  revision: count,
  meshHash: z.string(),
  mesh: MeshSummarySchema,
  printer: PrinterSchema,
  pose: PoseSchema,
  /** Whether "keep on the plate or lift" was answered, or never had to be asked. */
  poseSettled: z.boolean(),
  nodes: z.array(PlanNodeSchema),
  beams: z.array(PlanBeamSchema),
  /** What its scans count as held, small and steep. */
  settings: ScanSettingsSchema,
  waivers: z.array(WaiverSchema),
  /** Names of the batches of edits that were applied last, oldest first: who sent one and got no answer finds it here. */
  batches: z.array(z.string()),
})
export type Job = z.infer<typeof JobSchema>

/** One undoable change: what is put in (by id, replacing) and what is dropped. Its inverse has the same form. */
export const EditSchema = z.object({
  label: z.string().min(1).max(120),
  name: JobNameSchema.optional(),
  pose: PoseSchema.optional(),
  poseSettled: z.boolean().optional(),
  putNodes: z.array(PlanNodeSchema).max(200000).optional(),
  putBeams: z.array(PlanBeamSchema).max(200000).optional(),
  dropNodes: z.array(z.string()).max(200000).optional(),
  dropBeams: z.array(z.string()).max(200000).optional(),
  settings: ScanSettingsSchema.optional(),
  putWaivers: z.array(WaiverSchema).max(10000).optional(),
  dropWaivers: z.array(z.string()).max(10000).optional(),
})
export type Edit = z.infer<typeof EditSchema>

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

/** An error as a problem document (RFC 9457); `detail` is a sentence for the person. */
export const ProblemSchema = z.object({
  type: z.string(),
  title: z.string(),
  status: z.number().int(),
  detail: z.string(),
  code: z.string(),
})
export type Problem = z.infer<typeof ProblemSchema>

/** The parts of a job that edits change. */
export type JobContent = Pick<Job, 'name' | 'pose' | 'poseSettled' | 'nodes' | 'beams' | 'settings' | 'waivers'>

/** The lists of a job that edits change row by row, and the names under which an edit puts and drops their rows. */
const ROWS = [
  { list: 'nodes', put: 'putNodes', drop: 'dropNodes' },
  { list: 'beams', put: 'putBeams', drop: 'dropBeams' },
  { list: 'waivers', put: 'putWaivers', drop: 'dropWaivers' },
] as const
/** What an edit changes whole. */
const FIELDS = ['name', 'pose', 'poseSettled', 'settings'] as const
type Row = { readonly id: string }

/** Applies an edit. Items that are put keep their place where the id is known and are appended where it is new. */
export function applyEdit<T extends JobContent>(job: T, edit: Edit): T {
  const next: Record<string, unknown> = { ...job }
  for (const field of FIELDS) if (edit[field] !== undefined) next[field] = edit[field]
  for (const { list, put, drop } of ROWS) next[list] = patch<Row>(job[list], edit[put], edit[drop])
  return next as T
}

/** The edit that takes `edit` back, to be asked for before it is applied. */
export function inverseOf(job: JobContent, edit: Edit): Edit {
  const inverse: Record<string, unknown> = { label: edit.label }
  for (const field of FIELDS) if (edit[field] !== undefined) inverse[field] = job[field]
  for (const { list, put, drop } of ROWS) {
    if (!edit[put] && !edit[drop]) continue
    const undo = undoPatch<Row>(job[list], edit[put], edit[drop])
    inverse[put] = undo.put
    inverse[drop] = undo.drop
  }
  return inverse as Edit
}

/** Rows that one edit of `editsToReplace` holds at most. */
const REPLACED_AT_ONCE = 4000

/** The edits that turn one content into another, all of it but for its name; each of bounded size. */
export function editsToReplace(theirs: JobContent, mine: JobContent, label: string): Edit[] {
  const edits: Edit[] = [{ label, pose: mine.pose, poseSettled: mine.poseSettled, settings: mine.settings }]
  for (const { list, put, drop } of ROWS) {
    const kept = new Set(mine[list].map(row => row.id))
    const gone = theirs[list].map(row => row.id).filter(id => !kept.has(id))
    for (let i = 0; i < gone.length; i += REPLACED_AT_ONCE) edits.push({ label, [drop]: gone.slice(i, i + REPLACED_AT_ONCE) })
    for (let i = 0; i < mine[list].length; i += REPLACED_AT_ONCE) edits.push({ label, [put]: mine[list].slice(i, i + REPLACED_AT_ONCE) })
  }
  return edits
}

function patch<I extends { id: string }>(items: readonly I[], put: readonly I[] = [], drop: readonly string[] = []): I[] {
  if (put.length === 0 && drop.length === 0) return items as I[]
  const fresh = new Map(put.map(i => [i.id, i]))
  const gone = new Set(drop)
  const out: I[] = []
  for (const item of items) {
    const replacement = fresh.get(item.id)
    if (replacement) {
      out.push(replacement)
      fresh.delete(item.id)
    } else if (!gone.has(item.id)) out.push(item)
  }
  for (const item of fresh.values()) out.push(item)
  return out
}

function undoPatch<I extends { id: string }>(items: readonly I[], put: readonly I[] = [], drop: readonly string[] = []): { put: I[]; drop: string[] } {
  const touched = new Set([...put.map(i => i.id), ...drop])
  const before = items.filter(i => touched.has(i.id))
  const known = new Set(before.map(i => i.id))
  return { put: before, drop: put.map(i => i.id).filter(id => !known.has(id)) }
}
