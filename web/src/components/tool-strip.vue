<script setup lang="ts">
import { computed } from 'vue'
import { GAUGES } from '@oak-stilts/core/stilts'
import { useBench } from '../stage/use-bench'
import { useBenchStore } from '../stores/bench'

const props = defineProps<{ view: 'pose' | 'hold' }>()
const emit = defineEmits<{ view: [] }>()
const bench = useBench(), state = useBenchStore()

const verdict = computed(() => {
  if (state.busy) return state.busy
  if (state.verdict) return state.verdict
  if (state.message) return state.message
  if (props.view === 'pose') return 'Drag a ring, or write the numbers at the left.'
  return state.tool === 'place' ? 'Point at the underside of the model.' : 'Click a mark, or take Place.'
})
const scanning = computed(() => (state.scanState === 'scanning' ? `Scanning, ${Math.round(state.progress * 100)} %` : state.scanState === 'cancelled' ? 'Scan cancelled' : state.scanState === 'failed' ? 'Scan failed' : state.result ? `Scanned ${state.layerCount.toLocaleString('en')}` : ''))
</script>

<template>
  <div class="strip" role="toolbar" aria-label="Tools">
    <template v-if="view === 'hold'">
      <button class="tool" :class="{ on: state.tool === 'select' }" :aria-pressed="state.tool === 'select'" title="Select and drag (Esc)" @click="state.tool = 'select'">Select</button>
      <button class="tool" :class="{ on: state.tool === 'place' }" :aria-pressed="state.tool === 'place'" title="Place a stilt with a click (P)" @click="state.tool = state.tool === 'place' ? 'select' : 'place'">Place <kbd>P</kbd></button>
      <select v-model="state.gauge" aria-label="Gauge" title="Sizes of the next stilt (1 to 4)">
        <option v-for="g in GAUGES" :key="g.id" :value="g.id">{{ g.name }} {{ g.tipDiameterMm.toFixed(2) }}</option>
      </select>
    </template>
    <button class="tool" title="Next standard view (O)" @click="emit('view')">View <kbd>O</kbd></button>
    <button class="tool" :class="{ on: state.cutAway }" :aria-pressed="state.cutAway" title="Cut away what is above the playhead (X)" @click="state.cutAway = !state.cutAway">Cut <kbd>X</kbd></button>
    <p class="verdict" role="status" aria-live="polite" aria-label="Message" :title="verdict">{{ verdict }}</p>
    <span class="scan quiet" role="status" aria-label="Scan">{{ scanning }}</span>
    <button v-if="state.scanState === 'scanning' || state.busy" class="plain-button" @click="bench.cancel()">Cancel</button>
    <button v-else-if="state.scanState === 'cancelled' || state.scanState === 'failed'" class="plain-button" @click="bench.rescan()">Scan again</button>
  </div>
</template>

<style scoped>
.strip { display: flex; align-items: center; gap: 4px; height: 36px; padding: 0 10px; background: var(--panel); border-top: 1px solid var(--divider); white-space: nowrap; min-width: 0; }
.tool { background: none; border: 0; border-bottom: 2px solid transparent; padding: 3px 7px 1px; cursor: pointer; }
.tool:hover { background: #f6f1e6; }
.tool.on { font-weight: 600; border-color: var(--accent); }
kbd { font: 400 11px var(--mono); color: var(--quiet); }
select { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 25px; padding: 0 4px; margin: 0 4px; color: var(--ink); }
.verdict { flex: 1; min-width: 0; overflow: hidden; text-overflow: ellipsis; color: var(--ink); margin-left: 8px; text-align: right; }
.scan { margin-left: 10px; font-size: 12px; }
</style>
