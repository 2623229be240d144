import { computed, shallowRef, watch } from 'vue'
import { boundsOf, distance, type Vec3 } from '@oak-stilts/core/mesh'
import { fromSource, shapeOf } from '@oak-stilts/core/pose'
import { api } from '../api/client'
import { sortedFaults, type MeshFault } from '../part/faults'
import type { BenchContext } from './context'

/** Where a fault is looked at from when nothing better is known, and how near. */
const FROM: Vec3 = [0.5, -0.8, 0.35]
const NEAREST_MM = 6
/** What reaches farther is looked at as a whole. */
const SPREAD_MM = 15

/** What was found in the mesh of the part as it came: loaded once asked for, shown on the model. */
export function createMeshCheck({ store, state, stand, workers, flyTo, say }: BenchContext) {
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

  /** Chooses a fault and brings where it is into view: near where it is small, all of it where it is spread over the part. */
  async function showFault(kind: MeshFault['kind'] | null): Promise<void> {
    state.fault = kind
    const lines = faultLines.value
    if (!lines || lines.length === 0) return
    const { min, max } = boundsOf(lines), sizeMm = distance(min, max), middle: Vec3 = [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2]
    if (sizeMm > SPREAD_MM) {
      flyTo.value?.(middle, FROM, 1.3 * sizeMm)
      return
    }
    const from = (await workers.value?.surface.viewFrom([lines[0], lines[1], lines[2]]).catch(() => null))?.from
    if (state.fault === kind) flyTo.value?.(middle, from ?? FROM, Math.max(NEAREST_MM, 2.5 * sizeMm))
  }

  return { faults, chosenFault: chosen, faultLines, showFault }
}
