import { availableParallelism } from 'node:os'
import { Worker } from 'node:worker_threads'
import { SLICED_AT_ONCE, type PlateSlicer, type PlateToSlice, type SlicedLayer } from '@oak-stilts/core/print'

/** Threads at the most, whatever cores there are: each holds all meshes. */
const MOST_THREADS = 8
/** With fewer bands than that it is not worth while to start threads. */
const LEAST_BANDS = 6

/**
 * The layers of a plate from the plate up, made on all cores. What is made ahead of what was asked for stays within a band a thread.
 * @param threads how many cores are used at the most
 */
export async function* layersOf(plate: PlateToSlice, slicer: PlateSlicer, threads = availableParallelism()): AsyncGenerator<SlicedLayer, void, void> {
  const count = Math.min(threads, MOST_THREADS, slicer.bands)
  if (count < 2 || slicer.bands < LEAST_BANDS) {
    for (let band = 0; band < slicer.bands; band++) yield* slicer.band(band)
    return
  }
  const workers = Array.from({ length: count }, () => new Worker(new URL('./slice-thread.mjs', import.meta.url), { workerData: plate, execArgv: [] }))
  try {
    // thread i makes bands i, i + count and so on: each is asked for the next one when its last one is taken
    const next = workers.map((w, i) => asked(w, i))
    next.forEach(promise => promise.catch(() => undefined))
    for (let band = 0; band < slicer.bands; band++) {
      const i = band % count, layers = await next[i]
      if (band + count < slicer.bands) {
        next[i] = asked(workers[i], band + count)
        next[i].catch(() => undefined)
      }
      if (layers.length !== Math.min(SLICED_AT_ONCE, slicer.layerCount - band * SLICED_AT_ONCE)) throw new Error('A thread gave another number of layers than it was asked for.')
      yield* layers
    }
  } finally {
    await Promise.all(workers.map(w => w.terminate()))
  }
}

function asked(worker: Worker, band: number): Promise<SlicedLayer[]> {
  return new Promise((resolve, reject) => {
    const done = (): void => {
      worker.off('message', answer).off('error', failed).off('exit', ended)
    }
    const answer = (layers: SlicedLayer[]): void => {
      done()
      resolve(layers)
    }
    const failed = (error: Error): void => {
      done()
      reject(error)
    }
    const ended = (): void => failed(new Error('A thread of the slicing ended by itself: there may be too little memory.'))
    worker.on('message', answer).on('error', failed).on('exit', ended)
    worker.postMessage(band)
  })
}
