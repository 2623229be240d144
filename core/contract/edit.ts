import { z } from 'zod'
import { IdSchema, NameSchema, positive } from './primitives'
import { PrinterSchema } from './printer'
import { PLAIN_PRINT, PrintSettingsSchema } from './printing'
import { ResinSchema } from './resin'
import { ScanSettingsSchema } from './scan-settings'
import { TABLE_NAMES, TABLES, type AnyRow, type TableName, type Tables } from './tables'

/** What a job has once. */
export const JobFieldsSchema = z.object({
  name: NameSchema,
  printer: PrinterSchema,
  resin: ResinSchema,
  layerMm: positive.min(0.005).max(1),
  /** What its scans count as held, small and steep. */
  settings: ScanSettingsSchema,
  printing: PrintSettingsSchema,
})
export type JobFields = z.infer<typeof JobFieldsSchema>
/** As they are stored: what an older version wrote says nothing of how it is printed. */
export const STORED_FIELDS = { ...JobFieldsSchema.shape, printing: PrintSettingsSchema.default(PLAIN_PRINT) }
export type FieldName = keyof JobFields

const MOST_ROWS = 200000
const putSchema = z.object(Object.fromEntries(TABLE_NAMES.map(name => [name, z.array(TABLES[name]).max(MOST_ROWS).optional()])) as unknown as { [K in TableName]: z.ZodOptional<z.ZodArray<(typeof TABLES)[K]>> })
const dropSchema = z.object(Object.fromEntries(TABLE_NAMES.map(name => [name, z.array(IdSchema).max(MOST_ROWS).optional()])) as unknown as { [K in TableName]: z.ZodOptional<z.ZodArray<typeof IdSchema>> })

/** One undoable change: fields that are set, rows that are put in (by id, replacing) and dropped. Its inverse has the same form. */
export const ChangeSchema = z.object({
  label: z.string().min(1).max(120),
  set: JobFieldsSchema.partial().optional(),
  put: putSchema.optional(),
  drop: dropSchema.optional(),
})
export type Change = z.infer<typeof ChangeSchema>

/** A change as it is stored: which step of the history it is, and whether it does that step, takes it back or does it again; what is noted is no step, and nothing takes it back. */
export const EditSchema = ChangeSchema.extend({
  step: IdSchema,
  way: z.enum(['do', 'undo', 'redo', 'note']),
})
export type Edit = z.infer<typeof EditSchema>

/** Everything of a job that changes: its fields, replaced whole, and its rows, changed in place. */
export interface JobContent {
  fields: JobFields
  readonly tables: Tables
}

/** What a change touched. */
export interface Touched {
  readonly fields: ReadonlySet<FieldName>
  readonly rows: ReadonlyMap<TableName, ReadonlySet<string>>
}

/** Applies a change and gives the one that takes it back; costs what the change costs. A row that is put and dropped at once is put. */
export function applyChange(content: JobContent, change: Change): { readonly inverse: Change; readonly touched: Touched } {
  const inverse: Change = { label: change.label }
  const fields = new Set<FieldName>()
  if (change.set) {
    const before: Record<string, unknown> = {}
    for (const name of Object.keys(change.set) as FieldName[]) {
      if (change.set[name] === undefined) continue
      before[name] = content.fields[name]
      fields.add(name)
    }
    if (fields.size > 0) {
      inverse.set = before
      content.fields = { ...content.fields, ...Object.fromEntries([...fields].map(name => [name, change.set?.[name]])) }
    }
  }
  const rows = new Map<TableName, Set<string>>()
  for (const name of TABLE_NAMES) {
    const put = change.put?.[name] as readonly AnyRow[] | undefined, drop = change.drop?.[name]
    if (!put?.length && !drop?.length) continue
    const table = content.tables[name] as Map<string, AnyRow>
    const before: AnyRow[] = [], fresh: string[] = [], touched = new Set<string>()
    const note = (id: string): void => {
      if (touched.has(id)) return
      touched.add(id)
      const row = table.get(id)
      if (row) before.push(row)
      else fresh.push(id)
    }
    for (const id of drop ?? []) note(id)
    for (const row of put ?? []) note(row.id)
    for (const id of drop ?? []) table.delete(id)
    for (const row of put ?? []) table.set(row.id, row)
    if (before.length > 0) inverse.put = { ...inverse.put, [name]: before }
    if (fresh.length > 0) inverse.drop = { ...inverse.drop, [name]: fresh }
    rows.set(name, touched)
  }
  return { inverse, touched: { fields, rows } }
}

/** The one change that turns a content into another, but for its name: only rows that differ are put. */
export function changeTo(from: JobContent, to: JobContent, label: string): Change {
  const set = fieldsButName(to), put: Record<string, AnyRow[]> = {}, drop: Record<string, string[]> = {}
  for (const name of TABLE_NAMES) {
    const before = from.tables[name] as ReadonlyMap<string, AnyRow>, after = to.tables[name] as ReadonlyMap<string, AnyRow>
    const changed = [...after.values()].filter(row => JSON.stringify(before.get(row.id)) !== JSON.stringify(row)), gone = [...before.keys()].filter(id => !after.has(id))
    if (changed.length > 0) put[name] = changed
    if (gone.length > 0) drop[name] = gone
  }
  return { label, set, put, drop }
}

function fieldsButName({ fields }: JobContent): Partial<JobFields> {
  const set: Partial<JobFields> = { ...fields }
  delete set.name
  return set
}

/** Rows that one change of `changesToReplace` holds at most. */
const REPLACED_AT_ONCE = 4000

/** The changes that turn one content into another, all of it but for its name; each of bounded size. */
export function changesToReplace(theirs: JobContent, mine: JobContent, label: string): Change[] {
  const changes: Change[] = [{ label, set: fieldsButName(mine) }]
  // what is dropped goes from what hangs on others to what others hang on; what is put goes the other way
  for (const name of TABLE_NAMES.toReversed()) {
    const gone = [...theirs.tables[name].keys()].filter(id => !mine.tables[name].has(id))
    for (let i = 0; i < gone.length; i += REPLACED_AT_ONCE) changes.push({ label, drop: { [name]: gone.slice(i, i + REPLACED_AT_ONCE) } })
  }
  for (const name of TABLE_NAMES) {
    const rows = [...(mine.tables[name] as Map<string, AnyRow>).values()]
    for (let i = 0; i < rows.length; i += REPLACED_AT_ONCE) changes.push({ label, put: { [name]: rows.slice(i, i + REPLACED_AT_ONCE) } })
  }
  return changes
}
