<script setup lang="ts">
import { Box3, Vector3 } from 'three'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { placementOf, type Pose } from '@oak-stilts/core/pose'
import { verdictOf, type Stilt } from '@oak-stilts/core/stilts'
import { api } from '../api/client'
import { LineLayer } from '../stage/line-layer'
import { MarkerLayer } from '../stage/marker-layer'
import { ModelLayer } from '../stage/model-layer'
import { NoWebGl, plateLines, Stage, STANDARD_VIEWS } from '../stage/stage'
import { StiltLayer } from '../stage/stilt-layer'
import { TurnRings, type TurnName } from '../stage/turn-rings'
import { useBench } from '../stage/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import type { Ghost } from '../workers/place.worker'

const props = defineProps<{ view: 'pose' | 'hold' }>()
const bench = useBench(), state = useBenchStore(), store = useJobStore()
const host = ref<HTMLElement | null>(null)
const noWebGl = ref(false)
const cursor = ref('default')

let stage: Stage | null = null
let model: ModelLayer | null = null
let stilts: StiltLayer | null = null
let markers: MarkerLayer | null = null
let rings: TurnRings | null = null
let contour: LineLayer | null = null
let outline: LineLayer | null = null
let standard = 0

onMounted(() => {
  try {
    stage = new Stage(host.value as HTMLElement)
  } catch (error) {
    if (!(error instanceof NoWebGl)) throw error
    noWebGl.value = true
    return
  }
  stilts = new StiltLayer(stage)
  markers = new MarkerLayer(stage)
  rings = new TurnRings(stage)
  contour = new LineLayer(stage, '#8A5A1F', false)
  outline = new LineLayer(stage, '#1A36A8', true)
  watch(() => bench.outline.value, lines => outline?.set(lines), { immediate: true })
  watch([() => state.layerLine, () => props.view], () => contour?.set(null))
  if (store.job) stage.scene.add(plateLines(store.job.printer.widthMm, store.job.printer.depthMm))
  bench.flyTo.value = (at, from, distance) => stage?.lookAt([at[0], at[1], at[2]], [from[0], from[1], from[2]], distance)
  watch(() => bench.model.value, loaded => {
    model?.dispose()
    model = null
    if (!loaded || !stage || !bench.placement.value) return
    model = new ModelLayer(stage, loaded.mesh, loaded.normals)
    place()
    whole(false)
  }, { immediate: true })
  watch(() => bench.placement.value, place)
  watch([() => store.stilts, () => state.selectedStilts, () => props.view], () => stilts?.set(store.stilts, props.view === 'hold' ? state.selectedStilts : []), { immediate: true })
  watch([() => state.shown, () => state.selectedFinding, () => props.view, () => state.marks], () => {
    markers?.set(state.shown, state.selectedFinding)
    markers?.setVisible(props.view === 'hold' && state.marks)
  }, { immediate: true })
  watch([() => state.steepSkin, () => store.job?.settings.slopeDeg, () => bench.model.value], () => model?.setSteep(state.steepSkin ? (store.job?.settings.slopeDeg ?? 45) : null), { immediate: true })
  watch([() => state.playhead, () => state.cut, () => bench.placement.value, () => state.layerCount], section, { immediate: true })
  watch(() => bench.picture.value, p => {
    model?.setPicture(p, store.job?.printer.pixelMm ?? 0.05)
    section()
  })
  watch([() => props.view, () => store.job?.pose], () => showRings(), { immediate: true })
  watch(() => props.view, () => whole(true))
  watch(() => state.tool, tool => {
    if (!stage) return
    stage.controls.mouseButtons.LEFT = tool === 'place' ? null : 0
    cursor.value = tool === 'place' ? 'crosshair' : 'default'
    if (tool !== 'place') clearGhost()
  })
})

onBeforeUnmount(() => {
  bench.flyTo.value = null
  stage?.dispose()
})

function place(): void {
  if (!model || !bench.placement.value) return
  model.setPlacement(bench.placement.value)
  section()
  showRings()
}

function section(): void {
  const layer = store.job?.printer.layerMm ?? 0.05
  // at the last layer nothing is above
  const below = state.playhead < state.layerCount - 1
  model?.setSection(state.playhead, layer, below ? state.cut : 'none', below)
}

/** Rings as wide as the part's wider side, so that they stay in sight with it. */
function ringRadius(size: Vector3): number {
  return Math.max(size.x, size.y, size.z) * 0.5 + 3
}

function showRings(pose: Pose | undefined = store.job?.pose): void {
  if (!rings || !model || !pose) return
  const box = model.box(), size = box.getSize(new Vector3())
  rings.set(box.getCenter(new Vector3()), ringRadius(size), pose)
  rings.setVisible(props.view === 'pose')
}

