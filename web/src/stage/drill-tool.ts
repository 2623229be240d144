import { add, cross, scale, unit, type Vec3 } from '@oak-stilts/core/mesh'
import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import type { AimedBore } from '../workers/surface.worker'
import { latestOnly } from './latest-only'
import { rayAt, type PointerRay } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** Sides of the ring that is drawn around a hole. */
const SIDES = 32

/** Drill: the rim of the hole and its way are shown under the pointer; a click drills it. */
export function createDrillTool(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>) {
  const active = (): boolean => state.tool === 'drill'
  const aimed = (ray: PointerRay): Promise<AimedBore | null> => bench.workers().surface.boreAt(ray.origin, ray.direction, state.visibleMm, bench.nextHole.value.diameterMm, bench.nextHole.value.upright)

  const follow = latestOnly(async (ray: PointerRay) => {
    const bore = await aimed(ray)
    if (!active()) return
    scene.contour.set(bore && linesOf(bore, bench.nextHole.value.diameterMm))
    state.verdict = !bore ? 'Point at the skin of the part.' : bore.worth === 'off-limits' ? 'This face is off limits.' : `${bore.depthMm === null ? 'Through the whole part' : `${bore.depthMm.toFixed(1)} mm deep, into the open`}${bore.worth === 'prized' ? '; this skin is prized' : ''}`
  })
  function hide(): void {
    scene.contour.set(null)
    state.verdict = ''
  }
  async function click(event: PointerEvent): Promise<void> {
    const bore = await aimed(rayAt(scene.stage, event))
    if (bore) await bench.drillAt(bore)
    else bench.say('There is no part under the pointer. Click on its skin.')
  }

  return { active, hover: (event: PointerEvent) => void follow(rayAt(scene.stage, event)), hide, click }
}

/** The rim of a hole on the skin, and the line that it follows, as segments. */
function linesOf({ at, into, depthMm }: AimedBore, diameterMm: number): Float32Array {
  const aside = unit(cross(into, Math.abs(into[2]) < 0.9 ? [0, 0, 1] : [1, 0, 0])), across = cross(into, aside), out: number[] = []
  const rim = (i: number): Vec3 => add(at, add(scale(aside, (diameterMm / 2) * Math.cos((2 * Math.PI * i) / SIDES)), scale(across, (diameterMm / 2) * Math.sin((2 * Math.PI * i) / SIDES))))
  for (let i = 0; i < SIDES; i++) out.push(...rim(i), ...rim(i + 1))
  out.push(...add(at, scale(into, -diameterMm)), ...add(at, scale(into, depthMm ?? diameterMm)))
  return Float32Array.from(out)
}
