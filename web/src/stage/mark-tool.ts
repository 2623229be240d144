import type { WORTHS } from '@oak-stilts/core/contract'
import { codeOf } from '@oak-stilts/core/marks'
import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import { latestOnly } from './latest-only'
import { rayAt } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** Marks faces: the flat or the patch under the pointer by a click, or what a brush goes over by a stroke. */
export function createMarkTool(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>) {
  /** The faces of the stroke under way. */
  let stroke: Set<number> | null = null, settled: Promise<void> = Promise.resolve()
  const active = (): boolean => state.tool === 'mark'
  const facesAt = (event: PointerEvent) => {
    const { origin, direction } = rayAt(scene.stage, event)
    return bench.workers().surface.facesAt(origin, direction, state.visibleMm, state.markBy, state.brushMm)
  }

  const hover = latestOnly(async (event: PointerEvent) => {
    const at = await facesAt(event)
    if (!active() || stroke) return
    scene.contour.set(at?.border ?? null)
    state.verdict = at ? `${at.areaMm2.toFixed(at.areaMm2 < 10 ? 2 : 0)} mm² become ${state.worth}` : 'Point at the part.'
  })

  function begin(): boolean {
    if (state.markBy !== 'brush') return false
    stroke = new Set()
    return true
  }
  const draw = latestOnly(async (event: PointerEvent) => {
    const at = await facesAt(event), own = stroke
    if (!at || !own) return
    for (const f of at.faces) own.add(f)
    scene.contour.set(at.border)
    preview(own)
  })
  /** Shows the stroke as it would be. */
  function preview(faces: ReadonlySet<number>): void {
    const loaded = bench.model.value
    if (!loaded) return
    const shown = bench.worths.value?.slice() ?? new Uint8Array(loaded.mesh.triangles.length / 3)
    for (const f of faces) shown[f] = codeOf(state.worth)
    scene.model?.marks.set(shown)
  }
  async function end(event: PointerEvent): Promise<void> {
    await settled
    await draw(event)
    const own = stroke
    stroke = null
    if (own && own.size > 0) bench.mark(Uint32Array.from(own), state.worth)
    hide()
  }
  function giveUp(): void {
    stroke = null
    scene.model?.marks.set(bench.worths.value)
    hide()
  }

  async function click(event: PointerEvent): Promise<void> {
    const at = await facesAt(event)
    if (!at) bench.say('There is no part under the pointer. Click on its skin.')
    else bench.mark(at.faces, state.worth)
  }

  function hide(): void {
    scene.contour.set(null)
    state.verdict = ''
  }

  return { active, hover: (event: PointerEvent) => void hover(event), begin, draw: (event: PointerEvent) => void (settled = draw(event)), end, giveUp, click, hide }
}

/** Worths by the keys that choose them. */
export const WORTH_KEYS: Readonly<Record<string, (typeof WORTHS)[number]>> = { 0: 'plain', 1: 'prized', 2: 'spare', 3: 'off-limits' }
