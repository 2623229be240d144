<script setup lang="ts">
import { NPopover } from 'naive-ui'
import { computed } from 'vue'
import type { Printer, Resin } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import { useJobStore } from '../stores/job'
import { useKitStore } from '../stores/kit'

/** Printer, resin and layer height of the job: shown in the header, chosen at a click. */
const bench = useBench(), store = useJobStore(), kit = useKitStore()
const same = (a: Printer | Resin, b: Printer | Resin): boolean => JSON.stringify(a) === JSON.stringify(b)

/** What can be chosen, and first what the job has where the kit has it no more. */
const printers = computed(() => {
  const own = store.job?.printer, all = kit.kit.printers
  return own && !all.some(p => same(p.printer, own)) ? [{ id: 'job', builtIn: false, printer: own }, ...all] : all
})
const resins = computed(() => {
  const own = store.job?.resin, all = kit.kit.resins
  return own && !all.some(r => same(r.resin, own)) ? [{ id: 'job', builtIn: false, resin: own }, ...all] : all
})
const printerId = computed(() => printers.value.find(p => store.job && same(p.printer, store.job.printer))?.id)
const resinId = computed(() => resins.value.find(r => store.job && same(r.resin, store.job.resin))?.id)
const valueOf = (event: Event): string => (event.target as HTMLSelectElement).value

function choosePrinter(event: Event): void {
  const chosen = printers.value.find(p => p.id === valueOf(event))
  if (chosen) void bench.equip({ printer: chosen.printer })
}
function chooseResin(event: Event): void {
  const chosen = resins.value.find(r => r.id === valueOf(event))
  if (chosen) void bench.equip({ resin: chosen.resin })
}
function opened(shown: boolean): void {
  if (shown) void kit.load().catch(() => undefined)
}
</script>

<template>
  <NPopover v-if="store.job && store.raster" trigger="click" placement="bottom-start" @update:show="opened">
    <template #trigger>
      <button class="plain-button chip" title="Printer, resin and layer height">{{ store.job.printer.name }} · {{ store.job.resin.name }} · <span class="figure">{{ store.job.layerMm }} mm</span></button>
    </template>
    <div class="equipment" role="dialog" aria-label="Printer and resin">
      <label>Printer <select aria-label="Printer" :value="printerId" @change="choosePrinter"><option v-for="p in printers" :key="p.id" :value="p.id">{{ p.printer.name }}{{ p.id === 'job' ? ', as in this job' : '' }}</option></select></label>
      <label>Resin <select aria-label="Resin" :value="resinId" @change="chooseResin"><option v-for="r in resins" :key="r.id" :value="r.id">{{ r.resin.name }}{{ r.id === 'job' ? ', as in this job' : '' }}</option></select></label>
      <label>Layer height <select aria-label="Layer height" :value="store.job.layerMm" @change="bench.equip({ layerMm: Number(valueOf($event)) })"><option v-for="l in [...new Set([...store.job.printer.layersMm, store.job.layerMm])].sort((a, b) => a - b)" :key="l" :value="l">{{ l }} mm</option></select></label>
      <p class="quiet">Plate <span class="figure">{{ store.job.printer.widthMm }} × {{ store.job.printer.depthMm }} × {{ store.job.printer.heightMm }} mm</span>, pixel <span class="figure">{{ store.raster.pixelMm }} mm</span>. The scan samples every layer at this pixel and height.</p>
      <RouterLink to="/kit">Printers and resins</RouterLink>
    </div>
  </NPopover>
</template>

<style scoped>
.chip { font-size: 12.5px; max-width: 300px; overflow: hidden; text-overflow: ellipsis; }
.equipment { display: grid; gap: 8px; width: 268px; }
label { display: flex; justify-content: space-between; align-items: center; gap: 10px; }
select { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 24px; width: 168px; color: var(--ink); }
.quiet { font-size: 12.5px; }
@media (max-width: 1180px) { .chip { display: none; } }
</style>
