import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { build } from 'vite'

const server = fileURLToPath(new URL('..', import.meta.url))

/** Builds the server before the first test, so that those which start it run what `npm start` runs, and soon. */
export default async function setup(): Promise<void> {
  await build({ configFile: join(server, 'vite.config.ts') })
  process.env.IMPORT_ENTRY = join(server, '..', 'dist', 'worker-entry.mjs')
}
