import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import Database from 'libsql'
import { codeOf } from './database/open'

/** The data folder cannot be used; the message says why and what to do. */
export class DataFolderError extends Error {}

/** One server's hold on a data folder. */
export interface FolderLock {
  release(): void
}

/** Makes the folder where it is missing, and makes sure that it can be written. @throws DataFolderError */
export function readyFolder(folder: string): void {
  try {
    mkdirSync(folder, { recursive: true })
    const probe = join(folder, `.probe-${process.pid}`)
    writeFileSync(probe, 'x')
    rmSync(probe)
  } catch (error) {
    const code = codeOf(error)
    const why = code === 'ENOSPC' ? 'its disk is full' : code === 'ENOTDIR' || code === 'EEXIST' ? 'there is a file in its place' : code === 'EROFS' ? 'its disk can only be read' : 'it cannot be written'
    throw new DataFolderError(`The data folder ${folder} cannot be used: ${why}. Set DATA_DIR to another folder.`)
  }
}

/**
 * Takes a data folder for this process alone. The system lets go of the lock when the process ends, however it ends, so a crash
 * leaves none behind. @throws DataFolderError where another process has it
 */
export function lockFolder(folder: string): FolderLock {
  const note = join(folder, 'server.txt')
  const lock = new Database(join(folder, 'server.lock'))
  try {
    lock.exec('PRAGMA busy_timeout = 0')
    lock.exec('BEGIN EXCLUSIVE')
  } catch (error) {
    lock.close()
    if (!codeOf(error).startsWith('SQLITE_BUSY')) throw error
    throw new DataFolderError(`The data folder ${folder} is in use by ${holder(note)}. Use that one, stop it first, or set DATA_DIR to another folder.`)
  }
  writeFileSync(note, `process ${process.pid}, started ${new Date().toISOString()}\n`)
  return {
    release: () => {
      rmSync(note, { force: true })
      if (lock.inTransaction) lock.exec('ROLLBACK')
      lock.close()
    },
  }
}

function holder(note: string): string {
  try {
    return `another Oak Stilts server (${readFileSync(note, 'utf8').trim()})`
  } catch {
    return 'another Oak Stilts server'
  }
}
