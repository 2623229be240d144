import { MOUSE } from 'three'
import { ref } from 'vue'
import { add, dot, scale, sub, type Vec3 } from '@oak-stilts/core/mesh'
import { caught, standOf, plateOf, type Pose } from '@oak-stilts/core/pose'
import { isTied, verdictOf, type PlanRows, type Stilt, type StiltShape } from '@oak-stilts/core/stilts'
import type { Bench } from '../bench/use-bench'
import type { Finding } from '../findings'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import { createMarkTool } from './mark-tool'
import { createAreaTool } from './area-tool'
import { createBedTool } from './bed-tool'
import { createBraceTool } from './brace-tool'
import { createBranchTool } from './branch-tool'
import { createCutTool } from './cut-tool'
import { createDrillTool } from './drill-tool'
import { createLayerTrace } from './layer-trace'
import { latestOnly } from './latest-only'
import { outerPoints } from './outer-points'
import { createPlaceTool } from './place-tool'
import { rayAt } from './pointer-ray'
import { createPoseTools } from './pose-tools'
import { createSpreadTool } from './spread-tool'
import { createStickTool } from './stick-tool'
import type { PlanEdit } from '../workers/plan-replica'
import type { MovedTip } from '../workers/tie-work'
import { createWallGauge } from './wall-gauge'
import type { StageScene } from './stage-scene'
import type { TurnName } from './turn-rings'
import type { BenchView } from '../router'

interface RingDrag {
  readonly kind: 'ring'
  readonly ring: TurnName
  readonly startAngle: number
  readonly startPose: Pose
  pose?: Pose
}
interface MoveDrag {
  readonly kind: 'move'
  readonly start: { readonly xMm: number; readonly yMm: number }
  to?: { readonly xMm: number; readonly yMm: number }
}
/** What a tool draws from press to release. */
interface PaintDrag {
  readonly kind: 'paint'
  readonly by: { draw(event: PointerEvent): void; end(event: PointerEvent): Promise<void>; giveUp(): unknown }
}
interface GripDrag {
  readonly kind: 'grip'
  readonly stilt: Stilt
  /** Which node of its way. */
  readonly node: number
  latest?: { readonly shape: StiltShape } | { readonly rows: PlanRows } | { readonly edit: PlanEdit }
  /** Ends when the newest move has been answered. */
  settled: Promise<void>
}

/** A press that moves less than this many pixels is a click. */
const CLICK_PX = 4
/** So far below the skin one looks at it from, mm. */
const BELOW_SKIN_MM = 0.05
/** A stilt this far behind the skin is not what was clicked, mm. */
const BEHIND_MM = 1.5

/**
 * What the pointer does on the stage: picks, drags grips and rings, places.
 * @param view the view that is shown
 * @param restore puts the model back to where the job says it stands
 */
