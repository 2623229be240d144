<script setup lang="ts">
import { computed } from 'vue'
import { DEFAULT_SETTINGS, type ScanSettings } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import { useJobStore } from '../stores/job'
import BenchPopover from './bench-popover.vue'
import NumberField from './number-field.vue'

interface Field { readonly id: keyof ScanSettings; readonly name: string; readonly unit: string; readonly min: number; readonly max: number; readonly step: number; readonly explains: string; readonly digits?: number }
const GROUPS: readonly { readonly name: string; readonly fields: readonly Field[] }[] = [
  { name: 'What counts as held', fields: [
    { id: 'flapMm', name: 'A flap may reach', unit: 'mm', min: 0.1, max: 20, step: 0.1, explains: 'How far skin may jut out from held material on one side' },
    { id: 'tipHoldMm', name: 'A tip holds around it', unit: 'mm', min: 0.1, max: 20, step: 0.1, explains: 'How far a tip holds around itself' },
    { id: 'spanMm', name: 'A span may be wide', unit: 'mm', min: 0.1, max: 40, step: 0.1, explains: 'How wide a span may be that is held on opposite sides' },
    { id: 'slopeDeg', name: 'Steep skin below', unit: '°', min: 10, max: 80, step: 1, digits: 0, explains: 'Skin that leans out less than this from level needs a hold; ledges heal at this slope as they grow up' },
  ] },
  { name: 'Islands by what hangs on them', fields: [
    { id: 'flakeAreaMm2', name: 'Flake up to', unit: 'mm²', min: 0, max: 10, step: 0.01, digits: 3, explains: 'Largest layer of a flake' },
    { id: 'flakeVolumeMm3', name: 'and up to', unit: 'mm³', min: 0, max: 10, step: 0.01, digits: 3, explains: 'Volume of a flake' },
    { id: 'detailVolumeMm3', name: 'Detail up to', unit: 'mm³', min: 0, max: 10000, step: 1, explains: 'Above this it is a limb' },
  ] },
  { name: 'Ledges and suction', fields: [
    { id: 'ledgeAreaMm2', name: 'List a ledge from', unit: 'mm²', min: 0, max: 100, step: 0.1, explains: 'Area that is laid out of reach' },
    { id: 'cupAreaMm2', name: 'List a cup from', unit: 'mm²', min: 0, max: 1000, step: 0.5, explains: 'Area in its widest layer' },
    { id: 'cupLayers', name: 'and from', unit: 'layers', min: 1, max: 1000, step: 1, digits: 0, explains: 'Layers for which it stays shut' },
    { id: 'ventMm', name: 'A cube that vents', unit: 'mm', min: 0.1, max: 10, step: 0.1, explains: 'A passage vents where a cube of this edge passes; a round hole of 1 mm lets one of 0.7 through' },
  ] },
]
const bench = useBench(), store = useJobStore()
const settings = computed(() => store.job?.settings ?? DEFAULT_SETTINGS)
const changed = computed(() => JSON.stringify(settings.value) !== JSON.stringify(DEFAULT_SETTINGS))
function set(id: keyof ScanSettings, value: number): void {
  bench.setSettings({ ...settings.value, [id]: id === 'cupLayers' ? Math.max(1, Math.round(value)) : value })
}
</script>

<template>
  <BenchPopover label="Limits of the scan" placement="bottom-start">
    <template #button>
      <button class="plain-button" :class="{ pressed: changed }" aria-haspopup="dialog" title="What the scan counts as held, as small, as a cup">Limits</button>
    </template>
    <fieldset v-for="g in GROUPS" :key="g.name">
      <legend>{{ g.name }}</legend>
      <div v-for="f in g.fields" :key="f.id" class="line" :title="f.explains"><span>{{ f.name }}</span><NumberField :label="f.explains" :unit="f.unit" :digits="f.digits ?? 2" :step="f.step" :min="f.min" :max="f.max" :values="[settings[f.id]]" @change="set(f.id, $event[0])" /></div>
    </fieldset>
    <p class="quiet note">Common practice, from memory. A change scans again.</p>
    <button class="link-button" :disabled="!changed" @click="bench.setSettings(DEFAULT_SETTINGS)">Back to the usual limits</button>
  </BenchPopover>
</template>

<style scoped>
.line { display: flex; justify-content: space-between; align-items: center; gap: 16px; }
.note { max-width: 290px; }
</style>
