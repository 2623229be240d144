import { computed } from 'vue'
import { newId, type Copy, type Part, type PlanNode } from '@oak-stilts/core/contract'
import { proposeStagger, type Stagger } from '@oak-stilts/core/plate'
import { raisedRows } from '@oak-stilts/core/stilts'
import type { BenchContext } from './context'
import type { createParts } from './parts'
import type { createSlicing } from './slicing'

/** Copies are raised by this much at the most, mm: further on, what it costs in resin and time is more than it wins. Our own choice. */
const MOST_MM = 6

/** Copies of the part on the bench at several heights, so that their fullest layers do not come at once. */
export function createStaggering({ store, state, say }: BenchContext, { rowsOfDuplicate }: ReturnType<typeof createParts>, { plateSignals }: Pick<ReturnType<typeof createSlicing>, 'plateSignals'>) {
  /** What would win most; null where that is little, or nothing can be raised: a part that lies on the plate, or has nothing under it that could be drawn out. */
  const stagger = computed<Stagger | null>(() => {
    const { part, raster, job } = store, own = state.result?.stage === 'all' ? state.result.signals.peelN : null, all = plateSignals.value?.peelN
    if (!part || !raster || !job || !own || !all || state.scanState !== 'fresh' || part.pose.liftMm <= 0 || !store.stilts.some(s => s.foot === 'plate')) return null
    const copies = store.copies.filter(c => c.part === part.id).length, top = own.length * raster.layerMm, room = Math.min(MOST_MM, job.printer.heightMm - top)
    return proposeStagger(own, Array.from(all, (n, k) => Math.max(0, n - copies * (own[k] ?? 0))), copies, Math.floor(part.pose.liftMm / raster.layerMm), Math.max(0, Math.floor(room / raster.layerMm)))
  })

  /** Raises some of the copies: each height becomes a part of its own, with the same stilts drawn out. One step of undo. */
  function staggerCopies(): void {
    const { part, raster } = store, way = stagger.value
    if (!part || !raster || !way) return
    // the one on the bench stays as it is
    const mine = store.copies.filter(c => c.part === part.id).sort((a, b) => Number(b === store.copy) - Number(a === store.copy)), index = store.plan(), parts: Part[] = [], copies: Copy[] = [], rows: ReturnType<typeof rowsOfDuplicate>[] = []
    // steps alternate over the plate
    const stepOf = mine.map((_, i) => i % way.copies.length)
    for (let step = 1; step < way.copies.length; step++) {
      const byMm = Math.round(step * way.stepLayers * raster.layerMm * 1000) / 1000, nodes: PlanNode[] = raisedRows(index, part.id, byMm)
      const fresh: Part = { ...part, id: newId(), name: `${byMm} mm up: ${part.name}`.slice(0, 120), pose: { ...part.pose, liftMm: part.pose.liftMm + byMm } }
      parts.push(fresh)
      rows.push(rowsOfDuplicate(part, fresh, nodes))
      copies.push(...mine.filter((_, i) => stepOf[i] === step).map(c => ({ ...c, part: fresh.id })))
    }
    const all = <K extends keyof (typeof rows)[number]>(key: K): NonNullable<(typeof rows)[number][K]>[number][] => rows.flatMap(r => (r[key] ?? []) as NonNullable<(typeof rows)[number][K]>[number][])
    store.apply({ label: 'stagger copies', put: { parts, copies, nodes: all('nodes'), beams: all('beams'), waivers: all('waivers'), checkWaivers: all('checkWaivers'), marks: all('marks'), spreads: all('spreads') } })
    say(`${copies.length} of ${mine.length} copies stand higher now, as ${parts.length === 1 ? 'a part' : 'parts'} of their own. Their stilts are longer: prove them, too.`)
  }

  return { stagger, staggerCopies }
}
