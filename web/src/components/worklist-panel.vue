<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { NVirtualList } from 'naive-ui'
import { computed, ref } from 'vue'
import type { Stilt } from '@oak-stilts/core/stilts'
import { ArrivedTips, TipAudit } from '../audit'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { NO_FILTER, OPEN_ONLY, STATES, volumeText, type FindingKind } from '../findings'
import { PLAN_BUTTON } from '../planning'
import { useJobStore } from '../stores/job'
import ScanSettingsSheet from './scan-settings.vue'
import WorklistFilter from './worklist-filter.vue'
import WorklistRows from './worklist-rows.vue'

const bench = useBench(), state = useBenchStore(), store = useJobStore()
const tab = ref<'findings' | 'stilts'>('findings')
const stilts = ref<InstanceType<typeof NVirtualList> | null>(null)

// the list goes through all of them whenever it gets another array
const ORDERS = [['number', 'number'], ['height', 'lowest'], ['tip', 'thinnest']] as const
const order = ref<(typeof ORDERS)[number][0]>('number')
const rows = computed(() => (order.value === 'number' ? [...store.stilts] : store.stilts.toSorted((a, b) => (order.value === 'height' ? a.path[0][2] - b.path[0][2] : a.sizes.tipDiameterMm - b.sizes.tipDiameterMm) || a.number - b.number)))
const weak = computed(() => new Set(bench.weakTips.value.map(t => t.id)))

/** So long nothing happens before what plans ask for first is measured, ms. */
const QUIET_MS = 1200
watchDebounced(bench.canPlan, can => void (can && bench.getReadyToPlan()), { debounce: QUIET_MS, immediate: true })

/** The name of a gauge; one that is not known here is that of a plan from elsewhere. */
const nameOf = (gauge: string): string => bench.gauges.value.find(g => g.id === gauge)?.name.toLowerCase() ?? gauge

/** Whether something could not be held, and says why: planning once more would not either. */
const toldWhy = computed(() => state.shown.some(f => bench.whyNotHeld(f) !== undefined))

const onlyOpen = computed(() => state.filter.states === OPEN_ONLY || (state.filter.states.length === 2 && OPEN_ONLY.every(s => state.filter.states.includes(s))))

const summary = computed(() => {
  const look = state.firstLook
  if (state.scanState === 'scanning' && look) return `At a first look about ${look.islands} ${look.islands === 1 ? 'island' : 'islands'}${look.cups ? ` and ${look.cups} ${look.cups === 1 ? 'cup' : 'cups'}` : ''}. Looking closer.`
  if (state.scanState === 'scanning' && !state.result) return `Scanning, ${Math.round(state.progress * 100)} %`
  if (state.scanState === 'failed') return `The scan failed: ${state.scanProblem}`
  if (state.scanState === 'cancelled') {
    if (!state.result) return 'The scan was cancelled before it found anything. Scan again to see what hangs.'
    return state.result.stage === 'layers' ? `The scan was cancelled at layer ${state.result.covered.toLocaleString('en')}; what hangs above is not known.` : 'The scan was cancelled. This list is from before the last change.'
  }
  if (!state.result) return ''
  const open = state.openIslands
  if (state.layerCount === 0) return 'The part is thinner than a layer, so nothing of it would be printed. Was it drawn in metres or inches? Scale it and bring it in again.'
  if (state.worklist.findings.length === 0) return `Nothing hangs in ${state.layerCount.toLocaleString('en')} layers.`
  if (state.worklist.open === 0) return `All ${state.worklist.findings.length} findings are settled in ${state.layerCount.toLocaleString('en')} layers.`
  if (open.length === 0) {
    const openOf = (kind: FindingKind): number => state.worklist.findings.filter(f => f.kind === kind && f.state === 'open').length
    const cups = openOf('cup'), near = openOf('near'), ledges = state.openLedges.length
    const rest = [...(ledges ? [ledges === 1 ? '1 ledge juts out' : `${ledges} ledges jut out`] : []), ...(cups ? [cups === 1 ? '1 cup still pulls' : `${cups} cups still pull`] : []), ...(near ? [near === 1 ? '1 pair of stilts is too near' : `${near} pairs of stilts are too near`] : [])]
    const islands = state.worklist.findings.some(f => f.kind === 'island')
    return `${islands ? 'Every island is held.' : 'No island hangs.'}${rest.length ? ` ${rest.join(', ')}.` : ''}`
  }
  const hung = open.filter(f => f.state === 'open')
  if (hung.length === 0) return `Every island is touched; ${open.length === 1 ? '1 is' : `${open.length} are`} held only in part${state.openLedges.length ? `, ${state.openLedges.length} ${state.openLedges.length === 1 ? 'ledge juts' : 'ledges jut'} out` : ''}.`
  const largest = open.reduce((a, b) => (b.island.volumeMm3 > a.island.volumeMm3 ? b : a))
  return `${open.length} ${open.length === 1 ? 'island still hangs' : 'islands still hang'}. The largest carries ${volumeText(largest.island.volumeMm3)}.`
})

