<script setup lang="ts">
import { computed, ref } from 'vue'
import { movedBounds, type Pose } from '@oak-stilts/core/pose'
import { secondsOfLayers } from '@oak-stilts/core/print'
import { shaftOf } from '@oak-stilts/core/stilts'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import { adviceFor, evidence } from '../findings'
import FacesSection from './faces-section.vue'
import NumberField from './number-field.vue'

const emit = defineEmits<{ markView: [] }>()
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const answer = ref<'keep' | 'lift'>('keep')
// what was asked for is shown at once, also while stilts are seated anew for it
const pose = computed(() => store.part && { ...store.part.pose, turnDeg: store.copy?.turnDeg ?? 0, ...state.posing })

function set(name: keyof Pose, value: number): void {
  void bench.setPose({ [name]: value }, name === 'liftMm' ? 'lift' : name === 'turnDeg' ? 'turn' : 'tilt')
}
const box = computed(() => {
  const m = bench.stand.value, model = bench.model.value
  return m && model ? movedBounds(model.mesh.positions, m) : null
})
const upright = computed(() => pose.value?.tiltXDeg === 0 && pose.value.tiltYDeg === 0)
const LIFTS = [{ mm: 0, name: 'On the plate' }, { mm: 5, name: '5 mm' }, { mm: 10, name: '10 mm' }]
/** Common practice, no source: a stilt wants room for tip, cone, shaft and foot. */
const LEAST_LIFT_MM = 4
const squashed = computed(() => !!pose.value && pose.value.liftMm > 0 && pose.value.liftMm < LEAST_LIFT_MM)
/** What the lift costs: layers, and the time they take; how slender it makes the longest stilt. */
const cost = computed(() => {
  const lift = pose.value?.liftMm ?? 0, { job, raster } = store
  if (!job || !raster) return ''
  if (lift === 0) return 'It stands on the plate, which holds its first layer.'
  const layers = Math.round(lift / raster.layerMm), minutes = secondsOfLayers(layers, job.resin) / 60
  let slender = { lengthMm: 0, times: 0 }
  for (const s of store.stilts) {
    if (s.foot === 'lost') continue
    const { lengthMm } = shaftOf(s.path), times = lengthMm / Math.min(s.sizes.kneeDiameterMm, s.sizes.shaftFootDiameterMm)
    if (times > slender.times) slender = { lengthMm, times }
  }
  return `${layers.toLocaleString('en')} layers under it, about ${minutes < 60 ? `${Math.max(1, Math.round(minutes))} min` : `${(minutes / 60).toFixed(1)} h`}.${slender.times > 0 ? ` Its most slender stilt is ${slender.lengthMm.toFixed(1)} mm, ${slender.times.toFixed(0)} times its width.` : ''}`
})
const height = computed(() => box.value?.max[2] ?? null)
/** What is wrong with where the part stands, in words. */
const misplaced = computed(() => state.worklist.findings.filter(f => evidence(f, 'copies')?.includes(store.copy?.id ?? '')).map(f => `${f.name}, ${f.figure}. ${adviceFor(f).help}`))
function move(xMm: number, yMm: number): void {
  if (store.copy) bench.moveCopy(store.copy, xMm, yMm)
}
</script>

