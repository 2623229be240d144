import type { WORTHS } from '@oak-stilts/core/contract'
import { codeOf } from '@oak-stilts/core/marks'
import { add, cross, dot, scale, type Vec3 } from '@oak-stilts/core/mesh'
import { PICKED } from '../bench/aiming'
import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import { latestOnly } from './latest-only'
import { rayAt } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** How far before the eye a box is drawn, mm: nearer than any skin. */
const BOX_AT_MM = 5

/** Marks faces, or picks them for a plan: the flat or the patch under the pointer by a click, what a brush goes over by a stroke, or what is seen within a box. */
export function createMarkTool(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>) {
  /** The faces of the stroke under way. */
  let stroke: Set<number> | null = null, settled: Promise<void> = Promise.resolve()
  /** Where the box that is being drawn begins, on the page. */
  let corner: { readonly x: number; readonly y: number } | null = null
  const picks = (): boolean => state.tool === 'pick', active = (): boolean => state.tool === 'mark' || picks()
  const become = (): string => (picks() ? 'picked' : state.worth)
  const take = (faces: Uint32Array): void => (picks() ? bench.pickFaces(faces) : bench.mark(faces, state.worth))
  const facesAt = (event: PointerEvent) => {
    const { origin, direction } = rayAt(scene.stage, event)
    return bench.workers().surface.facesAt(origin, direction, state.visibleMm, state.markBy, state.brushMm)
  }

  const hover = latestOnly(async (event: PointerEvent) => {
    if (state.markBy === 'box') {
      state.verdict = `Draw a box; what is seen in it becomes ${become()}`
      return
    }
    const at = await facesAt(event)
    if (!active() || stroke) return
    scene.contour.set(at?.border ?? null)
    state.verdict = at ? `${at.areaMm2.toFixed(at.areaMm2 < 10 ? 2 : 0)} mm² become ${become()}` : 'Point at the part.'
  })

  /** Begins a stroke or a box; gives whether there is one. */
  function begin(event: PointerEvent): boolean {
    if (state.markBy === 'brush') stroke = new Set()
    else if (state.markBy === 'box') corner = { x: event.clientX, y: event.clientY }
    return stroke !== null || corner !== null
  }
  /** The eye, and the directions of the corners of the box from there, one after the other around it. */
  function boxTo(from: { readonly x: number; readonly y: number }, event: PointerEvent): { eye: Vec3; directions: Vec3[] } {
    const rays = [[from.x, from.y], [event.clientX, from.y], [event.clientX, event.clientY], [from.x, event.clientY]].map(([x, y]) => scene.stage.rayAt(x, y))
    const { origin } = rays[0]
    return { eye: [origin.x, origin.y, origin.z], directions: rays.map(({ direction: d }): Vec3 => [d.x, d.y, d.z]) }
  }
  function drawBox(from: { readonly x: number; readonly y: number }, event: PointerEvent): void {
    const { eye, directions } = boxTo(from, event), at = directions.map(d => add(eye, scale(d, BOX_AT_MM)))
    scene.contour.set(Float32Array.from(at.flatMap((p, i) => [...p, ...at[(i + 1) % 4]])))
  }
  /** Marks what is seen in the box. */
  async function endBox(from: { readonly x: number; readonly y: number }, event: PointerEvent): Promise<void> {
    const { eye, directions } = boxTo(from, event), middle = directions.reduce((sum, d) => add(sum, d))
    const within = directions.map((d, i) => cross(d, directions[(i + 1) % 4])).map(n => (dot(n, middle) < 0 ? scale(n, -1) : n))
    hide()
    if (Math.abs(event.clientX - from.x) < 3 || Math.abs(event.clientY - from.y) < 3) bench.say('Draw a box over the faces: press, move, let go.')
    else await bench.markSeen(eye, picks() ? 'picked' : state.worth, within)
  }
  const drawStroke = latestOnly(async (event: PointerEvent) => {
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
    const shown = (picks() ? bench.shownWorths.value : bench.worths.value)?.slice() ?? new Uint8Array(loaded.mesh.triangles.length / 3)
    for (const f of faces) shown[f] = picks() ? PICKED : codeOf(state.worth)
    scene.model?.marks.set(shown)
  }
  function draw(event: PointerEvent): Promise<void> {
    if (!corner) return drawStroke(event)
    drawBox(corner, event)
    return Promise.resolve()
  }
  async function end(event: PointerEvent): Promise<void> {
    const from = corner
    corner = null
    if (from) {
      await endBox(from, event)
      return
    }
    await settled
    await drawStroke(event)
    const own = stroke
    stroke = null
    if (own && own.size > 0) take(Uint32Array.from(own))
    hide()
  }
  function giveUp(): void {
    stroke = null
    corner = null
    scene.model?.marks.set(picks() ? bench.shownWorths.value : bench.worths.value)
    hide()
  }

  async function click(event: PointerEvent): Promise<void> {
    const at = await facesAt(event)
    if (!at) bench.say('There is no part under the pointer. Click on its skin.')
    else take(at.faces)
  }

  function hide(): void {
    scene.contour.set(null)
    state.verdict = ''
  }

  return { active, hover: (event: PointerEvent) => void hover(event), begin, draw: (event: PointerEvent) => void (settled = draw(event)), end, giveUp, click, hide }
}

/** Worths by the keys that choose them. */
export const WORTH_KEYS: Readonly<Record<string, (typeof WORTHS)[number]>> = { 0: 'plain', 1: 'prized', 2: 'spare', 3: 'off-limits' }
