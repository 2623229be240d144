import { WorkerDied } from '../workers/supervised'
import type { BenchContext } from './context'

/** Keeps up which stilts of the part on the bench are nearer to each other than its resin allows. */
export function createClearing({ state, workers, surroundings, say }: BenchContext) {
  let newest = 0

  /** Looks at all stilts as they are now; the newest look counts. */
  async function look(): Promise<void> {
    const ticket = ++newest, { part } = surroundings.value
    try {
      const near = await workers.value?.surface.near()
      if (near && ticket === newest && surroundings.value.part === part) state.nearStilts = near
    } catch (error) {
      if (!(error instanceof WorkerDied)) say(`The gaps between stilts could not be measured: ${(error as Error).message}`)
    }
  }

  return { look }
}
