import { fork, type ChildProcess } from 'node:child_process'
import { totalmem } from 'node:os'
import { fileURLToPath } from 'node:url'
import type { BringingIn } from '@oak-stilts/core/contract'
import type { ImportAnswer, ImportProgress, ImportTask } from './import-worker'

/** Tasks that run at the same time; further ones wait for their turn. */
const AT_ONCE = 2
/** Memory that one task may take, MB: what two of them leave free is enough for everything else. */
const MEMORY_MB = Math.max(1024, Math.floor((totalmem() / (1024 * 1024)) * 0.35))

/** What such a process runs; tests name what was built of it, which starts sooner. */
const ENTRY = process.env.IMPORT_ENTRY ?? fileURLToPath(new URL('./worker-entry.mjs', import.meta.url))

let running = 0
const waiting: (() => void)[] = []
const children = new Set<ChildProcess>()

export interface ImportOptions {
  /** Ends the task; it then answers `cancelled`. */
  readonly signal?: AbortSignal
  readonly memoryMb?: number
  /** Told how far the task has come. */
  readonly progress?: (progress: BringingIn) => void
}

/** Runs one task in a process of its own, so that the server keeps answering and outlives a model that needs too much memory. */
export async function runImport(task: ImportTask, { signal, memoryMb = MEMORY_MB, progress }: ImportOptions = {}): Promise<ImportAnswer> {
  if (running >= AT_ONCE) {
    progress?.({ stage: 'waiting', share: 0 })
    await new Promise<void>(resolve => waiting.push(resolve))
  }
  running++
  try {
    return signal?.aborted ? CANCELLED : await runNow(task, memoryMb, signal, progress)
  } finally {
    running--
    waiting.shift()?.()
  }
}

/** Ends all tasks: the server is about to leave. */
export function endImports(): void {
  for (const child of children) child.kill('SIGKILL')
}

const CANCELLED: ImportAnswer = { ok: false, code: 'cancelled', sentence: 'Bringing the model in was cancelled.' }
const TOO_LARGE: ImportAnswer = { ok: false, code: 'too-large', sentence: 'This model needs more memory than there is. Reduce the number of triangles and export it again.' }

function runNow(task: ImportTask, memoryMb: number, signal?: AbortSignal, progress?: (progress: BringingIn) => void): Promise<ImportAnswer> {
  return new Promise((resolve, reject) => {
    const child = fork(ENTRY, [], { execArgv: [`--max-old-space-size=${memoryMb}`], serialization: 'advanced', stdio: ['ignore', 'inherit', 'pipe', 'ipc'] })
    children.add(child)
    let lastWords = ''
    child.stderr?.on('data', (chunk: Buffer) => (lastWords = (lastWords + chunk.toString()).slice(-4000)))
    const cancel = (): void => {
      child.kill('SIGKILL')
      resolve(CANCELLED)
    }
    signal?.addEventListener('abort', cancel)
    const settled = (): void => {
      children.delete(child)
      signal?.removeEventListener('abort', cancel)
    }
    child.on('message', (said: ImportAnswer | ImportProgress) => {
      if ('progress' in said) progress?.(said.progress)
      else resolve(said)
    })
    child.once('error', error => {
      settled()
      reject(error)
    })
    child.once('exit', (code, by) => {
      settled()
      // the engine aborts where its heap is exhausted; the system kills what takes the memory of all
      if (by === 'SIGKILL' || /out of memory|OOM|allocation failed/i.test(lastWords)) resolve(TOO_LARGE)
      else if (code !== 0) reject(new Error(`The import ended with code ${code ?? by}. ${lastWords}`))
    })
    child.send({ ...task, memoryMb })
  })
}
