import { proxy } from 'comlink'
import { computed, shallowRef, watch } from 'vue'
import type { Gauge, ProofCheck } from '@oak-stilts/core/contract'
import type { Vec3 } from '@oak-stilts/core/mesh'
import type { Proof, ProvenEnd } from '@oak-stilts/core/proof'
import type { BenchContext } from './context'

/** From where a place of a proof is looked at, and from how far, mm. */
const FROM: Vec3 = [0.55, -0.8, -0.25], NEAR_MM = 45

/** The proof of the part on the bench: whether it holds while it is printed. */
export function createProving({ store, state, scanVersion, current, onBench, flyTo, say }: BenchContext, gauges: () => readonly Gauge[]) {
  const proof = shallowRef<Proof | null>(null)
  /** What is being done; empty while nothing is. */
  const proving = shallowRef('')
  /** Whether something was changed since. */
  const stale = shallowRef(false)
  let asked = 0

  watch(() => store.part?.id, () => {
    asked++
    proof.value = null
    proving.value = ''
  })
  watch([scanVersion, () => store.stilts, () => store.part, () => store.marks, () => store.job?.resin, () => store.job?.settings, () => store.raster], () => {
    if (proof.value) stale.value = true
  })

  /** How far the copy on the bench reaches beyond the printer's room. */
  const overMm = (): number => state.worklist.findings.reduce((mm, f) => (f.kind === 'outside' && f.copies.includes(store.copy?.id ?? '') ? Math.max(mm, f.overMm, f.aboveMm) : mm), 0)

  async function prove(): Promise<void> {
    const ticket = ++asked
    proving.value = 'Scanning'
    try {
      await onBench()
      const { job, part, raster, workers: w, stand } = current(), { stilts } = store
      const answer = await w.scan.prove(raster, stand, job.settings, part.id, gauges(), job.resin, overMm(), proxy((sentence: string) => {
        if (ticket === asked) proving.value = sentence
      }))
      if (ticket !== asked) return
      if (!answer) {
        say('The proof was ended by other work. Prove again.')
        return
      }
      proof.value = answer
      stale.value = store.stilts !== stilts || store.part !== part
    } catch (error) {
      if (ticket === asked) say(`It could not be proved: ${(error as Error).message}`)
    } finally {
      if (ticket === asked) proving.value = ''
    }
  }

  /** Brings a place into view, with the layer that it is about. */
  function lookAt(at: Vec3 | null, layer: number | null): void {
    if (layer !== null) state.setPlayhead(layer)
    if (at) flyTo.value?.(at, FROM, NEAR_MM)
  }
  function showCheck({ kind, at, layer }: ProofCheck): void {
    const end = kind === 'tips' ? proof.value?.ends[0] : undefined
    if (end) showEnd(end)
    else lookAt(at, layer)
  }
  /** Selects the stilt of an end, and looks at it. */
  function showEnd({ stilt, at, layer }: ProvenEnd): void {
    selectStilts([stilt])
    lookAt(at, layer < 0 ? null : layer)
  }
  function selectStilts(numbers: readonly number[]): void {
    const wanted = new Set(numbers)
    state.selectedFinding = null
    state.selectedStilts = store.stilts.filter(s => wanted.has(s.number)).map(s => s.id)
  }
  const numbersOf = (ids: readonly string[]): number[] => [...new Set(ids.flatMap(id => proof.value?.stiltOf.get(id) ?? []))].sort((a, b) => a - b)
  /** Numbers of stilts without which something would fall or break; and of those that bear next to nothing. */
  const needed = computed(() => numbersOf(proof.value?.needed ?? [])), idle = computed(() => numbersOf(proof.value?.idle ?? []))

  return { proof, proving, proofStale: stale, prove, showCheck, showEnd, selectProved: selectStilts, needed, idle }
}
