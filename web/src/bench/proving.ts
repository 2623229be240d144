import { until } from '@vueuse/core'
import { proxy } from 'comlink'
import { computed, shallowRef, watch } from 'vue'
import { newId, stateOfPart, type CheckWaiver, type Gauge, type LeftOpen, type ProofCheck, type ProofPlace } from '@oak-stilts/core/contract'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { raftAsked, raftOf } from '@oak-stilts/core/raft'
import { beyondLimit, verdictOf, waiverOf, type OnPlate, type Proof, type ProvenEnd } from '@oak-stilts/core/proof'
import type { Growth } from '../workers/scan.worker'
import { plannedInWords, readyInWords } from '../planning/words'
import { samePose, type BenchContext } from './context'
import type { createAiming } from './aiming'
import type { createPlanning } from './planning'
import { createProofFixes, type ProofActs } from './proof-fixes'

/** So many things that a plan left are kept with their reasons. */
const MOST_KEPT = 500
/** From where a place of a proof is looked at, and from how far, mm. */
const FROM: Vec3 = [0.55, -0.8, -0.25], NEAR_MM = 45

/** The proof of the part on the bench: whether it holds while it is printed, and what helps where it does not. */
export function createProving({ store, state, scanVersion, plate, notHeld, current, onBench, flyTo, say }: BenchContext, acts: ProofActs, gauges: () => readonly Gauge[], planning: Pick<ReturnType<typeof createPlanning>, 'planOptions' | 'planRecipe' | 'planChanged' | 'noteProved'> & Pick<ReturnType<typeof createAiming>, 'aim' | 'noAim'>, rescan: () => Promise<void>) {
  /** What was found here, with the state of the part that it is of. */
  const found = shallowRef<{ readonly proof: Proof; readonly part: string; readonly of: string } | null>(null)
  /** What is being done; empty while nothing is. */
  const proving = shallowRef('')
  /** The plan that is being made, as it is shown meanwhile. */
  const growing = shallowRef<Growth | null>(null)
  let asked = 0

  /** The state of the part as it is now. */
  const now = computed(() => {
    // what this is made of: where none of it was put anew, it is the same still
    const { part, job } = store
    void [store.stilts, store.marks, store.waivers, store.copies, store.gauges, scanVersion.value]
    return part && job ? stateOfPart(store.snapshot(), part.id) : ''
  })
  const proof = computed(() => (found.value && found.value.part === store.part?.id ? found.value.proof : null))
  /** What was last looked at, whether here or in an earlier visit; null where the part was never proved. */
  const checks = computed<readonly ProofCheck[] | null>(() => store.keptProof?.checks ?? null)
  /** Whether something was changed since. */
  const stale = computed(() => store.keptProof !== null && store.keptProof.of !== now.value)
  const verdict = computed(() => checks.value && verdictOf(checks.value, store.checkWaivers))
  const waiver = (check: ProofCheck): CheckWaiver | undefined => waiverOf(check, store.checkWaivers)

  const { fixesOf, selectStilts, byNumber } = createProofFixes({ store, state, current, say }, acts, gauges)

  watch(() => store.part?.id, () => {
    asked++
    if (readying) end()
    proving.value = ''
  })

  /** What is wrong with the copies of the part on the plate, by the scan of the plate. */
  function onPlate(): OnPlate {
    const own = new Set(store.copies.filter(c => c.part === store.part?.id).map(c => c.id)), out = { overMm: 0, meets: 0, cups: 0 }
    for (const f of state.worklist.findings) {
      if (!('copies' in f) || !f.copies.some(id => own.has(id))) continue
      if (f.kind === 'outside') out.overMm = Math.max(out.overMm, f.overMm, f.aboveMm)
      else if (f.kind === 'overlap') out.meets++
      else out.cups++
    }
    return out
  }

  async function prove(): Promise<void> {
    if (state.busy || proving.value) return
    const ticket = ++asked
    // what is told of progress may come after the answer
    let under = true
    proving.value = 'Scanning'
    try {
      for (;;) {
        await onBench()
        // what was changed a moment ago is scanned first
        await until(() => state.scanState === 'scanning' && ticket === asked).toBe(false)
        if (ticket !== asked) return
        const { job, part, raster, workers: w, stand } = current(), of = now.value
        const proof = await w.scan.prove(raster, stand, job.settings, part.id, gauges(), job.resin, onPlate(), store.waivers, proxy((sentence: string) => {
          if (under && ticket === asked) proving.value = sentence
        }))
        if (ticket !== asked) return
        // other work came first: then once more
        if (!proof) continue
        keep(proof, part.id, of)
        return
      }
    } catch (error) {
      if (ticket === asked) say(`It could not be proved: ${(error as Error).message}`)
    } finally {
      under = false
      if (ticket === asked) proving.value = ''
    }
  }
  /** Holds, braces, repairs and proves the part in one go, or plans all of it as a forest; all that is done to its plan is one step of undo. */
  async function makeReady(by: 'stilts' | 'forest' = 'stilts'): Promise<void> {
    if (state.busy || proving.value) return
    const ticket = ++asked
    readying = true
    state.busy = 'Scanning'
    proving.value = by === 'forest' ? 'Planning' : 'Making ready'
    try {
      await onBench()
      const { job, part, raster, workers: w, stand } = current(), { stilts } = store, options = by === 'forest' ? planning.planOptions.value : null, aim = options && planning.aim.value
      const answer = await w.scan.makeReady(options, aim, part.pose, raster, stand, job.settings, part.id, gauges(), options ? raftAsked(options, part) : raftOf(part), job.resin, plate.value, onPlate(), store.waivers, proxy((sentence: string) => {
        if (readying && ticket === asked) state.busy = sentence
      }), proxy((growth: Growth) => {
        if (readying && ticket === asked) growing.value = growth
      }))
      if (ticket !== asked) return
      end()
      if (!answer || store.part?.id !== part.id || store.stilts !== stilts || !samePose(store.part.pose, part.pose)) {
        say(answer ? 'The part or its stilts were changed meanwhile; nothing was done.' : 'It was cancelled; nothing was done.')
        void rescan()
        return
      }
      const { change: { put, drop }, proof, placed, braces, thickened, notHeld: missed } = answer
      notHeld.value = missed
      const kind = options?.raft && options.raft !== part.raft.kind ? options.raft : null, plannedBy = !options || aim ? store.part.plannedBy : planning.planChanged.value ? null : (planning.planRecipe.value?.name ?? null), changed = kind || plannedBy !== store.part.plannedBy ? [{ ...store.part, plannedBy, ...(kind && { raft: { ...part.raft, kind } }) }] : []
      if (put || drop || kind) acts.applyRows(options ? 'plan' : 'make ready', { put: { nodes: put?.nodes ?? [], beams: put?.beams ?? [] }, drop: { nodes: drop?.nodes ?? [], beams: drop?.beams ?? [] } }, [...new Set((put?.nodes ?? []).flatMap(n => (n.kind === 'tip' ? [n.gauge] : [])))], changed)
      else void rescan()
      keep(proof, part.id, now.value, missed.slice(0, MOST_KEPT).map((n): LeftOpen => ({ ...n, at: [n.at[0], n.at[1], n.at[2]] })))
      planning.noAim()
      if (options && !aim && verdictOf(proof.checks, store.checkWaivers).ready) planning.noteProved(store.stilts.length)
      const touched = !!(put || drop || kind)
      say(options ? plannedInWords(placed, missed.length, touched, aim ? null : options.what) : readyInWords(placed, braces, thickened, missed.length, touched))
    } catch (error) {
      if (ticket !== asked) return
      end()
      say(`It could not be ${by === 'forest' ? 'planned' : 'made ready'}: ${(error as Error).message}`)
      void rescan()
    }
  }
  let readying = false
  function end(): void {
    readying = false
    state.busy = proving.value = ''
    growing.value = null
  }
  /** Forgets what was asked of a worker that is gone. */
  function giveUp(): void {
    asked++
    end()
  }
  /** @param left what a plan left open; what an earlier one left where this is no plan */
  function keep(proof: Proof, part: string, of = now.value, left = store.keptProof?.left ?? []): void {
    found.value = { proof, part, of }
    store.note({ label: 'prove', put: { proofs: [{ id: part, of, checks: [...proof.checks], ...(left.length > 0 && { left }) }] } })
  }

  /** Ends a proof that is under way; gives whether there was one. */
  function cancelProof(): boolean {
    if (!proving.value) return false
    asked++
    const nothingDone = readying
    if (readying) end()
    proving.value = ''
    void current().workers.scan.cancel().catch(() => undefined)
    say(nothingDone ? 'It was cancelled; nothing was done.' : 'The proof was cancelled.')
    if (nothingDone) void rescan()
    return true
  }

  /** Brings a place into view with the layer that it is about, and selects its stilts. */
  function showPlace({ at, layer, stilts }: ProofPlace): void {
    if (stilts.length > 0) selectStilts(stilts)
    if (layer !== null) state.setPlayhead(layer)
    if (at) flyTo.value?.(at, FROM, NEAR_MM)
  }
  /** Selects the stilt of an end, and looks at it. */
  function showEnd({ stilt, at, layer }: ProvenEnd): void {
    showPlace({ at: [at[0], at[1], at[2]], layer: layer < 0 ? null : layer, figure: null, stilts: [stilt] })
  }
  const numbersOf = (ids: readonly string[]): number[] => [...new Set(ids.flatMap(id => proof.value?.stiltOf.get(id) ?? []))].sort((a, b) => a - b)
  /** Numbers of stilts without which something would fall or break; and of those that bear next to nothing. */
  const needed = computed(() => numbersOf(proof.value?.needed ?? [])), idle = computed(() => numbersOf(proof.value?.idle ?? []).filter(n => byNumber([n]).length > 0))

  /** How much of what it can bear each stilt bears where that is most, by id; null where it is not known as the part is now. */
  const shares = computed<ReadonlyMap<string, number> | null>(() => {
    const of = proof.value
    if (!of || stale.value) return null
    const byNumber = new Map<number, number>(), take = (id: string, share: number): void => {
      const number = of.stiltOf.get(id)
      if (number !== undefined) byNumber.set(number, Math.max(byNumber.get(number) ?? 0, share))
    }
    for (const e of of.ends) take(e.id, e.share)
    for (const b of of.beams) take(b.id, b.share)
    for (const s of of.stretches) for (const id of s.beams) take(id, s.share)
    return new Map(store.stilts.map(s => [s.id, byNumber.get(s.number) ?? 0]))
  })

  /** Takes away what bears next to nothing. */
  function takeIdleAway(): void {
    selectStilts(idle.value)
    const count = state.chosenStilts.length
    acts.remove()
    say(count === 1 ? 'The stilt was taken away. Prove again before the next.' : `${count} stilts were taken away together; what they bore a little of, others bear now. Prove again.`)
  }

  /** Leaves a check as it is, for a reason, as long as it becomes no worse. */
  function waiveCheck(check: ProofCheck, reason: string): void {
    const { part } = current(), same = store.checkWaivers.filter(w => w.check === check.kind)
    store.apply({ label: 'waive a check', put: { checkWaivers: [{ id: newId(), part: part.id, check: check.kind, count: check.count, beyond: beyondLimit(check), reason: reason.trim() }] }, drop: { checkWaivers: same.map(w => w.id) } })
    say(`Waived: ${reason.trim()}`)
  }
  function takeBackCheckWaiver({ id }: CheckWaiver): void {
    store.apply({ label: 'take back a waiver', drop: { checkWaivers: [id] } })
  }

  /** Whether there is anything to plan: where tips stand closer or under flatter skin than the scan asks for there may always be. */
  const canPlan = computed(() => !state.busy && state.scanState !== 'scanning' && (state.openIslands.length > 0 || state.openLedges.length > 0 || planning.planOptions.value.holdMm !== null || planning.planOptions.value.slopeDeg > 0))

  /** Measures what every plan of the part asks for first, as long as nothing else is asked for. */
  async function getReadyToPlan(): Promise<void> {
    if (!canPlan.value || proving.value) return
    try {
      const { workers: w, stand } = current()
      await w.scan.measureRoom(stand, plate.value)
    } catch {
      // the bench was left meanwhile, or its worker died: a plan measures it itself then
    }
  }

  return { canPlan, getReadyToPlan, growing, onPlate, proof, proving, proofChecks: checks, proofStale: stale, proofVerdict: verdict, prove, makeReady, readying: () => readying, cancelProof, giveUp, showPlace, showEnd, selectProved: selectStilts, needed, idle, shares, takeIdleAway, fixesOf, checkWaiver: waiver, waiveCheck, takeBackCheckWaiver }
}
