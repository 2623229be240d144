import Database from 'libsql'
import { Kysely, SqliteDialect, type SqliteDatabase, type SqliteStatement } from 'kysely'
import type { Tables } from './tables'

/**
 * Opens the database file with write-ahead log, foreign keys and full synchronisation, so that what was acknowledged survives a
 * killed process and a lost power supply.
 */
export function openDatabase(path: string): Kysely<Tables> {
  const raw = new Database(path)
  raw.exec('PRAGMA journal_mode = WAL')
  raw.exec('PRAGMA foreign_keys = ON')
  raw.exec('PRAGMA synchronous = FULL')
  raw.exec('PRAGMA busy_timeout = 5000')
  const mode = raw.prepare('PRAGMA synchronous').all() as { synchronous: number }[]
  if (mode[0]?.synchronous !== 2) throw new Error('The database does not keep full synchronisation.')
  return new Kysely<Tables>({ dialect: new SqliteDialect({ database: guarded(raw) }) })
}

/** The driver aborts the process on a boolean and cannot bind an ArrayBuffer; nothing but what it can bind gets through. */
function guarded(raw: InstanceType<typeof Database>): SqliteDatabase {
  return {
    close: () => void raw.close(),
    prepare: (sql: string): SqliteStatement => {
      const statement = raw.prepare(sql)
      return {
        reader: (statement as unknown as { reader: boolean }).reader,
        all: parameters => statement.all(parameters.map(bindable)),
        run: parameters => statement.run(parameters.map(bindable)) as { changes: number | bigint; lastInsertRowid: number | bigint },
        iterate: parameters => statement.iterate(parameters.map(bindable)) as IterableIterator<unknown>,
      }
    },
  }
}

function bindable(value: unknown): unknown {
  if (typeof value === 'boolean') return value ? 1 : 0
  if (value === null || typeof value === 'string' || typeof value === 'number' || typeof value === 'bigint' || Buffer.isBuffer(value)) return value
  throw new TypeError(`A value of type ${typeof value} cannot be stored.`)
}
