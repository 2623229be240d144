import type { LayerTimes } from '@oak-stilts/core/contract'
import type { PackageAbout, PlateToSlice } from '@oak-stilts/core/print'
import type { MadePackage, PackageWorker } from './package.worker'
import type { SliceWorker } from './slice.worker'
import { supervise, type Supervised } from './supervised'

/** Workers at the most, whatever cores there are: each holds all meshes. */
const MOST_WORKERS = 4
/** Bands that may be made before the one that the package waits for. */
const MOST_AHEAD = 8

export function startPackager(): Supervised<PackageWorker> {
  const name = `package-${crypto.randomUUID()}`
  return supervise<PackageWorker>(new Worker(new URL('./package.worker.ts', import.meta.url), { type: 'module', name }), name)
}

export function startSlicer(): Supervised<SliceWorker> {
  const name = `slice-${crypto.randomUUID()}`
  return supervise<SliceWorker>(new Worker(new URL('./slice.worker.ts', import.meta.url), { type: 'module', name }), name)
}

/**
 * Slices a plate on all cores into a package.
 * @param packager puts the layers together @param timesOf how each of so many layers is printed
 * @throws PackageError, WorkerDied; DOMException `AbortError` where it was cancelled
 */
export async function slicePlate(plate: PlateToSlice, about: PackageAbout, timesOf: (layers: number) => LayerTimes[], packager: Supervised<PackageWorker>, signal: AbortSignal, progress: (done: number, total: number) => void): Promise<MadePackage & { cutPixels: number }> {
  const workers = Array.from({ length: Math.max(1, Math.min(MOST_WORKERS, navigator.hardwareConcurrency || 2)) }, startSlicer)
  try {
    const cancelled = new Promise<never>((_, reject) => signal.addEventListener('abort', () => reject(signal.reason as Error), { once: true }))
    const work = async (): Promise<MadePackage & { cutPixels: number }> => {
      const [{ layerCount, bands }] = await Promise.all(workers.map(w => w.remote.load(plate)))
      await packager.remote.begin(about, timesOf(layerCount))
      let next = 0, done = 0
      const taken = new Set<number>()
      let tell: (() => void)[] = []
      const lowest = (): number => {
        let b = 0
        while (taken.has(b)) b++
        return b
      }
      await Promise.all(workers.map(async ({ remote }) => {
        for (let band = next++; band < bands; band = next++) {
          while (band - lowest() > MOST_AHEAD) await new Promise<void>(resolve => tell.push(resolve))
          const layers = await remote.band(band)
          await packager.remote.take(band, layers)
          taken.add(band)
          progress(Math.min(layerCount, (done += layers.length)), layerCount)
          const waiting = tell
          tell = []
          for (const go of waiting) go()
        }
      }))
      return packager.remote.finish()
    }
    const working = work()
    working.catch(() => undefined)
    return await Promise.race([working, cancelled])
  } finally {
    for (const w of workers) w.end()
  }
}
