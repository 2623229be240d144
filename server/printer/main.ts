import { join } from 'node:path'
import { PRINTER_PORT, startPrinters } from './start'

const port = Number(process.env.PORT ?? PRINTER_PORT)

try {
  const running = await startPrinters(process.env.PRINTER_DIR ?? join(process.cwd(), 'data', 'printers'), port)
  const stop = (): void => void running.close().then(() => process.exit(0))
  process.once('SIGINT', stop)
  process.once('SIGTERM', stop)
  console.log(`Simulated printers are at ${running.url}: ${running.machines.map(m => m.printer.name).join(', ')}`)
} catch (error) {
  const code = (error as { code?: string }).code
  console.error(code === 'EADDRINUSE' ? `Port ${port} is taken. Set PORT to another one.` : (error as Error).message)
  process.exit(1)
}
