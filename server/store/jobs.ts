import { createHash, randomUUID } from 'node:crypto'
import { sql, type Kysely, type Transaction } from 'kysely'
import {
  DEFAULT_LAYER_MM, DEFAULT_PRINTER, DEFAULT_RESIN, DEFAULT_SETTINGS, follow, JobSchema, JobSummarySchema, listsOf, MOST_VERSIONS, newId, pixelMmOf, TABLE_NAMES, VersionContentSchema, contentOf,
  type AnyRow, type BroughtIn, type Change, type Edit, type EditBatch, type FieldName, type History, type Job, type JobContent, type JobSummary, type Mark, type Part, type PlanBeam, type PlanNode, type Source, type Step, type TableName, type Version, type VersionContent,
} from '@oak-stilts/core/contract'
import type { Tables } from '../database/tables'
import { checkRows } from './check-rows'
import { chunks } from './chunks'

/** A save that was made against an older revision than the stored one. */
export class StaleRevision extends Error {
  readonly revision: number
  constructor(revision: number) {
    super('This job was changed in another tab or window.')
    this.revision = revision
  }
}

/** A batch under the name of one that was applied, with other edits in it. */
export class BatchReused extends Error {
  constructor() {
    super('A change was sent under the name of another one that is stored already. It was not taken; load the job again.')
  }
}

/** What was deleted can be brought back for so long, ms. */
export const KEPT_DELETED_MS = 24 * 3600 * 1000
/** Batches of a job that are known again by their name. */
const REMEMBERED_BATCHES = 64
/** How far back undo goes: so many edits, so many bytes of them. */
const KEPT_EDITS = 500, KEPT_BYTES = 64 * 1024 * 1024
/** What of that is sent to a page. */
const SENT_BYTES = 16 * 1024 * 1024

const COLUMNS: Record<FieldName, keyof Tables['jobs']> = { name: 'name', printer: 'printer', resin: 'resin', layerMm: 'layer_mm', settings: 'settings', printing: 'printing' }

export interface NewJob {
  readonly name: string
  readonly parts: readonly BroughtIn[]
  /** Turn about z of its copies, degrees. */
  readonly turnDeg: number
  /** Face marks of its first part. */
  readonly marks?: readonly Pick<Mark, 'worth' | 'runs'>[]
  /** Stilts of its first part, whatever part their rows name. */
  readonly plan?: { readonly nodes: readonly PlanNode[]; readonly beams: readonly PlanBeam[] }
  /** Hash of its picture. */
  readonly picture: string
}

/** Jobs in the database. Every change is one transaction; a revision counts them. */
export class JobStore {
  readonly #db: Kysely<Tables>

  constructor(db: Kysely<Tables>) {
    this.#db = db
  }

