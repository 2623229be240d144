import { join } from 'node:path'
import { pino } from 'pino'
import { PRINTER_PORT } from './printer/start'
import { startServer } from './start'

const logger = pino({ level: process.env.LOG_LEVEL ?? 'warn' })
const port = Number(process.env.PORT ?? 4173)

try {
  if (!Number.isInteger(port) || port < 0 || port > 65535) throw new Error(`PORT must be a number from 0 to 65535, not "${process.env.PORT}".`)
  const running = await startServer({
    dataFolder: process.env.DATA_DIR ?? join(process.cwd(), 'data'),
    port, host: process.env.HOST ?? '127.0.0.1', seed: process.env.SEED !== '0',
    printers: (process.env.PRINTERS ?? `http://127.0.0.1:${PRINTER_PORT}`).split(',').map(a => a.trim()).filter(a => a !== ''),
    say: line => console.log(line), log: error => logger.error(error),
  })
  const stop = (): void => void running.close().then(() => process.exit(0))
  process.once('SIGINT', stop)
  process.once('SIGTERM', stop)
  console.log(`Oak Stilts is at ${running.url}`)
} catch (error) {
  const code = (error as { code?: string }).code
  console.error(code === 'EADDRINUSE' ? `Port ${port} is taken. Set PORT to another one.` : (error as Error).message)
  process.exit(1)
}
