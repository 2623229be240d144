import type { Remote } from 'comlink'
import type { PlaceWorker } from './place.worker'
import type { ScanWorker } from './scan.worker'
import { supervise } from './supervised'

/** The two workers of a bench: one scans, one answers the pointer, so that a long scan never holds up a hover. */
export interface Workers {
  readonly scan: Remote<ScanWorker>
  readonly place: Remote<PlaceWorker>
  /** Resolves once one of them died by itself. */
  readonly died: Promise<void>
  end(): void
}

export function startWorkers(): Workers {
  const scanName = `scan-${crypto.randomUUID()}`, placeName = `place-${crypto.randomUUID()}`
  const scan = supervise<ScanWorker>(new Worker(new URL('./scan.worker.ts', import.meta.url), { type: 'module', name: scanName }), scanName)
  const place = supervise<PlaceWorker>(new Worker(new URL('./place.worker.ts', import.meta.url), { type: 'module', name: placeName }), placeName)
  return {
    scan: scan.remote, place: place.remote, died: Promise.race([scan.died, place.died]),
    end: () => {
      scan.end()
      place.end()
    },
  }
}
