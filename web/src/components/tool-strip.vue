<script setup lang="ts">
import { NDropdown, type DropdownOption } from 'naive-ui'
import { useResizeObserver } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import { useBench } from '../bench/use-bench'
import { STANDARD_VIEWS } from '../stage/stage'
import { isSpreadTool, SHOWN_PARTS, useBenchStore, type SpreadTool, type Cut, type Look, type ShownPart } from '../stores/bench'
import { useJobStore } from '../stores/job'
import type { BenchView } from '../router'

const props = defineProps<{ view: BenchView }>()
const emit = defineEmits<{ view: [index: number] }>()
const bench = useBench(), state = useBenchStore(), store = useJobStore()

const verdict = computed(() => {
  if (state.busy) return state.busy
  if (state.verdict) return state.verdict
  if (state.message) return state.message
  if (!state.result) return ''
  if (state.traced >= 0) return `Layer ${state.traced + 1} at ${((state.traced + 0.5) * state.result.layerMm).toFixed(2)} mm`
  if (state.tool === 'drill') return 'Click the skin where the hole is to begin.'
  if (state.tool === 'cut-points') return 'Click three points of the skin that the plane goes through.'
  if (state.tool === 'cut-pegs') return 'Click on the cut where a peg is to stand; on a peg to take it away.'
  if (props.view === 'part' && bench.cutting.draft.value) return 'Drag the arrow to move the plane, a ring to lean it.'
  if (props.view === 'part') return 'Choose a step at the left; its sizes are at the right.'
  if (props.view === 'print') return store.copies.length > 1 ? 'Drag the grip of the chosen copy to move it on the plate.' : ''
  if (props.view === 'proof') return bench.proofChecks.value ? 'Choose a check or a tip to look at it.' : ''
  if (props.view === 'pose') return state.tool === 'mark' ? `Marks ${state.worth}, ${state.markBy === 'brush' ? 'by strokes' : `by ${state.markBy}`}.` : state.tool === 'lay' ? 'Click a face to lay it down, or an edge to stand on it.' : state.tool === 'square' ? 'Click a face or an edge to turn it square to the plate.' : 'Drag a ring to tilt.'
  if (state.tool === 'pick') return 'Click the skin that the plan is for; again to let it go.'
  return state.tool === 'bed' ? 'Drag shifts the bed; Enter drops it.' : state.tool === 'place' ? 'Point at an underside.' : 'Click a finding, or take Place.'
})
/** Whether something is told; else it is a hint of what to do next, and may be cut off. */
const telling = computed(() => !!(state.busy || state.verdict || state.message))
// what is longer than the strip is shown whole above it
const line = ref<HTMLElement | null>(null)
const cutOff = ref(false)
function measure(): void {
  cutOff.value = !!line.value && line.value.scrollWidth > line.value.clientWidth + 1
}
useResizeObserver(line, measure)
watch(verdict, () => void nextTick(measure))

