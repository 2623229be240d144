import { verdictOf } from '@oak-stilts/core/stilts'
import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import type { Ghost } from '../workers/surface.worker'
import { latestOnly } from './latest-only'
import { rayAt, type PointerRay } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** What Place aims at: a ray, or the symbol of an open island, whose lowest point is meant then. */
interface Aim extends PointerRay {
  readonly below?: readonly [number, number, number]
}

/** Place: a ghost of the stilt under the pointer with its verdict in words; a click places it. */
export function createPlaceTool(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>, trace: (zMm: number) => void) {
  function aimAt(event: PointerEvent): Aim {
    const finding = scene.markers.pick(event.clientX, event.clientY)
    const ray = rayAt(scene.stage, event)
    // a little inside, so that the ray down meets the surface that the symbol lies on
    return finding?.kind === 'island' && (finding.state === 'open' || finding.state === 'waived') ? { ...ray, below: [finding.at[0], finding.at[1], finding.at[2] + 0.1] } : ray
  }

  async function ghostFor(aim: Aim): Promise<Ghost | null> {
    const w = bench.workers().surface
    const below = aim.below ? await w.ghostBelow(aim.below, state.gauge) : null
    return below ?? w.ghost(aim.origin, aim.direction, state.visibleMm, state.gauge)
  }

  const follow = latestOnly(async (aim: Aim) => {
    const answer = await ghostFor(aim)
    if (state.tool !== 'place') return
    // the outline of the layer under the pointer stays on: people place where these lines widen
    if (answer && state.layerLine) trace(answer.ok ? answer.shape.path[0][2] : answer.at.point[2])
    scene.stilts.setGhost(answer?.ok ? answer.shape : null)
    state.verdict = !answer ? 'Point at an underside.' : answer.ok ? `${answer.shape.foot === 'model' ? 'Stick to the model: ' : ''}${verdictOf(answer.shape.path, answer.gapMm)}${answer.tight ? ', tight' : ''}${answer.prized ? ', on a prized face' : ''}` : answer.reason
  })

  function hide(): void {
    scene.stilts.setGhost(null)
    state.verdict = ''
  }

  async function click(event: PointerEvent): Promise<void> {
    const stand = bench.stand.value
    const answer = await ghostFor(aimAt(event))
    if (stand !== bench.stand.value) {
      bench.say('The part was moved meanwhile. Place the stilt where it is now.')
      return
    }
    if (!answer) {
      bench.say('There is no model under the pointer. Click on the model, from below if need be.')
      return
    }
    state.verdict = ''
    if (!answer.ok) {
      bench.say(answer.reason)
      return
    }
    const [stilt] = bench.addStilts('place stilt', [answer.shape])
    state.selectedStilts = [stilt.id]
    state.selectedFinding = null
    bench.say(`Stilt ${stilt.number} placed: ${verdictOf(answer.shape.path, answer.gapMm)}.${answer.prized ? ' Its tip is on a prized face and will leave a scar there.' : ''}`)
  }

  return { hover: (event: PointerEvent) => void follow(aimAt(event)), hide, click }
}
