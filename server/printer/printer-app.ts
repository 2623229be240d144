import express, { type ErrorRequestHandler, type Express, type Request, type Response } from 'express'
import { NewUploadSchema, PrinterOrderSchema, SimulationSchema } from '@oak-stilts/core/contract'
import { PrinterRefusal, type Machine } from './machine'

/** The largest piece that is taken at once, bytes. */
const MOST_PIECE = 8 << 20
/** A state is sent no more often than this, ms. */
const EVERY_MS = 200

/**
 * Printers over HTTP: what they are doing, packages in pieces that can be resumed (the offset of a piece in the header `Upload-Offset`, as
 * the open protocol for resumable uploads has it), orders, and events as they come. Errors are problem documents (RFC 9457).
 */
export function printerApp(machines: readonly Machine[]): Express {
  const app = express(), of = new Map(machines.map(m => [m.id, m]))
  app.disable('x-powered-by')
  app.get('/printers', (_request, response) => void response.json(machines.filter(m => m.power).map(m => m.state)))
  // what is done to simulated printers from outside, whether they have power or not
  app.put('/printers/:id/simulation', express.json(), (request, response) => {
    machineOf(request).simulate(SimulationSchema.parse(request.body))
    response.status(204).end()
  })
  app.use('/printers/:id', (request, response, next) => {
    // without power nothing answers
    if (machineOf(request).power) next()
    else response.socket?.destroy()
  })
  app.get('/printers/:id', (request, response) => void response.json(machineOf(request).state))
  app.get('/printers/:id/events', (request, response) => events(machineOf(request), response))
  app.post('/printers/:id/orders', express.json(), (request, response) => void response.json(machineOf(request).order(PrinterOrderSchema.parse(request.body).order)))
  app.post('/printers/:id/uploads', express.json(), (request, response) => {
    const upload = machineOf(request).begin(NewUploadSchema.parse(request.body))
    response.status(201).json(upload)
  })
  app.get('/printers/:id/uploads/:upload', (request, response) => void response.json(machineOf(request).upload(String(request.params.upload))))
  app.patch('/printers/:id/uploads/:upload', express.raw({ type: () => true, limit: MOST_PIECE }), (request, response) => {
    const machine = machineOf(request), offset = Number(request.headers['upload-offset']), id = String(request.params.upload), piece = Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0)
    if (!Number.isInteger(offset) || offset < 0) throw new PrinterRefusal('offset', 400, 'A piece needs the header Upload-Offset.')
    if (machine.dropsNow()) {
      machine.append(id, offset, piece.subarray(0, piece.length >> 1))
      response.socket?.destroy()
      return
    }
    response.json(machine.append(id, offset, piece))
  })
  app.post('/printers/:id/uploads/:upload/load', async (request, response) => {
    response.json(await machineOf(request).load(String(request.params.upload)))
  })
  app.use(() => {
    throw new PrinterRefusal('not-found', 404, 'There is nothing under this address.')
  })
  const told: ErrorRequestHandler = (error: unknown, _request, response, next) => {
    if (response.headersSent) {
      next(error)
      return
    }
    const { status = 500, code = 'failed', message } = error as { status?: number; code?: string; message: string }, isOurs = error instanceof PrinterRefusal, shape = (error as { name?: string }).name === 'ZodError'
    response.status(isOurs ? status : shape ? 400 : status >= 400 && status < 500 ? status : 500).type('application/problem+json').json({ type: 'about:blank', title: 'Not done', status: isOurs ? status : shape ? 400 : status, detail: isOurs ? message : shape ? 'What was asked for has another form than a printer takes.' : status === 413 ? 'This piece is larger than a printer takes at once.' : 'The printer failed at this.', code: isOurs ? code : shape ? 'bad-request' : 'failed' })
  }
  app.use(told)
  return app

  function machineOf(request: Request): Machine {
    const machine = of.get(String(request.params.id))
    if (!machine) throw new PrinterRefusal('not-found', 404, 'There is no such printer.')
    return machine
  }
}

/** Sends what a printer does, at once and whenever it changes. */
function events(machine: Machine, response: Response): void {
  response.set({ 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-cache' }).flushHeaders()
  let due: ReturnType<typeof setTimeout> | null = null
  const send = (): void => {
    due = null
    if (machine.power) response.write(`data: ${JSON.stringify(machine.state)}\n\n`)
    else response.socket?.destroy()
  }
  const soon = (): void => {
    due ??= setTimeout(send, EVERY_MS)
  }
  send()
  machine.events.on('state', soon)
  response.on('close', () => {
    if (due) clearTimeout(due)
    machine.events.off('state', soon)
  })
}
