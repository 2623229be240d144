import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import type { useJobStore } from '../stores/job'
import { latestOnly } from './latest-only'
import { rayAt, type PointerRay } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** Draws the outline of the layer under the pointer around the model: where these lines widen or come together is what a glance may miss. */
export function createLayerTrace(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>, store: ReturnType<typeof useJobStore>) {
  let shown = -1
  const layerOf = (zMm: number): number => Math.floor(zMm / (store.raster?.layerMm ?? 1))
  const follow = latestOnly(async ({ origin, direction }: PointerRay) => {
    const at = await bench.workers().surface.pick(origin, direction, state.visibleMm)
    await draw(at ? layerOf(at.point[2]) : -1)
  })
  const followHeight = latestOnly((zMm: number) => draw(layerOf(zMm)))
  async function draw(layer: number): Promise<void> {
    if (layer === shown) return
    const lines = layer < 0 ? null : await bench.contourAt(layer)
    if (layer >= 0 && !lines) return
    shown = layer
    scene.contour.set(lines?.all ?? null)
    scene.contourHanging.set(lines?.hanging ?? null)
    state.traced = layer
  }

  function hide(): void {
    shown = -1
    scene.contour.set(null)
    scene.contourHanging.set(null)
  }

  return { hover: (event: PointerEvent) => void follow(rayAt(scene.stage, event)), at: (zMm: number) => void followHeight(zMm), hide }
}
