import { proxy } from 'comlink'
import { ref, shallowRef } from 'vue'
import { IMPROVEMENTS, type Gauge, type Improvement } from '@oak-stilts/core/contract'
import type { OnPlate } from '@oak-stilts/core/proof'
import type { OptimisedPlan } from '../workers/scan.worker'
import type { BenchContext } from './context'

/** Improvements of the plan that stands: each is measured before it is taken, and can be left out. */
export function createOptimising({ store, state, workers, plate, current, say }: BenchContext, gauges: () => readonly Gauge[], onPlate: () => OnPlate, rescan: () => Promise<void>, isProving: () => boolean) {
  const shown = ref(false), asked = shallowRef<readonly Improvement[]>(IMPROVEMENTS), found = shallowRef<OptimisedPlan | null>(null)
  /** What is being done, or why it failed; empty once there is something to show. */
  const said = ref('')
  let ticket = 0

  function openOptimise(): void {
    if (shown.value || state.busy || isProving()) return
    if (store.stilts.length === 0) return say('There are no stilts to improve yet.')
    shown.value = true
    asked.value = IMPROVEMENTS
    void look()
  }
  async function look(): Promise<void> {
    const own = ++ticket
    found.value = null
    said.value = 'Scanning'
    let under = true
    try {
      for (;;) {
        const { job, part, raster, workers: w, stand } = current()
        const answer = await w.scan.optimise(asked.value, raster, stand, job.settings, part.id, gauges(), job.resin, plate.value, onPlate(), store.waivers, proxy((sentence: string) => {
          if (under && own === ticket) said.value = sentence
        }))
        if (own !== ticket) return
        // other work came first: then once more
        if (!answer) continue
        found.value = answer
        said.value = ''
        return
      }
    } catch (error) {
      if (own === ticket) said.value = `It could not be measured: ${(error as Error).message}`
    } finally {
      under = false
    }
  }
  /** Leaves a step out, or takes it in again; all are measured anew, since what one gains depends on the others. */
  function toggleImprovement(step: Improvement): void {
    asked.value = IMPROVEMENTS.filter(i => (i === step ? !asked.value.includes(i) : asked.value.includes(i)))
    void look()
  }
  /** Puts all that was measured into the plan. One step of undo. */
  function takeOptimised(): void {
    const change = found.value?.change, count = found.value?.steps.filter(s => s.taken).length ?? 0
    if (change && count > 0) {
      store.apply(change)
      say(`${count === 1 ? '1 improvement was' : `${count} improvements were`} taken. One undo takes all of it back.`)
    }
    closeOptimise()
  }
  function closeOptimise(): void {
    if (!shown.value) return
    shown.value = false
    ticket++
    found.value = null
    void workers.value?.scan.cancel().catch(() => undefined).then(rescan)
  }
  return { optimiseShown: shown, improvements: asked, optimised: found, optimiseSaid: said, openOptimise, toggleImprovement, takeOptimised, closeOptimise }
}
