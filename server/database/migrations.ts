import { sql, type Kysely, type Transaction } from 'kysely'
import { toParts } from './one-part'
import type { Tables } from './tables'

/** Gives the positions of a stored mesh; null where it is missing. */
export type MeshReader = (hash: string) => Float32Array | null
type Step = (db: Transaction<Tables>, meshes: MeshReader) => Promise<void>

/** Forward only; a step that has shipped is never changed. */
export const MIGRATIONS: readonly Step[] = [
  async db => {
    await sql`CREATE TABLE jobs (
      id TEXT PRIMARY KEY, name TEXT NOT NULL, revision INTEGER NOT NULL, mesh_hash TEXT NOT NULL, mesh_summary TEXT NOT NULL,
      printer TEXT NOT NULL, pose TEXT NOT NULL, pose_settled INTEGER NOT NULL, last_batch TEXT, picture_version TEXT,
      created_at TEXT NOT NULL, updated_at TEXT NOT NULL) STRICT`.execute(db)
    await sql`CREATE TABLE plan_nodes (
      job_id TEXT NOT NULL REFERENCES jobs(id) ON DELETE CASCADE, id TEXT NOT NULL, data TEXT NOT NULL, PRIMARY KEY (job_id, id)) STRICT`.execute(db)
    await sql`CREATE TABLE plan_beams (
      job_id TEXT NOT NULL REFERENCES jobs(id) ON DELETE CASCADE, id TEXT NOT NULL, data TEXT NOT NULL, PRIMARY KEY (job_id, id)) STRICT`.execute(db)
    await sql`CREATE TABLE marks (name TEXT PRIMARY KEY, value TEXT NOT NULL) STRICT`.execute(db)
  },
  async db => {
    await sql`ALTER TABLE jobs ADD COLUMN settings TEXT`.execute(db)
    await sql`CREATE TABLE waivers (
      job_id TEXT NOT NULL REFERENCES jobs(id) ON DELETE CASCADE, id TEXT NOT NULL, data TEXT NOT NULL, PRIMARY KEY (job_id, id)) STRICT`.execute(db)
  },
  async db => {
    await sql`CREATE TABLE batches (
      job_id TEXT NOT NULL REFERENCES jobs(id) ON DELETE CASCADE, batch TEXT NOT NULL, hash TEXT, revision INTEGER NOT NULL, PRIMARY KEY (job_id, batch)) STRICT`.execute(db)
    await sql`INSERT INTO batches (job_id, batch, hash, revision) SELECT id, last_batch, NULL, revision FROM jobs WHERE last_batch IS NOT NULL`.execute(db)
    await sql`ALTER TABLE jobs DROP COLUMN last_batch`.execute(db)
  },
  toParts,
  async db => {
    await sql`ALTER TABLE marks RENAME TO flags`.execute(db)
  },
  async db => {
    await sql`ALTER TABLE sources ADD COLUMN plain_hash TEXT`.execute(db)
    await sql`ALTER TABLE sources ADD COLUMN faults_hash TEXT`.execute(db)
  },
  async db => {
    await sql`ALTER TABLE jobs ADD COLUMN archived INTEGER NOT NULL DEFAULT 0`.execute(db)
    await sql`ALTER TABLE jobs ADD COLUMN deleted_at TEXT`.execute(db)
    await sql`CREATE TABLE versions (
      job_id TEXT NOT NULL REFERENCES jobs(id) ON DELETE CASCADE, id TEXT NOT NULL, name TEXT NOT NULL, created_at TEXT NOT NULL, content TEXT NOT NULL, PRIMARY KEY (job_id, id)) STRICT`.execute(db)
  },
  async db => {
    await sql`ALTER TABLE jobs ADD COLUMN printing TEXT`.execute(db)
    await sql`CREATE TABLE prints (id TEXT PRIMARY KEY, job_id TEXT, at TEXT NOT NULL, data TEXT NOT NULL) STRICT`.execute(db)
    await sql`CREATE INDEX prints_of_job ON prints (job_id)`.execute(db)
  },
]

/** Brings a database to the newest version, each step in a transaction of its own. @throws where it comes from a newer program */
export async function migrate(db: Kysely<Tables>, meshes: MeshReader): Promise<void> {
  const { rows } = await sql<{ user_version: number }>`PRAGMA user_version`.execute(db)
  const version = rows[0].user_version
  if (version > MIGRATIONS.length) throw new Error('This data folder was written by a newer version of Oak Stilts. Start that version, or choose another DATA_DIR.')
  for (let v = version; v < MIGRATIONS.length; v++) {
    await db.transaction().execute(async trx => {
      await MIGRATIONS[v](trx, meshes)
      await sql.raw(`PRAGMA user_version = ${v + 1}`).execute(trx)
    })
  }
}
