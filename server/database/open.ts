import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs'
import { basename, dirname, join } from 'node:path'
import Database from 'libsql'

/** Another program holds the database, and did not let go of it in time. */
export class DatabaseBusy extends Error {
  constructor() {
    super('Another program holds the database of the data folder. Nothing was changed; it is tried again.')
  }
}

/** The disk is full, or cannot be written. */
export class DiskFull extends Error {
  constructor() {
    super('The disk of the data folder is full or cannot be written. Nothing was changed. Make room; it is tried again.')
  }
}

/** The database file cannot be read. It is left as it is. */
export class DatabaseDamaged extends Error {}

export function codeOf(error: unknown): string {
  const { code } = error as { code?: unknown }
  return typeof code === 'string' ? code : ''
}

/** Daily copies that are kept. */
const COPIES = 7

/** Opens a database file and makes sure that it is whole. @throws DatabaseDamaged, DatabaseBusy */
export function openFile(path: string): InstanceType<typeof Database> {
  const copies = copiesOf(path)
  if (copies.length > 0 && (!existsSync(path) || statSync(path).size === 0)) {
    throw new DatabaseDamaged(`The database ${path} is ${existsSync(path) ? 'empty' : 'missing'}, though there are copies of it. ${advice(path, copies)}`)
  }
  let raw: InstanceType<typeof Database> | null = null
  try {
    raw = new Database(path)
    raw.exec('PRAGMA busy_timeout = 5000')
    raw.exec('PRAGMA journal_mode = WAL')
    raw.exec('PRAGMA foreign_keys = ON')
    raw.exec('PRAGMA synchronous = FULL')
    const found = (raw.prepare('PRAGMA quick_check(1)').all() as { quick_check: string }[])[0]?.quick_check
    if (found !== 'ok') throw new DatabaseDamaged(`The database ${path} is damaged (${found}). It was left as it is. ${advice(path, copies)}`)
    const mode = raw.prepare('PRAGMA synchronous').all() as { synchronous: number }[]
    if (mode[0]?.synchronous !== 2) throw new Error('The database does not keep full synchronisation.')
    // from here on waiting is done without holding up the whole server
    raw.exec('PRAGMA busy_timeout = 0')
    return raw
  } catch (error) {
    raw?.close()
    const code = codeOf(error)
    if (code.startsWith('SQLITE_BUSY')) throw new DatabaseBusy()
    if (code.startsWith('SQLITE_NOTADB') || code.startsWith('SQLITE_CORRUPT')) {
      throw new DatabaseDamaged(`The database ${path} is damaged (${(error as Error).message}). It was left as it is. ${advice(path, copies)}`)
    }
    throw error
  }
}

function advice(path: string, copies: readonly string[]): string {
  if (copies.length === 0) return 'There is no copy of it yet. To begin anew, move it to another folder.'
  return `The last good copy is ${copies[copies.length - 1]}. To go on from it, move ${basename(path)} elsewhere, if it is there, and put the copy in its place under that name.`
}

function folderOf(path: string): string {
  return join(dirname(path), 'copies')
}

/** The daily copies of a database, oldest first. */
export function copiesOf(path: string): string[] {
  const folder = folderOf(path)
  if (!existsSync(folder)) return []
  return readdirSync(folder).filter(name => /^\d{4}-\d\d-\d\d\.sqlite$/.test(name)).sort().map(name => join(folder, name))
}

/** Where today's copy is to be made; null where there is one. Clears what an interrupted copy left. */
export function nextCopy(path: string, day: string): { readonly part: string; finish(): void } | null {
  const folder = folderOf(path), target = join(folder, `${day}.sqlite`)
  if (existsSync(target)) return null
  mkdirSync(folder, { recursive: true })
  const part = `${target}.part`
  rmSync(part, { force: true })
  return {
    part,
    finish: () => {
      renameSync(part, target)
      for (const old of copiesOf(path).slice(0, -COPIES)) rmSync(old, { force: true })
    },
  }
}