  /** Jobs, oldest first: those there are, or those that were deleted and can be brought back. */
  async list(which: 'there' | 'deleted' = 'there'): Promise<JobSummary[]> {
    const rows = await this.#db.selectFrom('jobs').selectAll().where('deleted_at', which === 'there' ? 'is' : 'is not', null).orderBy('created_at').orderBy('id').execute()
    const tips = await sql<{ job_id: string; n: number }>`SELECT job_id, count(*) AS n FROM rows WHERE kind = 'nodes' AND json_extract(data, '$.kind') = 'tip' GROUP BY job_id`.execute(this.#db)
    const copies = await sql<{ job_id: string; n: number }>`SELECT job_id, count(*) AS n FROM rows WHERE kind = 'copies' GROUP BY job_id`.execute(this.#db)
    const parts = await this.#db.selectFrom('rows').select(['job_id', 'data']).where('kind', '=', 'parts').orderBy('id').execute()
    const number = (counts: readonly { job_id: string; n: number }[], id: string): number => Number(counts.find(c => c.job_id === id)?.n ?? 0)
    return rows.map(r => JobSummarySchema.parse({
      id: r.id, name: r.name, revision: r.revision, updatedAt: r.updated_at, stilts: number(tips.rows, r.id), copies: number(copies.rows, r.id), pictureVersion: r.picture_version, archived: r.archived === 1,
      parts: parts.filter(p => p.job_id === r.id).map(p => JSON.parse(p.data) as Part).map(p => ({ name: p.name, summary: p.source.summary, recipe: p.recipe })),
    }))
  }

  async get(id: string): Promise<Job | null> {
    const row = await this.#db.selectFrom('jobs').selectAll().where('id', '=', id).where('deleted_at', 'is', null).executeTakeFirst()
    if (!row) return null
    const lists = Object.fromEntries(TABLE_NAMES.map(name => [name, [] as unknown[]]))
    for (const r of await this.#db.selectFrom('rows').select(['kind', 'data']).where('job_id', '=', id).orderBy('kind').orderBy('id').execute()) lists[r.kind]?.push(JSON.parse(r.data))
    const batches = await this.#db.selectFrom('batches').select('batch').where('job_id', '=', id).orderBy('revision').execute()
    return JobSchema.parse({ id: row.id, revision: row.revision, ...fieldsOf(row), ...lists, batches: batches.map(b => b.batch) })
  }

  async has(id: string): Promise<boolean> {
    return (await this.#db.selectFrom('jobs').select('id').where('id', '=', id).where('deleted_at', 'is', null).executeTakeFirst()) !== undefined
  }

  async create({ name, parts, turnDeg, marks = [], plan, picture }: NewJob): Promise<string> {
    const now = new Date().toISOString(), id = randomUUID(), pixelMm = pixelMmOf(DEFAULT_PRINTER)
    const pixels = (mm: number): number => Math.round(mm / pixelMm) || 0
    await this.#db.transaction().execute(async trx => {
      await trx.insertInto('jobs').values({
        id, name, revision: 0, printer: JSON.stringify(DEFAULT_PRINTER), resin: JSON.stringify(DEFAULT_RESIN), layer_mm: DEFAULT_LAYER_MM, settings: null, printing: null, picture_version: picture, created_at: now, updated_at: now, archived: 0, deleted_at: null,
      }).execute()
      for (const { part, places } of parts) {
        const partId = newId()
        await putRows(trx, id, 'parts', [JSON.stringify({ ...part, id: partId })])
        await putRows(trx, id, 'copies', places.map(([x, y]) => JSON.stringify({ id: newId(), part: partId, xPixels: pixels(x), yPixels: pixels(y), turnDeg })))
        if (part === parts[0].part) await putRows(trx, id, 'marks', marks.map(m => JSON.stringify({ ...m, id: newId(), part: partId })))
        if (plan && part === parts[0].part) for (const kind of ['nodes', 'beams'] as const) await putRows(trx, id, kind, plan[kind].map(row => JSON.stringify({ ...row, part: partId })))
        await addSource(trx, id, part.source)
      }
    })
    return id
  }

  /** Notes that parts of a job may come from these sources; gives whether there is such a job. */
  async addSources(id: string, parts: readonly BroughtIn[]): Promise<boolean> {
    return this.#db.transaction().execute(async trx => {
      if (!(await trx.selectFrom('jobs').select('id').where('id', '=', id).where('deleted_at', 'is', null).executeTakeFirst())) return false
      for (const { part } of parts) await addSource(trx, id, part.source)
      return true
    })
  }

