import { wrap, type Remote } from 'comlink'
import type { PlaceWorker } from './place.worker'
import type { ScanWorker } from './scan.worker'

/** The two workers of a bench: one scans, one answers the pointer, so that a long scan never holds up a hover. */
export interface Workers {
  readonly scan: Remote<ScanWorker>
  readonly place: Remote<PlaceWorker>
  end(): void
}

export function startWorkers(): Workers {
  const scan = new Worker(new URL('./scan.worker.ts', import.meta.url), { type: 'module', name: 'scan' })
  const place = new Worker(new URL('./place.worker.ts', import.meta.url), { type: 'module', name: 'place' })
  return {
    scan: wrap<ScanWorker>(scan),
    place: wrap<PlaceWorker>(place),
    end: () => {
      scan.terminate()
      place.terminate()
    },
  }
}
