import { request as httpRequest } from 'node:http'
import { Router, type Request, type Response } from 'express'
import { z } from 'zod'
import { PrinterStateSchema, type PrinterState } from '@oak-stilts/core/contract'
import { startPrinters, type RunningPrinters } from '../printer/start'
import { ProblemError } from './problem'

/** A printer that does not answer within this time is not there, ms. */
const ANSWERS_WITHIN_MS = 1500

/** Printers that can be reached from this server: those under known addresses, and simulated ones that are started from here. */
export class Printers {
  readonly #folder: string
  readonly #addresses: readonly string[]
  #own: Promise<RunningPrinters> | null = null

  /** @param folder where simulated printers keep what they know */
  constructor(folder: string, addresses: readonly string[]) {
    this.#folder = folder
    this.#addresses = addresses.filter(a => URL.canParse(a) && new URL(a).protocol === 'http:')
  }

  /** Starts simulated printers where none is there. */
  async simulate(): Promise<void> {
    this.#own ??= startPrinters(this.#folder, 0).catch((error: unknown) => {
      this.#own = null
      throw error
    })
    await this.#own
  }

  /** All that answer, the simulated ones of this server first; each under a name of its own among all. */
  async list(): Promise<PrinterState[]> {
    const found = await Promise.all((await this.#bases()).map(async (base, i) => {
      try {
        const answer = await fetch(`${base}/printers`, { signal: AbortSignal.timeout(ANSWERS_WITHIN_MS) })
        return z.array(PrinterStateSchema).parse(await answer.json()).map(p => ({ ...p, id: `${i}.${p.id}` }))
      } catch {
        return []
      }
    }))
    return found.flat()
  }

  /** Where a printer answers; null where nobody knows it. */
  async addressOf(id: string): Promise<string | null> {
    const [, at, name] = /^(\d+)\.([a-z0-9-]+)$/.exec(id) ?? [], base = at === undefined ? undefined : (await this.#bases())[Number(at)]
    return base === undefined ? null : `${base}/printers/${name}`
  }

  async #bases(): Promise<string[]> {
    const own = this.#own ? await this.#own.catch(() => null) : null
    // a place is kept for its own, so that names stay when they are started
    return [own?.url ?? 'http://127.0.0.1:1', ...this.#addresses]
  }

  async close(): Promise<void> {
    await (await this.#own?.catch(() => null))?.close()
  }
}

/** Routes under /api/printers: all that are found, and each of them as it answers itself. The page may ask nobody but this server. */
export function printerRoutes(printers: Printers): Router {
  const router = Router()
  router.get('/', async (_request, response) => {
    response.json(await printers.list())
  })
  router.post('/simulated', async (_request, response) => {
    await printers.simulate()
    response.json(await printers.list())
  })
  router.use('/:printer', async (request, response) => {
    const address = await printers.addressOf(String(request.params.printer))
    if (!address) throw new ProblemError(404, 'not-found', 'Not found', 'There is no such printer.')
    await handOn(request, response, `${address}${request.url === '/' ? '' : request.url}`)
  })
  return router
}

/** Hands a request on to a printer, and what it answers back, as it comes. */
function handOn(request: Request, response: Response, address: string): Promise<void> {
  return new Promise((resolve, reject) => {
    const headers = Object.fromEntries(Object.entries(request.headers).filter(([name]) => ['content-type', 'content-length', 'upload-offset', 'accept'].includes(name)))
    const broken = (): void => {
      if (response.headersSent) {
        response.socket?.destroy()
        resolve()
      } else reject(new ProblemError(502, 'no-printer', 'No answer', 'The printer does not answer. It may be switched off.'))
    }
    const on = httpRequest(address, { method: request.method, headers }, answer => {
      response.status(answer.statusCode ?? 502)
      for (const name of ['content-type', 'cache-control']) if (answer.headers[name]) response.setHeader(name, answer.headers[name])
      response.flushHeaders()
      answer.pipe(response)
      answer.on('error', broken)
      answer.on('end', resolve)
    })
    on.on('error', broken)
    response.on('close', () => on.destroy())
    request.pipe(on)
  })
}
