<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import { useBench } from '../bench/use-bench'
import { plateOf, shapeOf, shiftOf, type Stand } from '@oak-stilts/core/pose'
import { STILT_VERDICTS, type PlanBeam, type PlanNode, type Raft } from '@oak-stilts/core/contract'
import { feetOf, raftSolid } from '@oak-stilts/core/raft'
import { api } from '../api/client'
import type { Finding, FindingKind } from '../findings'
import { createPointer, type Pointer } from '../stage/pointer'
import { NoWebGl, STANDARD_VIEWS } from '../stage/stage'
import { StageScene } from '../stage/stage-scene'
import type { DrawnBrace } from '../stage/stilt-layer'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import type { BenchView } from '../router'
import type { TriedPlan } from '../workers/scan.worker'

const props = defineProps<{ view: BenchView }>()
const bench = useBench(), state = useBenchStore(), store = useJobStore()
const host = ref<HTMLElement | null>(null)
const noWebGl = ref(false)
const pointer = shallowRef<Pointer | null>(null)
const cursor = computed(() => pointer.value?.cursor.value ?? 'default')
let scene: StageScene | null = null
let standard = 0
/** The part, and its size, that the view was framed for. */
let framed = ''

onMounted(() => {
  try {
    scene = new StageScene(host.value as HTMLElement)
  } catch (error) {
    if (!(error instanceof NoWebGl)) throw error
    noWebGl.value = true
    return
  }
  pointer.value = createPointer(scene, bench, () => props.view, () => {
    place()
    restand()
  })
  show(scene, pointer.value)
})

onBeforeUnmount(() => {
  bench.flyTo.value = null
  scene?.dispose()
})

/** Keeps what is drawn as the job and the bench say. */
function show(own: StageScene, hand: Pointer): void {
  bench.flyTo.value = (at, from, distance) => own.stage.lookAt([at[0], at[1], at[2]], [from[0], from[1], from[2]], distance)
  watch(() => store.job?.printer, printer => printer && own.showPlate(printer.widthMm, printer.depthMm), { immediate: true })
  watch(() => bench.model.value, loaded => {
    own.setModel(loaded)
    place()
    // a step that leaves the part its size leaves the view as well
    const key = loaded && store.part ? `${store.part.id} ${shapeOf(store.part.recipe).join()}` : framed
    if (key !== framed) own.frame(standard, props.view !== 'hold', false)
    framed = key
  }, { immediate: true })
  watch(() => bench.stand.value, place)
  watch([() => bench.tilts.ghost.value, () => bench.model.value, () => props.view], () => {
    const ghost = props.view === 'pose' ? bench.tilts.ghost.value : null
    own.model?.setGhost(ghost)
    // what stands now steps back meanwhile
    own.model?.setLook((ghost || state.seeThrough) && state.looks.part === 'shown' ? 'faint' : state.looks.part)
    own.model?.marks.setVisible(!ghost)
  })
  watch([() => state.shift, () => props.view], restand, { immediate: true })
  watch([() => bench.others.value, () => store.raster], () => own.beside.set(bench.others.value.map(o => ({ ...o, shift: shiftOf(o.copy, store.raster?.pixelMm ?? 0) }))), { immediate: true })
  watch([() => store.stilts, () => state.selectedStilts, () => props.view, () => bench.growing.value], showStilts, { immediate: true })
  // elsewhere nobody asks whether the proof is stale, which costs what the plan weighs
  watch(() => (props.view === 'proof' ? bench.shares.value : null), shares => own.stilts.setFill(shares), { immediate: true })
  watch([() => bench.raftMesh.value, () => state.looks.feet], () => own.raft.set(bench.raftMesh.value, state.looks.feet), { immediate: true })
  watch([() => state.shown, () => state.selectedFinding, () => state.filter, () => state.firstLook, () => state.visibleMm], () => {
    const [low, high] = state.visibleMm
    if (state.firstLook) own.markers.setGuess(state.firstLook.at)
    else own.markers.set(state.shown.filter(f => f.key === state.selectedFinding || (onStage(f) && f.at[2] >= low && f.at[2] <= high)), state.selectedFinding)
  }, { immediate: true })
  watch([() => props.view, () => state.findingsShown], showFindings, { immediate: true })
  watch([() => state.steepSkin, () => store.job?.settings.slopeDeg, () => bench.model.value], () => own.model?.setSteep(state.steepSkin ? (store.job?.settings.slopeDeg ?? 45) : null), { immediate: true })
  watch([() => state.looks, () => state.seeThrough, () => bench.model.value, () => props.view, () => state.step, () => bench.hollowing.looked.value], () => {
    // through the skin one sees the inside that is, or would be, taken out
    const inside = props.view === 'part' && (state.step === 'holes' || state.step === 'hollow') && (!!store.part?.recipe.hollow?.on || !!bench.hollowing.looked.value)
    own.model?.setLook((inside || state.seeThrough) && state.looks.part === 'shown' ? 'faint' : state.looks.part)
    own.stilts.setLooks(state.looks)
  }, { immediate: true })
  watch([() => state.steepSkin, () => store.stilts, () => bench.model.value], async () => {
    if (!state.steepSkin || !bench.model.value) return
    const held = await bench.workers().surface.heldSkin(store.stilts.filter(s => s.foot !== 'lost').flatMap(s => [...s.anchor.point]), store.job?.settings.tipHoldMm ?? 2).catch(() => null)
    own.model?.setHeld(held)
  }, { immediate: true })
  watch([() => state.playhead, () => state.visibleMm], section, { immediate: true })
  watch(() => bench.picture.value, picture => {
    own.model?.setPicture(picture, store.raster?.pixelMm ?? 0)
    section()
  })
  watch([() => (props.view === 'pose' ? bench.worths.value : bench.shownWorths.value), () => bench.model.value], ([worths]) => own.model?.marks.set(worths), { immediate: true })
  watch([() => bench.borders.value, () => bench.model.value, () => props.view, () => state.marksShown], () => own.model?.marks.setBorders(props.view === 'pose' || state.marksShown ? bench.borders.value : null), { immediate: true })
  watch([() => bench.hollowing.looked.value, () => bench.cutting.before.value, () => bench.stand.value, () => props.view], () => {
    const whole = bench.cutting.before.value
    own.inner.set(props.view === 'part' ? (whole ?? bench.hollowing.looked.value) : null, bench.stand.value, whole !== null)
  })
  const { draft, plane, frame, seen, lit } = bench.cutting
  watch([plane, frame, seen, lit, () => props.view], () => {
    const shown = props.view === 'part' ? plane.value : null
    own.cut.set(shown, frame.value, seen.value, draft.value?.pegs ?? null, lit.value)
    hand.showCut(shown !== null)
  })
  watch([() => store.part?.recipe.holes, () => bench.stand.value, () => props.view, () => state.step], () => hand.showHoles(props.view === 'part' && state.step === 'holes'))
  watch(() => bench.outline.value, lines => own.outline.set(lines), { immediate: true })
  watch([() => bench.faultLines.value, () => props.view], () => own.faults.set(props.view === 'part' ? bench.faultLines.value : null), { immediate: true })
  watch([() => state.layerLine, () => props.view], hand.hideTrace)
  watch([() => props.view, () => store.part?.pose, () => store.copy], showRings, { immediate: true })
  watch(() => props.view, whole)
  watch([() => (props.view === 'print' ? bench.rebuilt.value : null), () => store.job?.printer], ([rebuilt]) => {
    own.rebuilt.set(rebuilt, behindMm())
    if (rebuilt) whole()
  }, { immediate: true })
  // copies that came, or went elsewhere, are to be seen
  watch(() => (props.view === 'print' ? state.plateCheck : null), (now, before) => {
    if (now && (!before || now.boxes.length !== before.boxes.length)) whole()
  })
  watch(() => store.copy?.id, whole)
  watch(() => state.tool, hand.useTool)
}

