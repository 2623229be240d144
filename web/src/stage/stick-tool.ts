import type { Anchor } from '@oak-stilts/core/contract'
import { verdictOf } from '@oak-stilts/core/stilts'
import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import { latestOnly } from './latest-only'
import { rayAt, type PointerRay } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** A stick between two points of the part: two clicks; in between the view turns as one likes, and what the second would do is shown. */
export function createStickTool(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>) {
  let begun: Anchor | null = null
  /** What was asked before a click is not said after it. */
  let clicks = 0
  const active = (): boolean => state.tool === 'stick'
  const worker = () => bench.workers().surface

  const follow = latestOnly(async ({ ray, ticket }: { ray: PointerRay; ticket: number }) => {
    if (!active() || ticket !== clicks) return
    if (!begun) {
      state.verdict = 'Click where the stick holds.'
      return
    }
    const answer = await worker().stick(begun, ray.origin, ray.direction, state.visibleMm, state.gauge)
    if (!active() || ticket !== clicks) return
    scene.stilts.setGhost(answer?.ok ? answer.shape : null)
    state.verdict = !answer ? 'Point at where it ends.' : answer.ok ? `${verdictOf(answer.shape.path, answer.gapMm)}, lands ${answer.landingDeg.toFixed(0)}° off straight${answer.shape.legs?.length ? `, on ${answer.shape.legs.length + 1} points` : ''}` : answer.reason
  })

  // the second of two quick clicks waits for what the first one found
  let clicking: Promise<void> = Promise.resolve()
  const click = (event: PointerEvent): Promise<void> => clickAt(rayAt(scene.stage, event))
  /** The same for whoever points without a pointer. */
  function clickAt(ray: PointerRay): Promise<void> {
    return (clicking = clicking.then(() => clickNow(ray)).catch((error: unknown) => bench.say((error as Error).message)))
  }
  async function clickNow({ origin, direction }: PointerRay): Promise<void> {
    const stand = bench.stand.value
    clicks++
    if (!begun) {
      const at = await worker().wayPointAt(origin, direction, state.visibleMm)
      if (!at) {
        bench.say('There is no part under the pointer. Click on its skin.')
        return
      }
      begun = at.anchor
      scene.dots.set(new Float32Array(at.at), Uint8Array.of(1))
      state.verdict = 'Point at where it ends; the view turns freely.'
      return
    }
    const answer = await worker().stick(begun, origin, direction, state.visibleMm, state.gauge)
    if (stand !== bench.stand.value) return
    // what is said after a click is not hidden by what was said before it
    state.verdict = ''
    if (!answer) bench.say('There is no part under the pointer. Click where it ends.')
    else if (!answer.ok) bench.say(answer.reason)
    else {
      hide()
      const [stilt] = bench.addStilts('place a stick', [answer.shape])
      state.selectedStilts = [stilt.id]
      state.selectedFinding = null
      bench.say(`Stick ${stilt.number} placed: ${verdictOf(answer.shape.path, answer.gapMm)}.`)
    }
  }

  /** One step back: the first end. Gives whether there was one. */
  function giveUp(): boolean {
    const had = begun !== null
    hide()
    return had
  }
  function hide(): void {
    begun = null
    scene.stilts.setGhost(null)
    scene.dots.set(null)
    state.verdict = ''
  }

  return { active, hover: (event: PointerEvent) => void follow({ ray: rayAt(scene.stage, event), ticket: clicks }), click, clickAt, hasBegun: () => begun !== null, giveUp }
}
