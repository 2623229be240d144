import { computed, shallowRef, watch } from 'vue'
import { distance, type Vec3 } from '@oak-stilts/core/mesh'
import { fromSource, shapeOf } from '@oak-stilts/core/pose'
import { api } from '../api/client'
import { sortedFaults, type MeshFault } from '../part/faults'
import type { BenchContext } from './context'

/** Where a fault is looked at from when nothing better is known, and how near. */
const FROM: Vec3 = [0.5, -0.8, 0.35]
const NEAREST_MM = 6

/** What was found in the mesh of the part as it came: loaded once asked for, shown on the model. */
export function createMeshCheck({ store, state, stand, flyTo, say }: BenchContext) {
  const faults = shallowRef<readonly MeshFault[]>([])
  watch(() => store.part?.source.faultsHash ?? null, async hash => {
    faults.value = []
    state.fault = null
    if (!hash) return
    try {
      const found = sortedFaults(await api.faults(hash))
      if (store.part?.source.faultsHash === hash) faults.value = found
    } catch (error) {
      say((error as Error).message)
    }
  }, { immediate: true })

  const chosen = computed(() => faults.value.find(f => f.kind === state.fault) ?? null)
  /** The chosen fault as segments in the stand. */
  const faultLines = computed<Float32Array | null>(() => {
    const { part } = store
    if (!chosen.value || !part || !stand.value) return null
    const { segments } = chosen.value, standing = { shape: shapeOf(part.recipe), stand: stand.value }, out = new Float32Array(segments.length)
    for (let i = 0; i < segments.length; i += 3) out.set(fromSource(standing, [segments[i], segments[i + 1], segments[i + 2]]), i)
    return out
  })

  /** Chooses a fault and brings where it is into view. */
  function showFault(kind: MeshFault['kind'] | null): void {
    state.fault = kind
    const lines = faultLines.value
    if (!lines || lines.length === 0) return
    const first: Vec3 = [lines[0], lines[1], lines[2]]
    let far = 0
    for (let i = 0; i < lines.length; i += 3) far = Math.max(far, distance(first, [lines[i], lines[i + 1], lines[i + 2]]))
    // near what is small; all of it where it is spread over the part
    flyTo.value?.(first, FROM, Math.max(NEAREST_MM, Math.min(90, 2.5 * far)))
  }

  return { faults, chosenFault: chosen, faultLines, showFault }
}
