import { proxy } from 'comlink'
import { GAUGES, type Stilt } from '@oak-stilts/core/stilts'
import { rasterOf, type BenchContext } from './context'

/** Places stilts under what hangs. */
export function createHolding({ store, state, notHeld, current, say }: BenchContext, put: (label: string, stilts: readonly Stilt[]) => void, rescan: () => Promise<void>) {
  let holding = false
  /** Places stilts under all open islands, or under those given. */
  async function hold(only: number[] | null, ledges = false): Promise<void> {
    if (holding) return
    const { job, workers: w, placement: p } = current()
    if (only === null && state.scanState === 'fresh' && state.openIslands.length + (ledges ? state.openLedges.length : 0) === 0) {
      say(ledges ? 'Nothing hangs that a stilt could hold.' : 'No island is open.')
      return
    }
    holding = true
    state.busy = 'Placing stilts'
    try {
      const answer = await w.scan.hold(rasterOf(job), p, job.settings, store.stilts, GAUGES, job.printer, { only, ledges }, proxy((sentence: string) => {
        if (holding) state.busy = sentence
      }))
      holding = false
      state.busy = ''
      if (!answer) {
        say('Holding was cancelled; nothing was placed.')
        void rescan()
        return
      }
      notHeld.value = new Map(answer.notHeld.map(n => [n.island, n.reason]))
      if (answer.added.length > 0) put(only ? 'hold this finding' : ledges ? 'hold islands and ledges' : 'hold open islands', answer.added)
      const missed = answer.notHeld.length
      const placed = answer.added.length === 1 ? '1 stilt was placed' : `${answer.added.length} stilts were placed`
      say(missed === 0 ? `${placed}.` : `${placed}. ${missed} ${missed === 1 ? 'island' : 'islands'} could not be held: ${answer.notHeld[0].reason}`)
      if (answer.added.length === 0) void rescan()
    } catch (error) {
      holding = false
      state.busy = ''
      say(`Holding failed: ${(error as Error).message}`)
    }
  }
  return { hold, holding: () => holding }
}
