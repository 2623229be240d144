import type { Kysely } from 'kysely'
import { KitEntrySchema, type KitEntry } from '@oak-stilts/core/contract'
import type { Tables } from '../database/tables'

/** The person's own printers and resins. */
export class KitStore {
  readonly #db: Kysely<Tables>

  constructor(db: Kysely<Tables>) {
    this.#db = db
  }

  /** All entries, oldest first. */
  async list(): Promise<KitEntry[]> {
    const rows = await this.#db.selectFrom('kit').select('data').orderBy('id').execute()
    return rows.map(r => KitEntrySchema.parse(JSON.parse(r.data)))
  }

  /** Puts entries, replacing those of the same id: all of them or none. */
  async put(entries: readonly KitEntry[]): Promise<void> {
    await this.#db.transaction().execute(async trx => {
      for (const entry of entries) {
        const data = JSON.stringify(entry)
        await trx.insertInto('kit').values({ id: entry.id, data }).onConflict(c => c.column('id').doUpdateSet({ data })).execute()
      }
    })
  }

  async remove(id: string): Promise<boolean> {
    return (await this.#db.deleteFrom('kit').where('id', '=', id).executeTakeFirst()).numDeletedRows > 0n
  }
}
