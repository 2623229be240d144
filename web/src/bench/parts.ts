import { newId, sortedById, type Change, type Copy, type Part, type PlanBeam, type PlanNode } from '@oak-stilts/core/contract'
import { freePlace, type FlatPoint } from '@oak-stilts/core/plate'
import { api } from '../api/client'
import { createBringIn } from '../bring-in/bring-in'
import { rowsOfBrought, sizeOfBrought } from '../bring-in/brought-rows'
import type { BenchContext } from './context'

/** Farthest from the plate's middle that a copy may be put, mm. */
const FARTHEST_MM = 2000

/**
 * Parts of the job and their copies on the plate: brought in, named, copied, moved, deleted. Each is one step of undo.
 * @param look brings up to date what stands where on the plate
 */
export function createParts({ store, state, say }: BenchContext, look: () => Promise<void>) {
  const bringIn = createBringIn()

  /** Where a copy of this size has room on the plate, in whole pixels; in the middle where there is none. */
  function roomFor(size: FlatPoint): Pick<Copy, 'xPixels' | 'yPixels'> {
    const { job, raster } = store
    const at = job && raster ? freePlace(size, state.plateCheck?.boxes ?? [], job.printer) : null
    return at && raster ? { xPixels: Math.round(at[0] / raster.pixelMm), yPixels: Math.round(at[1] / raster.pixelMm) } : { xPixels: 0, yPixels: 0 }
  }
  /** How much of the plate a copy takes, mm. */
  function sizeOf(copy: Copy): FlatPoint {
    const box = state.plateCheck?.boxes.find(b => b.copy === copy.id)
    return box ? [box.max[0] - box.min[0], box.max[1] - box.min[1]] : [10, 10]
  }

  /** Brings files in as further parts of this job, and takes the last of them onto the bench. Each file is one step of undo. */
  async function addParts(files: readonly File[]): Promise<void> {
    const { job } = store
    if (!job) return
    await bringIn.run(files, async (file, options) => {
      const brought = await api.addParts(job.id, file, options)
      await look()
      if (store.job?.id !== job.id || !store.raster) return
      const { xPixels, yPixels } = roomFor(sizeOfBrought(brought)), { pixelMm } = store.raster
      const put = rowsOfBrought(brought, [xPixels * pixelMm, yPixels * pixelMm], pixelMm)
      store.apply({ label: put.parts.length === 1 ? 'add a part' : `add ${put.parts.length} parts`, put })
      store.chosenCopy = put.copies[put.copies.length - 1].id
      say(`${put.parts.map(p => p.name).join(', ')} ${put.parts.length === 1 ? 'was' : 'were'} added.`)
    })
    const [first] = bringIn.refused.value
    if (first) say(`${bringIn.refused.value.map(r => r.name).join(', ')} ${bringIn.refused.value.length === 1 ? 'was' : 'were'} not brought in. ${first.sentence}`)
  }

  function renamePart(part: Part, name: string): void {
    const wanted = name.trim()
    if (wanted && wanted !== part.name) store.apply({ label: 'rename a part', put: { parts: [{ ...part, name: wanted.slice(0, 120) }] } })
  }

  /** Another copy of a part on the plate: the same pose and stilts, now and later. */
  async function addCopy(copy: Copy): Promise<void> {
    await look()
    const another: Copy = { ...copy, id: newId(), ...roomFor(sizeOf(copy)) }
    store.apply({ label: 'add a copy', put: { copies: [another] } })
    store.chosenCopy = another.id
  }

  /** A part of its own that begins as another one is now, stilts, waivers and marks included. */
  async function duplicate(part: Part, copy: Copy): Promise<void> {
    await look()
    if (!store.parts.includes(part)) return
    const fresh: Part = { ...part, id: newId(), name: `${part.name.slice(0, 110)} (2)` }, another: Copy = { ...copy, id: newId(), part: fresh.id, ...roomFor(sizeOf(copy)) }
    store.apply({ label: 'duplicate a part', put: { parts: [fresh], copies: [another], ...rowsOfDuplicate(part, fresh) } })
    store.chosenCopy = another.id
  }

  /** All rows that belong to a part, for another one that begins as this one is. @param nodesNow its nodes, where they are not as they are in the plan */
  function rowsOfDuplicate(part: Part, { id: fresh }: Part, nodesNow?: readonly PlanNode[]): Pick<NonNullable<Change['put']>, 'nodes' | 'beams' | 'waivers' | 'checkWaivers' | 'marks' | 'spreads'> {
    const index = store.plan(), ids = new Map<string, string>(), { waivers, checkWaivers, marks, spreads } = store.snapshot().tables, mine = sortedById(spreads.values()).filter(s => s.part === part.id)
    const spreadIds = new Map(mine.map(s => [s.id, newId()])), nodes: PlanNode[] = [], beams: PlanBeam[] = []
    for (const n of nodesNow ?? index.nodes.values()) {
      if (n.part !== part.id) continue
      ids.set(n.id, newId())
      nodes.push({ ...n, id: ids.get(n.id) as string, part: fresh, ...(n.kind === 'tip' && n.spread !== undefined && { spread: spreadIds.get(n.spread) }) })
    }
    for (const b of index.beams.values()) if (b.part === part.id) beams.push({ ...b, id: newId(), part: fresh, from: ids.get(b.from) ?? b.from, to: ids.get(b.to) ?? b.to })
    // in the order of their making, which their new ids keep
    const own = <R extends { readonly id: string; readonly part: string }>(rows: ReadonlyMap<string, R>): R[] => sortedById(rows.values()).filter(r => r.part === part.id).map(r => ({ ...r, id: newId(), part: fresh }))
    return { nodes, beams, waivers: own(waivers), checkWaivers: own(checkWaivers), marks: own(marks), spreads: mine.map(s => ({ ...s, id: spreadIds.get(s.id) as string, part: fresh })) }
  }

  /** Deletes a copy; with the last one of a part, the part and all that is its. The last part of a job stays. */
  function removeCopy(copy: Copy): void {
    const same = store.copies.filter(c => c.part === copy.part)
    if (same.length > 1) {
      store.apply({ label: 'delete a copy', drop: { copies: [copy.id] } })
      return
    }
    if (store.parts.length < 2) {
      say('A job has one part at least. Add another one first, or delete the job.')
      return
    }
    const part = store.parts.find(p => p.id === copy.part), { tables } = store.snapshot()
    const of = (rows: ReadonlyMap<string, { readonly id: string; readonly part: string }>): string[] => [...rows.values()].filter(r => r.part === copy.part).map(r => r.id)
    const drop: Change['drop'] = { marks: of(tables.marks), spreads: of(tables.spreads), waivers: of(tables.waivers), checkWaivers: of(tables.checkWaivers), proofs: tables.proofs.has(copy.part) ? [copy.part] : [], beams: of(tables.beams), nodes: of(tables.nodes), copies: of(tables.copies), parts: [copy.part] }
    store.apply({ label: 'delete a part', drop })
    say(`${part?.name ?? 'The part'} was deleted with its stilts. Undo brings it back.`)
  }

  /** Moves a copy on the plate, to whole pixels, mm. */
  function moveCopy(copy: Copy, xMm: number, yMm: number): void {
    const { raster } = store
    if (!raster) return
    const pixels = (mm: number): number => Math.round(Math.max(-FARTHEST_MM, Math.min(FARTHEST_MM, mm)) / raster.pixelMm) || 0
    const moved = { ...copy, xPixels: pixels(xMm), yPixels: pixels(yMm) }
    if (moved.xPixels !== copy.xPixels || moved.yPixels !== copy.yPixels) store.apply({ label: 'move on the plate', put: { copies: [moved] } })
  }

  /** Shows or hides a part while another one is on the bench. */
  function setHidden(part: Part, hidden: boolean): void {
    const next = new Set(state.hiddenParts)
    if (hidden) next.add(part.id)
    else next.delete(part.id)
    state.hiddenParts = next
  }

  return { bringIn, roomFor, addParts, renamePart, addCopy, duplicate, rowsOfDuplicate, removeCopy, moveCopy, setHidden }
}