  /** A copy of a job under a new name, with all its rows; its history begins anew. */
  async copy(id: string, name: string): Promise<string | null> {
    return this.#db.transaction().execute(async trx => {
      const row = await trx.selectFrom('jobs').selectAll().where('id', '=', id).where('deleted_at', 'is', null).executeTakeFirst()
      if (!row) return null
      const fresh = randomUUID(), now = new Date().toISOString()
      await trx.insertInto('jobs').values({ ...row, id: fresh, name, revision: 0, created_at: now, updated_at: now, archived: 0 }).execute()
      await sql`INSERT INTO rows (job_id, kind, id, data) SELECT ${fresh}, kind, id, data FROM rows WHERE job_id = ${id}`.execute(trx)
      await sql`INSERT INTO sources (job_id, mesh_hash, file_hash, plain_hash, faults_hash) SELECT ${fresh}, mesh_hash, file_hash, plain_hash, faults_hash FROM sources WHERE job_id = ${id}`.execute(trx)
      return fresh
    })
  }

  /** A job that is made whole, of a content whose parts come from sources that are stored. @throws RowsRefused where rows hang on others that are not there */
  async createOf({ fields, tables }: JobContent, picture: string | null): Promise<string> {
    const now = new Date().toISOString(), id = randomUUID(), rows = listsOf(tables)
    await this.#db.transaction().execute(async trx => {
      await trx.insertInto('jobs').values({
        id, name: fields.name, revision: 0, printer: JSON.stringify(fields.printer), resin: JSON.stringify(fields.resin), layer_mm: fields.layerMm, settings: JSON.stringify(fields.settings), printing: JSON.stringify(fields.printing), picture_version: picture, created_at: now, updated_at: now, archived: 0, deleted_at: null,
      }).execute()
      for (const name of TABLE_NAMES) await putRows(trx, id, name, rows[name].map(r => JSON.stringify(r)))
      await checkRows(trx, id, [{ label: 'bring in', step: newId(), way: 'do', put: rows }])
      for (const part of rows.parts) await addSource(trx, id, part.source)
    })
    return id
  }

  /** Deletes a job, for now: it can be brought back until it is removed for good. */
  async remove(id: string): Promise<boolean> {
    const result = await this.#db.updateTable('jobs').set({ deleted_at: new Date().toISOString() }).where('id', '=', id).where('deleted_at', 'is', null).executeTakeFirst()
    return result.numUpdatedRows > 0n
  }

  /** Brings a job back that was deleted. */
  async restore(id: string): Promise<boolean> {
    const result = await this.#db.updateTable('jobs').set({ deleted_at: null }).where('id', '=', id).where('deleted_at', 'is not', null).executeTakeFirst()
    return result.numUpdatedRows > 0n
  }

  /** Removes for good what was deleted before a time. */
  async purge(before: Date): Promise<void> {
    await this.#db.deleteFrom('jobs').where('deleted_at', 'is not', null).where('deleted_at', '<', before.toISOString()).execute()
  }

  /** Puts a job away, or back among the others. */
  async setArchived(id: string, archived: boolean): Promise<boolean> {
    const result = await this.#db.updateTable('jobs').set({ archived: archived ? 1 : 0 }).where('id', '=', id).where('deleted_at', 'is', null).executeTakeFirst()
    return result.numUpdatedRows > 0n
  }

  /** Keeps a job as it is now under a name. Null where there is no such job; the oldest version goes where there are too many. */
  async keepVersion(id: string, name: string): Promise<Version | null> {
    const job = await this.get(id)
    if (!job) return null
    const { fields, tables } = contentOf(job), content: VersionContent = { ...fields, ...listsOf(tables) }
    const version: Version = { id: newId(), name, createdAt: new Date().toISOString(), stilts: job.nodes.filter(n => n.kind === 'tip').length }
    await this.#db.transaction().execute(async trx => {
      await trx.insertInto('versions').values({ job_id: id, id: version.id, name, created_at: version.createdAt, content: JSON.stringify(content) }).execute()
      await sql`DELETE FROM versions WHERE job_id = ${id} AND id NOT IN (SELECT id FROM versions WHERE job_id = ${id} ORDER BY created_at DESC, id DESC LIMIT ${MOST_VERSIONS})`.execute(trx)
    })
    return version
  }

  /** Versions of a job, newest first. */
  async versions(id: string): Promise<Version[]> {
    const rows = await sql<{ id: string; name: string; created_at: string; stilts: number }>`SELECT v.id, v.name, v.created_at, (SELECT count(*) FROM json_each(v.content, '$.nodes') n WHERE json_extract(n.value, '$.kind') = 'tip') AS stilts
      FROM versions v WHERE v.job_id = ${id} ORDER BY v.created_at DESC, v.id DESC`.execute(this.#db)
    return rows.rows.map(r => ({ id: r.id, name: r.name, createdAt: r.created_at, stilts: Number(r.stilts) }))
  }

  async version(id: string, version: string): Promise<VersionContent | null> {
    const row = await this.#db.selectFrom('versions').select('content').where('job_id', '=', id).where('id', '=', version).executeTakeFirst()
    return row ? VersionContentSchema.parse(JSON.parse(row.content)) : null
  }

  async dropVersion(id: string, version: string): Promise<boolean> {
    const result = await this.#db.deleteFrom('versions').where('job_id', '=', id).where('id', '=', version).executeTakeFirst()
    return result.numDeletedRows > 0n
  }

  /**
   * Applies a batch of edits and gives the new revision. A batch that was applied already, whose answer got lost, is acknowledged again.
   * @throws StaleRevision where the batch was made against another revision, BatchReused where its name stands for other edits,
   * RowsRefused where rows would hang on others that are not there; null where there is no such job
   */
  async edit(id: string, batch: EditBatch): Promise<number | null> {
    const hash = createHash('sha256').update(JSON.stringify(batch.edits)).digest('hex')
    return this.#db.transaction().execute(async trx => {
      const row = await trx.selectFrom('jobs').select('revision').where('id', '=', id).where('deleted_at', 'is', null).executeTakeFirst()
      if (!row) return null
      const known = await trx.selectFrom('batches').selectAll().where('job_id', '=', id).where('batch', '=', batch.batch).executeTakeFirst()
      if (known) {
        if (known.hash !== null && known.hash !== hash) throw new BatchReused()
        return known.revision
      }
      if (row.revision !== batch.baseRevision) throw new StaleRevision(row.revision)
      for (const edit of batch.edits) await apply(trx, id, edit)
      await checkRows(trx, id, batch.edits)
      await prune(trx, id)
      const revision = row.revision + 1
      await trx.updateTable('jobs').set({ revision, updated_at: new Date().toISOString() }).where('id', '=', id).execute()
      await trx.insertInto('batches').values({ job_id: id, batch: batch.batch, hash, revision }).execute()
      await trx.deleteFrom('batches').where('job_id', '=', id).where('revision', '<=', revision - REMEMBERED_BATCHES).execute()
      return revision
    })
  }

  /** What of a job can be undone and done again, the newest of it; null where there is no such job. */
  async history(id: string): Promise<History | null> {
    if (!(await this.has(id))) return null
    const log = await this.#db.selectFrom('edits').select(['step', 'way', 'bytes']).where('job_id', '=', id).orderBy('number').execute()
    const done: string[] = [], undone: string[] = [], bytes = new Map<string, number>()
    for (const { step, way, bytes: size } of log) {
      follow(done, undone, { step, way: way as Edit['way'] })
      bytes.set(step, (bytes.get(step) ?? 0) + size)
    }
    let room = SENT_BYTES
    const newest = (steps: readonly string[]): string[] => {
      const from = steps.findLastIndex(s => (room -= bytes.get(s) ?? 0) < 0)
      return steps.slice(from + 1)
    }
    const again = newest(undone), back = newest(done)
    const rows = await this.#db.selectFrom('edits').select(['step', 'change', 'inverse']).where('job_id', '=', id).where('way', '=', 'do')
      .where('step', 'in', sql<string>`(SELECT value FROM json_each(${JSON.stringify([...back, ...again])}))`).execute()
    const stepOf = new Map(rows.map(r => [r.step, { step: r.step, change: JSON.parse(r.change as string) as Change, inverse: JSON.parse(r.inverse as string) as Change }]))
    // what has lost its beginning ends the way back
    const whole = (steps: readonly string[]): Step[] => steps.slice(steps.findLastIndex(s => !stepOf.has(s)) + 1).map(s => stepOf.get(s) as Step)
    return { done: whole(back), undone: whole(again) }
  }

  /** Runs after whatever else was asked for this way, so that nothing is collected between being stored and being referred to. */
  exclusively<T>(work: () => Promise<T>): Promise<T> {
    const result = this.#before.then(work)
    this.#before = result.catch(() => undefined)
    return result
  }
  #before: Promise<unknown> = Promise.resolve()

  /** Names of blobs that are stored and not referred to yet, since more has to come before they are. */
  readonly #pinned = new Set<readonly string[]>()
  /** Keeps blobs from being collected until what is given is called. To be asked for within `exclusively`. */
  pin(names: readonly string[]): () => void {
    this.#pinned.add(names)
    return () => void this.#pinned.delete(names)
  }

  /** Whatever is stored by hash for the jobs there are: meshes, the files they came from, pictures. */
  async usedBlobs(): Promise<Set<string>> {
    const pictures = await this.#db.selectFrom('jobs').select('picture_version').execute()
    const sources = await this.#db.selectFrom('sources').select(['mesh_hash', 'file_hash', 'plain_hash', 'faults_hash']).execute()
    return new Set([...[...this.#pinned].flat(), ...pictures.flatMap(r => (r.picture_version ? [`${r.picture_version}.png`] : [])), ...sources.flatMap(s => blobsOf({ meshHash: s.mesh_hash, fileHash: s.file_hash, plainHash: s.plain_hash, faultsHash: s.faults_hash }))])
  }

  async setPicture(id: string, version: string): Promise<void> {
    await this.#db.updateTable('jobs').set({ picture_version: version }).where('id', '=', id).execute()
  }

  async pictureOf(id: string): Promise<string | null> {
    return (await this.#db.selectFrom('jobs').select('picture_version').where('id', '=', id).where('deleted_at', 'is', null).executeTakeFirst())?.picture_version ?? null
  }

  async flag(name: string): Promise<string | null> {
    return (await this.#db.selectFrom('flags').select('value').where('name', '=', name).executeTakeFirst())?.value ?? null
  }

  async setFlag(name: string, value: string): Promise<void> {
    await this.#db.insertInto('flags').values({ name, value }).onConflict(c => c.column('name').doUpdateSet({ value })).execute()
  }
}

/** Names of all that is stored for a source. */
export function blobsOf({ meshHash, fileHash, plainHash, faultsHash }: Pick<Source, 'meshHash' | 'fileHash' | 'plainHash' | 'faultsHash'>): string[] {
  return [`${meshHash}.mesh`, ...(plainHash ? [`${plainHash}.mesh`] : []), ...(faultsHash ? [`${faultsHash}.faults`] : []), ...(fileHash ? [`${fileHash}.file`, `${fileHash}.stl`] : [])]
}

function fieldsOf(row: Tables['jobs']): Record<FieldName, unknown> {
  return { name: row.name, printer: JSON.parse(row.printer), resin: JSON.parse(row.resin), layerMm: row.layer_mm, settings: { ...DEFAULT_SETTINGS, ...(row.settings === null ? {} : (JSON.parse(row.settings) as object)) }, printing: row.printing === null ? undefined : JSON.parse(row.printing) }
}

async function addSource(trx: Transaction<Tables>, job: string, source: Source): Promise<void> {
  await trx.insertInto('sources').values({ job_id: job, mesh_hash: source.meshHash, file_hash: source.fileHash, plain_hash: source.plainHash, faults_hash: source.faultsHash })
    .onConflict(c => c.columns(['job_id', 'mesh_hash']).doUpdateSet({ file_hash: sql`coalesce(file_hash, excluded.file_hash)`, plain_hash: sql`coalesce(excluded.plain_hash, plain_hash)`, faults_hash: sql`coalesce(excluded.faults_hash, faults_hash)` })).execute()
}

/** Applies an edit to the rows of a job, and notes it in the history with what takes it back. */
async function apply(trx: Transaction<Tables>, job: string, edit: Edit): Promise<void> {
  const { step, way, label, set, put, drop } = edit
  // rows are written out once, and those of before are kept as they were written
  const inverse: { set?: Record<string, unknown>; put: Record<string, string>; drop?: Record<string, string[]> } = { put: {} }, written: Record<string, string> = {}
  const names = (Object.keys(set ?? {}) as FieldName[]).filter(n => set?.[n] !== undefined)
  if (names.length > 0) {
    const row = await trx.selectFrom('jobs').selectAll().where('id', '=', job).executeTakeFirstOrThrow()
    const before = fieldsOf(row)
    inverse.set = Object.fromEntries(names.map(n => [n, before[n]]))
    await trx.updateTable('jobs').set(Object.fromEntries(names.map(n => [COLUMNS[n], n === 'name' || n === 'layerMm' ? set?.[n] : JSON.stringify(set?.[n])]))).where('id', '=', job).execute()
  }
  for (const kind of TABLE_NAMES) {
    const rows: readonly AnyRow[] = put?.[kind] ?? [], gone = drop?.[kind] ?? []
    if (rows.length === 0 && gone.length === 0) continue
    const ids = [...new Set([...gone, ...rows.map(r => r.id)])]
    if (way === 'do') {
      const before: string[] = [], known = new Set<string>()
      for await (const some of chunks(ids)) {
        for (const r of await selectRows(trx, job, kind, some)) {
          before.push(r.data)
          known.add(r.id)
        }
      }
      if (before.length > 0) inverse.put[kind] = arrayOf(before)
      if (known.size < ids.length) inverse.drop = { ...inverse.drop, [kind]: ids.filter(id => !known.has(id)) }
    }
    for await (const some of chunks(gone)) await sql`DELETE FROM rows WHERE job_id = ${job} AND kind = ${kind} AND id IN (SELECT value FROM json_each(${JSON.stringify(some)}))`.execute(trx)
    const texts = rows.map(r => JSON.stringify(r))
    if (texts.length > 0 && way === 'do') written[kind] = arrayOf(texts)
    await putRows(trx, job, kind, texts)
  }
  // what is no step needs no way back
  if (way === 'note') return
  const change = way === 'do' ? changeText(label, set, written, drop) : null, back = way === 'do' ? changeText(label, inverse.set, inverse.put, inverse.drop) : null
  await sql`INSERT INTO edits (job_id, number, step, way, change, inverse, bytes)
    SELECT ${job}, coalesce(max(number), 0) + 1, ${step}, ${way}, ${change}, ${back}, ${(change?.length ?? 0) + (back?.length ?? 0)} FROM edits WHERE job_id = ${job}`.execute(trx)
}

const arrayOf = (texts: readonly string[]): string => `[${texts.join(',')}]`

/** A change as JSON, its rows given as JSON by kind. */
function changeText(label: string, set: unknown, put: Readonly<Record<string, string>>, drop: unknown): string {
  const kinds = Object.entries(put).map(([kind, rows]) => `${JSON.stringify(kind)}:${rows}`)
  return `{"label":${JSON.stringify(label)}${set ? `,"set":${JSON.stringify(set)}` : ''}${kinds.length > 0 ? `,"put":{${kinds.join(',')}}` : ''}${drop ? `,"drop":${JSON.stringify(drop)}` : ''}}`
}

/** Writes rows that are given as JSON. */
async function putRows(trx: Transaction<Tables>, job: string, kind: TableName, texts: readonly string[]): Promise<void> {
  for await (const some of chunks(texts)) {
    await sql`INSERT INTO rows (job_id, kind, id, data) SELECT ${job}, ${kind}, json_extract(value, '$.id'), value FROM json_each(${arrayOf(some)}) WHERE true
      ON CONFLICT (job_id, kind, id) DO UPDATE SET data = excluded.data`.execute(trx)
  }
}

async function selectRows(trx: Transaction<Tables>, job: string, kind: TableName, ids: readonly string[]): Promise<{ id: string; data: string }[]> {
  return (await sql<{ id: string; data: string }>`SELECT id, data FROM rows WHERE job_id = ${job} AND kind = ${kind} AND id IN (SELECT value FROM json_each(${JSON.stringify(ids)}))`.execute(trx)).rows
}

/** Forgets the oldest edits of a job where there are too many, or too large ones. */
async function prune(trx: Transaction<Tables>, job: string): Promise<void> {
  const rows = await trx.selectFrom('edits').select(['number', 'bytes']).where('job_id', '=', job).orderBy('number', 'desc').execute()
  let bytes = 0
  const last = rows.findIndex((r, i) => i >= KEPT_EDITS || (i > 0 && (bytes += r.bytes) > KEPT_BYTES))
  if (last >= 0) await trx.deleteFrom('edits').where('job_id', '=', job).where('number', '<=', rows[last].number).execute()
}