/** Whether a finding is marked on the part: what is said about stilts is, while one goes through that kind. */
function onStage(f: Finding): boolean {
  return !(STILT_VERDICTS as readonly FindingKind[]).includes(f.kind) || state.finding?.kind === f.kind || !!state.filter.kinds?.includes(f.kind)
}

/** The stilts of the part; while a plan is made, what there is of it. */
function showStilts(): void {
  const growing = bench.growing.value
  if (growing) scene?.stilts.set(growing.stilts, [], growing.braces, false)
  else scene?.stilts.set(store.stilts, props.view === 'hold' || props.view === 'proof' ? state.selectedStilts : [], braces(), props.view === 'hold')
}

/** Braces of the part as they were last gathered; they change with the stilts. */
let gathered: { readonly stilts: readonly object[]; readonly braces: readonly DrawnBrace[] } = { stilts: [], braces: [] }
function braces(): readonly DrawnBrace[] {
  const part = store.part?.id
  if (!store.job || !part) return []
  if (gathered.stilts === store.stilts) return gathered.braces
  const { nodes, beams } = store.plan()
  gathered = { stilts: store.stilts, braces: bracesOf(nodes, [...beams.values()].filter(b => b.part === part)) }
  return gathered.braces
}
function bracesOf(nodes: ReadonlyMap<string, PlanNode>, beams: readonly PlanBeam[]): DrawnBrace[] {
  return beams.flatMap(b => {
    const from = nodes.get(b.from), to = nodes.get(b.to)
    return b.kind === 'brace' && from && to ? [{ from: from.at, to: to.at, diameterMm: b.fromDiameterMm, ...(to.kind === 'foot' && to.on.kind === 'plate' && { foot: to.fitted }) }] : []
  })
}

/** A picture of the part with another plan, from where it is looked at now. What is on the stage is as before afterwards. */
async function pictureOf({ nodes, beams, stilts }: Pick<TriedPlan, 'nodes' | 'beams' | 'stilts'>, raft: Raft, stand: Stand): Promise<Blob | null> {
  const own = scene, part = store.part?.id
  if (!own?.model || !bench.stand.value || !part) return null
  const before = bench.raftMesh.value
  own.stilts.set(stilts, [], bracesOf(new Map(nodes.map(n => [n.id, n])), beams), false)
  own.raft.set(raftSolid(raft, feetOf(nodes, part)), 'shown')
  own.setStand(stand)
  const png = own.pictureNow(460)
  own.setStand(bench.stand.value)
  own.raft.set(before, state.looks.feet)
  showStilts()
  return png
}

