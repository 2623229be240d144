import { join } from 'node:path'
import Database from 'libsql'

/** Holds the database of a data folder, as another program may, and lets go of it after a while. */
export async function holdDatabase(folder: string, ms: number): Promise<void> {
  const other = new Database(join(folder, 'oak-stilts.sqlite'))
  try {
    other.exec('PRAGMA busy_timeout = 1000')
    other.exec('BEGIN IMMEDIATE')
    await new Promise(resolve => setTimeout(resolve, ms))
    other.exec('ROLLBACK')
  } finally {
    other.close()
  }
}
