import { availableParallelism } from 'node:os'
import { Worker } from 'node:worker_threads'
import { handedOver, type WallHelper } from '@oak-stilts/core/hollow'

/** Threads at the most, whatever cores there are: each holds the mesh and a tree over it. */
const MOST_THREADS = 3

/** Further cores for the work on an inner wall. @param threads how many cores are used at the most, this one with them */
export function wallThreads(threads = availableParallelism()): { readonly helpers: readonly WallHelper[]; readonly end: () => Promise<void> } {
  const workers = Array.from({ length: Math.min(threads - 1, MOST_THREADS) }, () => new Worker(new URL('./wall-thread.mjs', import.meta.url), { execArgv: [] }))
  return { helpers: workers.map(helperOf), end: async () => void (await Promise.all(workers.map(w => w.terminate()))) }
}

function helperOf(worker: Worker): WallHelper {
  const waiting: { resolve: (told: never) => void; reject: (error: Error) => void }[] = []
  let over: Error | null = null
  const end = (error: Error): void => {
    over = error
    for (const { reject } of waiting.splice(0)) reject(error)
  }
  // a thread answers in the order in which it is asked
  worker.on('message', ({ told, failed }: { told: never; failed?: string }) => {
    const asked = waiting.shift()
    if (failed === undefined) asked?.resolve(told)
    else asked?.reject(new Error(failed))
  }).on('error', end).on('exit', () => end(new Error('A thread of the hollowing ended by itself: there may be too little memory.')))
  return (task, asked) => new Promise((resolve, reject) => {
    if (over) return reject(over)
    waiting.push({ resolve, reject })
    worker.postMessage({ task, asked }, handedOver(asked))
  })
}
