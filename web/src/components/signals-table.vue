<script setup lang="ts">
import { NDataTable, type DataTableColumns, type DataTableInst } from 'naive-ui'
import { computed, nextTick, ref, watch } from 'vue'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import BenchDialog from './bench-dialog.vue'

interface Row { readonly key: number; readonly values: readonly string[]; readonly jump: boolean }
const shown = defineModel<boolean>('shown', { required: true })
const bench = useBench(), state = useBenchStore()
const HEADS = ['Area mm²', 'New mm²', 'Hanging mm²', 'Pieces', 'Enclosed mm²', 'Peel N, estimate', 'Centre x mm', 'Centre y mm', 'Off centre mm'] as const
const rows = computed<Row[]>(() => {
  const r = state.result
  if (!r || !shown.value) return []
  const s = state.signals ?? r.signals, jumps = new Set(s.jumps)
  const number = (v: number, digits: number): string => (Number.isFinite(v) ? v.toFixed(digits) : '–')
  return Array.from({ length: state.trackLayers }, (_, k) => ({
    key: k, jump: jumps.has(k),
    values: [number(s.areaMm2[k], 2), number(s.newMm2[k], 2), number(s.hangingMm2[k], 2), String(s.pieces[k]), number(s.enclosedMm2[k], 2), number(s.peelN[k], 2), number(s.centerX[k], 2), number(s.centerY[k], 2), number(s.offCenterMm[k], 2)],
  }))
})
/** Height of a row, which the table has to know to scroll. */
const ROW_PX = 30
const columns: DataTableColumns<Row> = [
  { title: 'Layer', key: 'layer', width: 76, render: r => `${r.key + 1}${r.jump ? ' ▲' : ''}` },
  { title: 'mm', key: 'z', width: 70, render: r => ((r.key + 0.5) * (state.result?.layerMm ?? 0)).toFixed(3) },
  ...HEADS.map((title, i) => ({ title, key: title, align: 'right' as const, render: (r: Row) => r.values[i] })),
]
const rowProps = (row: Row): object => ({ style: 'cursor: pointer', onClick: () => state.setPlayhead(row.key) })
const rowClass = (row: Row): string => (row.key === state.playhead ? 'at-playhead' : '')

const table = ref<DataTableInst | null>(null)
// it opens where the playhead is
watch(shown, async now => {
  if (!now) return
  await nextTick()
  requestAnimationFrame(() => {
    table.value?.scrollTo({ top: Math.max(0, state.playhead - 4) * ROW_PX })
    // it scrolls by keyboard as well
    document.querySelectorAll('.signals-table .v-vl').forEach(e => e.setAttribute('tabindex', '0'))
  })
})
</script>

<template>
  <BenchDialog v-model:shown="shown" title="Signals of all layers" width="1060px">
    <p class="quiet lead"><span><template v-if="state.plateScan"><b>{{ state.signalsFor === 'plate' ? 'The whole plate.' : 'The part on the bench.' }}</b> </template>A click takes the playhead there. ▲ marks a jump in area or load. Peel is an estimate from area and the vacuum of cups.</span> <button class="plain-button" @click="bench.exportSignals()">Save as CSV</button></p>
    <NDataTable ref="table" class="figure table signals-table" size="small" virtual-scroll :min-row-height="ROW_PX" :max-height="430" :row-class-name="rowClass" :columns="columns" :data="rows" :row-props="rowProps" :bordered="false" />
  </BenchDialog>
</template>

<style scoped>
.lead { display: flex; justify-content: space-between; align-items: center; gap: 12px; margin-bottom: 8px; }
.table { font-size: 13px; }
.table :deep(td), .table :deep(th) { padding: 4px 8px; height: 30px; font-size: 12.5px; line-height: 1.3; }
.table :deep(th) { background: var(--panel); }
.table :deep(.at-playhead td) { background: #efe6d6; }
</style>
