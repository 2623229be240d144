import { shallowRef, type ShallowRef } from 'vue'
import type { Job } from '@oak-stilts/core/contract'
import type { Mesh, Vec3 } from '@oak-stilts/core/mesh'
import type { NotHeld } from '@oak-stilts/core/plan'
import type { Placement, Pose } from '@oak-stilts/core/pose'
import type { LayerPicture, Raster } from '@oak-stilts/core/scan'
import { useBenchStore } from '../stores/bench'
import type { Finding } from '../stores/findings'
import { useJobStore } from '../stores/job'
import type { Workers } from '../workers/clients'

export interface LoadedModel {
  readonly mesh: Mesh
  readonly normals: Float32Array
  /** The mesh as it came, for workers that are started anew. */
  readonly buffer: ArrayBuffer
}

/** A message stays for this time, and longer by its length. */
const MESSAGE_MS = 6000, MESSAGE_MS_A_LETTER = 90

/** What everything done on the bench works with: the stores, the model, its workers. */
export type BenchContext = ReturnType<typeof createContext>

export function createContext() {
  const store = useJobStore(), state = useBenchStore()
  const workers: ShallowRef<Workers | null> = shallowRef(null)
  const model: ShallowRef<LoadedModel | null> = shallowRef(null)
  const placement: ShallowRef<Placement | null> = shallowRef(null)
  const picture: ShallowRef<LayerPicture | null> = shallowRef(null)
  /** Where the selected finding hangs: line segments in build coordinates. */
  const outline: ShallowRef<Float32Array | null> = shallowRef(null)
  /** Set by the stage: brings a point into view. */
  const flyTo: ShallowRef<((at: Vec3, from: Vec3, distanceMm: number) => void) | null> = shallowRef(null)
  /** What could not be held when it was last tried, and why. */
  const notHeld: ShallowRef<readonly NotHeld[]> = shallowRef([])

  /** Why a finding could not be held; undefined where nobody tried, or it could. */
  function whyNotHeld({ kind, island, ledge, state: shown }: Finding): string | undefined {
    const at = island?.aim ?? ledge?.at
    if (!at || (shown !== 'open' && shown !== 'partly')) return undefined
    return notHeld.value.find(n => n.kind === kind && Math.hypot(n.at[0] - at[0], n.at[1] - at[1], n.at[2] - at[2]) < 0.01)?.reason
  }

  /** The bench's own job and workers, while they are there. @throws Error where no job is open */
  function current(): { job: Job; workers: Workers; placement: Placement } {
    if (!store.job || !workers.value || !placement.value) throw new Error('No job is open.')
    return { job: store.job, workers: workers.value, placement: placement.value }
  }

  let forgetting: ReturnType<typeof setTimeout> | undefined
  /** Says a sentence under the stage, for as long as it takes to read. */
  function say(sentence: string): void {
    state.message = sentence
    clearTimeout(forgetting)
    forgetting = setTimeout(() => (state.message = ''), MESSAGE_MS + MESSAGE_MS_A_LETTER * sentence.length)
  }

  return { store, state, workers, model, placement, picture, outline, flyTo, notHeld, whyNotHeld, current, say }
}

/** Whether a scan of one state of the job is one of the other as well. What starts a scan anew asks the same. */
export function sameForScan(a: Job, b: Job): boolean {
  return samePose(a.pose, b.pose) && a.nodes === b.nodes && a.beams === b.beams && JSON.stringify(a.settings) === JSON.stringify(b.settings)
}

export function samePose(a: Pose, b: Pose): boolean {
  return a.tiltXDeg === b.tiltXDeg && a.tiltYDeg === b.tiltYDeg && a.turnDeg === b.turnDeg && a.liftMm === b.liftMm
}

export function rasterOf(job: Job): Raster {
  return { pixelMm: job.printer.pixelMm, layerMm: job.printer.layerMm }
}