export function createPointer(scene: StageScene, bench: Bench, view: () => BenchView, restore: () => void) {
  const { stage, stilts, markers, rings, mover } = scene
  const state = useBenchStore(), store = useJobStore()
  const trace = createLayerTrace(scene, bench, state, store)
  const placing = createPlaceTool(scene, bench, state, trace.at)
  const drilling = createDrillTool(scene, bench, state, store), cutting = createCutTool(scene, bench, state, store), walls = createWallGauge(scene, bench, state, store), poseTools = createPoseTools(scene, bench, state), marking = createMarkTool(scene, bench, state), spreading = createSpreadTool(scene, bench, state), sticks = createStickTool(scene, bench, state), branching = createBranchTool(scene, bench, state), bracing = createBraceTool(scene, bench, state), areas = createAreaTool(scene, bench, state), bedding = createBedTool(scene, bench, state)
  const cursor = ref('default')
  /** What a drag says beside the pointer. */
  const badge = ref<{ readonly x: number; readonly y: number; readonly text: string } | null>(null)
  let drag: RingDrag | MoveDrag | PaintDrag | GripDrag | null = null
  let pressed: { x: number; y: number; button: number } | null = null
  // while placing, what is under a pointer that rests changes with the view
  let resting: PointerEvent | null = null, turned = false
  stage.controls.addEventListener('change', () => (turned = true))
  stage.onFrame(() => {
    if (turned && resting && state.tool === 'place' && view() === 'hold') placing.hover(resting)
    turned = false
  })

  function down(event: PointerEvent): void {
    pressed = { x: event.clientX, y: event.clientY, button: event.button }
    if (event.button !== 0) return
    drag = grabbed(event)
    if (!drag) return
    stage.controls.enabled = false
    stage.host.setPointerCapture(event.pointerId)
    event.preventDefault()
  }

  function grabbed(event: PointerEvent): RingDrag | MoveDrag | PaintDrag | GripDrag | null {
    const ray = stage.rayAt(event.clientX, event.clientY)
    if (view() === 'hold' && spreading.active()) return spreading.begin(event) ? { kind: 'paint', by: spreading } : null
    if (view() === 'hold' && areas.active()) return areas.begin(event) ? { kind: 'paint', by: areas } : null
    if (view() === 'hold' && bedding.active()) return bedding.begin(event) ? { kind: 'paint', by: bedding } : null
    if (view() === 'hold' && branching.active()) return branching.begin(event) ? { kind: 'paint', by: branching } : null
    if (view() === 'hold' && (sticks.active() || bracing.active())) return null
    if (view() === 'hold' && !marking.active()) {
      const node = stilts.gripAt(ray), stilt = node === null ? undefined : store.stilts.find(s => s.id === state.selectedStilts[0])
      return stilt && node !== null ? { kind: 'grip', stilt, node, settled: Promise.resolve() } : null
    }
    if (view() === 'pose' && poseTools.active()) return null
    if (marking.active()) return marking.begin(event) ? { kind: 'paint', by: marking } : null
    if (view() === 'part' && cutting.setting()) return cutting.begin(event) ? { kind: 'paint', by: cutting } : null
    if (view() === 'part' && state.step === 'holes') return drilling.begin(event) ? { kind: 'paint', by: drilling } : null
    if (view() !== 'pose' && view() !== 'print') return null
    const start = mover.pick(event.clientX, event.clientY) ? mover.onPlate(stage.plateRayAt(event.clientX, event.clientY)) : null
    if (start) return { kind: 'move', start }
    const ring = store.job && view() === 'pose' ? rings.pick(event.clientX, event.clientY) : null
    const angle = ring ? rings.angleAt(ring, stage.plateRayAt(event.clientX, event.clientY)) : null
    return ring && store.part && angle !== null ? { kind: 'ring', ring, startAngle: angle, startPose: { ...store.part.pose, turnDeg: store.copy?.turnDeg ?? 0 } } : null
  }

  function move(event: PointerEvent): void {
    if (drag?.kind === 'ring') dragRing(drag, event)
    else if (drag?.kind === 'move') dragCopy(drag, event)
    else if (drag?.kind === 'paint') drag.by.draw(event)
    else if (drag) drag.settled = dragGrip({ drag, event })
    else if (event.buttons === 0) hover(event)
  }

  function hover(event: PointerEvent): void {
    if (view() === 'hold' && state.tool === 'place') {
      // the ghost brings the outline of its layer along
      resting = event
      placing.hover(event)
      return
    }
    if (marking.active()) {
      marking.hover(event)
      return
    }
    const drawing = view() === 'hold' ? [spreading, sticks, branching, bracing, areas, bedding].find(t => t.active()) : undefined
    if (drawing) {
      drawing.hover(event)
      return
    }
    if (view() === 'part' && drilling.active()) {
      drilling.hover(event)
      return
    }
    if (view() === 'part' && cutting.setting()) {
      if (!cutting.active()) cursor.value = cutting.hover(event)
      return
    }
    if (view() === 'part' && walls.active()) {
      walls.hover(event)
      return
    }
    if (view() === 'part' && state.step === 'holes') cursor.value = drilling.holeUnder(event) === null ? 'default' : 'grab'
    if (view() === 'pose' && poseTools.active()) {
      poseTools.hover(event)
      return
    }
    if (state.layerLine) trace.hover(event)
    if (view() === 'pose' || view() === 'print') {
      const onMover = mover.pick(event.clientX, event.clientY), over = onMover || view() === 'print' ? null : rings.pick(event.clientX, event.clientY)
      mover.highlight(onMover)
      rings.highlight(over)
      cursor.value = onMover ? 'move' : over ? 'grab' : 'default'
      return
    }
    const ray = stage.rayAt(event.clientX, event.clientY)
    cursor.value = stilts.gripAt(ray) !== null ? 'grab' : markers.pick(event.clientX, event.clientY) || stilts.pick(ray) ? 'pointer' : 'default'
  }

  function dragRing(own: RingDrag, event: PointerEvent): void {
    const loaded = bench.model.value
    if (!loaded || !store.raster) return
    rings.set(...scene.ringFrame(), own.startPose)
    const angle = rings.angleAt(own.ring, stage.plateRayAt(event.clientX, event.clientY))
    if (angle === null) return
    const by = ((((angle - own.startAngle + 180) % 360) + 360) % 360) - 180
    const value = caught(own.startPose[own.ring] + by, event.shiftKey ? 'tenth' : event.ctrlKey || event.metaKey ? 'five' : 'whole')
    own.pose = { ...own.startPose, [own.ring]: value }
    // a preview: points that cannot be the lowest are left out
    if (own.ring === 'turnDeg') stage.setStand(plateOf({ ...state.shift, turnDeg: value }))
    else {
      scene.setStand(standOf(outerPoints(loaded.mesh.positions), own.pose, store.raster.pixelMm))
      stilts.setVisible(false)
    }
    const text = `${value.toFixed(event.shiftKey ? 1 : 0)}°`
    badge.value = { x: event.clientX, y: event.clientY, text }
    state.verdict = `${own.ring === 'turnDeg' ? 'Turn about z' : own.ring === 'tiltXDeg' ? 'Tilt about x' : 'Tilt about y'} ${text}; Shift for tenths, Ctrl for steps of 5°`
  }

  /** Moves the copy with the pointer, by whole pixels. */
  function dragCopy(own: MoveDrag, event: PointerEvent): void {
    const at = mover.onPlate(stage.plateRayAt(event.clientX, event.clientY)), pixelMm = store.raster?.pixelMm
    if (!at || !pixelMm) return
    const whole = (mm: number): number => Math.round(mm / pixelMm) * pixelMm
    own.to = { xMm: whole(state.shift.xMm + at.xMm - own.start.xMm), yMm: whole(state.shift.yMm + at.yMm - own.start.yMm) }
    stage.setStand(plateOf({ ...state.shift, ...own.to }))
    mover.set(own.to.xMm, own.to.yMm)
    state.verdict = `x ${own.to.xMm.toFixed(2)} mm, y ${own.to.yMm.toFixed(2)} mm`
  }

  // the newest place of the pointer is always answered, so that a grip ends where it was let go
  const dragGrip = latestOnly(async ({ drag: own, event }: { drag: GripDrag; event: PointerEvent }) => {
    const { origin: o, direction: d } = rayAt(stage, event), { stilt, node } = own, w = bench.workers().surface, last = stilt.path.length - 1
    /** Where the pointer is, on a plane through a point. */
    const onPlane = (p: Vec3, n: Vec3): Vec3 | null => {
      const t = dot(sub(p, o), n) / dot(d, n)
      return t > 0 ? add(o, scale(d, t)) : null
    }
    const foot = node === last ? onPlane(stilt.path[last], [0, 0, 1]) : null
    if (node === 0 || (node === last && !isTied(stilt))) {
      const edited: MovedTip | null = node === 0 ? await w.moveTip(stilt, o, d, state.visibleMm) : foot && (await w.moveFoot(stilt, foot[0], foot[1]))
      if (!edited) return
      if (edited.ok) own.latest = edited.edit ? { edit: edited.edit } : { shape: edited.shape }
      if (drag !== own) return
      if (edited.ok) stilts.setGhost(edited.shape, stilt.alone < stilt.nodes.length ? edited.shape.shared?.from : undefined)
      state.verdict = edited.ok ? verdictOf(edited.shape.path, edited.gapMm) : edited.reason
      return
    }
    const to = node === last ? foot : onPlane(stilt.path[node], d), moved = to && (await w.moveNode(stilt.id, node, to, event.ctrlKey || event.metaKey))
    if (!moved) return
    if (moved.ok) own.latest = { rows: moved.rows }
    if (drag !== own) return
    if (moved.ok) stilts.setGhost(moved.shape, stilt.alone < stilt.nodes.length ? stilt.alone : undefined)
    state.verdict = moved.ok ? `${node === 1 ? `Cone ${moved.shape.sizes.coneLengthMm.toFixed(2)} mm, ` : ''}lean ${moved.leanDeg.toFixed(0)}°, gap ${moved.gapMm >= 5 ? 'over 5' : Math.max(0, moved.gapMm).toFixed(2)} mm` : `${moved.reason}${event.ctrlKey || event.metaKey ? '' : ' Ctrl held goes beyond the limits.'}`
  })

  async function up(event: PointerEvent): Promise<void> {
    const click = pressed && Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) < CLICK_PX && pressed.button === event.button
    pressed = null
    const ended = drag
    if (!ended) {
      if (click && event.button === 0) await (marking.active() ? marking.click(event) : poseTools.active() ? poseTools.click(event) : drilling.active() ? drilling.click(event) : cutting.active() ? cutting.click(event) : view() !== 'hold' ? pickPart(event) : spreading.active() ? spreading.click(event) : sticks.active() ? sticks.click(event) : bracing.active() ? bracing.click(event) : state.tool === 'place' ? placing.click(event) : pick(event))
      return
    }
    drag = null
    stage.controls.enabled = true
    if (ended.kind === 'paint') {
      await ended.by.end(event)
      return
    }
    // a grip that was pressed and not moved only lay in the way of a click that places
    if (click && ended.kind === 'grip' && state.tool === 'place') {
      clearDrag()
      await placing.click(event)
      return
    }
    if (ended.kind === 'grip') {
      await ended.settled
      const { latest, stilt, node } = ended, label = `move ${node === 0 ? 'tip' : node === stilt.path.length - 1 ? 'foot' : node === 1 ? 'knee' : 'joint'}`
      if (latest && !click && store.stilts.includes(stilt)) {
        if ('shape' in latest) bench.putStilts(label, [{ stilt, shape: latest.shape }])
        else bench.applyRows(label, 'edit' in latest ? latest.edit : { put: latest.rows, drop: { nodes: [], beams: [] } })
      }
    }
    clearDrag()
    if (ended.kind === 'move') {
      if (ended.to && store.copy) bench.moveCopy(store.copy, ended.to.xMm, ended.to.yMm)
      else restore()
      return
    }
    if (ended.kind !== 'ring') return
    if (ended.pose) await bench.setPose({ [ended.ring]: ended.pose[ended.ring] }, ended.ring === 'turnDeg' ? 'turn' : 'tilt')
    else restore()
  }

  function clearDrag(): void {
    stilts.setGhost(null)
    stilts.setVisible(true)
    state.verdict = ''
    badge.value = null
  }

  async function pick(event: PointerEvent): Promise<void> {
    const finding = markers.pick(event.clientX, event.clientY)
    const hit = stilts.pick(stage.rayAt(event.clientX, event.clientY))
    if (finding && !(hit && event.shiftKey)) {
      await bench.goTo(finding)
      return
    }
    if (hit) {
      const ray = rayAt(stage, event)
      const skin = await bench.workers().surface.pick(ray.origin, ray.direction, state.visibleMm)
      if (!skin || skin.distanceMm > hit.distance - BEHIND_MM) {
        const id = hit.stilt.id, chosen = state.selectedStilts
        state.selectedStilts = !event.shiftKey ? [id] : chosen.includes(id) ? chosen.filter(s => s !== id) : [...chosen, id]
        state.selectedFinding = null
        return
      }
    }
    if (event.shiftKey) return
    if (await pickPart(event)) return
    state.selectedStilts = []
    state.selectedFinding = null
  }

  /** Takes the part beside the one on the bench that was clicked on; gives whether there was one. */
  async function pickPart(event: PointerEvent): Promise<boolean> {
    if (bench.others.value.length === 0) return false
    const { origin: o, direction: d } = stage.plateRayAt(event.clientX, event.clientY), ray = rayAt(stage, event)
    const hit = await bench.copyAt([o.x, o.y, o.z], [d.x, d.y, d.z])
    const own = hit && (await bench.workers().surface.pick(ray.origin, ray.direction, state.visibleMm))
    // what is clicked on is what is seen: the part on the bench may stand before it
    if (!hit || (own && own.distanceMm <= hit.distanceMm)) return false
    store.chosenCopy = hit.copy
    return true
  }

  /** Puts a joint into the shaft under the pointer, or takes one away on which nothing hangs. */
  async function doubleClick(event: MouseEvent): Promise<void> {
    if (view() !== 'hold' || state.tool !== 'select') return
    const ray = stage.rayAt(event.clientX, event.clientY), node = stilts.gripAt(ray), selected = store.stilts.find(s => s.id === state.selectedStilts[0])
    const hit = stilts.pick(ray)
    if (node !== null && selected) await bench.toggleJoint({ tip: selected.id, at: selected.path[node] })
    else if (hit && hit.part !== 'tip') await bench.toggleJoint({ tip: hit.stilt.id, at: hit.at })
  }

  function wheel(event: WheelEvent): void {
    if (!event.shiftKey) return
    event.preventDefault()
    event.stopPropagation()
    // the dial of what is drawn; else the layer
    if (view() === 'hold' && spreading.active()) {
      bench.dialSpacing(event.deltaY + event.deltaX > 0 ? -1 : 1)
      return
    }
    if (view() === 'hold' && bedding.active()) {
      bench.turnBed(event.deltaY + event.deltaX > 0 ? -5 : 5)
      return
    }
    state.setPlayhead(state.playhead + (event.deltaY + event.deltaX > 0 ? -1 : 1))
  }

  function leave(): void {
    resting = null
    if (state.tool === 'place') placing.hide()
    else if (poseTools.active()) poseTools.hide()
    else if (drilling.active()) drilling.hide()
    else if (view() === 'part' && walls.active()) walls.hide()
    else if (marking.active() && !drag) marking.hide()
    else if (spreading.active() && !drag) spreading.hide()
  }

  /** Takes up the tool that was chosen. */
  function useTool(): void {
    const place = state.tool === 'place' || spreading.active() || sticks.active() || branching.active() || bracing.active() || areas.active() || bedding.active(), posing = poseTools.active() || marking.active() || drilling.active() || cutting.active()
    stage.controls.mouseButtons.LEFT = place ? null : MOUSE.ROTATE
    cursor.value = place || posing ? 'crosshair' : 'default'
    if (state.tool !== 'place') placing.hide()
    spreading.giveUp()
    sticks.giveUp()
    bracing.giveUp()
    areas.giveUp()
    if (!branching.active()) branching.giveUp()
    if (!spreading.active()) {
      spreading.hide()
      state.spread.anew = null
    }
    if (!posing) poseTools.hide()
    if (!drilling.active()) drilling.hide()
    if (!cutting.active()) cutting.hide()
    // what is drawn is what is marked
    if (!marking.active()) marking.hide()
  }

  /** One step back: gives up a drag. Gives whether there was one. */
  function escape(): boolean {
    if (!drag) return spreading.giveUp() || sticks.giveUp() || bracing.giveUp() || branching.giveUp()
    if (drag.kind === 'paint') drag.by.giveUp()
    drag = null
    stage.controls.enabled = true
    clearDrag()
    restore()
    return true
  }

  /** Clicks with the tool that is in hand where a finding hangs, for whoever points without a pointer. A stick that was begun ends straight below. Gives whether the tool takes that. */
  async function clickAtFinding(finding: Finding): Promise<boolean> {
    const tool = spreading.active() ? spreading : sticks.active() ? sticks : branching.active() ? branching : null
    if (!tool) return false
    const what = finding.kind === 'island' ? { island: finding.island } : finding.kind === 'ledge' ? { ledge: finding.ledge } : null, w = bench.workers()
    const [inside] = what ? await w.scan.spots(what, 1) : [finding.at], skin = await w.surface.wayPointAt(inside ?? finding.at, [0, 0, -1], state.visibleMm)
    if (!skin) {
      bench.say('No skin of the part lies there. Point at it instead.')
      return true
    }
    const origin: Vec3 = [skin.at[0], skin.at[1], skin.at[2] - BELOW_SKIN_MM]
    if (state.tool === 'strokes') await spreading.strokeTo(finding.key, { origin, direction: [0, 0, 1] })
    else await tool.clickAt({ origin, direction: tool === sticks && sticks.hasBegun() ? [0, 0, -1] : [0, 0, 1] })
    return true
  }

  /** Draws on with the stroke that was begun by keys, to the right and up on the screen. */
  function strokeBy(rightMm: number, upMm: number): void {
    const { right, up } = screenAxes()
    void spreading.strokeBy([0, 1, 2].map(i => right[i] * rightMm + up[i] * upMm) as unknown as Vec3)
  }

  /** The directions to the right and up on the screen, in the stand of the part. */
  function screenAxes(): { right: Vec3; up: Vec3 } {
    const m = stage.camera.matrixWorld.elements
    return { right: stage.inStand([m[0], m[1], m[2]]), up: stage.inStand([m[4], m[5], m[6]]) }
  }

  /** Where the eye is, in the stand of the part. */
  const eye = (): Vec3 => {
    const { x, y, z } = stage.camera.position.clone().applyMatrix4(stage.stand.matrix.clone().invert())
    return [x, y, z]
  }

  return { eye, showCut: cutting.show, showHoles: drilling.show, clickAtFinding, strokeBy, force: placing.force, cursor, badge, down, move, up, doubleClick, wheel, leave, useTool, escape, screenAxes, hideTrace: trace.hide }
}

export type Pointer = ReturnType<typeof createPointer>
