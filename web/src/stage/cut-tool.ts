import { Vector3 } from 'three'
import { add, cross, dot, scale, sub, type Vec3 } from '@oak-stilts/core/mesh'
import type { Bench } from '../bench/use-bench'
import type { useBenchStore } from '../stores/bench'
import type { useJobStore } from '../stores/job'
import { rayAt } from './pointer-ray'
import type { StageScene } from './stage-scene'
import type { TurnName } from './turn-rings'

/** How near the pointer has to come to the end of the arrow, pixels. */
const REACH_PX = 14
/** Parts of the arrow, as shares of the ring's radius. */
const LONG = 0.5, HEAD = 0.09
const LABEL: Record<'tiltXDeg' | 'tiltYDeg', 'leanXDeg' | 'leanYDeg'> = { tiltXDeg: 'leanXDeg', tiltYDeg: 'leanYDeg' }

/** Setting a cut by hand: an arrow moves its plane, two rings lean it; three points lay it; pegs are placed by clicking on it. */
export function createCutTool(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>, store: ReturnType<typeof useJobStore>) {
  const { stage, cutRings: rings } = scene, { draft, plane, frame, seen } = bench.cutting
  let points: Vec3[] = [], drag: { readonly ring: TurnName; readonly from: number; readonly lean: number } | { readonly ring: null; readonly from: number; readonly distanceMm: number } | null = null

  const setting = (): boolean => draft.value !== null
  const active = (): boolean => setting() && (state.tool === 'cut-points' || state.tool === 'cut-pegs')
  const turnDeg = (): number => store.copy?.turnDeg ?? 0

  /** Brings the handles to where the plane is. */
  function show(visible: boolean): void {
    const now = draft.value, at = frame.value, own = plane.value
    const shown = visible && !!now && !!at && !!own
    rings.setVisible(shown)
    scene.cutArrow.set(null)
    if (!shown) return
    const middle = new Vector3(...at.at).applyMatrix4(stage.stand.matrix)
    rings.set(middle, at.radiusMm + 3, { tiltXDeg: now.leanXDeg, tiltYDeg: now.leanYDeg, turnDeg: turnDeg(), liftMm: 0 })
    scene.cutArrow.set(arrowOf(at.at, own.normal, at.radiusMm))
  }
  const tipOf = (): Vec3 | null => (frame.value && plane.value ? add(frame.value.at, scale(plane.value.normal, LONG * frame.value.radiusMm)) : null)
  function onArrow(event: MouseEvent): boolean {
    const tip = tipOf(), at = tip && stage.toPage(tip)
    return !!at && Math.hypot(at.x - event.clientX, at.y - event.clientY) < REACH_PX
  }
  /** How far along the normal a ray comes nearest to the arrow, mm; null where it runs along it. */
  function along(event: MouseEvent): number | null {
    const { origin, direction: d } = rayAt(stage, event), n = plane.value?.normal, at = frame.value?.at
    if (!n || !at) return null
    const b = dot(n, d), off = sub(at, origin), bottom = 1 - b * b
    return bottom < 1e-4 ? null : (b * dot(off, d) - dot(off, n)) / bottom
  }

  function begin(event: PointerEvent): boolean {
    const now = draft.value
    if (!now || active()) return false
    if (onArrow(event)) {
      const from = along(event)
      drag = from === null ? null : { ring: null, from, distanceMm: now.distanceMm }
      return drag !== null
    }
    const ring = rings.pick(event.clientX, event.clientY), from = ring && rings.angleAt(ring, stage.plateRayAt(event.clientX, event.clientY))
    if (!ring || from === null || ring === 'turnDeg') return false
    drag = { ring, from, lean: now[LABEL[ring]] }
    return true
  }
  function draw(event: PointerEvent): void {
    if (!drag) return
    if (drag.ring === null) {
      const to = along(event)
      if (to === null) return
      // the arrow moves with the plane: what counts is how far the pointer is from where it was pressed
      const distanceMm = rounded(draft.value ? draft.value.distanceMm + to - drag.from : drag.distanceMm, event.shiftKey ? 0.01 : 0.1)
      bench.setPlane({ distanceMm })
      state.verdict = `${distanceMm.toFixed(2)} mm from the middle of the plate; Shift for hundredths`
      return
    }
    if (drag.ring === 'turnDeg') return
    const angle = rings.angleAt(drag.ring, stage.plateRayAt(event.clientX, event.clientY))
    if (angle === null) return
    const by = ((((angle - drag.from + 180) % 360) + 360) % 360) - 180, lean = rounded(drag.lean + by, event.shiftKey ? 0.1 : 1)
    bench.setPlane({ [LABEL[drag.ring]]: Math.max(-180, Math.min(180, lean)) })
    state.verdict = `Leans ${lean.toFixed(event.shiftKey ? 1 : 0)}° about ${drag.ring === 'tiltXDeg' ? 'x' : 'y'}; Shift for tenths`
  }
  function end(): Promise<void> {
    drag = null
    state.verdict = ''
    return Promise.resolve()
  }

  function hover(event: PointerEvent): 'grab' | 'default' {
    const over = onArrow(event) ? null : rings.pick(event.clientX, event.clientY)
    rings.highlight(over)
    return over || onArrow(event) ? 'grab' : 'default'
  }
  async function click(event: PointerEvent): Promise<void> {
    const ray = rayAt(stage, event)
    if (state.tool === 'cut-points') {
      const hit = await bench.workers().surface.pick(ray.origin, ray.direction, state.visibleMm)
      if (!hit) {
        bench.say('There is no part under the pointer. Click on its skin.')
        return
      }
      points = [...points, hit.point]
      scene.dots.set(Float32Array.from(points.flat()), new Uint8Array(points.length).fill(1))
      state.verdict = points.length === 3 ? '' : `${points.length} of 3 points`
      const [a, b, c] = points
      if (!c) return
      hide()
      bench.planeBy([a, b, c])
      state.tool = 'select'
      return
    }
    const own = plane.value
    if (!own || !seen.value) return
    const t = (own.offsetMm - dot(own.normal, ray.origin)) / dot(own.normal, ray.direction)
    if (Number.isFinite(t) && t > 0) bench.pegAt(add(ray.origin, scale(ray.direction, t)))
  }
  function hide(): void {
    if (points.length > 0) {
      points = []
      scene.dots.set(null)
      state.verdict = ''
    }
  }
  return { setting, active, show, begin, draw, end, giveUp: () => void end(), hover, click, hide }
}

const rounded = (v: number, step: number): number => Number((Math.round(v / step) * step).toFixed(4))

/** An arrow along the normal, as segments in the stand. */
function arrowOf(at: Vec3, normal: Vec3, radiusMm: number): Float32Array {
  const tip = add(at, scale(normal, LONG * radiusMm)), aside = cross(normal, Math.abs(normal[2]) < 0.9 ? [0, 0, 1] : [1, 0, 0]), across = cross(normal, aside), out: number[] = [...at, ...tip]
  for (const way of [aside, scale(aside, -1), across, scale(across, -1)]) out.push(...tip, ...add(tip, add(scale(normal, -HEAD * radiusMm), scale(way, HEAD * 0.6 * radiusMm))))
  return Float32Array.from(out)
}
