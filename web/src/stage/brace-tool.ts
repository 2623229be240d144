import type { Vec3 } from '@oak-stilts/core/mesh'
import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import type { StiltPlace } from '../workers/tie-work'
import { latestOnly } from './latest-only'
import type { StageScene } from './stage-scene'

/** A brace between two stilts: two clicks on their shafts; the view turns as one likes in between. */
export function createBraceTool(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>) {
  const { stage } = scene
  let begun: StiltPlace | null = null, number = 0
  let clicks = 0
  const active = (): boolean => state.tool === 'brace'

  function placeAt(event: PointerEvent): (StiltPlace & { readonly number: number }) | null {
    const hit = scene.stilts.pick(stage.rayAt(event.clientX, event.clientY))
    return hit && { tip: hit.stilt.id, at: hit.at, number: hit.stilt.number }
  }

  const follow = latestOnly(async ({ place, ticket }: { place: ReturnType<typeof placeAt>; ticket: number }) => {
    if (!active() || ticket !== clicks) return
    if (!begun || !place || place.tip === begun.tip) {
      scene.stilts.setGhostBeam(null)
      state.verdict = begun ? `From stilt ${number}: point at another shaft.` : place ? `Click: a brace begins at stilt ${place.number}.` : 'Click the shaft where the brace begins.'
      return
    }
    const answer = await bench.workers().surface.braceGhost(begun, place)
    if (!active() || ticket !== clicks) return
    scene.stilts.setGhostBeam(answer.ok ? answer : null)
    state.verdict = answer.ok ? `Brace from stilt ${number} to ${place.number}: ${answer.lengthMm.toFixed(1)} mm, rises ${answer.riseDeg.toFixed(0)}°, gap ${answer.gapMm >= 5 ? 'over 5' : answer.gapMm.toFixed(2)} mm` : answer.reason
  })

  let clicking: Promise<void> = Promise.resolve()
  function click(event: PointerEvent): Promise<void> {
    clicks++
    const place = placeAt(event)
    return (clicking = clicking.then(() => clickNow(place)).catch((error: unknown) => bench.say((error as Error).message)))
  }
  async function clickNow(place: ReturnType<typeof placeAt>): Promise<void> {
    state.verdict = ''
    if (!place) bench.say('There is no stilt under the pointer. Click on a shaft.')
    else if (!begun) {
      begun = place
      number = place.number
      mark(place.at)
      state.verdict = `From stilt ${number}: point at another shaft; the view turns freely.`
    } else {
      const from = begun
      hide()
      await bench.brace(from, place)
    }
  }
  function mark(at: Vec3): void {
    scene.dots.set(new Float32Array(at), Uint8Array.of(1))
  }

  /** One step back: the first end. Gives whether there was one. */
  function giveUp(): boolean {
    const had = begun !== null
    hide()
    return had
  }
  function hide(): void {
    begun = null
    scene.stilts.setGhostBeam(null)
    scene.dots.set(null)
    state.verdict = ''
  }

  return { active, hover: (event: PointerEvent) => void follow({ place: placeAt(event), ticket: clicks }), click, giveUp }
}
