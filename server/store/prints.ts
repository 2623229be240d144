import type { Kysely } from 'kysely'
import { PrintSchema, type Print } from '@oak-stilts/core/contract'
import type { Tables } from '../database/tables'

/** The print log: it outlives the jobs that were printed. */
export class PrintStore {
  readonly #db: Kysely<Tables>

  constructor(db: Kysely<Tables>) {
    this.#db = db
  }

  /** All prints, or those of a job; newest first. */
  async list(job: string | null = null): Promise<Print[]> {
    let rows = this.#db.selectFrom('prints').select('data').orderBy('at', 'desc').orderBy('id', 'desc')
    if (job !== null) rows = rows.where('job_id', '=', job)
    return (await rows.execute()).map(r => PrintSchema.parse(JSON.parse(r.data)))
  }

  async get(id: string): Promise<Print | null> {
    const row = await this.#db.selectFrom('prints').select('data').where('id', '=', id).executeTakeFirst()
    return row ? PrintSchema.parse(JSON.parse(row.data)) : null
  }

  /** Puts a print, replacing the one of the same id. */
  async put(print: Print): Promise<void> {
    const row = { job_id: print.job?.id ?? null, at: print.at, data: JSON.stringify(print) }
    await this.#db.insertInto('prints').values({ id: print.id, ...row }).onConflict(c => c.column('id').doUpdateSet(row)).execute()
  }

  async remove(id: string): Promise<boolean> {
    return (await this.#db.deleteFrom('prints').where('id', '=', id).executeTakeFirst()).numDeletedRows > 0n
  }

  /** Names of the photographs that are stored for prints. */
  async usedBlobs(): Promise<string[]> {
    return (await this.list()).flatMap(p => (p.photo ? [`${p.photo}.photo`] : []))
  }
}