/** Chooses stilts: one, or with Shift one more or less. */
function choose(id: string, more: boolean): void {
  const chosen = state.selectedStilts
  state.selectedStilts = !more ? [id] : chosen.includes(id) ? chosen.filter(s => s !== id) : [...chosen, id]
  state.selectedFinding = null
}
/** Arrows walk the list of stilts, as they do that of findings. */
function walk(event: KeyboardEvent): void {
  const by = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0
  if (by === 0 || store.stilts.length === 0) return
  event.preventDefault()
  event.stopPropagation()
  const at = rows.value.findIndex(s => s.id === state.selectedStilts[state.selectedStilts.length - 1])
  const next = Math.max(0, Math.min(store.stilts.length - 1, at < 0 ? 0 : at + by))
  choose(rows.value[next].id, event.shiftKey)
  stilts.value?.scrollTo({ index: next, behavior: 'auto' })
}
</script>

<template>
  <aside class="worklist" aria-label="Worklist">
    <div class="tabs" role="tablist">
      <button role="tab" :aria-selected="tab === 'findings'" @click="tab = 'findings'">Findings <span class="figure">{{ state.result ? state.worklist.open : '–' }}</span></button>
      <button role="tab" :aria-selected="tab === 'stilts'" @click="tab = 'stilts'">Stilts <span class="figure">{{ store.stilts.length }}</span></button>
    </div>
    <ArrivedTips />
    <template v-if="tab === 'findings'">
      <p class="summary" role="status" aria-label="Findings">{{ summary }}</p>
      <div class="actions">
        <button class="plain-button" :class="{ pressed: onlyOpen }" :aria-pressed="onlyOpen" title="Show only what is open or held in part" @click="state.filter = onlyOpen ? { ...state.filter, states: STATES } : { ...state.filter, states: OPEN_ONLY }">Only open</button>
        <WorklistFilter />
        <ScanSettingsSheet />
      </div>
      <div class="actions">
        <button class="plain-button" :disabled="!state.openIslands.length || !!state.busy || state.scanState === 'scanning'" title="Place stilts under every island that is open or held in part (H)" @click="bench.holdAll()">Hold islands</button>
        <span class="plan">
          <button class="plain-button" :class="{ leading: !bench.builtIn.value && (bench.aimed.value || !toldWhy) }" :disabled="!bench.canPlan.value" title="Tips under all that is asked for, gathered on trunks that carry them, and proved. Never moves the part. (Alt + H)" @click="bench.makeReady('forest')">{{ bench.aimed.value ? `Plan ${bench.aimed.value}` : PLAN_BUTTON[bench.planOptions.value.what] }}</button>
          <button class="link-button" :aria-expanded="state.sheet === 'plan'" title="What a plan is asked for, and recipes (Alt + P)" @click="state.toggleSheet('plan')">How</button>
        </span>
      </div>
      <WorklistRows v-if="state.shown.length || state.worklist.findings.length" />
      <p v-if="state.result && !state.shown.length" class="empty">{{ !state.worklist.findings.length ? 'The scan found nothing to hold.' : state.worklist.open ? 'The filter hides all that is open.' : 'Nothing is open. Prove that it holds, or show what is settled.' }} <button v-if="state.worklist.open" class="link-button" @click="state.filter = NO_FILTER">Show it</button></p>
    </template>
    <template v-else>
      <p v-if="!store.stilts.length" class="summary">No stilts yet. Take Place (P) and click under an island, or hold all open islands at once.</p>
      <TipAudit />
      <div v-if="store.stilts.length" class="order" role="group" aria-label="Order of the list"><button v-for="[id, label] in ORDERS" :key="id" class="link-button" :class="{ on: order === id }" :aria-pressed="order === id" @click="order = id">{{ label }}</button></div>
      <div class="rows" role="listbox" aria-label="Stilts" aria-multiselectable="true" tabindex="0" @keydown="walk">
        <NVirtualList ref="stilts" class="list" :items="rows" :item-size="28" key-field="id">
          <template #default="{ item: s }: { item: Stilt }">
            <div class="row" role="option" :aria-selected="state.selectedStilts.includes(s.id)" :tabindex="s.id === rows[0].id ? 0 : -1" @click="choose(s.id, $event.shiftKey)">
              <span class="name">Stilt {{ s.number }}</span>
              <span class="quiet gauge">{{ s.foot === 'lost' ? 'lost foot' : s.foot === 'model' ? 'stick' : nameOf(s.gauge) }}</span>
              <span class="figure height" title="Height of its tip">{{ s.path[0][2].toFixed(1) }}</span>
              <span class="figure layer" :class="{ weak: weak.has(s.id) }" :title="weak.has(s.id) ? 'Thinner than what carries or holds a region should be' : 'Tip diameter'">{{ weak.has(s.id) ? '▾ ' : '' }}⌀{{ s.sizes.tipDiameterMm.toFixed(2) }}</span>
            </div>
          </template>
        </NVirtualList>
      </div>
    </template>
  </aside>
