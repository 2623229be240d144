import type { Stand } from '@oak-stilts/core/pose'
import type { ModelScan, Raster } from '@oak-stilts/core/scan'
import type { BandWorker } from './band.worker'
import { supervise, type Supervised } from './supervised'

/** Bands that a helper makes between two messages. */
const BATCH = 3
/** Helpers at the most, whatever cores there are. */
const MOST_HELPERS = 7

/** Workers beside the scan's own, one for every further core. They are a help, not a need: the bands of one that dies are made here. */
export class BandPool {
  #helpers: Supervised<BandWorker>[] | null = null

  /** Hands the mesh to all helpers; they are started at the first time. */
  load(buffer: ArrayBuffer): void {
    this.#helpers ??= Array.from({ length: Math.max(0, Math.min(MOST_HELPERS, (navigator.hardwareConcurrency || 2) - 1)) }, () => {
      const name = `bands-${crypto.randomUUID()}`
      const helper = supervise<BandWorker>(new Worker(new URL('./band.worker.ts', import.meta.url), { type: 'module', name }), name)
      void helper.died.then(() => (this.#helpers = this.#helpers?.filter(h => h !== helper) ?? null))
      return helper
    })
    for (const h of this.#helpers) void h.remote.load(buffer).catch(() => undefined)
  }

  /**
   * Makes all bands that a scan does not have yet: helpers take them from the top, the caller from the bottom, until they meet.
   * @param pause is asked after every band that was made here; false ends the work
   * @returns whether all bands are there
   */
  async make(scan: ModelScan, raster: Raster, stand: Stand, pause: (made: number, total: number) => Promise<boolean>): Promise<boolean> {
    const todo = Array.from({ length: scan.bands }, (_, i) => i).filter(b => !scan.hasBand(b))
    const total = scan.bands
    let made = total - todo.length, going = true
    const work = (this.#helpers ?? []).map(async ({ remote }) => {
      let list: number[] = []
      try {
        await remote.prepare(raster, stand)
        while (going && todo.length > 0) {
          list = todo.splice(-BATCH)
          for (const { band, chunk, spans } of await remote.bands(list)) scan.takeBand(band, chunk, spans)
          made += list.length
          list = []
        }
      } catch {
        // what a helper could not make is made here
        todo.push(...list)
      }
    })
    const own = async (): Promise<void> => {
      for (let band = todo.shift(); band !== undefined; band = todo.shift()) {
        scan.takeBand(band, scan.makeBand(band))
        going = await pause(++made, total)
        if (!going) return
      }
    }
    await own()
    if (!going) return false
    await Promise.all(work)
    await own()
    return going
  }
}
