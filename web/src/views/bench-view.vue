<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import BenchHeader from '../components/bench-header.vue'
import CommandFinder from '../components/command-finder.vue'
import FaultSheet from '../components/fault-sheet.vue'
import FindingSheet from '../components/finding-sheet.vue'
import KeySheet from '../components/key-sheet.vue'
import LayerPicture from '../components/layer-picture.vue'
import LayerTrack from '../components/layer-track.vue'
import OtherPlan from '../components/other-plan.vue'
import PartPanel from '../components/part-panel.vue'
import PartSheet from '../components/part-sheet.vue'
import PartsPanel from '../components/parts-panel.vue'
import PosePanel from '../components/pose-panel.vue'
import SaveTrouble from '../components/save-trouble.vue'
import SignalsTable from '../components/signals-table.vue'
import StageView from '../components/stage-view.vue'
import ToolStrip from '../components/tool-strip.vue'
import WorklistPanel from '../components/worklist-panel.vue'
import { bindingFor } from '../input/bindings'
import { provideBench } from '../bench/use-bench'
import { DropAnywhere } from '../bring-in'
import { PlatePanel, PrintedLayer, PrintSheet, TracedPrint } from '../print'
import { ProofPanel, ProofSheet } from '../proof'
import { BedSheet, SpreadSheet } from '../spread'
import { GaugeSheet, StiltElevation } from '../gauges'
import type { ComparedPlan } from '../bench/comparing'
import type { OptimisedPlan } from '../workers/scan.worker'
import { ComparePlans, OptimisePlan, PlanSheet } from '../planning'
import { RaftSheet } from '../raft'
import { TiePanel } from '../ties'
import { TiltSheet } from '../tilts'
import { evidence } from '../findings'
import type { Finding } from '../findings'
import { isSpreadTool, SPREAD_TOOLS, useBenchStore } from '../stores/bench'
import type { BenchView } from '../router'
import { Superseded, useJobStore } from '../stores/job'
import { WORTH_KEYS } from '../stage/mark-tool'
import { STANDARD_VIEWS } from '../stage/stage'

const props = defineProps<{ id: string; view: BenchView }>()
const router = useRouter()
const bench = provideBench()
const store = useJobStore(), state = useBenchStore()
const stage = ref<InstanceType<typeof StageView> | null>(null)
const trouble = ref('')
const helpShown = ref(false), finderShown = ref(false), tableShown = ref(false)
const findingSheet = ref<InstanceType<typeof FindingSheet> | null>(null)
const saveTrouble = ref<InstanceType<typeof SaveTrouble> | null>(null)

async function open(): Promise<void> {
  trouble.value = ''
  try {
    await bench.open(props.id)
    // asked for together with the job
    if (router.currentRoute.value.query.ready !== undefined) {
      await router.replace(`/jobs/${props.id}/proof`)
      void bench.makeReady()
    }
    if (store.missing > 0) bench.say(`${store.missing} ${store.missing === 1 ? 'change' : 'changes'} of an earlier visit did not fit into this browser's store and ${store.missing === 1 ? 'is' : 'are'} lost.`)
  } catch (error) {
    if (error instanceof Superseded) return
    const lost = store.missing
    trouble.value = (error as Error).message + (lost > 0 ? ` ${lost} ${lost === 1 ? 'change' : 'changes'} of your last visit had not reached it.` : '')
  }
}
/** The page goes away: what can be sent is sent; where the browser keeps nothing, it asks first. */
function leave(): void {
  store.leave()
}
function ask(event: BeforeUnloadEvent): void {
  if (store.onlyHere) event.preventDefault()
}
useEventListener('keydown', noteMenu, { capture: true })
useEventListener('keydown', key)
useEventListener('keyup', keyUp)
useEventListener('pagehide', leave)
useEventListener('beforeunload', ask)
onMounted(() => {
  void open()
  document.title = 'Oak Stilts'
})
onBeforeUnmount(() => bench.close())
watch(() => props.id, () => {
  bench.close()
  void open()
})
watch(() => props.view, (_, from) => {
  if (from === 'hold') bench.leave()
  state.tool = 'select'
  state.sheet = null
  state.message = ''
})
watch(() => store.job?.name, name => (document.title = name ? `${name} – Oak Stilts` : 'Oak Stilts'))

