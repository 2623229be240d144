import { createHash, randomUUID } from 'node:crypto'
import { sql, type Kysely, type Transaction } from 'kysely'
import { DEFAULT_PRINTER, DEFAULT_SETTINGS, JobSchema, JobSummarySchema, type Edit, type EditBatch, type Job, type JobSummary, type MeshSummary } from '@oak-stilts/core/contract'
import { DEFAULT_POSE, type Pose } from '@oak-stilts/core/pose'
import type { Tables } from '../database/tables'

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

/** Batches of a job that are known again by their name. */
const REMEMBERED_BATCHES = 64
/** Rows that go to the database in one statement. */
const ROWS_AT_ONCE = 5000

export interface NewJob {
  readonly name: string
  readonly meshHash: string
  readonly mesh: MeshSummary
  readonly pose?: Pose
  /** Hash of its picture. */
  readonly picture: string
}

/** Jobs in the database. Every change is one transaction; a revision counts them. */
export class JobStore {
  readonly #db: Kysely<Tables>

  constructor(db: Kysely<Tables>) {
    this.#db = db
  }

  async list(): Promise<JobSummary[]> {
    const rows = await this.#db.selectFrom('jobs').selectAll().orderBy('created_at').orderBy('id').execute()
    const counts = await this.#db.selectFrom('plan_nodes').select(['job_id', eb => eb.fn.countAll<number>().as('n')]).where('id', 'like', '%.tip').groupBy('job_id').execute()
    const stilts = new Map(counts.map(c => [c.job_id, Number(c.n)]))
    return rows.map(r => JobSummarySchema.parse({
      id: r.id, name: r.name, revision: r.revision, updatedAt: r.updated_at, mesh: JSON.parse(r.mesh_summary), stilts: stilts.get(r.id) ?? 0, pictureVersion: r.picture_version,
    }))
  }

  async get(id: string): Promise<Job | null> {
    const row = await this.#db.selectFrom('jobs').selectAll().where('id', '=', id).executeTakeFirst()
    if (!row) return null
    const nodes = await this.#db.selectFrom('plan_nodes').select('data').where('job_id', '=', id).orderBy('rowid' as 'id').execute()
    const beams = await this.#db.selectFrom('plan_beams').select('data').where('job_id', '=', id).orderBy('rowid' as 'id').execute()
    const waivers = await this.#db.selectFrom('waivers').select('data').where('job_id', '=', id).orderBy('rowid' as 'id').execute()
    const batches = await this.#db.selectFrom('batches').select('batch').where('job_id', '=', id).orderBy('revision').execute()
    return JobSchema.parse({
      id: row.id, name: row.name, revision: row.revision, meshHash: row.mesh_hash, mesh: JSON.parse(row.mesh_summary), printer: JSON.parse(row.printer),
      pose: JSON.parse(row.pose), poseSettled: row.pose_settled === 1, nodes: nodes.map(n => JSON.parse(n.data)), beams: beams.map(b => JSON.parse(b.data)),
      settings: { ...DEFAULT_SETTINGS, ...(row.settings === null ? {} : JSON.parse(row.settings)) }, waivers: waivers.map(w => JSON.parse(w.data)),
      batches: batches.map(b => b.batch),
    })
  }

