import { mkdirSync, rmSync } from 'node:fs'
import type { Server } from 'node:http'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { createApp } from './app'
import { migrate } from './database/migrations'
import { openDatabase } from './database/sqlite'
import { seedDemo } from './seed'
import { BlobStore } from './store/blobs'
import { JobStore } from './store/jobs'

export interface StartOptions {
  readonly dataFolder: string
  readonly port: number
  readonly host: string
  readonly seed: boolean
  readonly say: (line: string) => void
  readonly log: (error: unknown) => void
}

export interface Running {
  readonly url: string
  close(): Promise<void>
}

/** Opens the data folder, seeds it where it is new, and serves. */
export async function startServer(options: StartOptions): Promise<Running> {
  mkdirSync(options.dataFolder, { recursive: true })
  const uploads = join(options.dataFolder, 'uploads')
  rmSync(uploads, { recursive: true, force: true })
  const db = openDatabase(join(options.dataFolder, 'oak-stilts.sqlite'))
  await migrate(db)
  const stores = { jobs: new JobStore(db), blobs: new BlobStore(join(options.dataFolder, 'blobs')), uploads }
  if (options.seed) await seedDemo(stores, options.say)
  const pageFolder = join(dirname(fileURLToPath(import.meta.url)), '..', 'web', 'dist')
  const app = createApp({ stores, pageFolder, hosts: new Set(['127.0.0.1', 'localhost', '[::1]', options.host]), log: options.log })
  const server = await new Promise<Server>((resolve, reject) => {
    const s = app.listen(options.port, options.host, error => (error ? reject(error) : resolve(s)))
  })
  const address = server.address()
  const port = typeof address === 'object' && address ? address.port : options.port
  return {
    url: `http://${options.host}:${port}`,
    close: async () => {
      await new Promise<void>(resolve => {
        server.close(() => resolve())
        server.closeAllConnections()
      })
      await db.destroy()
    },
  }
}
