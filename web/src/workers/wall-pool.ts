import { transfer } from 'comlink'
import { handedOver, type WallHelper } from '@oak-stilts/core/hollow'
import { supervise, type Supervised } from './supervised'
import type { WallWorker } from './wall.worker'

/** Helpers at the most, whatever cores there are: each holds the mesh and a tree over it. */
const MOST_HELPERS = 3

/** Workers beside the finisher's own, one for every further core. They are a help, not a need: what one that dies should have done is done there. */
export class WallPool {
  #workers: Supervised<WallWorker>[] | null = null

  /** Those that live; they are started at the first time. */
  helpers(): WallHelper[] {
    this.#workers ??= Array.from({ length: Math.max(0, Math.min(MOST_HELPERS, (navigator.hardwareConcurrency || 2) - 1)) }, () => {
      const name = `wall-${crypto.randomUUID()}`, worker = supervise<WallWorker>(new Worker(new URL('./wall.worker.ts', import.meta.url), { type: 'module', name }), name)
      void worker.died.then(() => (this.#workers = this.#workers?.filter(w => w !== worker) ?? null))
      return worker
    })
    return this.#workers.map(({ remote }) => ((task, asked) => remote.help(task, asked === null ? asked : transfer(asked, handedOver(asked)))) as WallHelper)
  }
}
