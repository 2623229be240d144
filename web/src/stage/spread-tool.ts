import { watch } from 'vue'
import type { Anchor, SpreadWay } from '@oak-stilts/core/contract'
import type { Vec3 } from '@oak-stilts/core/mesh'
import type { SpotWay } from '@oak-stilts/core/spread'
import type { Bench } from '../bench/use-bench'
import { isSpreadTool, type useBenchStore } from '../stores/bench'
import type { PickedWay } from '../workers/spread-work'
import { latestOnly } from './latest-only'
import { rayAt, type PointerRay } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** An edge this near to the pointer is meant instead of the whole border, screen pixels. */
const EDGE_PX = 14
/** How far apart the points of a stroke are that is drawn by keys, and how far from the skin a step may lead, mm. */
const KEY_STEP_MM = 0.25, BESIDE_MM = 1.5

type Stroke = { readonly at: Vec3; readonly point: Anchor['point']; readonly normal: Anchor['normal']; readonly pressure: number }[]

/** Spreads stilts along a line between two clicks, along an edge or over a face by one, by strokes; shown as dots before. */
export function createSpreadTool(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>) {
  const { stage } = scene
  /** The first end of a line that is being drawn. */
  let begun: { readonly at: Vec3; readonly anchor: Anchor } | null = null
  let stroke: Stroke | null = null, drawing: Promise<void> = Promise.resolve()
  /** What is under the pointer, as it was last shown. */
  let shown: PickedWay | null = null
  const active = (): boolean => isSpreadTool(state.tool)
  const worker = () => bench.workers().surface

  async function wayAt({ origin, direction }: PointerRay): Promise<PickedWay | null> {
    if (state.tool === 'line') {
      const at = await worker().wayPointAt(origin, direction, state.visibleMm)
      if (!at || !begun) return null
      return { way: { kind: 'line', from: begun.anchor, to: at.anchor }, outline: new Float32Array([...begun.at, ...at.at]), measure: Math.hypot(at.at[0] - begun.at[0], at.at[1] - begun.at[1], at.at[2] - begun.at[2]) }
    }
    const hit = await worker().pick(origin, direction, state.visibleMm)
    if (!hit) return null
    if (state.tool === 'edge') return worker().edgeAt(origin, direction, state.visibleMm, EDGE_PX * stage.mmPerPixel(hit.distanceMm))
    return worker().faceAt(origin, direction, state.visibleMm, state.spread.by, state.spread.pattern, state.spread.marginMm)
  }

  /** Shows where the tips of a way would stand, and says how many. */
  async function preview(picked: PickedWay | null): Promise<void> {
    shown = picked
    if (!picked) {
      scene.contour.set(null)
      scene.dots.set(null)
      state.verdict = begun ? 'Point at where the line ends.' : state.tool === 'line' ? 'Click where the line begins.' : state.tool === 'edge' ? 'Point at an edge, or at a face for its whole border.' : state.tool === 'face' ? 'Point at a face.' : 'Press and draw over the skin.'
      return
    }
    const own = state.spread.anew === null ? [] : bench.stiltsOfSpread(state.spread.anew).map(s => s.id)
    const { points, stands, kept } = await worker().spreadPreview(picked.way, bench.spacingMm.value, bench.keepMm.value, bench.gauge.value.id, own)
    if (shown !== picked) return
    scene.contour.set(picked.outline)
    scene.dots.set(points, stands)
    const count = stands.length, cannot = stands.reduce((n, s) => n + (s ? 0 : 1), 0)
    state.verdict = `${count} ${count === 1 ? 'tip' : 'tips'} every ${bench.trueSpacing(picked.way, bench.spacingMm.value, picked.measure).toFixed(2)} mm${picked.way.kind === 'face' ? '' : ` on ${picked.measure.toFixed(1)} mm`}${cannot ? `, ${cannot} cannot stand` : ''}${kept ? `, ${kept} left out beside others` : ''}`
  }
  /** What was asked before a click is not said after it. */
  let clicks = 0
  const follow = latestOnly(async ({ ray, ticket }: { ray: PointerRay; ticket: number }) => {
    if (ticket !== clicks) return
    const picked = await wayAt(ray)
    if (active() && !stroke && ticket === clicks) await preview(picked)
  })
  let resting: PointerRay | null = null
  // another spacing, gauge or pattern is shown at once where the pointer rests
  watch([bench.spacingMm, bench.keepMm, () => bench.gauge.value.id, () => state.spread.by, () => state.spread.pattern, () => state.spread.marginMm], () => {
    if (active() && resting && !stroke) void follow({ ray: resting, ticket: clicks })
  })

  function hover(event: PointerEvent): void {
    resting = rayAt(stage, event)
    if (state.tool === 'strokes') {
      if (!stroke) void preview(null)
    } else void follow({ ray: resting, ticket: clicks })
  }

  /** Places what was drawn: as a new spread, or in the place of the one that is drawn anew. */
  async function take(way: SpreadWay): Promise<void> {
    const { anew } = state.spread
    hide()
    begun = null
    if (anew === null) {
      await bench.spreadOut(way)
      return
    }
    state.spread.anew = null
    state.tool = 'select'
    await bench.respread(anew, { way })
  }

  // the second of two quick clicks waits for what the first one found
  let clicking: Promise<void> = Promise.resolve()
  const click = (event: PointerEvent): Promise<void> => clickAt(rayAt(stage, event))
  /** The same for whoever points without a pointer. */
  function clickAt(ray: PointerRay): Promise<void> {
    clicks++
    return (clicking = clicking.then(() => clickNow(ray)).catch((error: unknown) => bench.say((error as Error).message)))
  }
  async function clickNow(ray: PointerRay): Promise<void> {
    const stand = bench.stand.value
    if (state.tool === 'line' && !begun) {
      const at = await worker().wayPointAt(ray.origin, ray.direction, state.visibleMm)
      begun = at
      if (!at) bench.say('There is no part under the pointer. Click on its skin.')
      else state.verdict = 'Point at where the line ends.'
      return
    }
    const picked = await wayAt(ray)
    if (stand !== bench.stand.value) return
    if (!picked) bench.say('There is no part under the pointer. Click on its skin.')
    else await take(picked.way)
  }

  // strokes
  /** Where the pointer went and is not looked at yet: all of it counts, however fast it is. */
  let passed: (PointerRay & { readonly pressure: number })[] = []
  const lookAtPassed = latestOnly(async () => {
    const own = stroke, some = passed
    passed = []
    for (const { origin, direction, pressure } of some) {
      const at = await worker().wayPointAt(origin, direction, state.visibleMm)
      if (at) own?.push({ at: at.at, point: at.anchor.point, normal: at.anchor.normal, pressure })
    }
    if (own && own === stroke && own.length > 0) await preview({ way: strokeWay(own), outline: new Float32Array(0), measure: lengthOf(own) })
  })
  const strokeWay = (own: Stroke): SpotWay => ({ kind: 'strokes', pressure: state.spread.pressure, points: own.map(({ point, normal, pressure }) => ({ point, normal, pressure })) })
  const lengthOf = (own: Stroke): number => own.reduce((sum, p, i) => (i === 0 ? 0 : sum + Math.hypot(p.at[0] - own[i - 1].at[0], p.at[1] - own[i - 1].at[1], p.at[2] - own[i - 1].at[2])), 0)

  function extend(event: PointerEvent): Promise<void> {
    passed.push({ ...rayAt(stage, event), pressure: event.pressure > 0 ? event.pressure : 0.5 })
    return lookAtPassed(undefined)
  }
  /** Begins a stroke; gives whether there is one. */
  function begin(event: PointerEvent): boolean {
    if (state.tool !== 'strokes') return false
    stroke = []
    wentTo = null
    passed = []
    drawing = extend(event)
    return true
  }
  function draw(event: PointerEvent): void {
    drawing = extend(event)
  }
  async function end(event: PointerEvent): Promise<void> {
    await drawing
    await extend(event)
    const own = stroke
    stroke = null
    if (own && own.length > 0) await take(strokeWay(own))
    else bench.say('There is no part under the pointer. Draw over its skin.')
  }
  // strokes by keys: from finding to finding, and by arrows in between
  /** The finding that the stroke went to last. */
  let wentTo: string | null = null
  const drawnOn = (own: Stroke, found: readonly { readonly at: Vec3; readonly anchor: Anchor }[]): void => {
    for (const { at, anchor } of found) own.push({ at, point: anchor.point, normal: anchor.normal, pressure: 0.5 })
  }
  const showStroke = (own: Stroke): Promise<void> => preview({ way: strokeWay(own), outline: new Float32Array(0), measure: lengthOf(own) })
  /** Begins a stroke at a finding, goes on to another one, or ends where it is there already. */
  async function strokeTo(finding: string, ray: PointerRay): Promise<void> {
    clicks++
    const at = await worker().wayPointAt(ray.origin, ray.direction, state.visibleMm)
    if (!at) {
      bench.say('No skin of the part lies there. Point at it instead.')
      return
    }
    if (!stroke || wentTo === null) {
      stroke = []
      drawnOn(stroke, [at])
      wentTo = finding
      await showStroke(stroke)
      state.verdict = 'A stroke has begun: Alt and arrows draw on, so does Enter at the next finding; Enter again ends it.'
      return
    }
    const own = stroke
    if (finding === wentTo) {
      stroke = null
      wentTo = null
      await take(strokeWay(own))
      return
    }
    wentTo = finding
    drawnOn(own, (await worker().wayBetween(own[own.length - 1], at.anchor, KEY_STEP_MM)).slice(1))
    if (own === stroke) await showStroke(own)
  }
  // each step goes on from the one before, however fast they come
  let stepping: Promise<void> = Promise.resolve()
  /** Draws a stroke on that was begun by keys, by a vector in mm. */
  function strokeBy(by: Vec3): Promise<void> {
    return (stepping = stepping.then(async () => {
      const own = stroke
      if (!own || wentTo === null) {
        bench.say('Begin the stroke first: N goes to a finding, Enter begins there.')
        return
      }
      const { at: [x, y, z], point, normal } = own[own.length - 1], next = await worker().wayPointNear([x + by[0], y + by[1], z + by[2]], BESIDE_MM)
      if (!next) {
        bench.say('The skin ends there.')
        return
      }
      drawnOn(own, (await worker().wayBetween({ point, normal }, next.anchor, KEY_STEP_MM)).slice(1))
      if (own === stroke) await showStroke(own)
    }).catch((error: unknown) => bench.say((error as Error).message)))
  }

  /** One step back: a stroke, or the begun line. Gives whether there was one. */
  function giveUp(): boolean {
    const had = stroke !== null || begun !== null
    stroke = null
    begun = null
    wentTo = null
    if (had) hide()
    return had
  }

  function hide(): void {
    shown = null
    resting = null
    scene.contour.set(null)
    scene.dots.set(null)
    state.verdict = ''
  }

  return { active, hover, click, clickAt, strokeTo, strokeBy, begin, draw, end, giveUp, hide }
}
