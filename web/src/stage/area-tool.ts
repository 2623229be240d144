import { add, scale, type Vec3 } from '@oak-stilts/core/mesh'
import { axisOf, type Stilt } from '@oak-stilts/core/stilts'
import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import { isInside, type PagePoint } from './page-area'
import { rayAt } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** How far before the eye an area is drawn, mm: nearer than any skin. */
const DRAWN_AT_MM = 5
/** A lasso has a corner at least so far from the one before, and a shaft is looked at as often, screen pixels. */
const STEP_PX = 5

/** Selects stilts by a box or a lasso: those that are seen within it, be it only in part. With Shift they come to the selection, with Ctrl they go from it. */
export function createAreaTool(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>) {
  const { stage } = scene, store = useJobStore()
  let drawn: PagePoint[] | null = null
  const active = (): boolean => state.tool === 'box' || state.tool === 'lasso'

  const hover = (): void => {
    state.verdict = `Draw a ${state.tool} around stilts; Shift adds, Ctrl takes away${state.tool === 'box' ? ', G again draws freely' : ''}.`
  }
  function begin(event: PointerEvent): boolean {
    drawn = [{ x: event.clientX, y: event.clientY }]
    return true
  }
  function cornersTo(event: PointerEvent): PagePoint[] {
    const [from] = drawn ?? [], to = { x: event.clientX, y: event.clientY }
    if (!from) return []
    return state.tool === 'box' ? [from, { x: to.x, y: from.y }, to, { x: from.x, y: to.y }] : [...(drawn ?? []), to]
  }
  function draw(event: PointerEvent): void {
    const last = drawn?.[drawn.length - 1]
    if (!last) return
    if (state.tool === 'lasso' && Math.hypot(event.clientX - last.x, event.clientY - last.y) >= STEP_PX) drawn?.push({ x: event.clientX, y: event.clientY })
    const corners = cornersTo(event), at = corners.map(({ x, y }): Vec3 => {
      const { origin, direction } = rayAt(stage, { clientX: x, clientY: y })
      return add(origin, scale(direction, DRAWN_AT_MM))
    })
    scene.contour.set(Float32Array.from(at.flatMap((p, i) => [...p, ...at[(i + 1) % at.length]])))
    state.verdict = `${within(corners).length} stilts`
  }
  function end(event: PointerEvent): Promise<void> {
    const corners = cornersTo(event), found = within(corners).map(s => s.id), before = state.selectedStilts
    giveUp()
    const now = event.shiftKey ? [...new Set([...before, ...found])] : event.ctrlKey || event.metaKey ? before.filter(id => !found.includes(id)) : found
    state.selectedStilts = now
    state.selectedFinding = null
    state.tool = 'select'
    bench.say(now.length === 0 ? 'No stilt is selected.' : now.length === 1 ? '1 stilt is selected.' : `${now.length} stilts are selected.`)
    return Promise.resolve()
  }

  /** The stilts of which anything is seen within an area. */
  function within(corners: readonly PagePoint[]): Stilt[] {
    const [low, high] = state.visibleMm
    return store.stilts.filter(s => {
      const axis = axisOf(s).slice(0, s.alone + 1).filter(p => p[2] >= low && p[2] <= high).map(p => stage.toPage([p[0], p[1], p[2]]))
      return axis.some((p, i) => {
        const next = axis[i + 1]
        if (!p) return false
        const steps = next ? Math.max(1, Math.ceil(Math.hypot(next.x - p.x, next.y - p.y) / STEP_PX)) : 1
        return Array.from({ length: steps }, (_, k) => (next ? { x: p.x + ((next.x - p.x) * k) / steps, y: p.y + ((next.y - p.y) * k) / steps } : p)).some(q => isInside(corners, q))
      })
    })
  }

  function giveUp(): boolean {
    const had = drawn !== null
    drawn = null
    scene.contour.set(null)
    state.verdict = ''
    return had
  }

  return { active, hover, begin, draw, end, giveUp }
}
