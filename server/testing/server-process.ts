import { spawn, type ChildProcess } from 'node:child_process'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

const main = join(dirname(fileURLToPath(import.meta.url)), '..', '..', 'dist', 'main.mjs')

/** A server in a process of its own, as a person starts it. */
export interface ServerProcess {
  readonly child: ChildProcess
  readonly url: string
  /** Ends it and waits until it has gone. */
  end(signal: NodeJS.Signals): Promise<void>
}

/** Starts one on a data folder; fails with what it says where it ends. */
export function startProcess(folder: string): Promise<ServerProcess> {
  const child = spawn(process.execPath, [main], { env: { ...process.env, DATA_DIR: folder, PORT: '0', SEED: '0' }, stdio: ['ignore', 'pipe', 'pipe'] })
  const gone = new Promise<void>(resolve => child.once('exit', () => resolve()))
  let said = ''
  return new Promise((resolve, reject) => {
    const hear = (chunk: Buffer): void => {
      said += chunk.toString()
      const at = /at (http:\S+)/.exec(said)
      if (!at) return
      resolve({
        child, url: at[1], end: signal => {
          child.kill(signal)
          return gone
        },
      })
    }
    child.stdout.on('data', hear)
    child.stderr.on('data', hear)
    child.once('exit', () => reject(new Error(said)))
  })
}
