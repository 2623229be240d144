import { add, cross, dot, scale, unit, type Vec3 } from '@oak-stilts/core/mesh'
import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import type { useJobStore } from '../stores/job'
import type { AimedBore } from '../workers/surface.worker'
import { latestOnly } from './latest-only'
import { rayAt, type PointerRay } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** Sides of the ring that is drawn around a hole. */
const SIDES = 32
/** How near the pointer has to come to the middle of a hole, pixels. */
const REACH_PX = 14

/** Drill: the rim of the hole and its way are shown under the pointer; a click drills it. Holes that there are can be dragged by their rims. */
export function createDrillTool(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>, store: ReturnType<typeof useJobStore>) {
  const { stage } = scene
  /** The hole that is dragged, and where it would come to. */
  let drag: { readonly id: string; readonly diameterMm: number; latest: AimedBore | null; settled: Promise<void> } | null = null
  const active = (): boolean => state.tool === 'drill', diameterMm = (): number => drag?.diameterMm ?? bench.nextHole.value.diameterMm
  const aimed = (ray: PointerRay): Promise<AimedBore | null> => bench.workers().surface.boreAt(ray.origin, ray.direction, state.visibleMm, diameterMm(), bench.nextHole.value.upright)

  const follow = latestOnly(async (ray: PointerRay) => {
    const own = drag, bore = await aimed(ray)
    if (own !== drag || (!active() && !drag)) return
    if (drag) drag.latest = bore
    scene.contour.set(bore && linesOf(bore, diameterMm()))
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

  /** Rims of the holes that the part has, while its holes are looked at. */
  function show(visible: boolean): void {
    const holes = visible ? (store.part?.recipe.holes ?? []).flatMap(h => (h.on ? (bench.holeAt(h.id) ?? []) : [])) : []
    scene.rims.set(holes.length > 0 ? Float32Array.from(holes.flatMap(({ at, into, hole }) => rimOf(at, into, hole.diameterMm))) : null)
  }
  /** The hole under the pointer, where its rim looks at the eye. */
  function holeUnder(event: MouseEvent): string | null {
    const { direction } = rayAt(stage, event)
    let best: string | null = null, nearest = REACH_PX
    for (const h of store.part?.recipe.holes ?? []) {
      const there = h.on ? bench.holeAt(h.id) : null, at = there && stage.toPage(there.at)
      if (!there || !at || dot(there.into, direction) <= 0) continue
      const far = Math.hypot(at.x - event.clientX, at.y - event.clientY)
      if (far >= nearest) continue
      nearest = far
      best = h.id
    }
    return best
  }
  function begin(event: PointerEvent): boolean {
    const id = holeUnder(event), there = id === null ? null : bench.holeAt(id)
    if (id === null || !there) return false
    drag = { id, diameterMm: there.hole.diameterMm, latest: null, settled: Promise.resolve() }
    return true
  }
  function draw(event: PointerEvent): void {
    if (drag) drag.settled = follow(rayAt(stage, event))
  }
  async function end(): Promise<void> {
    const own = drag
    if (!own) return
    await own.settled
    const { latest } = own
    giveUp()
    if (latest) bench.moveHole(own.id, latest)
    else bench.chosenHole.value = own.id
  }
  function giveUp(): void {
    drag = null
    hide()
  }

  return { begin, draw, end, giveUp, show, holeUnder, active, hover: (event: PointerEvent) => void follow(rayAt(scene.stage, event)), hide, click }
}

/** The rim of a hole on the skin, and the line that it follows, as segments. */
function linesOf({ at, into, depthMm }: AimedBore, diameterMm: number): Float32Array {
  return Float32Array.from([...rimOf(at, into, diameterMm), ...add(at, scale(into, -diameterMm)), ...add(at, scale(into, depthMm ?? diameterMm))])
}
function rimOf(at: Vec3, into: Vec3, diameterMm: number): number[] {
  const aside = unit(cross(into, Math.abs(into[2]) < 0.9 ? [0, 0, 1] : [1, 0, 0])), across = cross(into, aside), out: number[] = []
  const rim = (i: number): Vec3 => add(at, add(scale(aside, (diameterMm / 2) * Math.cos((2 * Math.PI * i) / SIDES)), scale(across, (diameterMm / 2) * Math.sin((2 * Math.PI * i) / SIDES))))
  for (let i = 0; i < SIDES; i++) out.push(...rim(i), ...rim(i + 1))
  return out
}
