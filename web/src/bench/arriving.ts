import { wrap, type Remote } from 'comlink'
import { computed, shallowRef, watch } from 'vue'
import { newId, type Change, type Copy, type Gauge, type Part, type Role } from '@oak-stilts/core/contract'
import { CARRIES_FROM_MM, isWeak } from '@oak-stilts/core/stilts'
import { api } from '../api/client'
import type { Arrived, BuiltInWorker } from '../workers/built-in.worker'
import type { BenchContext } from './context'
import { meshKeyOf } from './meshes'

/** A mesh of fewer shells than that has no supports of its own that are pieces; one that stands on feet and has no more triangles is looked at for supports that are fused with it. */
const FEWEST_SHELLS = 4, MOST_FUSED = 800000

/** Supports that the part on the bench arrived with: found beside all other work, and lifted out as stilts. */
export function createArriving({ store, state, model, current, say }: BenchContext, gauges: () => readonly Gauge[]) {
  const found = shallowRef<Arrived | null>(null)
  /** What hangs on each; empty while that is not known. */
  const roles = shallowRef<readonly (Role | null)[]>([])
  let worker: Worker | null = null, remote: Remote<BuiltInWorker> | null = null, newest = 0

  function end(): void {
    newest++
    worker?.terminate()
    worker = null
    remote = null
    found.value = null
    roles.value = []
  }

  /** Looks for them once a mesh of many shells is on the bench; what was looked at before is forgotten. */
  watch([model, () => store.part && meshKeyOf(store.part)], async () => {
    end()
    const { part } = store, loaded = model.value, ticket = newest
    const { shells, looksStanding, triangles } = part?.source.summary ?? { shells: 0, looksStanding: false, triangles: 0 }
    if (!part || !loaded || (shells < FEWEST_SHELLS && !(looksStanding && triangles <= MOST_FUSED))) return
    worker = new Worker(new URL('../workers/built-in.worker.ts', import.meta.url), { type: 'module', name: 'built-in' })
    remote = wrap<BuiltInWorker>(worker)
    const answer = await remote.find(loaded.buffer).catch(() => null)
    if (ticket !== newest) return
    if (!answer || answer.supports.length === 0) {
      end()
      return
    }
    found.value = answer
    const { job, raster } = store, own = remote
    const known = job && raster && own ? await own.roles(gauges(), raster, job.settings).catch(() => []) : []
    if (ticket === newest) roles.value = known
  }, { immediate: true })

  /** Its tips, lowest first; how many are thinner than what carries should be; and whether it is known what hangs on them. */
  const builtInTips = computed(() => (found.value?.supports ?? []).map((s, i) => ({ ...s.tip, role: roles.value[i] ?? null })).sort((a, b) => a.heightMm - b.heightMm))
  const thinBuiltIn = computed(() => builtInTips.value.filter(t => isWeak(t.diameterMm, t.role ?? 'carrier', state.leastTipMm || CARRIES_FROM_MM)).length)

  const builtInRoles = computed(() => roles.value.length > 0)

  /** Puts a part of the model alone in the place of this one, with its supports as stilts. One step of undo. */
  async function liftOutBuiltIn(): Promise<void> {
    const { job, part, raster } = current(), look = remote, ticket = newest, stilts = store.stilts
    if (!look || !found.value) return
    state.busy = 'Lifting the supports out'
    try {
      const id = newId(), lifted = await look.liftOut(gauges(), raster.pixelMm, id, `Oak Stilts: ${part.name} without supports`)
      const file = new File([lifted.file as Uint8Array<ArrayBuffer>], `${part.source.fileName.replace(/\.[^.]*$/, '')} without supports.stl`, { type: 'model/stl' })
      const [brought] = await api.addParts(job.id, file, {})
      if (ticket !== newest || store.part !== part || store.stilts !== stilts) {
        say('The part was changed meanwhile; nothing was lifted out.')
        return
      }
      const { tables } = store.snapshot(), mine = (rows: ReadonlyMap<string, { readonly id: string; readonly part: string }>): string[] => [...rows.values()].filter(r => r.part === part.id).map(r => r.id)
      const next: Part = { ...brought.part, id, name: part.name, pose: lifted.pose, poseSettled: true, sizeSettled: true, raft: lifted.raft }
      const copies = store.copies.filter(c => c.part === part.id).map((c): Copy => ({ ...c, id: newId(), part: id }))
      const drop: Change['drop'] = { marks: mine(tables.marks), spreads: mine(tables.spreads), waivers: mine(tables.waivers), checkWaivers: mine(tables.checkWaivers), proofs: tables.proofs.has(part.id) ? [part.id] : [], beams: mine(tables.beams), nodes: mine(tables.nodes), copies: mine(tables.copies), parts: [part.id] }
      store.apply({ label: 'lift the supports out', put: { parts: [next], copies, nodes: [...lifted.nodes], beams: [...lifted.beams] }, drop })
      store.chosenCopy = copies[0]?.id ?? null
      say(`${lifted.stilts === 1 ? '1 support is a stilt' : `${lifted.stilts} supports are stilts`} now, with the sizes that they had; the model is whole where they stood.`)
    } catch (error) {
      say(`The supports could not be lifted out: ${(error as Error).message}`)
    } finally {
      state.busy = ''
    }
  }

  return { builtIn: found, builtInTips, thinBuiltIn, builtInRoles, liftOutBuiltIn, endArriving: end }
}
