import { add, scale } from '@oak-stilts/core/mesh'
import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import type { useJobStore } from '../stores/job'
import { latestOnly } from './latest-only'
import { rayAt, type PointerRay } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** Says how thick the wall of a hollow part is under the pointer, and draws where it was measured. */
export function createWallGauge(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>, store: ReturnType<typeof useJobStore>) {
  const active = (): boolean => state.step === 'hollow' && !!store.part?.recipe.hollow?.on
  const follow = latestOnly(async (ray: PointerRay) => {
    const found = await bench.workers().surface.wallAt(ray.origin, ray.direction, state.visibleMm)
    if (!active()) return
    scene.contour.set(found && Float32Array.from([...found.at, ...add(found.at, scale(found.inward, found.wallMm))]))
    state.verdict = found ? `${found.wallMm.toFixed(2)} mm of wall under the pointer` : ''
  })
  function hide(): void {
    scene.contour.set(null)
    state.verdict = ''
  }
  return { active, hover: (event: PointerEvent) => void follow(rayAt(scene.stage, event)), hide }
}