/** Shows the whole part from a standard view. */
function whole(animate: boolean): void {
  if (!stage || !model) return
  const box = model.box().union(new Box3(new Vector3(-4, -4, 0), new Vector3(4, 4, 1)))
  if (props.view === 'pose') {
    const r = ringRadius(model.box().getSize(new Vector3()))
    const center = model.box().getCenter(new Vector3())
    box.union(new Box3(center.clone().subScalar(r * 0.8), center.clone().addScalar(r * 0.8)))
  }
  stage.frame(box, STANDARD_VIEWS[standard].from, standard === 0 ? 1.0 : 1.1, animate)
}

function nextView(): void {
  standard = (standard + 1) % STANDARD_VIEWS.length
  whole(true)
  bench.say(STANDARD_VIEWS[standard].name)
}

// --- the pointer ---------------------------------------------------------------------------------------------------------------

interface Drag {
  readonly kind: 'tip' | 'foot' | 'ring'
  readonly stilt?: Stilt
  readonly ring?: TurnName
  readonly startAngle?: number
  readonly startPose?: Pose
  latest?: Stilt
  pose?: Pose
}
let drag: Drag | null = null
let pressed: { x: number; y: number; button: number } | null = null
let asking = false
/** What Place aims at: a ray, or the mark of an open island, whose lowest point is meant then. */
interface Aim { readonly o: Vec3; readonly d: Vec3; readonly below?: Vec3 }
let nextRay: Aim | null = null
let ghost: Stilt | null = null

function rayAt(event: PointerEvent | MouseEvent): { o: Vec3; d: Vec3 } {
  const ray = (stage as Stage).rayAt(event.clientX, event.clientY)
  return { o: [ray.origin.x, ray.origin.y, ray.origin.z], d: [ray.direction.x, ray.direction.y, ray.direction.z] }
}

function down(event: PointerEvent): void {
  pressed = { x: event.clientX, y: event.clientY, button: event.button }
  if (event.button !== 0 || !stage) return
  const ray = stage.rayAt(event.clientX, event.clientY)
  const grip = props.view === 'hold' ? stilts?.gripAt(ray) : null
  const ring = props.view === 'pose' && store.job ? rings?.pick(event.clientX, event.clientY) : null
  if (grip) {
    const stilt = store.stilts.find(s => s.id === state.selectedStilts[0])
    if (stilt) drag = { kind: grip, stilt }
  } else if (ring && store.job) {
    const angle = rings?.angleAt(ring, ray)
    if (angle !== null && angle !== undefined) drag = { kind: 'ring', ring, startAngle: angle, startPose: store.job.pose }
  }
  if (drag) {
    stage.controls.enabled = false
    host.value?.setPointerCapture(event.pointerId)
    event.preventDefault()
  }
}

async function move(event: PointerEvent): Promise<void> {
  if (!stage) return
  if (drag?.kind === 'ring') {
    dragRing(event)
    return
  }
  if (drag) {
    await dragStilt(event)
    return
  }
  if (event.buttons !== 0) return
  void traceLayer(event)
  if (props.view === 'pose') {
    const over = rings?.pick(event.clientX, event.clientY) ?? null
    rings?.highlight(over)
    cursor.value = over ? 'grab' : 'default'
    return
  }
  if (state.tool === 'place') {
    nextRay = aimAt(event)
    if (!asking) await askGhost()
    return
  }
  const ray = stage.rayAt(event.clientX, event.clientY)
  cursor.value = stilts?.gripAt(ray) ? 'grab' : markers?.pick(event.clientX, event.clientY) || stilts?.pick(ray) ? 'pointer' : 'default'
}

/** Draws the outline of the layer under the pointer around the model: where these lines widen or come together is what a scan may miss. */
async function traceLayer(event: PointerEvent): Promise<void> {
  // in Place the ghost has the worker to itself
  if (!state.layerLine || !stage || tracing || state.tool === 'place') return
  tracing = true
  try {
    const ray = rayAt(event)
    const at = await bench.workers().place.pick(ray.o, ray.d)
    const layer = at ? Math.floor(at.point[2] / (store.job?.printer.layerMm ?? 0.05)) : -1
    if (layer === traced) return
    const lines = layer < 0 ? null : await bench.contourAt(layer)
    if (layer >= 0 && !lines) return
    traced = layer
    contour?.set(lines)
    state.traced = layer
  } finally {
    tracing = false
  }
}
let tracing = false, traced = -1

function aimAt(event: PointerEvent): Aim {
  const mark = markers?.pick(event.clientX, event.clientY)
  return { ...rayAt(event), ...(mark?.island && (mark.state === 'open' || mark.state === 'waived') && { // a little inside, so that the ray down meets the surface that the mark lies on
    below: [mark.at[0], mark.at[1], mark.at[2] + 0.1] as Vec3 }) }
}

