import { Worker } from 'node:worker_threads'
import type { ImportAnswer, ImportTask } from './import-worker'

/** Runs one task in a worker thread of its own, so that the server keeps answering. */
export function runImport(task: ImportTask): Promise<ImportAnswer> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(new URL('./worker-entry.mjs', import.meta.url), { workerData: task })
    worker.once('message', resolve)
    worker.once('error', reject)
    worker.once('exit', code => reject(new Error(`The import worker ended with code ${code}.`)))
  })
}
