<script setup lang="ts">
import { computed, ref } from 'vue'
import { movedBounds, type Pose } from '@oak-stilts/core/pose'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import { adviceFor, evidence } from '../findings'
import NumberField from './number-field.vue'

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
      <h2>Lift and tilt</h2>
      <div class="line"><span>Lift</span><NumberField label="Lift" :values="[pose.liftMm]" :min="0" :max="200" :step="0.5" @change="set('liftMm', $event[0])" /></div>
      <div class="line"><span>Tilt about x</span><NumberField label="Tilt about x" unit="°" :digits="1" :values="[pose.tiltXDeg]" :min="-360" :max="360" :step="1" @change="set('tiltXDeg', $event[0])" /></div>
      <div class="line"><span>Tilt about y</span><NumberField label="Tilt about y" unit="°" :digits="1" :values="[pose.tiltYDeg]" :min="-360" :max="360" :step="1" @change="set('tiltYDeg', $event[0])" /></div>
      <button class="plain-button" :disabled="pose.tiltXDeg === 0 && pose.tiltYDeg === 0" @click="bench.setPose({ tiltXDeg: 0, tiltYDeg: 0 }, 'stand upright')">Stand upright</button>
      <p class="quiet hint">Drag a ring on the stage to tilt or turn by hand. The lowest point always stands at the lift<template v-if="height !== null">, the highest at <span class="figure">{{ height.toFixed(1) }} mm</span></template>.</p>
    </section>
    <section v-if="store.copy" aria-label="On the plate">
      <h2>On the plate</h2>
      <div class="line"><span>Across, x</span><NumberField label="Across, x" :values="[state.shift.xMm]" :min="-2000" :max="2000" :step="1" @change="move($event[0], state.shift.yMm)" /></div>
      <div class="line"><span>Along, y</span><NumberField label="Along, y" :values="[state.shift.yMm]" :min="-2000" :max="2000" :step="1" @change="move(state.shift.xMm, $event[0])" /></div>
      <div class="line"><span>Turn about z</span><NumberField label="Turn about z" unit="°" :digits="1" :values="[pose.turnDeg]" :min="-360" :max="360" :step="1" @change="set('turnDeg', $event[0])" /></div>
      <p v-for="m in misplaced" :key="m" class="hint warn" role="status" aria-label="Outside the plate">{{ m }}</p>
      <p v-if="!misplaced.length" class="quiet hint">Stilts are carried along. Places are whole pixels.</p>
    </section>
  </aside>
</template>

<style scoped>
.pose-panel { background: var(--panel); border-right: 1px solid var(--divider); overflow-y: auto; padding: 4px 12px 12px; min-height: 0; }
section { padding: 8px 0 12px; border-bottom: 1px solid #ece6d9; }
section:last-child { border: 0; }
h2 { font-size: 13px; font-weight: 600; margin-bottom: 8px; }
.line { display: flex; justify-content: space-between; align-items: center; margin-bottom: 6px; }
.question { display: grid; gap: 6px; background: #f6eddd; margin: 4px -12px 0; padding: 10px 12px 12px; }
.question label { display: block; }
.question button { justify-self: start; }
.hint { margin-top: 8px; font-size: 12.5px; }
.warn { color: #560f2a; font-weight: 500; }
</style>
