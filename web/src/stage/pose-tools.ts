import type { Vec3 } from '@oak-stilts/core/mesh'
import type { Bench } from '../bench/use-bench'
import type { StandEdge } from '../bench/posing'
import type { useBenchStore } from '../stores/bench'
import type { PickedFace } from '../workers/surface.worker'
import { latestOnly } from './latest-only'
import { rayAt, type PointerRay } from './pointer-ray'
import type { StageScene } from './stage-scene'

/** An edge this near to the pointer is meant instead of the face, screen pixels. */
const EDGE_PX = 9

interface Aim extends PointerRay {
  readonly x: number
  readonly y: number
}

/** Lay down and Square up: the face or the edge under the pointer is outlined; a click poses the part by it. */
export function createPoseTools(scene: StageScene, bench: Bench, state: ReturnType<typeof useBenchStore>) {
  const { stage } = scene
  const aimAt = (event: PointerEvent): Aim => ({ ...rayAt(stage, event), x: event.clientX, y: event.clientY })
  const active = (): boolean => state.tool === 'lay' || state.tool === 'square'

  function distanceTo({ from, to }: StandEdge, { x, y }: Aim): number {
    const a = stage.toPage(from), b = stage.toPage(to)
    if (!a || !b) return Infinity
    const dx = b.x - a.x, dy = b.y - a.y, t = Math.max(0, Math.min(1, ((x - a.x) * dx + (y - a.y) * dy) / (dx * dx + dy * dy || 1)))
    return Math.hypot(x - a.x - dx * t, y - a.y - dy * t)
  }
  async function picked(aim: Aim): Promise<{ readonly face: PickedFace; readonly edge: StandEdge | null } | null> {
    const face = await bench.workers().surface.pickFace(aim.origin, aim.direction, state.visibleMm)
    if (!face) return null
    return { face, edge: face.crease && distanceTo(face.crease, aim) <= EDGE_PX ? face.crease : null }
  }

  const follow = latestOnly(async (aim: Aim) => {
    const at = await picked(aim)
    if (!active()) return
    scene.contour.set(!at ? null : at.edge ? Float32Array.from([...at.edge.from, ...at.edge.to]) : at.face.border)
    const lay = state.tool === 'lay'
    state.verdict = !at ? 'Point at a face or an edge of the part.' : at.edge ? (lay ? 'Stand on this edge' : 'Square this edge up to the plate') : `${lay ? 'Lay this face down' : 'Square this face up to the plate'}, ${at.face.areaMm2.toFixed(at.face.areaMm2 < 10 ? 2 : 0)} mm²`
  })

  function hide(): void {
    scene.contour.set(null)
    state.verdict = ''
  }

  async function click(event: PointerEvent): Promise<void> {
    const at = await picked(aimAt(event)), lay = state.tool === 'lay', stand = bench.stand.value
    if (!at) {
      bench.say('There is no part under the pointer. Click on one of its faces.')
      return
    }
    state.tool = 'select'
    if (stand !== bench.stand.value) return
    if (at.edge) await (lay ? bench.standOn(at.edge) : bench.squareEdge(at.edge))
    else await (lay ? bench.layDown(at.face.normal as Vec3) : bench.squareFace(at.face.normal as Vec3))
  }

  return { active, hover: (event: PointerEvent) => void follow(aimAt(event)), hide, click }
}