</template>

<style scoped>
.worklist { display: flex; flex-direction: column; min-height: 0; background: var(--panel); border-right: 1px solid var(--divider); }
.tabs { display: flex; gap: 14px; padding: 8px 10px 0; }
.tabs button { background: none; border: 0; padding: 2px 0 3px; cursor: pointer; border-bottom: 2px solid transparent; }
.tabs button[aria-selected='true'] { font-weight: 600; border-color: var(--accent); }
.tabs .figure { font-size: 12px; margin-left: 2px; }
.summary { padding: 6px 10px 4px; color: var(--quiet); min-height: 46px; }
.actions + .actions { padding-top: 0; }
.actions { display: flex; flex-wrap: wrap; gap: 6px; padding: 0 10px 8px; white-space: nowrap; }
.plan { display: flex; gap: 6px; }
.list { height: 100%; }
.rows { flex: 1; min-height: 0; padding: 0 4px; outline-offset: -2px; }
.row { display: grid; grid-template-columns: 1fr auto 34px 58px; gap: 6px; align-items: center; height: 28px; padding: 0 12px 0 6px; border-bottom: 1px solid #ece6d9; cursor: pointer; font-size: 12.5px; border-radius: 3px; user-select: none; }
.row:hover { background: #f6f1e6; }
.row[aria-selected='true'] { background: #f0e6d4; box-shadow: inset 2px 0 0 var(--accent); }
.row .name { white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.row .layer { text-align: right; color: var(--quiet); }
.gauge { font-size: 12px; }
.height { text-align: right; color: var(--quiet); }
.weak { font-weight: 600; color: #560f2a; }
.order { display: flex; gap: 10px; padding: 4px 10px; font-size: 12px; }
.order .on { font-weight: 600; }
.empty { padding: 10px 6px; color: var(--quiet); }
</style>