// a new picture once the part stands differently or its stilts changed, after things have settled
let pictureTimer: ReturnType<typeof setTimeout> | null = null
watch([() => store.part?.pose, () => store.copy, () => store.stilts, () => state.scanState, () => bench.tilts.ghost.value], () => {
  if (pictureTimer) clearTimeout(pictureTimer)
  // a part that steps back behind its ghost is no picture of the job
  if (state.scanState === 'fresh' && store.undoLabel && !bench.tilts.ghost.value) pictureTimer = setTimeout(() => void stage.value?.storePicture(), 2500)
})

watch(() => store.saveProblem, problem => {
  if (problem && store.saveState === 'refused') bench.say(`Not saved: ${problem} Your changes stay here and are sent again.`)
})

/** The finding whose sheet is shown: of stilts, while these are the ones selected; of anything else, while no stilt is. */
const sheetFinding = computed(() => {
  const { finding: f, selectedStilts: chosen } = state
  if (props.view !== 'hold' || !f) return null
  const own = evidence(f, 'stilts') ?? []
  return own.length === chosen.length && own.every(id => chosen.includes(id)) ? f : null
})

/** Whether the side sheet is about spreading: a tool for that is in hand, or what is selected was spread. */
/** Whether the side sheet shows sizes that are rarely looked at. */
const sizesShown = computed(() => props.view === 'hold' && state.sheet !== null)
const spreadShown = computed(() => props.view === 'hold' && !sizesShown.value && (isSpreadTool(state.tool) || state.tool === 'bed' || (bench.chosenSpread.value !== null && !sheetFinding.value)))

/** Whether the search for a tilt has the side sheet. */
const tiltsShown = computed(() => props.view === 'pose' && bench.tilts.shown.value && !!store.part)

function undo(): void {
  const label = store.undo()
  bench.say(label ? `Undone: ${label}.` : 'There is nothing to undo.')
}
function redo(): void {
  const label = store.redo()
  bench.say(label ? `Done again: ${label}.` : 'There is nothing to do again.')
}

function jump(by: 1 | -1): void {
  if (!state.stepJump(by)) bench.say(by > 0 ? 'No signal jumps above this layer.' : 'No signal jumps below this layer.')
}

