import { shallowRef, type ShallowRef } from 'vue'
import { loadsOf, type Copy, type Part } from '@oak-stilts/core/contract'
import { decodeMesh, type Mesh, type Vec3 } from '@oak-stilts/core/mesh'
import type { StandingCopy } from '@oak-stilts/core/plate'
import { shiftOf, standOf, type Stand } from '@oak-stilts/core/pose'
import type { Workers } from '../workers/clients'
import type { PlatePart } from '../workers/plate-bodies'
import { WorkerDied } from '../workers/supervised'
import type { BenchContext } from './context'
import { meshKeyOf } from './meshes'

/** A copy that stands beside the one on the bench. */
export interface OtherCopy {
  readonly copy: Copy
  readonly part: Part
  readonly mesh: Mesh
  readonly stand: Stand
  readonly stilts: Mesh
}

/** The models that one start of the workers has been given. */
interface Given {
  readonly workers: Workers
  readonly keys: Set<string>
}

/** Edits that follow within this time are looked at together, ms. */
const CALM_MS = 250

/** Keeps up what stands on the plate besides the part on the bench, and whether all of it has its place. */
export function createPlate({ store, state, workers, meshOf, say }: BenchContext) {
  const others: ShallowRef<readonly OtherCopy[]> = shallowRef([])
  const decoded = new WeakMap<ArrayBuffer, Mesh>()
  const stands = new WeakMap<Part, { readonly pixelMm: number; readonly stand: Stand }>()
  /** What each start of the workers has been given. */
  let given: Given | null = null, scanHas: Given | null = null

  async function partsNow(w: Workers): Promise<{ part: Part; mesh: Mesh; plate: PlatePart }[]> {
    if (given?.workers !== w) given = { workers: w, keys: new Set() }
    const out: { part: Part; mesh: Mesh; plate: PlatePart }[] = []
    const pixelMm = store.raster?.pixelMm ?? 0
    for (const part of store.parts) {
      const meshKey = meshKeyOf(part), buffer = await meshOf(part)
      let mesh = decoded.get(buffer)
      if (!mesh) decoded.set(buffer, (mesh = decodeMesh(buffer)))
      if (!given.keys.has(meshKey)) {
        given.keys.add(meshKey)
        await w.surface.addMesh(meshKey, buffer)
      }
      let known = stands.get(part)
      if (known?.pixelMm !== pixelMm) stands.set(part, (known = { pixelMm, stand: standOf(mesh.positions, part.pose, pixelMm) }))
      out.push({ part, mesh, plate: { id: part.id, meshKey, stand: known.stand } })
    }
    return out
  }
  function copiesNow(): StandingCopy[] {
    const pixelMm = store.raster?.pixelMm ?? 0
    return store.copies.map(c => ({ id: c.id, part: c.part, shift: shiftOf(c, pixelMm) }))
  }

  let due: ReturnType<typeof setTimeout> | undefined
  /** Looks at the plate once edits have come to rest. */
  function lookSoon(): void {
    clearTimeout(due)
    due = setTimeout(() => void look(), CALM_MS)
  }

  let running: Promise<void> | null = null, again = false
  /** Looks at the plate as it is now; asked while one look is under way, it looks once more after that. Resolves once that is done. */
  function look(): Promise<void> {
    if (running) again = true
    else running = lookUntilCalm().finally(() => (running = null))
    return running
  }
  async function lookUntilCalm(): Promise<void> {
    try {
      do {
        again = false
        await lookOnce()
      } while (again)
    } catch (error) {
      // workers that died are started again, and then it is looked at anew
      if (!(error instanceof WorkerDied)) say(`The plate could not be looked at: ${(error as Error).message}`)
    }
  }
  async function lookOnce(): Promise<void> {
    const w = workers.value, { job } = store
    if (!w || !job) return
    const parts = await partsNow(w), copies = copiesNow(), { widthMm, depthMm, heightMm, edgesMm } = job.printer
    const isCurrent = (): boolean => workers.value === w && store.job?.id === job.id
    if (!isCurrent()) return
    const check = await w.surface.checkPlate(parts.map(p => p.plate), copies, { widthMm, depthMm, heightMm, edgesMm: [...edgesMm] })
    const beside = store.copies.filter(c => c.id !== store.copy?.id)
    const solids = new Map<string, Mesh>()
    for (const id of new Set(beside.map(c => c.part))) solids.set(id, await w.surface.supportMesh(id))
    if (!isCurrent()) return
    state.plateCheck = check
    others.value = beside.flatMap((copy): OtherCopy[] => {
      const of = parts.find(p => p.part.id === copy.part), stilts = solids.get(copy.part)
      return of && stilts && !state.hiddenParts.has(copy.part) ? [{ copy, part: of.part, mesh: of.mesh, stand: of.plate.stand, stilts }] : []
    })
  }

  /** What is to be exported: all copies, or only the one on the bench. */
  async function standing(only: boolean): Promise<{ parts: PlatePart[]; copies: StandingCopy[] }> {
    const w = workers.value
    if (!w) throw new Error('No job is open.')
    return { parts: (await partsNow(w)).map(p => p.plate), copies: copiesNow().filter(c => !only || c.id === store.copy?.id) }
  }

  let asked = 0, scanSoon: ReturnType<typeof setTimeout> | undefined
  /** Asks what all copies come to, once the part on the bench has been scanned and edits have come to rest. */
  function scanPlateSoon(): void {
    clearTimeout(scanSoon)
    if (store.copies.length < 2) {
      asked++
      state.plateScan = null
      state.signalsFor = 'part'
      return
    }
    scanSoon = setTimeout(() => void scanPlate(), CALM_MS)
  }
  async function scanPlate(): Promise<void> {
    const w = workers.value, { job, raster } = store
    if (!w || !job || !raster || state.scanState !== 'fresh' || state.busy) return
    const ticket = ++asked
    try {
      const { parts, copies } = await standing(false), { parts: rows } = store
      if (scanHas?.workers !== w) scanHas = { workers: w, keys: new Set() }
      for (const part of rows) {
        const meshKey = meshKeyOf(part)
        if (scanHas.keys.has(meshKey)) continue
        scanHas.keys.add(meshKey)
        await w.scan.addMesh(meshKey, await meshOf(part))
      }
      const found = await w.scan.plate(parts, copies, raster, job.settings, loadsOf(job.resin))
      if (found && ticket === asked && store.job?.id === job.id) state.plateScan = found
    } catch (error) {
      if (!(error instanceof WorkerDied)) say(`The plate could not be scanned: ${(error as Error).message}`)
    }
  }

  /** The copy beside the one on the bench that a ray on the plate meets; null for none. */
  async function copyAt(origin: Vec3, direction: Vec3): Promise<{ copy: string; distanceMm: number } | null> {
    const w = workers.value, beside = copiesNow().filter(c => c.id !== store.copy?.id && !state.hiddenParts.has(c.part))
    if (!w || beside.length === 0) return null
    return w.surface.pickCopy(origin, direction, (await partsNow(w)).map(p => p.plate), beside)
  }

  return { others, look, lookSoon, scanPlateSoon, copyAt, standing }
}
