import { until } from '@vueuse/core'
import { computed, shallowRef, type ShallowRef } from 'vue'
import type { AnyPlanFile, Part, Tilt, Touched, Change } from '@oak-stilts/core/contract'
import { distance, type Mesh, type Vec3 } from '@oak-stilts/core/mesh'
import type { NotHeld } from '@oak-stilts/core/plan'
import type { Stand } from '@oak-stilts/core/pose'
import type { LayerPicture, Raster } from '@oak-stilts/core/scan'
import { useBenchStore } from '../stores/bench'
import type { Finding } from '../findings'
import { useJobStore, type OpenJob } from '../stores/job'
import type { Plate } from '@oak-stilts/core/stilts'
import type { Workers } from '../workers/clients'
import type { Surroundings } from '../workers/surface.worker'
import { createMeshes } from './meshes'

export interface LoadedModel {
  readonly mesh: Mesh
  readonly normals: Float32Array
  /** The mesh as it came, for workers that are started anew. */
  readonly buffer: ArrayBuffer
}

/** A message stays for this time, and longer by its length. */
const MESSAGE_MS = 6000, MESSAGE_MS_A_LETTER = 90

/** What is asked of a part waits for it to be on the bench for so long, ms. */
const MOST_LOADING_MS = 120_000

/** What everything done on the bench works with: the stores, the model, its workers. */
export type BenchContext = ReturnType<typeof createContext>

export function createContext() {
  const store = useJobStore(), state = useBenchStore()
  const workers: ShallowRef<Workers | null> = shallowRef(null)
  const model: ShallowRef<LoadedModel | null> = shallowRef(null)
  const stand: ShallowRef<Stand | null> = shallowRef(null)
  const picture: ShallowRef<LayerPicture | null> = shallowRef(null)
  /** Where the selected finding hangs: line segments in the stand. */
  const outline: ShallowRef<Float32Array | null> = shallowRef(null)
  /** Set by the stage: brings a point into view. */
  const flyTo: ShallowRef<((at: Vec3, from: Vec3, distanceMm: number) => void) | null> = shallowRef(null)
  /** A plan that was made for another part, and waits for an answer whether it is wanted all the same. */
  const otherPlan: ShallowRef<{ readonly name: string; readonly plan: AnyPlanFile } | null> = shallowRef(null)
  /** What could not be held when it was last tried, and why; what the last plan left is kept with its proof. */
  const notHeld: ShallowRef<readonly NotHeld[]> = shallowRef([])

  /** Why a finding could not be held; undefined where nobody tried, or it could. */
  function whyNotHeld(f: Finding): string | undefined {
    const at = f.kind === 'island' ? f.island.aim : f.kind === 'ledge' ? f.ledge.at : null
    if (!at || (f.state !== 'open' && f.state !== 'partly')) return undefined
    return [...notHeld.value, ...(store.keptProof?.left ?? [])].find(n => n.kind === f.kind && distance(n.at, at) < 0.01)?.reason
  }

  /** The plate as the part sees it. */
  const plate = computed<Plate>(() => ({ widthMm: store.job?.printer.widthMm ?? 0, depthMm: store.job?.printer.depthMm ?? 0, shift: state.shift }))
  /** What its stilts have to do with besides the part. */
  const surroundings = computed<Surroundings>(() => ({ plate: plate.value, part: store.part?.id ?? '', webMm: store.job?.resin.webMm ?? 0 }))
  /** Counts up with every change that makes another scan of the part. */
  const scanVersion = shallowRef(0)

  /** The bench's own job, part and workers, while they are there. @throws Error where no job is open */
  function current(): { job: OpenJob; part: Part; raster: Raster; workers: Workers; stand: Stand } {
    if (!store.job || !store.part || !store.raster || !workers.value || !stand.value) throw new Error('No job is open.')
    return { job: store.job, part: store.part, raster: store.raster, workers: workers.value, stand: stand.value }
  }

  /** Resolves once the part is on the bench: after its mesh was changed it is taken there anew. @throws Error where that does not happen */
  async function onBench(): Promise<void> {
    await until(model).not.toBeNull({ timeout: MOST_LOADING_MS, throwOnTimeout: true })
  }

  const { sourceOf, meshOf, toldOf, cancelFinish, endFinisher } = createMeshes(words => (state.busy = words))

  let forgetting: ReturnType<typeof setTimeout> | undefined
  /** Says a sentence under the stage, for as long as it takes to read. */
  function say(sentence: string): void {
    state.message = sentence
    clearTimeout(forgetting)
    forgetting = setTimeout(() => (state.message = ''), MESSAGE_MS + MESSAGE_MS_A_LETTER * sentence.length)
  }

  return { store, state, workers, model, stand, plate, surroundings, scanVersion, picture, outline, flyTo, otherPlan, notHeld, whyNotHeld, current, onBench, sourceOf, meshOf, toldOf, cancelFinish, endFinisher, say }
}

/** Whether a change makes another scan of a part: its pose, its stilts, the raster, the limits, what loads are estimated from. Where it stands on the plate does not. */
export function touchesScan({ put, drop, set }: Change, { rows }: Touched, part: Part, before: Part, raster: boolean): boolean {
  if (set?.settings || set?.resin || raster || !samePose(part.pose, before.pose) || JSON.stringify(part.raft) !== JSON.stringify(before.raft)) return true
  if (!rows.has('nodes') && !rows.has('beams')) return false
  // rows that are dropped do not say whose they were
  return (drop?.nodes?.length ?? 0) + (drop?.beams?.length ?? 0) > 0 || [...(put?.nodes ?? []), ...(put?.beams ?? [])].some(row => row.part === part.id)
}

export function samePose(a: Tilt, b: Tilt): boolean {
  return a.tiltXDeg === b.tiltXDeg && a.tiltYDeg === b.tiltYDeg && a.liftMm === b.liftMm && String(a.zero) === String(b.zero)
}