/** Steps go on from what is asked for already. */
function tilt(name: 'liftMm' | 'tiltXDeg' | 'tiltYDeg', by: number): void {
  const from = state.posing[name] ?? store.part?.pose[name]
  if (from !== undefined) void bench.setPose({ [name]: name === 'liftMm' ? Math.max(0, from + by) : from + by }, name === 'liftMm' ? 'lift' : 'tilt')
}
function moveBy(xMm: number, yMm: number): void {
  if (state.tool === 'bed') bench.nudgeBed(xMm, yMm)
  else if (state.tool === 'strokes') stage.value?.strokeBy(xMm, yMm)
  else if (store.copy) bench.moveCopy(store.copy, state.shift.xMm + xMm, state.shift.yMm + yMm)
}
const commands: Record<string, () => void> = {
  'view-part': () => void router.push(`/jobs/${props.id}/part`),
  'view-pose': () => void router.push(`/jobs/${props.id}/pose`),
  'view-hold': () => void router.push(`/jobs/${props.id}/hold`),
  'view-proof': () => void router.push(`/jobs/${props.id}/proof`),
  'view-print': () => void router.push(`/jobs/${props.id}/print`),
  'lay-out': () => void bench.layOut(),
  slice: () => void router.push(`/jobs/${props.id}/print`).then(() => bench.slice()),
  'make-ready': () => void router.push(`/jobs/${props.id}/proof`).then(() => bench.makeReady()),
  prove: () => {
    if (store.stilts.length === 0) bench.say('There are no stilts to prove yet.')
    else void router.push(`/jobs/${props.id}/proof`).then(() => bench.prove())
  },
  'find-tilt': () => (bench.tilts.shown.value ? bench.closeTilts() : bench.openTilts()),
  'tool-lay': () => (state.tool = state.tool === 'lay' ? 'select' : 'lay'),
  'tool-square': () => (state.tool = state.tool === 'square' ? 'select' : 'square'),
  'tool-mark': () => (state.tool = state.tool === 'mark' ? 'select' : 'mark'),
  'mark-seen': markView,
  'stand-upright': () => void (props.view === 'hold' ? bench.standUpright() : bench.setPose({ tiltXDeg: 0, tiltYDeg: 0 }, 'stand upright')),
  'lift-up': () => tilt('liftMm', 0.5),
  'lift-down': () => tilt('liftMm', -0.5),
  'tilt-x-up': () => tilt('tiltXDeg', 1),
  'tilt-x-down': () => tilt('tiltXDeg', -1),
  'tilt-y-up': () => tilt('tiltYDeg', 1),
  'tilt-y-down': () => tilt('tiltYDeg', -1),
  'move-right': () => moveBy(1, 0),
  'move-left': () => moveBy(-1, 0),
  'move-back': () => moveBy(0, 1),
  'move-front': () => moveBy(0, -1),
  'view-standard': () => stage.value?.nextView(),
  'cut-away': () => (state.cut = state.cut === 'none' ? 'above' : 'none'),
  'cut-below': () => (state.cut = 'below'),
  'cut-slab': () => (state.cut = 'slab'),
  'see-through': () => (state.seeThrough = !state.seeThrough),
  'from-below': fromBelow,
  'steep-skin': () => (state.steepSkin = !state.steepSkin),
  'layer-line': () => (state.layerLine = !state.layerLine),
  'show-findings': () => state.setLook('findings', state.findingsShown ? 'hidden' : 'shown'),
  'jump-next': () => jump(1),
  'jump-previous': () => jump(-1),
  'signals-table': () => (tableShown.value = true),
  'signals-csv': () => bench.exportSignals(),
  waive: () => findingSheet.value?.toggleWaiver(),
  'hold-ledges': () => void bench.holdAll(true),
  'choose-finding': () => state.selectedFinding && bench.chooseFinding(state.selectedFinding),
  'tool-pick': () => {
    state.tool = state.tool === 'pick' ? 'select' : 'pick'
    if (state.tool === 'pick') state.sheet = 'plan'
  },
  'plan-all': () => void bench.makeReady('forest'),
  'layer-up': () => state.setPlayhead(state.playhead + 1),
  'layer-down': () => state.setPlayhead(state.playhead - 1),
  'layer-up-10': () => state.setPlayhead(state.playhead + 10),
  'layer-down-10': () => state.setPlayhead(state.playhead - 10),
  'layer-first': () => state.setPlayhead(0),
  'layer-last': () => state.setPlayhead(state.layerCount - 1),
  'finding-next': () => bench.step(1),
  'finding-previous': () => bench.step(-1),
  'tool-bed': () => (state.tool = state.tool === 'bed' ? 'select' : 'bed'),
  'row-down': () => (state.tool === 'bed' ? bench.turnBed(-5) : isSpreadTool(state.tool) ? bench.dialSpacing(-1) : bench.step(1)),
  'row-up': () => (state.tool === 'bed' ? bench.turnBed(5) : isSpreadTool(state.tool) ? bench.dialSpacing(1) : bench.step(-1)),
  'hold-this': () => {
    if (state.tool === 'bed') void bench.dropBed()
    else if (state.finding) void holdThis(state.finding)
  },
  'hold-all': () => void bench.holdAll(),
  'force-place': () => {
    if (state.tool === 'place') void stage.value?.force()
  },
  compare: () => bench.openCompare(),
  optimise: () => bench.openOptimise(),
  'plan-options': () => state.toggleSheet('plan'),
  'gauge-sizes': () => state.toggleSheet('gauge'),
  raft: () => state.toggleSheet('raft'),
  'tool-stick': () => (state.tool = state.tool === 'stick' ? 'select' : 'stick'),
  'tool-branch': () => (state.tool = state.tool === 'branch' ? 'select' : 'branch'),
  'tool-brace': () => {
    if (state.selectedStilts.length >= 2) void bench.braceSelected()
    else state.tool = state.tool === 'brace' ? 'select' : 'brace'
  },
  join: () => void bench.joinSelected(),
  prop: () => void bench.propSelected(),
  gather: () => void bench.gatherSelected(),
  'tool-place': () => (state.tool = state.tool === 'place' ? 'select' : 'place'),
  delete: () => bench.remove(),
  'select-area': () => (state.tool = state.tool === 'box' ? 'lasso' : state.tool === 'lasso' ? 'select' : 'box'),
  'select-all': () => (state.selectedStilts = store.stilts.map(s => s.id)),
  undo, redo,
  command: () => (finderShown.value = true),
  escape: () => {
    if (stage.value?.escape()) return
    if (state.tool !== 'select') state.tool = 'select'
    else if (bench.cutting.draft.value) bench.endCut()
    else if (state.busy) bench.cancel()
    else if (state.sheet) state.sheet = null
    else if (state.fault) void bench.showFault(null)
    else if (tiltsShown.value) {
      if (bench.tilts.isRunning.value) bench.stopSearch()
      else bench.closeTilts()
    }
    else {
      state.selectedStilts = []
      state.selectedFinding = null
      bench.noAim()
    }
  },
  help: () => (helpShown.value = true),
}
SPREAD_TOOLS.forEach(tool => (commands[`tool-${tool}`] = () => (state.tool = state.tool === tool ? 'select' : tool)))
/** How the parts of stilts were shown before one looked from below. */
let looksBefore: typeof state.looks | null = null
function fromBelow(): void {
  if (looksBefore) {
    for (const part of STILT_LOOKS) state.setLook(part, looksBefore[part])
    looksBefore = null
    bench.say('The stilts are shown as before.')
    return
  }
  looksBefore = state.looks
  for (const part of STILT_LOOKS) state.setLook(part, 'faint')
  stage.value?.showView(STANDARD_VIEWS.findIndex(v => v.name === 'Below'))
}
/** Holds a finding with the tool that is in hand, where that takes it; else with stilts. */
async function holdThis(finding: Finding): Promise<void> {
  if (!(await stage.value?.clickAtFinding(finding))) await bench.holdOne(finding)
}
function nudge(event: KeyboardEvent): void {
  const axes = stage.value?.screenAxes()
  if (!axes) return
  const along = event.key === 'ArrowLeft' || event.key === 'ArrowRight' ? axes.right : axes.up
  const by = (event.shiftKey ? 0.5 : 0.05) * (event.key === 'ArrowLeft' || event.key === 'ArrowDown' ? -1 : 1)
  void bench.nudge([along[0] * by, along[1] * by, along[2] * by])
}
const ONLY_POSE = new Set(['find-tilt', 'mark-seen', 'tool-mark', 'tool-lay', 'tool-square', 'lift-up', 'lift-down', 'tilt-x-up', 'tilt-x-down', 'tilt-y-up', 'tilt-y-down'])
const MOVES = new Set(['move-right', 'move-left', 'move-back', 'move-front'])
const ONLY_HOLD = new Set(['finding-next', 'finding-previous', 'row-down', 'row-up', 'hold-this', 'hold-all', 'hold-ledges', 'plan-all', 'choose-finding', 'tool-pick', 'plan-options', 'compare', 'optimise', 'waive', 'show-findings', 'gauge-sizes', 'force-place', 'tool-stick', 'tool-branch', 'tool-brace', 'join', 'prop', 'gather', 'raft', 'tool-place', 'tool-bed', ...SPREAD_TOOLS.map(t => `tool-${t}`), 'delete', 'select-area', 'select-all'])