<template>
  <aside v-if="store.job && pose" class="pose-panel" aria-label="Pose">
    <section v-if="store.part && !store.part.poseSettled" class="question" aria-label="How it stands">
      <h2>This file looks made to stand</h2>
      <label><input v-model="answer" type="radio" value="keep" name="standing" /> Keep on the plate <span class="quiet">(lift 0)</span></label>
      <label><input v-model="answer" type="radio" value="lift" name="standing" /> Lift 5 mm <span class="quiet">for stilts</span></label>
      <button class="plain-button leading" @click="bench.settlePose(answer === 'keep' ? 0 : 5)">Stand it so</button>
    </section>
    <section>
      <div class="head"><h2>Lift and tilt</h2><button class="plain-button leading" title="Search all tilts by scanning them (I)" @click="bench.openTilts()">Find a tilt</button></div>
      <div class="line"><span>Lift</span><NumberField label="Lift" :values="[pose.liftMm]" :min="0" :max="200" :step="0.5" @change="set('liftMm', $event[0])" /></div>
      <p class="presets" role="group" aria-label="Presets of the lift"><button v-for="l in LIFTS" :key="l.mm" class="plain-button" :class="{ pressed: pose.liftMm === l.mm }" :aria-pressed="pose.liftMm === l.mm" @click="set('liftMm', l.mm)">{{ l.name }}</button></p>
      <p v-if="squashed" class="hint warn" role="status" aria-label="Lift">Under {{ LEAST_LIFT_MM }} mm stilts have no room: short ones are squashed and hard to cut.</p>
      <p class="quiet hint cost">{{ cost }}</p>
      <div class="line"><span>Tilt about x</span><NumberField label="Tilt about x" unit="°" :digits="1" :values="[pose.tiltXDeg]" :min="-360" :max="360" :step="1" @change="set('tiltXDeg', $event[0])" /></div>
      <div class="line"><span>Tilt about y</span><NumberField label="Tilt about y" unit="°" :digits="1" :values="[pose.tiltYDeg]" :min="-360" :max="360" :step="1" @change="set('tiltYDeg', $event[0])" /></div>
      <p class="presets"><button class="plain-button" :disabled="upright" title="Both tilts to 0 (U)" @click="bench.setPose({ tiltXDeg: 0, tiltYDeg: 0 }, 'stand upright')">Stand upright</button><button v-if="!upright" class="plain-button" title="Measure the tilts from how it is tilted now; nothing moves" @click="bench.zeroHere()">Zero here</button></p>
      <p class="quiet hint">Tilts are measured from {{ pose.zero ? 'the zero that was set here' : 'how the file has it' }}, x before y.<button v-if="pose.zero" class="link-button" title="Measure the tilts from the file again" @click="bench.zeroOfFile()">From the file</button></p>
      <p class="quiet hint">The lowest point always stands at the lift<template v-if="height !== null">, the highest at <span class="figure">{{ height.toFixed(1) }} mm</span></template>.</p>
    </section>
    <section v-if="store.copy" aria-label="On the plate">
      <h2>On the plate</h2>
      <div class="line"><span>Across, x</span><NumberField label="Across, x" :values="[state.shift.xMm]" :min="-2000" :max="2000" :step="1" @change="move($event[0], state.shift.yMm)" /></div>
      <div class="line"><span>Along, y</span><NumberField label="Along, y" :values="[state.shift.yMm]" :min="-2000" :max="2000" :step="1" @change="move(state.shift.xMm, $event[0])" /></div>
      <div class="line"><span>Turn about z</span><NumberField label="Turn about z" unit="°" :digits="1" :values="[pose.turnDeg]" :min="-360" :max="360" :step="1" @change="set('turnDeg', $event[0])" /></div>
      <p v-for="m in misplaced" :key="m" class="hint warn" role="status" aria-label="Outside the plate">{{ m }}</p>
      <p v-if="!misplaced.length" class="quiet hint">Stilts are carried along. Places are whole pixels.</p>
    </section>
    <FacesSection @mark-view="emit('markView')" />
  </aside>
</template>

<style scoped>
.pose-panel { background: var(--panel); border-right: 1px solid var(--divider); overflow-y: auto; padding: 4px 12px 12px; min-height: 0; }
section { padding: 8px 0 12px; border-bottom: 1px solid #ece6d9; }
section:last-child { border: 0; }
h2 { font-size: 13px; font-weight: 600; margin-bottom: 8px; }
.head { display: flex; justify-content: space-between; align-items: center; margin-bottom: 8px; }
.head h2 { margin: 0; }
.head .plain-button { padding: 3px 8px; }
.line { display: flex; justify-content: space-between; align-items: center; margin-bottom: 6px; }
.question { display: grid; gap: 6px; background: #f6eddd; margin: 4px -12px 0; padding: 10px 12px 12px; }
.question label { display: block; }
.question button { justify-self: start; }
.hint { margin-top: 8px; font-size: 12.5px; }
.presets { display: flex; gap: 6px; margin-bottom: 6px; white-space: nowrap; }
.presets .plain-button { padding: 3px 8px; }
.cost { margin: 0 0 10px; }
.warn { color: #560f2a; font-weight: 500; }
</style>
