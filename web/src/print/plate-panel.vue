<script setup lang="ts">
import { computed } from 'vue'
import { useBench } from '../bench/use-bench'
import { MOST_COPIES } from '../bench/slicing'
import NumberField from '../components/number-field.vue'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import PlateMap from './plate-map.vue'
import PrintHistory from './print-history.vue'

/** What stands on the plate: how many copies of each part, whether all of them fit, and what they pull together. */
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const rows = computed(() => store.parts.map(part => ({ part, count: store.copies.filter(c => c.part === part.id).length })))
const printing = computed(() => store.job?.printing), estimate = computed(() => bench.printEstimate.value)
const trouble = computed(() => {
  const { outside, overlaps } = bench.misplaced.value, { length: copies } = store.copies, high = outside.filter(o => o.aboveMm > 0 && o.overMm === 0).length, over = outside.length - high
  const said = [
    ...(over > 0 ? [`${over} of ${copies} ${over === 1 ? 'reaches' : 'reach'} over the edge`] : []), ...(overlaps.length > 0 ? [`${overlaps.length} ${overlaps.length === 1 ? 'pair runs' : 'pairs run'} into each other`] : []),
    ...(high > 0 ? [`${high} ${high === 1 ? 'is' : 'are'} higher than ${store.job?.printer.name} prints`] : []),
  ].join(', ')
  return said && `${said[0].toUpperCase()}${said.slice(1)}.`
})
const canLayOut = computed(() => bench.misplaced.value.outside.some(o => o.overMm > 0) || bench.misplaced.value.overlaps.length > 0)
/** A way to set copies at several heights, where that wins something. */
const stagger = computed(() => bench.stagger.value), raised = computed(() => stagger.value?.copies.slice(1).reduce((a, b) => a + b, 0) ?? 0)
const heights = computed(() => (stagger.value?.copies.slice(1) ?? []).map((_, i) => ((i + 1) * (stagger.value?.stepLayers ?? 0) * (store.raster?.layerMm ?? 0)).toFixed(2)).join(' and '))
function show(layer: number): void {
  state.setPlayhead(layer)
}
</script>

<template>
  <aside v-if="store.job && printing" class="plate" aria-label="Plate">
    <p class="verdict" role="status" aria-label="Plate">{{ trouble || `${store.copies.length === 1 ? 'It stands' : `All ${store.copies.length} stand`} free on the plate.` }}</p>
    <PlateMap />
    <ul>
      <li v-for="{ part, count } in rows" :key="part.id"><span class="name" :title="part.name">{{ part.name }}</span><NumberField :label="`Copies of ${part.name}`" unit="" :digits="0" :values="[count]" :min="1" :max="MOST_COPIES" :step="1" :disabled="!!bench.slicing.value" @change="bench.setCopies(part, $event[0])" /></li>
    </ul>
    <div class="actions"><button class="plain-button" :class="{ leading: canLayOut }" title="Lays all copies out by what they really cover, stilts and rafts included (Alt + L)" :disabled="!!bench.slicing.value" @click="bench.layOut()">Lay out</button></div>
    <p class="line"><span>Room between</span><NumberField label="Room between copies" :values="[printing.gapMm]" :min="0" :max="50" :step="0.5" @change="bench.setPrinting({ gapMm: $event[0] }, 'room between copies')" /></p>
    <label class="check"><input type="checkbox" :checked="printing.turns" @change="bench.setPrinting({ turns: ($event.target as HTMLInputElement).checked }, 'turning while laying out')" /> Turn by quarters to fit more</label>
    <p v-if="estimate && estimate.fullest >= 0" class="pull"><button class="link-button" :title="`Show layer ${estimate.fullest + 1}`" @click="show(estimate.fullest)">Layer {{ (estimate.fullest + 1).toLocaleString('en') }}</button> pulls most{{ store.copies.length > 1 ? ', all copies together' : '' }}: <span class="figure">{{ estimate.pullN.toFixed(1) }} N</span> <span class="quiet">(estimate)</span></p>
    <p v-if="stagger" class="stagger">{{ raised }} of {{ stagger.copies.reduce((a, b) => a + b) }} copies {{ heights }} mm higher, no layer above the feet would pull more than <span class="figure">{{ stagger.mostN.toFixed(1) }} N</span>, in place of <span class="figure">{{ stagger.wasN.toFixed(1) }} N</span>. <button class="plain-button" :disabled="!!bench.slicing.value || !!state.busy" title="Each height becomes a part of its own, with longer stilts" @click="bench.staggerCopies()">Stagger</button></p>
    <PrintHistory />
  </aside>
</template>

<style scoped>
.plate { display: flex; flex-direction: column; gap: 8px; min-height: 0; overflow-y: auto; background: var(--panel); border-right: 1px solid var(--divider); padding: 10px 12px; }
.verdict { font-weight: 600; line-height: 1.35; }
ul { list-style: none; margin: 0; padding: 0; }
li, .line { display: flex; align-items: center; gap: 8px; min-height: 28px; }
li :deep(input), .line :deep(input) { width: 64px; }
.name { flex: 1; min-width: 0; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.line > span:first-child { flex: 1; }
.actions { display: flex; gap: 6px; }
.check { display: flex; gap: 6px; align-items: center; }
.pull { border-top: 1px solid var(--divider); padding-top: 8px; line-height: 1.4; }
.stagger { line-height: 1.4; }
.stagger .plain-button { display: block; margin-top: 4px; }
.pull .link-button { padding: 0; text-decoration: underline; }
</style>
