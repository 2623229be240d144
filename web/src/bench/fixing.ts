import type { Gauge, StiltVerdict, StiltVerdictKind } from '@oak-stilts/core/contract'
import { gaugeFor, type Edited, type Stilt } from '@oak-stilts/core/stilts'
import type { Ref } from 'vue'
import type { BenchContext } from './context'
import type { createEditing } from './editing'

/** A tip that is too thick becomes this share of what it holds, and never finer than that, mm. Our own choice. */
const TIP_SHARE = 0.8, FINEST_MM = 0.1

/** What settles a verdict about stilts at a press: one, or all of its kind. Each is one step of undo. */
export function createFixing({ store, state, current, say }: BenchContext, editing: Pick<ReturnType<typeof createEditing>, 'putStilts'>, gauges: Readonly<Ref<readonly Gauge[]>>) {
  const stiltsOf = (findings: readonly StiltVerdict[]): Stilt[] => {
    const ids = new Set(findings.flatMap(f => f.stilts))
    return store.stilts.filter(s => ids.has(s.id))
  }

  /** Puts what answers came for stilts that are as they were, and says what could not be done. */
  function take(label: string, stilts: readonly Stilt[], results: readonly Edited[], done: (count: string) => string): void {
    const there = new Set(store.stilts), fine = results.flatMap((r, i) => (r.ok && there.has(stilts[i]) ? [{ stilt: stilts[i], shape: r.shape }] : [])), missed = results.find(r => !r.ok)
    if (fine.length > 0) editing.putStilts(label, fine)
    const left = stilts.length - fine.length, sentence = fine.length > 0 ? done(fine.length === 1 ? '1 stilt' : `${fine.length} stilts`) : ''
    say(left === 0 ? sentence : `${sentence ? `${sentence} ` : ''}${left === stilts.length && left === 1 ? '' : `${left} stay as they are: `}${missed && !missed.ok ? missed.reason : ''}`)
  }

  /** The next thicker gauge of the list; itself where there is none. */
  const thickerThan = (g: Gauge): Gauge => gauges.value.filter(o => o.shaftFootDiameterMm > g.shaftFootDiameterMm).sort((a, b) => a.shaftFootDiameterMm - b.shaftFootDiameterMm)[0] ?? g

  /** All verdicts of a kind, but for those that somebody waived; also those that are not listed one by one. */
  function allOf(kind: StiltVerdictKind): StiltVerdict[] {
    const waived = new Set(state.worklist.findings.flatMap(f => (f.kind === kind && f.state === 'waived' && 'stilts' in f ? [f.stilts.join()] : [])))
    return state.verdicts.filter(v => v.kind === kind && !waived.has(v.stilts.join()))
  }

  async function fix(findings: readonly StiltVerdict[]): Promise<void> {
    const [first] = findings, stilts = stiltsOf(findings)
    if (stilts.length === 0) return
    const worker = current().workers.surface
    state.busy = stilts.length === 1 ? 'Mending the stilt' : `Mending ${stilts.length} stilts`
    try {
      if (first.kind === 'thick') {
        const thickness = new Map(findings.flatMap(f => (f.kind === 'thick' ? f.stilts.map(id => [id, f.thicknessMm] as const) : [])))
        const results = await Promise.all(stilts.map(s => worker.resize(s, { tipDiameterMm: Math.max(FINEST_MM, Math.round((thickness.get(s.id) ?? 1) * TIP_SHARE * 100) / 100) })))
        take(stilts.length === 1 ? 'make a tip finer' : 'make tips finer', stilts, results, count => `${count} with a finer tip now.`)
      } else if (first.kind === 'scar') take('move tips to other skin', stilts, await worker.reaim(stilts, true), count => `${count} moved to other skin.`)
      else if (first.kind === 'lean') take('stand upright', stilts, await worker.upright(stilts), count => `${count} upright now.`)
      else if (first.kind === 'slender') {
        const results: Edited[] = []
        for (const s of stilts) {
          const own = gaugeFor(s, gauges.value), next = thickerThan(own)
          if (next === own) results.push({ ok: false, problem: 'blocked', reason: 'There is no thicker gauge. Put a stronger stilt beside it.' })
          else results.push(...(await worker.regauge([s], next.id)))
        }
        take('take the next gauge', stilts, results, count => `${count} of the next gauge now.`)
      }
    } catch (error) {
      say(`It could not be done: ${(error as Error).message}`)
    } finally {
      state.busy = ''
    }
  }

  /** Stands the selected stilts upright: their feet under their knees. */
  async function standUpright(): Promise<void> {
    const stilts = state.chosenStilts
    if (stilts.length === 0) say('Select a stilt first; U stands it upright.')
    else take('stand upright', stilts, await current().workers.surface.upright(stilts), count => `${count} upright now.`)
  }

  return { fix, allOf, standUpright }
}