function run(id: string): void {
  if (!store.job || (ONLY_HOLD.has(id) && props.view !== 'hold') || (ONLY_POSE.has(id) && props.view !== 'pose') || (id === 'stand-upright' && props.view === 'part') || (MOVES.has(id) && props.view !== 'pose' && props.view !== 'print' && state.tool !== 'bed' && state.tool !== 'strokes')) return
  commands[id]?.()
}
const STILT_LOOKS = ['tips', 'shafts', 'feet'] as const
let nudging = false
function keyUp(event: KeyboardEvent): void {
  if (event.key === 't' || event.key === 'T') nudging = false
}
// a menu closes itself at Esc before the press comes here
let menuAtPress = false
function noteMenu(): void {
  menuAtPress = state.menu
}
function key(event: KeyboardEvent): void {
  if (helpShown.value || finderShown.value || tableShown.value || saveTrouble.value?.shown() || bench.otherPlan.value || bench.compareShown.value || bench.optimiseShown.value) return
  if (event.key === 't' || event.key === 'T') nudging = true
  // while marking, digits are worths
  const worth = state.tool === 'mark' && !event.ctrlKey && !event.metaKey && !event.altKey && !event.shiftKey && !(event.target as HTMLElement).closest('input, select') ? WORTH_KEYS[event.key] : undefined
  if (worth) {
    state.worth = worth
    event.preventDefault()
    return
  }
  const binding = bindingFor(event, nudging)
  if (!binding) return
  if (binding.id === 'escape' && menuAtPress) return
  event.preventDefault()
  if (binding.id === 'nudge') nudge(event)
  else if (binding.id === 'gauge') bench.chooseGaugeAt(Number(event.key) - 1)
  else run(binding.id)
}

