import { watch } from 'vue'
import type { Anchor } from '@oak-stilts/core/contract'
import type { Stilt } from '@oak-stilts/core/stilts'
import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import { ghostWords } from './ghost-words'
import type { BranchGhost } from '../workers/tie-work'
import { latestOnly } from './latest-only'
import { rayAt, type PointerRay } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** A press that moves less than this many pixels is a click. */
const CLICK_PX = 4

/**
 * Branches: a click on a stilt says which one they leave, one on the skin places one, a drag over the skin several that share it. Where no
 * stilt is said, the nearest that can carry it does.
 */
export function createBranchTool(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>) {
  const { stage } = scene, store = useJobStore()
  let host: string | null = null
  let pressed: { readonly x: number; readonly y: number } | null = null
  /** What a drag went over so far, a tip's spacing apart. */
  let drawn: { readonly at: readonly [number, number, number]; readonly anchor: Anchor }[] | null = null
  let clicks = 0
  const active = (): boolean => state.tool === 'branch'
  const worker = () => bench.workers().surface
  const hostNow = (): Stilt | undefined => store.stilts.find(s => s.id === host)
  watch(() => state.tool, (tool, before) => {
    if (tool !== 'branch') return
    // the one that was selected is meant; not one that was only placed before
    host = before === 'select' && state.selectedStilts.length === 1 ? state.selectedStilts[0] : null
    state.verdict = hint()
  })
  const hint = (): string => {
    const own = hostNow()
    return own ? `From stilt ${own.number}: point at the skin; a drag places several.` : 'Point at the skin, or click a stilt that they are to leave; a drag places several.'
  }

  /** The stilt under the pointer, before the skin. */
  async function stiltAt(event: PointerEvent): Promise<Stilt | null> {
    const hit = scene.stilts.pick(stage.rayAt(event.clientX, event.clientY))
    if (!hit) return null
    const ray = rayAt(stage, event), skin = await worker().pick(ray.origin, ray.direction, state.visibleMm)
    return !skin || skin.distanceMm > hit.distance ? hit.stilt : null
  }

  function words(answer: Extract<BranchGhost, { ok: true }>): string {
    // its own way alone; what carries it is there already
    const { shape } = answer, own = { ...shape, path: shape.path.slice(0, (shape.shared?.from ?? shape.path.length) + 1) }
    return `Branch of stilt ${answer.host}: ${ghostWords(own, answer.facts, store.job?.resin.webMm ?? 0, bench.gauge.value)}`
  }
  const follow = latestOnly(async ({ event, ray, ticket }: { event: PointerEvent; ray: PointerRay; ticket: number }) => {
    if (!active() || drawn || ticket !== clicks) return
    const over = await stiltAt(event)
    const answer = over ? null : await worker().branchGhost(host, ray.origin, ray.direction, state.visibleMm, state.gauge)
    if (!active() || drawn || ticket !== clicks) return
    scene.stilts.setGhost(answer?.ok ? answer.shape : null, answer?.ok ? answer.shape.shared?.from : undefined)
    state.verdict = over ? (over.id === host ? `Branches leave stilt ${over.number}.` : `Click: branches leave stilt ${over.number}.`) : answer ? (answer.ok ? words(answer) : answer.reason) : hint()
  })

  // what is drawn over
  let passed: PointerRay[] = []
  const lookAtPassed = latestOnly(async () => {
    const own = drawn, some = passed
    passed = []
    for (const { origin, direction } of some) {
      const at = await worker().wayPointAt(origin, direction, state.visibleMm)
      const before = own?.[own.length - 1]
      if (!at || (before && Math.hypot(at.at[0] - before.at[0], at.at[1] - before.at[1], at.at[2] - before.at[2]) < bench.spacingMm.value)) continue
      own?.push(at)
    }
    if (!own || own !== drawn || own.length < 2) return
    scene.stilts.setGhost(null)
    scene.dots.set(Float32Array.from(own.flatMap(p => [...p.at])), new Uint8Array(own.length).fill(1))
    state.verdict = `${own.length} branches every ${bench.spacingMm.value.toFixed(2)} mm`
  })
  let drawing: Promise<void> = Promise.resolve()
  function begin(event: PointerEvent): boolean {
    if (!active()) return false
    pressed = { x: event.clientX, y: event.clientY }
    drawn = []
    passed = [rayAt(stage, event)]
    drawing = lookAtPassed(undefined)
    return true
  }
  function draw(event: PointerEvent): void {
    passed.push(rayAt(stage, event))
    drawing = lookAtPassed(undefined)
  }
  // what follows quickly waits for what came before
  let ending: Promise<void> = Promise.resolve()
  function end(event: PointerEvent): Promise<void> {
    const at = pressed, own = drawn
    clicks++
    pressed = null
    return (ending = ending.then(() => endNow(event, at, own)).catch((error: unknown) => bench.say((error as Error).message)))
  }
  async function endNow(event: PointerEvent, at: typeof pressed, own: typeof drawn): Promise<void> {
    await drawing
    const click = at && Math.hypot(event.clientX - at.x, event.clientY - at.y) < CLICK_PX
    if (drawn === own) drawn = null
    clear()
    const over = click ? await stiltAt(event) : null
    if (over) {
      host = over.id
      state.selectedStilts = [over.id]
      bench.say(`Branches leave stilt ${over.number} now. Point at the skin.`)
      return
    }
    const points = (click ? own?.slice(0, 1) : own) ?? []
    if (points.length === 0) bench.say('There is no part under the pointer. Click on its skin.')
    else await bench.branch(host, points.map(p => p.anchor))
  }

  /** A branch to where a ray meets the skin, for whoever points without a pointer. */
  async function clickAt({ origin, direction }: PointerRay): Promise<void> {
    clicks++
    const at = await worker().wayPointAt(origin, direction, state.visibleMm)
    clear()
    if (at) await bench.branch(host, [at.anchor])
    else bench.say('There is no part there.')
  }

  /** One step back: what is drawn, then the stilt that they leave. Gives whether there was one. */
  function giveUp(): boolean {
    const had = drawn !== null || (active() && host !== null)
    drawn = null
    pressed = null
    host = null
    clear()
    return had
  }
  function clear(): void {
    scene.stilts.setGhost(null)
    scene.dots.set(null)
    state.verdict = ''
  }

  return { active, hover: (event: PointerEvent) => void follow({ event, ray: rayAt(stage, event), ticket: clicks }), clickAt, begin, draw, end, giveUp, hide: clear }
}