const SPREAD_NAMES: Readonly<Record<SpreadTool, string>> = { line: 'Line', edge: 'Edge', face: 'Face', strokes: 'Strokes' }
const spreads: DropdownOption[] = ([['line', 'Along a line', 'R'], ['edge', 'Along an edge or a border', 'E'], ['face', 'Over a face', 'F'], ['strokes', 'By strokes', 'B'], ['bed', 'Peg bed', 'Shift B']] as const).map(([key, label, letter]) => ({ key, label: `${label}\u2003${letter}` }) as DropdownOption)
function spread(key: SpreadTool | 'bed'): void {
  state.tool = key
}
const TIE_NAMES: Partial<Record<string, string>> = { branch: 'Branch', stick: 'Stick', brace: 'Brace' }
const several = computed(() => state.selectedStilts.length > 1)
const ties = computed<DropdownOption[]>(() => [
  { key: 'branch', label: 'Branch from a stilt\u2003S' }, { key: 'stick', label: 'Stick between two points\u2003L' }, { key: 'brace', label: several.value ? 'Brace the selected\u2003C' : 'Brace two stilts\u2003C' },
  { key: 'line', type: 'divider' },
  { key: 'join', label: 'Join the selected, high up\u2003J', disabled: !several.value }, { key: 'prop', label: 'Prop up the selected\u2003Shift J', disabled: state.selectedStilts.length === 0 },
  { key: 'gather', label: 'Gather the selected on a stem\u2003Shift S', disabled: !several.value },
  { key: 'line 2', type: 'divider' }, { key: 'raft', label: 'Raft\u2003Shift R' },
])
function tie(key: 'branch' | 'stick' | 'brace' | 'join' | 'prop' | 'gather' | 'raft'): void {
  if (key === 'raft') state.sheet = 'raft'
  else if (key === 'join') void bench.joinSelected()
  else if (key === 'gather') void bench.gatherSelected()
  else if (key === 'prop') void bench.propSelected()
  else if (key === 'brace' && several.value) void bench.braceSelected()
  else state.tool = key
}
const views: DropdownOption[] = STANDARD_VIEWS.map((v, key) => ({ key, label: v.name }))
const tick = (on: boolean, label: string): string => `${on ? '✓' : '\u2003'} ${label}`
const cuts = computed<DropdownOption[]>(() => ([['none', 'Whole part'], ['above', 'Cut away above'], ['below', 'Cut away below'], ['slab', 'Only a slab']] as [Cut, string][]).map(([key, label]) => ({ key, label: tick(state.cut === key, label) })))
const LOOKS: readonly Look[] = ['shown', 'faint', 'hidden']
const LOOK_NAMES: Record<Look, string> = { shown: 'shown', faint: 'faint', hidden: 'hidden' }
const shows = computed<DropdownOption[]>(() => [
  ...SHOWN_PARTS.map(part => ({ key: part.id, label: `${part.name}: ${LOOK_NAMES[state.looks[part.id]]}`, children: LOOKS.filter(l => part.id !== 'findings' || l !== 'faint').map(l => ({ key: `${part.id} ${l}`, label: tick(state.looks[part.id] === l, LOOK_NAMES[l]) })) })),
  { key: 'line', type: 'divider' },
  { key: 'seeThrough', label: tick(state.seeThrough, 'See through the nearest wall') },
  { key: 'steepSkin', label: tick(state.steepSkin, `Steep skin, below ${(store.job?.settings.slopeDeg ?? 45).toFixed(0)}°`) },
  { key: 'marksShown', label: tick(state.marksShown, 'Face marks outside Pose') },
  { key: 'layerLine', label: tick(state.layerLine, 'Outline of the layer under the pointer') },
])
function show(key: string): void {
  const [part, look] = key.split(' ') as [ShownPart, Look | undefined]
  if (look) state.setLook(part, look)
  else if (key === 'steepSkin' || key === 'layerLine' || key === 'marksShown' || key === 'seeThrough') state[key] = !state[key]
}
/** Takes a gauge; the last line of the list shows its sizes. */
function takeGauge(select: HTMLSelectElement): void {
  if (select.value) bench.chooseGauge(select.value)
  else state.toggleSheet('gauge')
  select.value = bench.gauge.value.id
}
/** Tells the bench that a menu is open, so that Esc closes that and nothing else. */
function menuShown(shown: boolean): void {
  state.menu = shown
}
function look(index: number): void {
  emit('view', index)
}
function cutAt(key: Cut): void {
  state.cut = key
}
const STAGES: Record<string, string> = { layers: 'Scanning', graph: 'Looking at stilts', reach: 'Measuring ledges', all: 'Looking for vents' }
const scanning = computed(() => (state.scanState === 'scanning' ? `${STAGES[state.stage] ?? 'Scanning'}, ${Math.round(state.progress * 100)} %` : state.scanState === 'cancelled' ? 'Scan cancelled' : state.scanState === 'failed' ? 'Scan failed' : state.result ? `Scanned ${state.layerCount.toLocaleString('en')}` : ''))
</script>