async function ghostFor(aim: Aim): Promise<Ghost | null> {
  const w = bench.workers().place
  const below = aim.below ? await w.ghostBelow(aim.below, state.gauge, store.nextStiltId) : null
  return below ?? w.ghost(aim.o, aim.d, state.gauge, store.nextStiltId)
}

async function askGhost(): Promise<void> {
  asking = true
  while (nextRay && state.tool === 'place') {
    const ray = nextRay
    nextRay = null
    const answer = await ghostFor(ray)
    if (state.tool !== 'place') break
    ghost = answer?.ok ? answer.stilt : null
    stilts?.setGhost(ghost)
    state.verdict = !answer ? 'Point at the underside of the model.' : answer.ok ? `${answer.stilt.foot === 'model' ? 'Stick to the model: ' : ''}${verdictOf(answer.stilt.path, answer.gapMm)}${answer.tight ? ', tight' : ''}` : answer.reason
  }
  asking = false
}

function clearGhost(): void {
  ghost = null
  nextRay = null
  stilts?.setGhost(null)
  state.verdict = ''
}

function dragRing(event: PointerEvent): void {
  if (!drag?.ring || !drag.startPose || !rings || !bench.model.value || !store.job || !stage) return
  rings.set(...ringFrame(drag.startPose))
  const angle = rings.angleAt(drag.ring, stage.rayAt(event.clientX, event.clientY))
  if (angle === null || drag.startAngle === undefined) return
  let by = angle - drag.startAngle
  by = ((((by + 180) % 360) + 360) % 360) - 180
  // whole degrees, with Shift tenths
  const grid = event.shiftKey ? 0.1 : 1
  const value = Math.round((drag.startPose[drag.ring] + by) / grid) * grid
  drag.pose = { ...drag.startPose, [drag.ring]: value }
  model?.setPlacement(placementOf(bench.model.value.mesh.positions, drag.pose, store.job.printer.pixelMm))
  stilts?.setVisible(false)
  state.verdict = `${drag.ring === 'turnDeg' ? 'Turn about z' : drag.ring === 'tiltXDeg' ? 'Tilt about x' : 'Tilt about y'} ${value.toFixed(grid < 1 ? 1 : 0)}°`
}

function ringFrame(pose: Pose): [Vector3, number, Pose] {
  const box = (model as ModelLayer).box(), size = box.getSize(new Vector3())
  return [box.getCenter(new Vector3()), ringRadius(size), pose]
}

let dragging = false
async function dragStilt(event: PointerEvent): Promise<void> {
  if (!drag?.stilt || dragging || !stage) return
  dragging = true
  const own = drag
  const ray = rayAt(event)
  const w = bench.workers().place
  const stilt = own.stilt as Stilt
  let edited
  if (own.kind === 'tip') edited = await w.moveTip(stilt, ray.o, ray.d)
  else {
    const t = -ray.o[2] / ray.d[2]
    edited = t > 0 ? await w.moveFoot(stilt, ray.o[0] + ray.d[0] * t, ray.o[1] + ray.d[1] * t) : null
  }
  if (drag === own && edited) {
    if (edited.ok) {
      own.latest = edited.stilt
      stilts?.setGhost(edited.stilt)
      state.verdict = verdictOf(edited.stilt.path, edited.gapMm)
    } else state.verdict = edited.reason
  }
  dragging = false
}

function up(event: PointerEvent): void {
  if (!stage) return
  const click = pressed && Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) < 4 && pressed.button === event.button
  pressed = null
  if (drag) {
    const ended = drag
    drag = null
    stage.controls.enabled = true
    stilts?.setGhost(null)
    stilts?.setVisible(true)
    state.verdict = ''
    if (ended.kind === 'ring') {
      if (ended.pose) void bench.setPose(ended.pose, ended.ring === 'turnDeg' ? 'turn' : 'tilt')
      else place()
    } else if (ended.latest) bench.putStilts(ended.kind === 'tip' ? 'move tip' : 'move foot', [ended.latest])
    return
  }
  if (click && event.button === 0) void act(event)
}

