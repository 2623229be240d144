import { WorkerDied } from '../workers/supervised'
import type { BenchContext } from './context'

/** Keeps up what there is to say about the stilts of the part on the bench: which are too near to each other, and how each of them stands. */
export function createClearing({ state, workers, surroundings, say }: BenchContext) {
  let newest = 0

  /** Looks at all stilts as they are now; the newest look counts. */
  async function look(): Promise<void> {
    const ticket = ++newest, { part } = surroundings.value
    const isNewest = (): boolean => ticket === newest && surroundings.value.part === part
    try {
      const near = await workers.value?.surface.near()
      if (near && isNewest()) state.nearStilts = near
      const verdicts = await workers.value?.surface.judge()
      if (verdicts && isNewest()) state.verdicts = verdicts
    } catch (error) {
      if (!(error instanceof WorkerDied)) say(`The stilts could not be looked at: ${(error as Error).message}`)
    }
  }

  return { look }
}
