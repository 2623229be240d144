import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs'
import type { Server } from 'node:http'
import { hostname, networkInterfaces } from 'node:os'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { sql, type Kysely } from 'kysely'
import { decodeMesh } from '@oak-stilts/core/mesh'
import { Printers } from './api/printers'
import { createApp } from './app'
import { DataFolderError, lockFolder, readyFolder } from './data-folder'
import { migrate } from './database/migrations'
import { nextCopy } from './database/open'
import { openDatabase } from './database/sqlite'
import type { Tables } from './database/tables'
import { endImports } from './import/run-import'
import { seedDemo } from './seed'
import { BlobStore } from './store/blobs'
import { JobStore, KEPT_DELETED_MS } from './store/jobs'
import { KitStore } from './store/kit'
import { PrintStore } from './store/prints'

export interface StartOptions {
  readonly dataFolder: string
  readonly port: number
  readonly host: string
  readonly seed: boolean
  readonly say: (line: string) => void
  readonly log: (error: unknown) => void
  /** Addresses under which printers answer, besides those that are started from here. */
  readonly printers?: readonly string[]
}

export interface Running {
  readonly url: string
  close(): Promise<void>
}

/** Time between two looks whether today's copy of the database is there, ms. */
const COPY_LOOK_MS = 3600_000

/** Opens the data folder, seeds it where it is new, and serves. @throws DataFolderError, DatabaseDamaged, DatabaseBusy */
export async function startServer(options: StartOptions): Promise<Running> {
  const { dataFolder, host } = options
  readyFolder(dataFolder)
  const lock = lockFolder(dataFolder)
  try {
    return await serve(options, lock.release)
  } catch (error) {
    lock.release()
    throw (error as { code?: string }).code === 'EADDRNOTAVAIL' ? new DataFolderError(`There is no address ${host} on this machine. Set HOST to another one.`) : error
  }
}

async function serve(options: StartOptions, release: () => void): Promise<Running> {
  const { dataFolder, host } = options
  const uploads = join(dataFolder, 'uploads')
  rmSync(uploads, { recursive: true, force: true })
  mkdirSync(uploads, { recursive: true })
  const path = join(dataFolder, 'oak-stilts.sqlite')
  const db = openDatabase(path)
  try {
    const blobs = new BlobStore(join(dataFolder, 'blobs'))
    await migrate(db, hash => readPositions(blobs, hash))
    const stores = { jobs: new JobStore(db), kit: new KitStore(db), prints: new PrintStore(db), blobs, uploads }
    await stores.jobs.purge(new Date(Date.now() - KEPT_DELETED_MS))
    stores.blobs.collect(new Set([...(await stores.jobs.usedBlobs()), ...(await stores.prints.usedBlobs())]))
    const copy = (): void => void keepCopy(db, path).catch(options.log)
    copy()
    if (options.seed) await seedDemo(stores, options.say)
    const pageFolder = join(dirname(fileURLToPath(import.meta.url)), '..', 'web', 'dist')
    const printers = new Printers(join(dataFolder, 'printers'), options.printers ?? [])
    // those that were started before go on where they were
    if (existsSync(join(dataFolder, 'printers'))) await printers.simulate().catch(options.log)
    const app = createApp({ stores, pageFolder, hosts: hostsOf(host), log: options.log, printers })
    const server = await new Promise<Server>((resolve, reject) => {
      const s = app.listen(options.port, host, error => (error ? reject(error) : resolve(s)))
    })
    const copying = setInterval(copy, COPY_LOOK_MS)
    copying.unref()
    const address = server.address()
    const port = typeof address === 'object' && address ? address.port : options.port
    return {
      url: `http://${shown(host)}:${port}`,
      close: async () => {
        clearInterval(copying)
        endImports()
        await printers.close()
        await new Promise<void>(resolve => {
          server.close(() => resolve())
          server.closeAllConnections()
        })
        await db.destroy()
        release()
      },
    }
  } catch (error) {
    await db.destroy()
    throw error
  }
}

/** The positions of a stored mesh; null where it is missing or damaged. */
function readPositions(blobs: BlobStore, hash: string): Float32Array | null {
  try {
    const bytes = readFileSync(blobs.pathOf(hash, 'mesh'))
    return decodeMesh(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length) as ArrayBuffer).positions
  } catch {
    return null
  }
}

/** A copy of the database a day, made as one consistent file beside those of the days before. */
async function keepCopy(db: Kysely<Tables>, path: string): Promise<void> {
  const copy = nextCopy(path, new Date().toISOString().slice(0, 10))
  if (!copy) return
  await sql`VACUUM INTO ${copy.part}`.execute(db)
  copy.finish()
}

/** Names under which the server may be asked: its own, and all of this machine where it listens on every address. */
function hostsOf(host: string): ReadonlySet<string> {
  const names = ['127.0.0.1', 'localhost', '[::1]', shown(host)]
  if (host === '0.0.0.0' || host === '::') {
    names.push(hostname(), ...Object.values(networkInterfaces()).flatMap(list => (list ?? []).map(a => (a.family === 'IPv6' ? `[${a.address}]` : a.address))))
  }
  return new Set(names.map(n => n.toLowerCase()))
}

function shown(host: string): string {
  return host.includes(':') ? `[${host}]` : host
}
