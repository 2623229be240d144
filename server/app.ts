import { existsSync } from 'node:fs'
import { join } from 'node:path'
import express, { type Express } from 'express'
import { kitRoutes } from './api/kit'
import { faultRoutes, jobRoutes, meshRoutes } from './api/jobs'
import { openApiDocument } from './api/openapi'
import { ProblemError, problemHandler } from './api/problem'
import type { Stores } from './api/stores'
import { printRoutes } from './api/prints'
import { printerRoutes, type Printers } from './api/printers'
import { taskRoutes, Tasks } from './api/tasks'

const POLICY = [
  "default-src 'self'", "script-src 'self' 'wasm-unsafe-eval'", "style-src 'self' 'unsafe-inline'", "worker-src 'self' blob:",
  "img-src 'self' data: blob:", "font-src 'self' data:", "connect-src 'self' blob:", "object-src 'none'", "base-uri 'self'", "frame-ancestors 'none'",
].join('; ')

export interface AppOptions {
  readonly stores: Stores
  /** The built page; without it only the API is served. */
  readonly pageFolder: string
  /** Host names that may be asked for; a foreign page cannot reach the server under another name. */
  readonly hosts: ReadonlySet<string>
  readonly log: (error: unknown) => void
  /** Printers that can be reached from here. */
  readonly printers: Printers
}

/** The web application: API under /api, the page everywhere else. */
export function createApp({ stores, pageFolder, hosts, log, printers }: AppOptions): Express {
  const app = express()
  app.disable('x-powered-by')
  app.use((request, response, next) => {
    response.set({
      'Content-Security-Policy': POLICY, 'Cross-Origin-Opener-Policy': 'same-origin', 'Cross-Origin-Embedder-Policy': 'require-corp',
      'Cross-Origin-Resource-Policy': 'same-origin', 'X-Content-Type-Options': 'nosniff', 'Referrer-Policy': 'no-referrer',
    })
    const host = (request.headers.host ?? '').replace(/:\d+$/, '').toLowerCase()
    if (!hosts.has(host)) throw new ProblemError(421, 'host', 'Wrong host', 'This server answers only under its own address.')
    const origin = request.headers.origin
    if (origin !== undefined && !['GET', 'HEAD'].includes(request.method) && hostOf(origin) !== request.headers.host) throw new ProblemError(403, 'origin', 'Forbidden', 'Changes are accepted only from the application itself.')
    next()
  })
  app.get('/api/health', (_request, response) => void response.json({ ok: true }))
  app.get('/api/openapi.json', (_request, response) => void response.json(openApiDocument()))
  const tasks = new Tasks()
  app.use('/api/jobs', jobRoutes(stores, tasks))
  app.use('/api/tasks', taskRoutes(tasks))
  app.use('/api/meshes', meshRoutes(stores))
  app.use('/api/faults', faultRoutes(stores))
  app.use('/api/kit', kitRoutes(stores.kit))
  app.use('/api/prints', printRoutes(stores))
  app.use('/api/printers', printerRoutes(printers))
  app.use('/api', () => {
    throw new ProblemError(404, 'not-found', 'Not found', 'There is nothing under this address.')
  })
  const page = existsSync(pageFolder)
  if (page) app.use('/assets', express.static(join(pageFolder, 'assets'), { immutable: true, maxAge: '1y' }))
  app.use('/assets', () => {
    throw new ProblemError(404, 'not-found', 'Not found', 'This part of the page is not there any more. Reload the page.')
  })
  if (page) {
    app.use(express.static(pageFolder, { index: false }))
    app.get('/{*splat}', (_request, response) => void response.set('Cache-Control', 'no-cache').sendFile(join(pageFolder, 'index.html'), { dotfiles: 'allow' }))
  }
  app.use(problemHandler(log))
  return app
}

/** The host of an origin; null where it is none, as of a page without one. */
function hostOf(origin: string): string | null {
  return URL.canParse(origin) ? new URL(origin).host : null
}
