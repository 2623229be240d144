import { shallowRef, type ShallowRef } from 'vue'
import type { Job } from '@oak-stilts/core/contract'
import type { Mesh, Vec3 } from '@oak-stilts/core/mesh'
import type { Placement } from '@oak-stilts/core/pose'
import type { LayerPicture, Raster } from '@oak-stilts/core/scan'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import type { Workers } from '../workers/clients'

export interface LoadedModel {
  readonly mesh: Mesh
  readonly normals: Float32Array
}

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
  /** Why islands could not be held, by island. */
  const notHeld: ShallowRef<ReadonlyMap<number, string>> = shallowRef(new Map())

  /** The bench's own job and workers, while they are there. @throws Error where no job is open */
  function current(): { job: Job; workers: Workers; placement: Placement } {
    if (!store.job || !workers.value || !placement.value) throw new Error('No job is open.')
    return { job: store.job, workers: workers.value, placement: placement.value }
  }

  function say(sentence: string): void {
    state.message = sentence
  }

  return { store, state, workers, model, placement, picture, outline, flyTo, notHeld, current, say }
}

export function rasterOf(job: Job): Raster {
  return { pixelMm: job.printer.pixelMm, layerMm: job.printer.layerMm }
}
