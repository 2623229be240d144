import type Database from 'libsql'
import type { CompiledQuery, LogConfig } from 'kysely'
import { Kysely, SqliteAdapter, SqliteIntrospector, SqliteQueryCompiler, type DatabaseConnection, type Dialect, type Driver, type QueryResult } from 'kysely'
import { codeOf, DatabaseBusy, DiskFull, openFile } from './open'
import type { Tables } from './tables'

type Raw = InstanceType<typeof Database>

/** How long a change waits for another program that holds the database, and how often it asks, ms. */
const BUSY_MS = 5000, BUSY_STEP_MS = 25

/**
 * Opens the database file with write-ahead log, foreign keys and full synchronisation, so that what was acknowledged survives a
 * killed process and a lost power supply. Every change, also a single statement, runs in a transaction that holds the write lock
 * from its first statement on, waits for a busy database, and is rolled back for certain where it fails.
 * @param log is told of every statement after it has run
 * @throws DatabaseDamaged, DatabaseBusy
 */
export function openDatabase(path: string, log?: LogConfig): Kysely<Tables> {
  const raw = openFile(path)
  const dialect: Dialect = {
    createAdapter: () => new SqliteAdapter(),
    createDriver: () => new SqliteDriver(raw),
    createIntrospector: db => new SqliteIntrospector(db),
    createQueryCompiler: () => new SqliteQueryCompiler(),
  }
  return new Kysely<Tables>({ dialect, log })
}

/** One connection, handed out to one user at a time. */
class SqliteDriver implements Driver {
  readonly #raw: Raw
  readonly #connection: SqliteConnection
  #last: Promise<void> = Promise.resolve()
  #release: () => void = () => undefined

  constructor(raw: Raw) {
    this.#raw = raw
    this.#connection = new SqliteConnection(raw)
  }

  async init(): Promise<void> {}

  async acquireConnection(): Promise<DatabaseConnection> {
    const before = this.#last
    let release = (): void => undefined
    this.#last = new Promise(resolve => (release = resolve))
    await before
    this.#release = release
    return this.#connection
  }

  async releaseConnection(): Promise<void> {
    this.#release()
  }

  beginTransaction(): Promise<void> {
    return this.#connection.begin()
  }

  async commitTransaction(): Promise<void> {
    this.#connection.commit()
  }

  async rollbackTransaction(): Promise<void> {
    this.#connection.rollback()
  }

  async destroy(): Promise<void> {
    // what is in the log goes into the file, so that a copy of the folder holds all of it
    try {
      this.#raw.exec('PRAGMA wal_checkpoint(TRUNCATE)')
    } finally {
      this.#raw.close()
    }
  }
}

/** Begin, commit and rollback bypass prepared statements: one that fails would leave its transaction open. */
class SqliteConnection implements DatabaseConnection {
  readonly #raw: Raw
  #within = false

  constructor(raw: Raw) {
    this.#raw = raw
  }

  /** @throws DatabaseBusy where another program holds the database for longer than changes wait */
  async begin(): Promise<void> {
    this.rollback()
    const until = Date.now() + BUSY_MS
    for (;;) {
      try {
        this.#raw.exec('BEGIN IMMEDIATE')
        this.#within = true
        return
      } catch (error) {
        this.rollback()
        if (!codeOf(error).startsWith('SQLITE_BUSY') || Date.now() > until) throw named(error)
      }
      await new Promise(resolve => setTimeout(resolve, BUSY_STEP_MS))
    }
  }

  commit(): void {
    try {
      this.#raw.exec('COMMIT')
    } catch (error) {
      this.rollback()
      throw named(error)
    }
    this.#within = false
  }

  rollback(): void {
    this.#within = false
    // a full disk ends a transaction by itself
    if (this.#raw.inTransaction) this.#raw.exec('ROLLBACK')
  }

  async executeQuery<R>(query: CompiledQuery): Promise<QueryResult<R>> {
    const alone = !this.#within && query.query.kind !== 'SelectQueryNode' && query.query.kind !== 'RawNode'
    if (!alone) return this.#run(query)
    await this.begin()
    try {
      const result = this.#run<R>(query)
      this.commit()
      return result
    } catch (error) {
      this.rollback()
      throw error
    }
  }

  #run<R>({ sql, parameters }: CompiledQuery): QueryResult<R> {
    try {
      const statement = this.#raw.prepare(sql)
      const bound = parameters.map(bindable)
      if ((statement as unknown as { reader: boolean }).reader) return { rows: statement.all(bound) as R[] }
      const { changes, lastInsertRowid } = statement.run(bound) as { changes: number | bigint; lastInsertRowid: number | bigint }
      return { rows: [], numAffectedRows: BigInt(changes), insertId: BigInt(lastInsertRowid) }
    } catch (error) {
      throw named(error)
    }
  }

  streamQuery(): never {
    throw new Error('Rows are read at once.')
  }
}

function named(error: unknown): unknown {
  const code = codeOf(error)
  if (code.startsWith('SQLITE_BUSY') || code.startsWith('SQLITE_LOCKED')) return new DatabaseBusy()
  if (code.startsWith('SQLITE_FULL') || code.startsWith('SQLITE_IOERR')) return new DiskFull()
  return error
}

/** The driver aborts the process on a boolean and cannot bind an ArrayBuffer; nothing but what it can bind gets through. */
function bindable(value: unknown): unknown {
  if (typeof value === 'boolean') return value ? 1 : 0
  if (value === null || typeof value === 'string' || typeof value === 'number' || typeof value === 'bigint' || Buffer.isBuffer(value)) return value
  throw new TypeError(`A value of type ${typeof value} cannot be stored.`)
}