  async create(job: NewJob): Promise<string> {
    const now = new Date().toISOString()
    const id = randomUUID()
    // what was made to stand is asked about; everything else is lifted at once
    const pose = job.pose ?? (job.mesh.looksStanding ? { ...DEFAULT_POSE, liftMm: 0 } : DEFAULT_POSE)
    await this.#db.insertInto('jobs').values({
      id, name: job.name, revision: 0, mesh_hash: job.meshHash, mesh_summary: JSON.stringify(job.mesh), printer: JSON.stringify(DEFAULT_PRINTER), pose: JSON.stringify(pose),
      pose_settled: job.pose || !job.mesh.looksStanding ? 1 : 0, picture_version: job.picture, settings: null, created_at: now, updated_at: now,
    }).execute()
    return id
  }

  /** A copy of a job under a new name, with all its stilts. */
  async copy(id: string, name: string): Promise<string | null> {
    return this.#db.transaction().execute(async trx => {
      const row = await trx.selectFrom('jobs').selectAll().where('id', '=', id).executeTakeFirst()
      if (!row) return null
      const fresh = randomUUID(), now = new Date().toISOString()
      await trx.insertInto('jobs').values({ ...row, id: fresh, name, revision: 0, created_at: now, updated_at: now }).execute()
      for (const table of ['plan_nodes', 'plan_beams', 'waivers'] as const) {
        await trx.insertInto(table).columns(['job_id', 'id', 'data'])
          .expression(eb => eb.selectFrom(table).select([sql.lit(fresh).as('job_id'), 'id', 'data']).where('job_id', '=', id).orderBy('rowid' as 'id')).execute()
      }
      return fresh
    })
  }

  async remove(id: string): Promise<boolean> {
    const result = await this.#db.deleteFrom('jobs').where('id', '=', id).executeTakeFirst()
    return result.numDeletedRows > 0n
  }

  /**
   * Applies a batch of edits and gives the new revision. A batch that was applied already, whose answer got lost, is acknowledged again.
   * @throws StaleRevision where the batch was made against another revision, BatchReused where its name stands for other edits; null where there is no such job
   */
  async edit(id: string, batch: EditBatch): Promise<number | null> {
    const hash = createHash('sha256').update(JSON.stringify(batch.edits)).digest('hex')
    return this.#db.transaction().execute(async trx => {
      const row = await trx.selectFrom('jobs').select('revision').where('id', '=', id).executeTakeFirst()
      if (!row) return null
      const known = await trx.selectFrom('batches').selectAll().where('job_id', '=', id).where('batch', '=', batch.batch).executeTakeFirst()
      if (known) {
        if (known.hash !== null && known.hash !== hash) throw new BatchReused()
        return known.revision
      }
      if (row.revision !== batch.baseRevision) throw new StaleRevision(row.revision)
      for (const edit of batch.edits) await applyToRows(trx, id, edit)
      const revision = row.revision + 1
      await trx.updateTable('jobs').set({ revision, updated_at: new Date().toISOString() }).where('id', '=', id).execute()
      await trx.insertInto('batches').values({ job_id: id, batch: batch.batch, hash, revision }).execute()
      await trx.deleteFrom('batches').where('job_id', '=', id).where('revision', '<=', revision - REMEMBERED_BATCHES).execute()
      return revision
    })
  }

  /** Runs after whatever else was asked for this way, so that nothing is collected between being stored and being referred to. */
  exclusively<T>(work: () => Promise<T>): Promise<T> {
    const result = this.#before.then(work)
    this.#before = result.catch(() => undefined)
    return result
  }
  #before: Promise<unknown> = Promise.resolve()

  /** Whatever is stored by hash for the jobs there are: meshes and pictures. */
  async usedBlobs(): Promise<Set<string>> {
    const rows = await this.#db.selectFrom('jobs').select(['mesh_hash', 'picture_version']).execute()
    return new Set(rows.flatMap(r => [`${r.mesh_hash}.mesh`, ...(r.picture_version ? [`${r.picture_version}.png`] : [])]))
  }

  async setPicture(id: string, version: string): Promise<void> {
    await this.#db.updateTable('jobs').set({ picture_version: version }).where('id', '=', id).execute()
  }

  async pictureOf(id: string): Promise<string | null> {
    return (await this.#db.selectFrom('jobs').select('picture_version').where('id', '=', id).executeTakeFirst())?.picture_version ?? null
  }

  async mark(name: string): Promise<string | null> {
    return (await this.#db.selectFrom('marks').select('value').where('name', '=', name).executeTakeFirst())?.value ?? null
  }

  async setMark(name: string, value: string): Promise<void> {
    await this.#db.insertInto('marks').values({ name, value }).onConflict(c => c.column('name').doUpdateSet({ value })).execute()
  }
}

async function applyToRows(trx: Transaction<Tables>, job: string, edit: Edit): Promise<void> {
  const columns = {
    ...(edit.name !== undefined && { name: edit.name }),
    ...(edit.pose !== undefined && { pose: JSON.stringify(edit.pose) }),
    ...(edit.settings !== undefined && { settings: JSON.stringify(edit.settings) }),
    ...(edit.poseSettled !== undefined && { pose_settled: edit.poseSettled ? 1 : 0 }),
  }
  if (Object.keys(columns).length > 0) await trx.updateTable('jobs').set(columns).where('id', '=', job).execute()
  for (const [table, put, drop] of [['plan_nodes', edit.putNodes, edit.dropNodes], ['plan_beams', edit.putBeams, edit.dropBeams], ['waivers', edit.putWaivers, edit.dropWaivers]] as const) {
    for (const ids of chunks(drop ?? [])) {
      await sql`DELETE FROM ${sql.table(table)} WHERE job_id = ${job} AND id IN (SELECT value FROM json_each(${JSON.stringify(ids)}))`.execute(trx)
    }
    for (const items of chunks<{ readonly id: string }>(put ?? [])) {
      await sql`INSERT INTO ${sql.table(table)} (job_id, id, data) SELECT ${job}, json_extract(value, '$.id'), value FROM json_each(${JSON.stringify(items)}) WHERE true
        ON CONFLICT (job_id, id) DO UPDATE SET data = excluded.data`.execute(trx)
    }
  }
}

function* chunks<T>(items: readonly T[]): Generator<readonly T[]> {
  for (let i = 0; i < items.length; i += ROWS_AT_ONCE) yield items.slice(i, i + ROWS_AT_ONCE)
}