async function act(event: PointerEvent): Promise<void> {
  if (!stage || props.view !== 'hold') return
  if (state.tool === 'place') {
    const answer = await ghostFor(aimAt(event))
    if (!answer) bench.say('There is no model under the pointer. Click on the model, from below if need be.')
    else if (!answer.ok) {
      state.verdict = ''
      bench.say(answer.reason)
    } else {
      // numbered only now: another click may have been answered meanwhile
      const stilt = { ...answer.stilt, id: store.nextStiltId }
      bench.putStilts('place stilt', [stilt])
      state.selectedStilts = [stilt.id]
      state.selectedFinding = null
      state.verdict = ''
      bench.say(`Stilt ${stilt.id} placed: ${verdictOf(answer.stilt.path, answer.gapMm)}.`)
    }
    return
  }
  const finding = markers?.pick(event.clientX, event.clientY)
  const hit = stilts?.pick(stage.rayAt(event.clientX, event.clientY))
  if (finding && !(hit && event.shiftKey)) {
    await bench.goTo(finding)
    return
  }
  if (hit) {
    const ray = rayAt(event)
    const skin = await bench.workers().place.pick(ray.o, ray.d)
    // a stilt behind the model is not what was clicked
    if (!skin || skin.distanceMm > hit.distance - 1.5) {
      const id = hit.stilt.id
      state.selectedStilts = event.shiftKey ? (state.selectedStilts.includes(id) ? state.selectedStilts.filter(s => s !== id) : [...state.selectedStilts, id]) : [id]
      state.selectedFinding = null
      return
    }
  }
  if (!event.shiftKey) {
    state.selectedStilts = []
    state.selectedFinding = null
  }
}

function wheel(event: WheelEvent): void {
  if (!event.shiftKey) return
  event.preventDefault()
  event.stopPropagation()
  state.setPlayhead(state.playhead + (event.deltaY + event.deltaX > 0 ? -1 : 1))
}

/** One step back of the pointer: ends a drag. */
function escape(): boolean {
  if (!drag || !stage) return false
  drag = null
  stage.controls.enabled = true
  stilts?.setGhost(null)
  stilts?.setVisible(true)
  state.verdict = ''
  place()
  return true
}

/** Stores a picture of the part for the list of jobs. */
async function storePicture(): Promise<void> {
  if (!stage || !model || !store.job) return
  const id = store.job.id
  markers?.setVisible(false)
  rings?.setVisible(false)
  const target = stage.controls.target.clone(), eye = stage.camera.position.clone(), constant = stage.section.constant, floor = stage.floor.constant
  stage.section.constant = stage.floor.constant = 1e6
  contour?.set(null)
  outline?.set(null)
  stage.frame(model.box(), STANDARD_VIEWS[0].from, 1)
  // the picture is taken at once and the view put back before the next frame, so that nothing flickers
  const taken = stage.snapshot(480, 320)
  stage.section.constant = constant
  stage.floor.constant = floor
  outline?.set(bench.outline.value)
  stage.moveTo(target, eye, false)
  markers?.setVisible(props.view === 'hold' && state.marks)
  showRings()
  const png = await taken
  if (png) await api.picture(id, png).catch(() => undefined)
}

/** Where a build point is on the page; tests aim with it. */
function pageOf(point: [number, number, number]): { x: number; y: number } | null {
  return stage?.toPage(point) ?? null
}

/** The directions to the right and up on the screen, in build coordinates. */
function screenAxes(): { right: Vec3; up: Vec3 } | null {
  if (!stage) return null
  const right = new Vector3(), up = new Vector3(), toEye = new Vector3()
  stage.camera.matrixWorld.extractBasis(right, up, toEye)
  return { right: [right.x, right.y, right.z], up: [up.x, up.y, up.z] }
}

function showView(index: number): void {
  standard = index
  whole(true)
  bench.say(STANDARD_VIEWS[index].name)
}

defineExpose({ screenAxes, showView, nextView, escape, storePicture, whole: () => whole(true) })
// end-to-end tests aim at places on the model as a person sees them, once the view stands still
;(window as unknown as { oakStage?: object }).oakStage = { pageOf, still: () => stage?.still ?? false }
</script>

<template>
  <div class="stage">
    <div
      ref="host" class="host" :style="{ cursor }" tabindex="0" role="application" aria-label="Stage, 3D view" @pointerdown.capture="down" @pointermove="move" @pointerup="up" @pointerleave="state.tool === 'place' && clearGhost()"
      @contextmenu.prevent @wheel.capture="wheel"
    />
    <p v-if="noWebGl" class="no-webgl">This browser offers no WebGL 2, so the 3D view is not shown. The worklist, the layer picture and all numbers still work.</p>
    <slot />
  </div>
</template>

<style scoped>
.stage { position: relative; min-width: 0; min-height: 0; overflow: hidden; }
.host { position: absolute; inset: 0; touch-action: none; }
.host:focus-visible { outline: 1px solid var(--accent); outline-offset: -1px; }
.no-webgl { position: absolute; inset: 40% 20% auto; text-align: center; background: var(--panel); border: 1px solid var(--divider); padding: 12px; border-radius: 6px; }
</style>
