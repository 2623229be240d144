import { proxy } from 'comlink'
import type { Gauge } from '@oak-stilts/core/contract'
import type { StiltShape } from '@oak-stilts/core/stilts'
import { kindOf, type Finding } from '../findings'
import type { HoldAnswer, HoldWhat } from '../workers/scan.worker'
import { samePose, type BenchContext } from './context'

/** Places stilts under what hangs. */
export function createHolding({ store, state, notHeld, plate, current, say }: BenchContext, add: (label: string, stilts: readonly StiltShape[]) => unknown, rescan: () => Promise<void>, gauges: () => readonly Gauge[]) {
  let holding = false

  /** Places stilts under all open islands, and under ledges as well where asked for. */
  async function holdAll(ledges = false): Promise<void> {
    if (state.scanState === 'fresh' && state.openIslands.length + (ledges ? state.openLedges.length : 0) === 0) {
      say(ledges ? 'Nothing hangs that a stilt could hold.' : 'No island is open.')
      return
    }
    await hold({ ledges }, ledges ? 'hold islands and ledges' : 'hold open islands')
  }

  /** Places stilts under one island or ledge. */
  async function holdOne(finding: Finding): Promise<void> {
    if (finding.state !== 'open' && finding.state !== 'partly') return
    // what juts out of a body far above is not asked for with its first layer, only with the rest
    if (finding.kind === 'island') await hold({ only: [finding.island.id], ledges: finding.state === 'partly' }, 'hold this island')
    else if (finding.kind === 'ledge') await hold({ ledge: finding.ledge }, 'hold this ledge')
    else say(kindOf(finding).noStilt ?? '')
  }

  // each hold has a number; one that is cancelled is not listened to any more
  let newest = 0
  async function hold(what: HoldWhat, label: string): Promise<void> {
    if (holding) return
    const { job, part, raster, workers, stand } = current()
    const own = ++newest
    holding = true
    state.busy = 'Placing stilts'
    const isCurrent = (): boolean => holding && own === newest
    try {
      const answer = await workers.scan.hold(raster, stand, job.settings, part.id, gauges(), plate.value, job.resin.webMm, what, proxy((sentence: string) => {
        if (isCurrent()) state.busy = sentence
      }))
      if (!isCurrent()) return
      end()
      if (!answer || store.part?.id !== part.id || !samePose(store.part.pose, part.pose)) {
        say(answer ? 'The part was moved meanwhile; nothing was placed.' : 'Holding was cancelled; nothing was placed.')
        void rescan()
        return
      }
      notHeld.value = answer.notHeld
      add(label, answer.added)
      say(sentenceFor(answer))
      if (answer.added.length === 0) void rescan()
    } catch (error) {
      if (!isCurrent()) return
      end()
      say(`Holding failed: ${(error as Error).message}`)
      void rescan()
    }
  }
  function end(): void {
    holding = false
    state.busy = ''
  }

  /** Ends a hold that is under way, at once; gives whether there was one. The worker leaves off at its next breath. */
  function cancelHold(): boolean {
    if (!holding) return false
    newest++
    end()
    say('Holding was cancelled; nothing was placed.')
    void rescan()
    return true
  }

  /** Forgets a hold whose worker is gone. */
  function giveUp(): void {
    newest++
    end()
  }

  return { holdAll, holdOne, cancelHold, giveUp, holding: () => holding }
}

function sentenceFor({ added, notHeld, near }: HoldAnswer): string {
  const count = added.length === 1 ? '1 stilt was placed' : `${added.length} stilts were placed`
  const placed = near === 0 ? `${count}.` : `${count}, ${near === added.length ? '' : `${near} of them `}nearer to others than this resin keeps open: nothing else would hold there.`
  if (notHeld.length === 0) return placed
  const islands = notHeld.filter(n => n.kind === 'island').length, ledges = notHeld.length - islands
  const missed = [...(islands ? [`${islands} ${islands === 1 ? 'island' : 'islands'}`] : []), ...(ledges ? [`${ledges} ${ledges === 1 ? 'ledge' : 'ledges'}`] : [])].join(' and ')
  const several = new Set(notHeld.map(n => n.reason)).size > 1
  return `${placed} ${missed} could not be held whole. ${several ? 'The list says why of each.' : notHeld[0].reason}`
}
