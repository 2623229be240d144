<script setup lang="ts">
import { NSwitch } from 'naive-ui'
import { computed, onBeforeUnmount } from 'vue'
import type { HoleStep } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import NumberField from './number-field.vue'
import SoundNote from './sound-note.vue'

/** The holes of the part: each switched, changed, taken away. */
const bench = useBench(), store = useJobStore(), state = useBenchStore()
onBeforeUnmount(() => {
  if (state.tool === 'drill') state.tool = 'select'
})
const { told } = bench.hollowing
/** Those that the part has; where it was cut, others are in the other side. */
const holes = computed(() => {
  const all = store.part?.recipe.holes ?? [], drilled = all.filter(h => h.on)
  return all.filter(h => !told.value?.elsewhere.includes(drilled.indexOf(h)))
})
/** The one whose sizes are shown: the last, until another is chosen. */
const chosen = computed(() => holes.value.find(h => h.id === bench.chosenHole.value)?.id ?? holes.value.at(-1)?.id ?? null)
const mm = (v: number): string => String(Number(v.toFixed(2)))
const sizesOf = (h: HoleStep): string => `${h.diameterMm === h.endDiameterMm ? mm(h.diameterMm) : `${mm(h.diameterMm)} to ${mm(h.endDiameterMm)}`} mm`
/** One that does not taper stays so. */
function resize(h: HoleStep, diameterMm: number): void {
  bench.changeHole(h.id, { diameterMm, ...(h.endDiameterMm === h.diameterMm && { endDiameterMm: diameterMm }) }, 'change a hole')
}
</script>

<template>
  <section class="holes-sheet" aria-label="Holes">
    <h2>Holes</h2>
    <SoundNote />
    <p v-if="holes.length === 0" class="quiet">The scan proposes where a cup or a closed space is vented best: choose it in Hold and press <b>Drill the vent</b>. Or point at the skin yourself.</p>
    <button class="plain-button" :class="{ pressed: state.tool === 'drill' }" :aria-pressed="state.tool === 'drill'" @click="state.tool = state.tool === 'drill' ? 'select' : 'drill'">Drill by pointing</button>
    <template v-if="state.tool === 'drill'">
      <div class="field"><span>Diameter of the next</span><NumberField label="Diameter of the next" :values="[bench.nextHole.value.diameterMm]" :min="0.3" :max="50" :step="0.5" @change="bench.nextHole.value = { ...bench.nextHole.value, diameterMm: $event[0] }" /></div>
      <label class="choice"><input type="checkbox" :checked="bench.nextHole.value.upright" @change="bench.nextHole.value = { ...bench.nextHole.value, upright: ($event.target as HTMLInputElement).checked }" /> <span>Upright, instead of straight into the skin</span></label>
    </template>
    <ul v-if="holes.length">
      <li v-for="(h, i) in holes" :key="h.id" :aria-label="`Hole ${i + 1}`">
        <div class="head"><button class="link-button" :aria-expanded="h.id === chosen" title="Its sizes; brings it into view" @click="bench.showHole(h.id)">Hole {{ i + 1 }}</button><span class="figure">{{ sizesOf(h) }}</span><NSwitch size="small" :value="h.on" :aria-label="`Hole ${i + 1} drilled`" @update:value="(on: boolean) => bench.changeHole(h.id, { on }, on ? 'drill again' : 'leave undrilled')" /></div>
        <template v-if="h.id === chosen">
          <div class="field"><span>Diameter</span><NumberField :label="`Diameter of hole ${i + 1}`" :values="[h.diameterMm]" :min="0.3" :max="50" :step="0.5" @change="resize(h, $event[0])" /></div>
          <div class="field"><span>At its end</span><NumberField :label="`Diameter at the end of hole ${i + 1}`" :values="[h.endDiameterMm]" :min="0.3" :max="50" :step="0.5" @change="bench.changeHole(h.id, { endDiameterMm: $event[0] }, 'taper a hole')" /></div>
          <div v-if="h.depthMm !== null" class="field"><span>Depth</span><NumberField :label="`Depth of hole ${i + 1}`" :values="[h.depthMm]" :min="0.1" :max="1000" :step="0.5" @change="bench.changeHole(h.id, { depthMm: $event[0] }, 'change a hole')" /></div>
          <div class="line"><button v-if="h.depthMm !== null" class="link-button" @click="bench.changeHole(h.id, { depthMm: null }, 'drill through')">Drill right through</button><span v-else class="quiet">Through the whole part</span><button class="link-button" @click="bench.showHole(h.id, true)">From inside</button></div>
          <div class="line"><button class="link-button" :disabled="!!state.busy" title="A part of its own that closes it, with a gap of 0.15 mm" @click="bench.makePlug(h.id)">Make a plug</button><button class="link-button" @click="bench.dropHole(h.id)">Take away</button></div>
        </template>
      </li>
    </ul>
    <p v-if="holes.length" class="quiet">Drag its rim to move a hole.</p>
  </section>
</template>

<style scoped>
.holes-sheet { padding: 12px; display: grid; gap: 10px; }
h2 { font-size: 13px; font-weight: 600; }
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 10px; }
li { display: grid; gap: 4px; padding-bottom: 8px; border-bottom: 1px solid #ece6d9; }
.plain-button { justify-self: start; }
.choice { display: grid; grid-template-columns: auto 1fr; gap: 6px; align-items: center; }
.head { display: grid; grid-template-columns: 1fr auto auto; gap: 8px; align-items: center; }
.head .link-button { justify-self: start; }
.head .figure { font-size: 12.5px; }
.line { display: flex; justify-content: space-between; align-items: center; }
.field { display: grid; grid-template-columns: 1fr 110px; align-items: center; gap: 8px; }
</style>
