import type { Server } from 'node:http'
import { join } from 'node:path'
import { BUILT_IN_PRINTERS } from '@oak-stilts/core/contract'
import { Machine } from './machine'
import { printerApp } from './printer-app'

/** Simulated printers that answer under an address. */
export interface RunningPrinters {
  readonly url: string
  readonly machines: readonly Machine[]
  close(): Promise<void>
}

/** The port under which simulated printers are looked for. */
export const PRINTER_PORT = 4180

/** Starts one simulated printer of each kind that is built in. @param folder where they keep what they know */
export async function startPrinters(folder: string, port: number): Promise<RunningPrinters> {
  const machines = await Promise.all(BUILT_IN_PRINTERS.map(p => {
    const id = p.name.toLowerCase().replace(/[^a-z0-9]+/g, '-')
    return new Machine(id, p, join(folder, id)).start()
  }))
  const app = printerApp(machines)
  const server = await new Promise<Server>((resolve, reject) => {
    const s = app.listen(port, '127.0.0.1', error => (error ? reject(error) : resolve(s)))
  })
  const address = server.address()
  return {
    url: `http://127.0.0.1:${typeof address === 'object' && address ? address.port : port}`, machines,
    close: () => new Promise(resolve => {
      for (const m of machines) m.end()
      server.close(() => resolve())
      server.closeAllConnections()
    }),
  }
}
