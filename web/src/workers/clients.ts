import type { Remote } from 'comlink'
import type { SurfaceWorker } from './surface.worker'
import type { ScanWorker } from './scan.worker'
import { supervise } from './supervised'

/** The two workers of a bench: one scans, one answers the pointer, so that a long scan never holds up a hover. */
export interface Workers {
  readonly scan: Remote<ScanWorker>
  readonly surface: Remote<SurfaceWorker>
  /** Resolves once one of them died by itself. */
  readonly died: Promise<void>
  end(): void
}

export function startWorkers(): Workers {
  const scanName = `scan-${crypto.randomUUID()}`, surfaceName = `surface-${crypto.randomUUID()}`
  const scan = supervise<ScanWorker>(new Worker(new URL('./scan.worker.ts', import.meta.url), { type: 'module', name: scanName }), scanName)
  const surface = supervise<SurfaceWorker>(new Worker(new URL('./surface.worker.ts', import.meta.url), { type: 'module', name: surfaceName }), surfaceName)
  return {
    scan: scan.remote, surface: surface.remote, died: Promise.race([scan.died, surface.died]),
    end: () => {
      scan.end()
      surface.end()
    },
  }
}