function markView(): void {
  const eye = stage.value?.eye()
  if (eye) void bench.markSeen(eye, state.worth)
}

function pictureOf({ found, stand, toTry }: ComparedPlan): Promise<Blob | null> {
  return (found && stage.value?.pictureOf(found, toTry.raft, stand)) ?? Promise.resolve(null)
}
function pictureOfOptimised(plan: OptimisedPlan): Promise<Blob | null> {
  return (bench.raft.value && bench.stand.value && stage.value?.pictureOf(plan, bench.raft.value, bench.stand.value)) ?? Promise.resolve(null)
}

function reload(): void {
  bench.close()
  void open()
}
</script>

<template>
  <div class="bench">
    <BenchHeader :view="view" @undo="undo" @redo="redo" @help="helpShown = true" @find="finderShown = true" />
    <main v-if="trouble" class="trouble">
      <h2>This job cannot be opened</h2>
      <p>{{ trouble }}</p>
      <RouterLink to="/jobs">Back to all jobs</RouterLink>
    </main>
    <main v-else class="middle">
      <div class="left">
        <PartsPanel v-if="store.job" />
        <WorklistPanel v-if="view === 'hold'" />
        <PosePanel v-else-if="view === 'pose'" @mark-view="markView" />
        <ProofPanel v-else-if="view === 'proof'" />
        <PlatePanel v-else-if="view === 'print'" />
        <PartPanel v-else />
      </div>
      <div class="center">
        <StageView v-if="store.job" ref="stage" :key="store.job.id" :view="view"><p v-if="!bench.model.value" class="loading quiet" role="status">Loading the model</p></StageView>
        <div v-else class="loading quiet" role="status">Opening the job</div>
        <ToolStrip :view="view" @view="stage?.showView($event)" />
      </div>
      <aside class="sheet" aria-label="Side sheet">
        <PrintedLayer v-if="view === 'print' && bench.sliced.value" />
        <LayerPicture v-else-if="!tiltsShown" :sway="view === 'proof' && !bench.proofStale.value ? bench.proof.value?.lanes : null" />
        <div class="detail">
          <TiltSheet v-if="tiltsShown" />
          <GaugeSheet v-if="view === 'hold' && state.sheet === 'gauge'" @close="state.sheet = null" />
          <RaftSheet v-else-if="view === 'hold' && state.sheet === 'raft'" @close="state.sheet = null" />
          <PlanSheet v-else-if="view === 'hold' && state.sheet === 'plan'" @close="state.sheet = null" />
          <template v-else-if="spreadShown">
            <BedSheet v-if="state.tool === 'bed' || bench.chosenBed.value" /><SpreadSheet v-else />
            <template v-if="!isSpreadTool(state.tool) && state.tool !== 'bed' && state.chosenStilts.length"><TiePanel :stilts="state.chosenStilts" /><StiltElevation :stilts="state.chosenStilts" @gauge="state.sheet = 'gauge'" /></template>
          </template>
          <FindingSheet v-else-if="sheetFinding" ref="findingSheet" :finding="sheetFinding" />
          <FaultSheet v-if="view === 'part' && bench.chosenFault.value" :fault="bench.chosenFault.value" />
          <PartSheet v-else-if="view === 'part'" />
          <TracedPrint v-else-if="view === 'print' && bench.traced.value" :print="bench.traced.value" />
          <PrintSheet v-else-if="view === 'print'" />
          <ProofSheet v-else-if="view === 'proof'" :eye="() => stage?.eye() ?? null" />
          <template v-else-if="view === 'hold' && !sizesShown && !spreadShown && state.chosenStilts.length"><TiePanel :stilts="state.chosenStilts" /><StiltElevation :stilts="state.chosenStilts" @gauge="state.sheet = 'gauge'" /></template>
          <div v-else-if="!sheetFinding && !tiltsShown && !sizesShown && !spreadShown" class="next quiet">
            <template v-if="view === 'pose'"><p>Tilt so that broad flats meet the layers at an angle and the faces that will be seen point up and away.</p><p v-if="state.result">In this pose <b class="figure">{{ state.openIslands.length }}</b> {{ state.openIslands.length === 1 ? 'island hangs' : 'islands hang' }}<template v-if="state.result.cups.length"> and <b class="figure">{{ state.result.cups.length }}</b> {{ state.result.cups.length === 1 ? 'cup pulls' : 'cups pull' }}</template>.</p></template>
            <template v-else><p v-if="state.openIslands.some(f => bench.whyNotHeld(f))">What still hangs says why: press <kbd>N</kbd> to go through it. Another tilt, a stick (<kbd>L</kbd>) or a waiver (<kbd>W</kbd>) is left.</p><p v-else-if="state.openIslands.length">Press <kbd>N</kbd> to go through what hangs, worst first. <kbd>Alt + H</kbd> plans for all of it; <kbd>H</kbd> only places stilts under islands.</p><p v-else-if="state.result && state.worklist.open === 0">Nothing is open. <RouterLink :to="`/jobs/${id}/proof`">Prove</RouterLink> that it holds while it is printed (<kbd>Shift + P</kbd>).</p><p v-else-if="state.result && state.openLedges.length">No island hangs any more. <kbd>Shift + H</kbd> holds the {{ state.openLedges.length === 1 ? 'ledge that still juts' : `${state.openLedges.length} ledges that still jut` }} out, or walk them with <kbd>N</kbd>.</p><p v-else-if="state.worklist.findings.some(f => f.kind === 'near' && f.state === 'open')">Every island is held, but stilts come too near to each other. Walk the pairs with <kbd>N</kbd>: move, delete or waive.</p><p v-else-if="state.result">What is left in the list cannot be held by stilts: tilt the part or vent it.</p></template>
          </div>
        </div>
      </aside>
    </main>
    <LayerTrack :strength="view === 'proof' ? bench.proof.value?.lanes : null" @table="tableShown = true" />
    <SignalsTable v-model:shown="tableShown" />
    <KeySheet v-model:shown="helpShown" />
    <CommandFinder v-model:shown="finderShown" @run="run" />
    <ComparePlans :picture="pictureOf" />
    <OptimisePlan :picture="pictureOfOptimised" />
    <OtherPlan />
    <DropAnywhere sentence="Drop to add to this job" @files="bench.addParts($event)" />
    <SaveTrouble ref="saveTrouble" :view="view" @reload="reload" />
  </div>
</template>

<style scoped>
.bench { display: grid; grid-template-rows: 44px 1fr auto; height: 100%; position: relative; }
.middle { display: grid; grid-template-columns: 240px 1fr 340px; min-height: 0; }
.left { display: grid; grid-template: auto 1fr / minmax(0, 1fr); min-height: 0; }
.left > :only-child { grid-row: 2; }
.center { display: grid; grid-template-rows: 1fr 36px; min-width: 0; min-height: 0; }
.sheet { display: flex; flex-direction: column; background: var(--panel); border-left: 1px solid var(--divider); min-height: 0; }
.detail { flex: 1; overflow-y: auto; min-height: 0; }
.next { padding: 14px 12px; display: grid; gap: 10px; }
.next b { color: var(--ink); }
kbd { font: 400 12px var(--mono); border: 1px solid var(--divider); border-radius: 3px; padding: 0 4px; color: var(--ink); }
.loading { position: absolute; inset: 0; display: grid; place-items: center; pointer-events: none; }
.center > .loading { position: static; }
.trouble { display: grid; gap: 10px; place-content: center; text-align: center; }
@media (max-width: 1180px) { .middle { grid-template-columns: 200px 1fr 320px; } }
</style>
