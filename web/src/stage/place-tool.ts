import { watch } from 'vue'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { PRIZED } from '@oak-stilts/core/marks'
import { verdictOf } from '@oak-stilts/core/stilts'
import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import type { Ghost } from '../workers/ghost-work'
import { ghostWords } from './ghost-words'
import { latestOnly } from './latest-only'
import { rayAt, type PointerRay } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** What Place aims at: a ray, or the symbol of an open island, whose lowest point is meant then. */
interface Aim extends PointerRay {
  readonly below?: readonly [number, number, number]
}

/** Places under a finding that are tried before somebody hunts for one. */
const MOST_SPOTS = 60

/** Place: a ghost of the stilt under the pointer with its verdict in words; a click places it, and where advice is against it, force does. */
export function createPlaceTool(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>, trace: (zMm: number) => void) {
  const store = useJobStore()
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

  /** Where the pointer was last, for what is placed by force from there. */
  let last: Aim | null = null
  /** What was asked before something was placed is not said after it. */
  let placed = 0
  const follow = latestOnly(async ({ aim, ticket }: { aim: Aim; ticket: number }) => {
    const answer = ticket === placed ? await ghostFor(aim) : null
    if (state.tool !== 'place' || ticket !== placed) return
    // the outline of the layer under the pointer stays on: people place where these lines widen
    if (answer && state.layerLine) trace(answer.ok ? answer.shape.path[0][2] : answer.at.point[2])
    scene.stilts.setGhost(answer?.ok ? answer.shape : null)
    state.verdict = !answer ? 'Point at an underside.' : answer.ok ? words(answer) : `${answer.reason}${answer.problem === 'off-limits' ? '' : ' Ctrl + Enter places it all the same.'}`
  })
  const words = ({ shape, facts }: Extract<Ghost, { ok: true }>): string => ghostWords(shape, facts, store.job?.resin.webMm ?? 0, bench.gauge.value)

  function hide(): void {
    last = null
    scene.stilts.setGhost(null)
    state.verdict = ''
  }

  function place(answer: Extract<Ghost, { ok: true }>): void {
    state.verdict = ''
    const { shape, facts } = answer, [stilt] = bench.addStilts(shape.forced === undefined ? 'place stilt' : 'place a stilt by force', [shape])
    state.selectedStilts = [stilt.id]
    state.selectedFinding = null
    bench.say(`Stilt ${stilt.number} placed${shape.forced === undefined ? '' : ' by force'}: ${verdictOf(shape.path, facts.gapMm)}.${facts.worth === PRIZED ? ' Its tip is on a prized face and will leave a scar there.' : ''}${shape.forced === undefined ? '' : ` It is listed: ${shape.forced}`}`)
  }

  async function click(event: PointerEvent): Promise<void> {
    placed++
    const stand = bench.stand.value
    const answer = await ghostFor(aimAt(event))
    if (stand !== bench.stand.value) {
      bench.say('The part was moved meanwhile. Place the stilt where it is now.')
      return
    }
    if (!answer) bench.say('There is no model under the pointer. Click on the model, from below if need be.')
    else if (!answer.ok) {
      state.verdict = ''
      bench.say(answer.reason)
    } else place(answer)
  }

  /** Places a stilt where the pointer is, against advice if need be; never on what is off limits. */
  async function force(): Promise<void> {
    placed++
    const stand = bench.stand.value
    const answer = last && (await bench.workers().surface.forced(last.origin, last.direction, state.visibleMm, state.gauge))
    if (stand !== bench.stand.value) return
    if (!answer) bench.say('Point at the skin first; Ctrl + Enter places a stilt there against advice.')
    else if (!answer.ok) bench.say(answer.reason)
    else place(answer)
  }

  // where something can stand on the finding that is chosen is shown before anybody hunts for it
  const showSpots = latestOnly(async () => {
    const f = state.finding, wanted = state.tool === 'place' && state.scanState === 'fresh' && (f?.state === 'open' || f?.state === 'partly')
    const what = !wanted ? null : f.kind === 'island' ? { island: f.island } : f.kind === 'ledge' ? { ledge: f.ledge } : null
    if (!what) {
      if (state.tool === 'place' || state.tool === 'select') scene.dots.set(null)
      return
    }
    const gauge = bench.gauge.value, inside: Vec3[] = await bench.workers().scan.spots(what, MOST_SPOTS), { points, stands } = await bench.workers().surface.standing(inside, gauge.id)
    if (state.tool !== 'place' || state.finding !== f || bench.gauge.value !== gauge) return
    scene.dots.set(points, stands)
    const count = stands.reduce((n, s) => n + s, 0)
    bench.say(count > 0 ? `Where dots are full a stilt of the ${gauge.name} gauge can stand: ${count} ${count === 1 ? 'place' : 'places'}.` : `None of the ${gauge.name} gauge can stand under this. Try another gauge, or a tilt.`)
  })
  watch([() => state.tool, () => state.finding, () => state.scanState, () => bench.gauge.value, () => store.stilts], () => void showSpots(undefined).catch(() => undefined))

  return {
    hover: (event: PointerEvent) => {
      last = aimAt(event)
      void follow({ aim: last, ticket: placed })
    },
    hide, click, force,
  }
}
