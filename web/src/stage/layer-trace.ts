import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import type { useJobStore } from '../stores/job'
import { latestOnly } from './latest-only'
import { rayAt, type PointerRay } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** Draws the outline of the layer under the pointer around the model: where these lines widen or come together is what a glance may miss. */
export function createLayerTrace(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>, store: ReturnType<typeof useJobStore>) {
  let shown = -1
  const follow = latestOnly(async ({ origin, direction }: PointerRay) => {
    const at = await bench.workers().place.pick(origin, direction, state.visibleMm)
    const layer = at ? Math.floor(at.point[2] / (store.job?.printer.layerMm ?? 0.05)) : -1
    if (layer === shown) return
    const lines = layer < 0 ? null : await bench.contourAt(layer)
    if (layer >= 0 && !lines) return
    shown = layer
    scene.contour.set(lines)
    state.traced = layer
  })

  function hide(): void {
    shown = -1
    scene.contour.set(null)
  }

  return { hover: (event: PointerEvent) => void follow(rayAt(scene.stage, event)), hide }
}
