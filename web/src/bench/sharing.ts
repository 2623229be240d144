import { newId, type Copy, type Part } from '@oak-stilts/core/contract'
import { decodeMesh, type Mesh } from '@oak-stilts/core/mesh'
import { freePlace, type PlateBox } from '@oak-stilts/core/plate'
import { movedBounds, shapeOf, shiftOf, standOf, type Stand } from '@oak-stilts/core/pose'
import type { PartHost } from '../workers/surface.worker'
import type { BenchContext } from './context'
import { meshKeyOf } from './meshes'

/** Shares what parts have out among those that come after them. @param look brings up to date what stands where on the plate */
export function createSharing({ store, state, plate, current, meshOf, say }: BenchContext, look: () => Promise<void>) {
  /**
   * Puts parts in the place of others: those of the same id stay, with their copies; those that are new get copies beside them; those
   * that are missing go. Stilts, marks and waivers go with the part whose skin they are on. One step of undo.
   */
  async function share(label: string, before: readonly Part[], after: readonly Part[]): Promise<void> {
    await look()
    const { job, raster, workers: w } = current(), plan = store.stilts, meshes: { readonly buffer: ArrayBuffer; readonly mesh: Mesh; readonly stand: Stand }[] = []
    for (const p of after) {
      const buffer = await meshOf(p, true), mesh = decodeMesh(buffer)
      meshes.push({ buffer, mesh, stand: standOf(mesh.positions, p.pose, raster.pixelMm) })
    }
    const stood = await Promise.all(before.map(async p => ({ part: p.id, stand: standOf(decodeMesh(await meshOf(p)).positions, p.pose, raster.pixelMm) })))
    state.busy = ''
    const fresh = after.filter(p => !before.some(b => b.id === p.id)), gone = before.filter(b => !after.some(p => p.id === b.id)), copies = fresh.flatMap(p => copiesFor(p, before[0], meshes[after.indexOf(p)]))
    const hosts = after.map((p, i): PartHost => {
      const copy = [...store.copies, ...copies].find(c => c.part === p.id)
      return { part: p.id, buffer: meshes[i].buffer, place: { key: meshKeyOf(p), shape: shapeOf(p.recipe), stand: meshes[i].stand }, plate: { widthMm: plate.value.widthMm, depthMm: plate.value.depthMm, ...(copy && { shift: shiftOf(copy, raster.pixelMm) }) } }
    })
    const { tables } = store.snapshot(), ids = new Set(before.map(p => p.id)), waivers = [...tables.waivers.values()].filter(v => ids.has(v.part))
    const shared = await w.surface.shareOut(stood, hosts, waivers.map(v => v.at))
    if (store.job?.id !== job.id || store.stilts !== plan || before.some(p => !store.parts.includes(p))) {
      say('The part was changed meanwhile; it stays as it was.')
      return
    }
    const of = (rows: ReadonlyMap<string, { readonly id: string; readonly part: string }>, parts: readonly Part[]): string[] => [...rows.values()].filter(r => parts.some(p => p.id === r.part)).map(r => r.id)
    const marks = [...tables.marks.values()].filter(m => ids.has(m.part)), same = (a: (typeof marks)[number], b: (typeof marks)[number]): boolean => a.worth === b.worth && a.runs.join() === b.runs.join()
    // a mark names triangles of the file: each side shows what it has of them
    const marked = after.flatMap(p => marks.filter((m, i) => m.part !== p.id && (fresh.includes(p) ? m.part === before[0].id : gone.some(g => g.id === m.part) && !marks.some((o, j) => (o.part === p.id || j < i) && same(o, m)))).map(m => ({ ...m, id: newId(), part: p.id })))
    const settled = waivers.flatMap((v, i) => (after[shared.belong[i]].id === v.part ? [] : [{ ...v, part: after[shared.belong[i]].id }]))
    const { put, drop } = shared.change
    store.apply({
      label,
      put: { ...put, parts: [...after], ...(copies.length > 0 && { copies }), ...(marked.length > 0 && { marks: marked }), ...(settled.length > 0 && { waivers: settled }) },
      drop: {
        ...drop, marks: of(tables.marks, gone), spreads: of(tables.spreads, gone), waivers: of(tables.waivers, gone).filter(id => !settled.some(v => v.id === id)), checkWaivers: of(tables.checkWaivers, gone),
        proofs: gone.flatMap(p => (tables.proofs.has(p.id) ? [p.id] : [])), copies: of(tables.copies, gone), parts: gone.map(p => p.id),
      },
    })
    tellShared(label, after, fresh, shared)
  }
  /** Copies of a new part: as many as the one that it comes from has, where there is room beside the others. */
  function copiesFor(part: Part, from: Part, { mesh, stand: at }: { readonly mesh: Mesh; readonly stand: Stand }): Copy[] {
    const { raster, job } = current(), { min, max } = movedBounds(mesh.positions, at), size = [max[0] - min[0], max[1] - min[1]] as const, taken: PlateBox[] = [...(state.plateCheck?.boxes ?? [])], out: Copy[] = []
    for (const copy of store.copies.filter(c => c.part === from.id)) {
      const [x, y] = freePlace([size[0], size[1]], taken, job.printer) ?? [0, 0], next: Copy = { ...copy, id: newId(), part: part.id, turnDeg: 0, xPixels: Math.round(x / raster.pixelMm), yPixels: Math.round(y / raster.pixelMm) }
      taken.push({ min: [x - size[0] / 2, y - size[1] / 2], max: [x + size[0] / 2, y + size[1] / 2] })
      out.push(next)
    }
    return out
  }
  function tellShared(label: string, after: readonly Part[], fresh: readonly Part[], { moved, lost, braces }: { readonly moved: number; readonly lost: number; readonly braces: number }): void {
    const count = (n: number, one: string, more: string): string => (n === 1 ? `1 ${one}` : `${n} ${more}`)
    const what = label === 'cut' ? `Cut in two: ${after.map(p => p.name).join(' and ')}${fresh.length > 0 ? ', which stands beside it on the plate' : ''}.` : label === 'cut anew' ? 'Cut anew.' : `${after[0].name} is whole again.`
    say([what, ...(moved > 0 ? [`${count(moved, 'stilt', 'stilts')} went along.`] : []), ...(lost > 0 ? [`${count(lost, 'stilt touches or stands', 'stilts touch or stand')} on nothing any more and ${lost === 1 ? 'is' : 'are'} listed.`] : []), ...(braces > 0 ? [`${count(braces, 'brace has', 'braces have')} no room any more and ${braces === 1 ? 'is' : 'are'} gone.`] : [])].join(' '))
  }

  return share
}
