<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted } from 'vue'
import type { PrinterDoing } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import NumberField from '../components/number-field.vue'
import { durationText } from './words'

/** The printer: what it does and holds, what it is sent and told; and, where it is simulated, what is to go wrong. */
const bench = useBench()
onMounted(() => bench.watchPrinters())
onBeforeUnmount(() => bench.leavePrinters())
const printers = computed(() => bench.printers.value), printer = computed(() => bench.printer.value), sending = computed(() => bench.sending.value)
const DOING: Readonly<Record<PrinterDoing, string>> = { idle: 'nothing loaded', ready: 'ready to print', printing: 'printing', paused: 'paused', interrupted: 'the power was gone', stopped: 'stopped', failed: 'failed', done: 'printed' }
const fresh = computed(() => bench.sliced.value !== null && !bench.slicedStale.value)
const isLoaded = computed(() => fresh.value && printer.value?.loaded?.sha256 === bench.sliced.value?.sha256)
const under = computed(() => printer.value !== null && ['printing', 'paused', 'interrupted'].includes(printer.value.doing))
</script>

<template>
  <section class="printer" aria-label="Printer">
    <template v-if="printers && !printers.length">
      <p>No printer answers. Simulated ones ship with Oak Stilts: they check and run a package, in time that runs faster.</p>
      <button class="plain-button" @click="bench.startSimulated()">Start simulated printers</button>
    </template>
    <template v-else-if="printer">
      <p class="line"><select aria-label="Printer to send to" :value="printer.id" @change="bench.choosePrinter(($event.target as HTMLSelectElement).value)"><option v-for="p in printers" :key="p.id" :value="p.id">{{ p.printer.name }}{{ p.simulated ? ', simulated' : '' }}</option></select><span class="quiet figure" title="What is left in the vat">vat {{ printer.vatMl.toFixed(0) }} ml</span></p>
      <p role="status" aria-label="What the printer does"><b>{{ DOING[printer.doing][0].toUpperCase() + DOING[printer.doing].slice(1) }}</b><template v-if="printer.loaded">: {{ printer.loaded.name }}<template v-if="printer.run">, layer <span class="figure">{{ Math.min(printer.run.layer + 1, printer.run.layers).toLocaleString('en') }} of {{ printer.run.layers.toLocaleString('en') }}</span></template><template v-else>, <span class="figure">{{ printer.loaded.layers.toLocaleString('en') }}</span> layers</template></template></p>
      <p v-if="printer.run && printer.run.layer < printer.run.layers" class="quiet"><progress :value="printer.run.layer" :max="printer.run.layers" aria-label="Print" /> ~{{ durationText(printer.run.secondsLeft) }} left, {{ printer.run.resinUsedMl.toFixed(1) }} ml used</p>
      <p v-if="printer.says && printer.doing !== 'done'" class="says">{{ printer.says }}</p>
      <p v-if="sending" class="line"><progress :value="sending.share" max="1" aria-label="Sending" /><span>{{ sending.words }}</span><button class="plain-button" @click="bench.leaveSending()">Leave off</button></p>
      <div v-else class="actions">
        <button v-if="fresh && !isLoaded" class="plain-button" :class="{ leading: !!bench.rehearsal.value && !under }" :disabled="printer.doing === 'printing'" title="In pieces: after a broken connection it goes on from what has arrived" @click="bench.send()">Send</button>
        <button v-if="printer.loaded && !under" class="plain-button" :class="{ leading: isLoaded }" @click="bench.startPrint()">{{ printer.doing === 'ready' ? 'Start printing' : 'Print again' }}</button>
        <button v-if="printer.doing === 'printing'" class="plain-button" @click="bench.orderPrinter('pause')">Pause</button>
        <button v-if="printer.doing === 'paused' || printer.doing === 'interrupted'" class="plain-button leading" @click="bench.orderPrinter('resume')">Go on</button>
        <button v-if="under" class="plain-button" @click="bench.orderPrinter('stop')">Stop</button>
        <button v-if="printer.vatMl < 50" class="plain-button" @click="bench.orderPrinter('refill')">Fill the vat</button>
      </div>
      <details v-if="printer.simulated">
        <summary>What goes wrong <span class="quiet">simulated, <span class="figure">{{ printer.speed }}×</span> faster</span></summary>
        <label class="check"><input type="checkbox" :checked="printer.faults.fullMemory" @change="bench.setFaults({ fullMemory: ($event.target as HTMLInputElement).checked })" /> Its memory is full</label>
        <label class="check"><input type="checkbox" :checked="printer.faults.dropConnection" @change="bench.setFaults({ dropConnection: ($event.target as HTMLInputElement).checked })" /> The connection breaks at the next piece</label>
        <label class="check"><input type="checkbox" :checked="printer.faults.filmSticksFrom !== null" @change="bench.setFaults({ filmSticksFrom: ($event.target as HTMLInputElement).checked ? 100 : null })" /> The film holds on<NumberField v-if="printer.faults.filmSticksFrom !== null" label="Film holds on from layer" unit="layer" :digits="0" :values="[printer.faults.filmSticksFrom + 1]" :min="1" :max="20000" :step="10" @change="bench.setFaults({ filmSticksFrom: Math.max(0, Math.round($event[0]) - 1) })" /></label>
        <p class="line"><span>Left in the vat</span><NumberField label="Left in the vat" unit="ml" :digits="0" :values="[printer.vatMl]" :min="0" :max="10000" :step="10" @change="bench.simulate({ vatMl: $event[0] })" /></p>
        <p class="line"><span>Time runs</span><NumberField label="Time runs" unit="×" :digits="0" :values="[printer.speed]" :min="1" :max="100000" :step="100" @change="bench.simulate({ speed: $event[0] })" /></p>
        <div class="actions"><button class="plain-button" @click="bench.cutPower()">Cut the power for a moment</button><button class="plain-button" :disabled="printer.doing === 'printing'" title="Empties its memory" @click="bench.orderPrinter('forget')">Clear its memory</button></div>
      </details>
    </template>
  </section>
</template>

<style scoped>
.printer { border-top: 1px solid var(--divider); padding-top: 8px; display: grid; gap: 6px; }
.line { display: flex; align-items: center; gap: 8px; min-height: 28px; }
.line > :first-child { flex: 1; }
.line :deep(input) { width: 76px; }
select { min-width: 0; }
.says { color: #560f2a; }
.actions { display: flex; flex-wrap: wrap; gap: 6px; }
.check { display: flex; gap: 6px; align-items: center; min-height: 26px; }
.check :deep(input:not([type='checkbox'])) { width: 70px; }
progress { width: 90px; accent-color: var(--accent); vertical-align: middle; }
summary { cursor: pointer; min-height: 24px; }
</style>