<template>
  <div class="strip" role="toolbar" aria-label="Tools">
    <template v-if="view === 'hold'">
      <button class="tool" :class="{ on: ['select', 'box', 'lasso'].includes(state.tool) }" :aria-pressed="state.tool === 'select'" title="Select and drag (Esc); by a box or a lasso (G)" @click="state.tool = 'select'">{{ state.tool === 'box' ? 'Box' : state.tool === 'lasso' ? 'Lasso' : 'Select' }}</button>
      <button class="tool" :class="{ on: state.tool === 'place' }" :aria-pressed="state.tool === 'place'" title="Place a stilt with a click (P)" @click="state.tool = state.tool === 'place' ? 'select' : 'place'">Place <kbd>P</kbd></button>
      <NDropdown trigger="click" placement="top-start" :options="spreads" @update:show="menuShown" @select="spread"><button class="tool" :class="{ on: isSpreadTool(state.tool) || state.tool === 'bed' }" aria-haspopup="menu" title="Many stilts at once: along a line (R) or an edge (E), over a face (F), by strokes (B), as a bed of pegs (Shift B)">{{ isSpreadTool(state.tool) ? SPREAD_NAMES[state.tool] : state.tool === 'bed' ? 'Peg bed' : 'Spread' }}</button></NDropdown>
      <NDropdown trigger="click" placement="top-start" :options="ties" @update:show="menuShown" @select="tie"><button class="tool" :class="{ on: TIE_NAMES[state.tool] }" aria-haspopup="menu" title="What holds by another stilt or stiffens it: branches (S), sticks (L), braces (C), joins (J), props">{{ TIE_NAMES[state.tool] ?? 'Branch' }}</button></NDropdown>
      <select :value="bench.gauge.value.id" aria-label="Gauge" title="Sizes of the next stilt (1 to 9)" @change="takeGauge($event.target as HTMLSelectElement)">
        <option v-for="g in bench.gauges.value" :key="g.id" :value="g.id">{{ g.name }} {{ g.tipDiameterMm.toFixed(2) }}</option>
        <option value="" title="Shift + G">{{ state.sheet === 'gauge' ? 'Close the sizes' : 'Sizes of this gauge' }}</option>
      </select>
    </template>
    <template v-if="view === 'pose'">
      <button class="tool" :class="{ on: state.tool === 'lay' }" :aria-pressed="state.tool === 'lay'" title="Click a face to lay it on the plate, or an edge to stand on it (A)" @click="state.tool = state.tool === 'lay' ? 'select' : 'lay'">Lay down <kbd>A</kbd></button>
      <button class="tool" :class="{ on: state.tool === 'mark' }" :aria-pressed="state.tool === 'mark'" title="Mark faces: prized, spare or off-limits (M)" @click="state.tool = state.tool === 'mark' ? 'select' : 'mark'">Mark <kbd>M</kbd></button>
      <button class="tool" :class="{ on: state.tool === 'square' }" :aria-pressed="state.tool === 'square'" title="Click a face or an edge to turn it square to the plate (Q)" @click="state.tool = state.tool === 'square' ? 'select' : 'square'">Square up <kbd>Q</kbd></button>
    </template>
    <NDropdown trigger="click" placement="top-start" :options="views" @update:show="menuShown" @select="look"><button class="tool" aria-haspopup="menu" title="Standard views; O takes the next one">View <kbd>O</kbd></button></NDropdown>
    <NDropdown trigger="click" placement="top-start" :options="cuts" @update:show="menuShown" @select="cutAt"><button class="tool" :class="{ on: state.cut !== 'none' }" aria-haspopup="menu" title="Cut away what is above or below the playhead (X)">Cut away <kbd>X</kbd></button></NDropdown>
    <NDropdown trigger="click" placement="top-start" :options="shows" @update:show="menuShown" @select="show"><button class="tool" :class="{ on: state.steepSkin || state.seeThrough }" aria-haspopup="menu" title="What is shown; V tints steep skin">Show <kbd>V</kbd></button></NDropdown>
    <p ref="line" class="verdict" :class="{ above: cutOff }" role="status" aria-live="polite" aria-label="Message">{{ verdict }}</p>
    <p v-if="cutOff && telling" class="whole" aria-hidden="true">{{ verdict }}</p>
    <span class="scan quiet" :class="{ 'visually-hidden': state.busy && state.scanState !== 'scanning' }" role="status" aria-label="Scan">{{ scanning }}</span>
    <button v-if="state.scanState === 'scanning' || state.busy" class="plain-button" title="Esc" @click="bench.cancel()">Cancel</button>
    <button v-else-if="state.scanState === 'cancelled' || state.scanState === 'failed'" class="plain-button" @click="bench.rescan()">Scan again</button>
  </div>
</template>

<style scoped>
.strip { position: relative; display: flex; align-items: center; gap: 4px; height: 36px; padding: 0 10px; background: var(--panel); border-top: 1px solid var(--divider); white-space: nowrap; min-width: 0; }
.tool { background: none; border: 0; border-bottom: 2px solid transparent; padding: 3px 7px 1px; cursor: pointer; }
.tool:hover { background: #f6f1e6; }
.tool.on { font-weight: 600; border-color: var(--accent); }
kbd { font: 400 11px var(--mono); color: var(--quiet); }
select { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 25px; padding: 0 4px; margin: 0 0 0 4px; color: var(--ink); max-width: 118px; }
.verdict { flex: 1; min-width: 0; overflow: hidden; text-overflow: ellipsis; color: var(--ink); margin-left: 8px; text-align: right; }
/* a sentence that is longer than the strip is shown above it, and only there; a hint that has no room is not shown */
.verdict.above { color: transparent; user-select: none; }
.whole { position: absolute; right: 8px; bottom: 42px; max-width: min(560px, calc(100% - 16px)); padding: 8px 12px; background: var(--panel); border: 1px solid var(--control); border-radius: 6px; white-space: normal; pointer-events: none; }
.scan { margin-left: 10px; font-size: 12px; min-width: 0; overflow: hidden; text-overflow: ellipsis; }
.plain-button { flex: none; margin-left: 6px; }
</style>