/** Puts the copy where the job says it stands on the plate. */
function restand(): void {
  scene?.stage.setStand(plateOf(state.shift))
  scene?.mover.set(state.shift.xMm, state.shift.yMm)
  scene?.mover.setVisible((props.view === 'pose' || props.view === 'print') && !!store.copy)
  showRings()
}

/** Puts the model where the job says it stands. */
function place(): void {
  if (!scene?.model || !bench.stand.value) return
  scene.setStand(bench.stand.value)
  section()
  showRings()
}

function section(): void {
  const layerMm = store.raster?.layerMm ?? 0
  scene?.model?.setSection(state.visibleMm, (state.playhead + (state.cut === 'below' ? 0 : 1)) * layerMm, state.playhead < state.layerCount - 1)
}

function showRings(): void {
  if (store.part) scene?.showRings({ ...store.part.pose, turnDeg: store.copy?.turnDeg ?? 0 }, props.view === 'pose')
}

function showFindings(): void {
  scene?.markers.setVisible(props.view === 'hold' && state.findingsShown)
}

/** How far behind the plate what its pictures make is shown, mm. */
const behindMm = (): number => (store.job?.printer.depthMm ?? 0) + 6
function whole(): void {
  const printer = store.job?.printer
  if (props.view === 'print' && printer) {
    scene?.framePlate(printer.widthMm, printer.depthMm, [...(state.plateCheck?.boxes ?? []), ...(bench.rebuilt.value ? [{ min: [-printer.widthMm / 2, printer.depthMm / 2] as const, max: [printer.widthMm / 2, printer.depthMm / 2 + behindMm()] as const }] : [])], true)
    return
  }
  scene?.frame(standard, props.view !== 'hold', true)
}

function showView(index: number): void {
  standard = index
  if (props.view === 'print') scene?.frame(standard, false, true)
  else whole()
  bench.say(STANDARD_VIEWS[index].name)
}

/** Stores a picture of the part for the list of jobs. */
async function storePicture(): Promise<void> {
  if (!scene?.model || !store.job) return
  const { id } = store.job
  const png = await scene.portrait(480, 320)
  if (png) await api.picture(id, png).catch(() => undefined)
}

defineExpose({
  force: () => pointer.value?.force(),
  clickAtFinding: (finding: Finding) => pointer.value?.clickAtFinding(finding) ?? Promise.resolve(false),
  strokeBy: (rightMm: number, upMm: number) => pointer.value?.strokeBy(rightMm, upMm),
  eye: () => pointer.value?.eye() ?? null,
  screenAxes: () => pointer.value?.screenAxes() ?? null, escape: () => pointer.value?.escape() ?? false,
  pictureOf, showView, nextView: () => showView((standard + 1) % STANDARD_VIEWS.length), storePicture, whole,
})
// end-to-end tests and benchmarks aim at places on the model as a person sees them, once the view stands still
;(window as unknown as { oakStage?: object }).oakStage = { pageOf: (point: [number, number, number]) => scene?.stage.toPage(point) ?? null, still: () => !bench.heading() && (scene?.stage.still ?? false), frameMs: () => scene?.stage.timeFrame() ?? 0, drawn: () => scene?.stilts.count ?? 0 }
</script>

<template>
  <div class="stage">
    <div
      ref="host" class="host" :style="{ cursor }" tabindex="0" role="application" aria-label="Stage, 3D view"
      @pointerdown.capture="pointer?.down($event)" @pointermove="pointer?.move($event)" @pointerup="pointer?.up($event)" @pointerleave="pointer?.leave()" @dblclick="pointer?.doubleClick($event)" @contextmenu.prevent @wheel.capture="pointer?.wheel($event)"
    />
    <p v-if="noWebGl" class="no-webgl">This browser offers no WebGL 2, so the 3D view is not shown. The worklist, the layer picture and all numbers still work.</p>
    <span v-if="pointer?.badge.value" class="badge figure" aria-hidden="true" :style="{ left: `${pointer.badge.value.x + 16}px`, top: `${pointer.badge.value.y - 28}px` }">{{ pointer.badge.value.text }}</span>
    <slot />
  </div>
</template>

<style scoped>
.badge { position: fixed; z-index: 5; padding: 2px 7px; background: var(--panel); border: 1px solid var(--control); border-radius: 4px; pointer-events: none; }
.stage { position: relative; min-width: 0; min-height: 0; overflow: hidden; }
.host { position: absolute; inset: 0; touch-action: none; }
.host:focus-visible { outline: 1px solid var(--accent); outline-offset: -1px; }
.no-webgl { position: absolute; inset: 40% 20% auto; text-align: center; background: var(--panel); border: 1px solid var(--divider); padding: 12px; border-radius: 6px; }
</style>
