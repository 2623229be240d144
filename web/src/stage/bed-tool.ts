import { watch } from 'vue'
import type { Vec3 } from '@oak-stilts/core/mesh'
import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import { rayAt } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** A press that moves less than this is a click, screen pixels. */
const CLICK_PX = 4

/** Shows a bed of pegs under the part: a drag shifts it as one, a click drops it. */
export function createBedTool(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>) {
  const { stage } = scene, active = (): boolean => state.tool === 'bed'
  let drag: { readonly on: readonly [number, number]; readonly from: readonly [number, number]; readonly x: number; readonly y: number; moved: boolean } | null = null

  // what would stand is drawn as long as the tool is in hand
  let shown = false
  watch([bench.bedFound, () => state.tool], () => {
    if (active()) show()
    else if (shown) hide()
  })
  function show(): void {
    const found = bench.bedFound.value ?? []
    shown = true
    scene.dots.set(Float32Array.from(found.flatMap(p => [...p.at])), Uint8Array.from(found, p => (p.ok ? 1 : 0)))
    scene.contour.set(Float32Array.from(found.flatMap(p => (p.ok ? [p.at[0], p.at[1], 0, p.at[0], p.at[1], p.at[2]] : []))))
  }
  function hide(): void {
    shown = false
    scene.dots.set(null)
    scene.contour.set(null)
    state.verdict = ''
  }

  /** Where the pointer is on the plate. */
  function onPlate(event: PointerEvent): readonly [number, number] | null {
    const { origin: o, direction: d } = rayAt(stage, event), t = -o[2] / d[2]
    if (!(t > 0)) return null
    const at: Vec3 = [o[0] + d[0] * t, o[1] + d[1] * t, 0]
    return [at[0], at[1]]
  }

  const hover = (): void => {
    state.verdict = 'Drag to shift the bed, Shift + wheel turns it; click or Enter drops it.'
  }
  function begin(event: PointerEvent): boolean {
    const on = onPlate(event)
    if (!active() || !on) return false
    drag = { on, from: [state.bed.xMm, state.bed.yMm], x: event.clientX, y: event.clientY, moved: false }
    return true
  }
  function draw(event: PointerEvent): void {
    const to = onPlate(event)
    if (!drag || !to || (!drag.moved && Math.hypot(event.clientX - drag.x, event.clientY - drag.y) < CLICK_PX)) return
    drag.moved = true
    const whole = (mm: number): number => Math.round(mm * 20) / 20
    bench.moveBed({ xMm: whole(drag.from[0] + to[0] - drag.on[0]), yMm: whole(drag.from[1] + to[1] - drag.on[1]) })
    state.verdict = `x ${state.bed.xMm.toFixed(2)} mm, y ${state.bed.yMm.toFixed(2)} mm`
  }
  async function end(): Promise<void> {
    const own = drag
    drag = null
    if (own && !own.moved) await bench.dropBed()
  }
  function giveUp(): boolean {
    const own = drag
    drag = null
    if (own) bench.moveBed({ xMm: own.from[0], yMm: own.from[1] })
    return own !== null
  }

  return { active, hover, begin, draw, end, giveUp }
}
