<script setup lang="ts">
import { computed, ref } from 'vue'
import { movedBounds, type Pose } from '@oak-stilts/core/pose'
import { useBench } from '../bench/use-bench'
import { notesOf } from '../bring-in/notes'
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
const mesh = computed(() => store.part?.source.summary)
const box = computed(() => {
  const m = bench.stand.value, model = bench.model.value
  return m && model ? movedBounds(model.mesh.positions, m) : null
})
const height = computed(() => box.value?.max[2] ?? null)
const notes = computed(() => {
  const m = mesh.value
  if (!m) return []
  const out = store.part ? notesOf(store.part.source) : []
  if (m.zippedEdges) out.push(`${m.zippedEdges} ${m.zippedEdges === 1 ? 'edge has' : 'edges have'} corners of the next face on ${m.zippedEdges === 1 ? 'it' : 'them'}; these seams have no width and were zipped.`)
  if (m.cappedLoops) out.push(`${m.unclosedEdges} unclosed edges; ${m.cappedLoops} ${m.cappedLoops === 1 ? 'hole was' : 'holes were'} closed for the scan.`)
  if (m.tooDamaged) out.push('The mesh is too damaged to trust. Repair it before printing.')
  if (m.turnedShells) out.push(`${m.turnedShells} ${m.turnedShells === 1 ? 'shell faced' : 'shells faced'} the wrong way and ${m.turnedShells === 1 ? 'was' : 'were'} turned.`)
  if (m.sheets) out.push(`${m.sheets} ${m.sheets === 1 ? 'sheet' : 'sheets'} without a thickness left out.`)
  if (m.duplicateTriangles) out.push(`${m.duplicateTriangles.toLocaleString('en')} repeated triangles dropped.`)
  if (m.cavities) out.push(`${m.cavities} closed ${m.cavities === 1 ? 'cavity' : 'cavities'} inside.`)
  return out
})
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
      <p class="quiet hint">Drag a ring on the stage to tilt or turn by hand. The lowest point always stands at the lift.</p>
    </section>
    <section v-if="store.copy" aria-label="On the plate">
      <h2>On the plate</h2>
      <div class="line"><span>Across, x</span><NumberField label="Across, x" :values="[state.shift.xMm]" :min="-2000" :max="2000" :step="1" @change="move($event[0], state.shift.yMm)" /></div>
      <div class="line"><span>Along, y</span><NumberField label="Along, y" :values="[state.shift.yMm]" :min="-2000" :max="2000" :step="1" @change="move(state.shift.xMm, $event[0])" /></div>
      <div class="line"><span>Turn about z</span><NumberField label="Turn about z" unit="°" :digits="1" :values="[pose.turnDeg]" :min="-360" :max="360" :step="1" @change="set('turnDeg', $event[0])" /></div>
      <p v-for="m in misplaced" :key="m" class="hint warn" role="status" aria-label="Outside the plate">{{ m }}</p>
      <p v-if="!misplaced.length" class="quiet hint">Stilts are carried along. Places are whole pixels.</p>
    </section>
    <section v-if="mesh">
      <h2>Mesh</h2>
      <dl>
        <dt>Triangles</dt><dd class="figure">{{ mesh.triangles.toLocaleString('en') }}</dd>
        <dt>Size</dt><dd class="figure">{{ mesh.sizeMm.map(v => v.toFixed(1)).join(' × ') }} mm</dd>
        <dt>Volume</dt><dd class="figure">{{ (mesh.volumeMm3 / 1000).toFixed(2) }} cm³</dd>
        <dt>Unclosed edges</dt><dd class="figure">{{ mesh.unclosedEdges }}</dd>
        <dt>Top of the part</dt><dd class="figure">{{ height === null ? '–' : `${height.toFixed(2)} mm` }}</dd>
      </dl>
      <p v-for="n in notes" :key="n" class="hint">{{ n }}</p>
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
dl { display: grid; grid-template-columns: auto 1fr; gap: 4px 10px; margin: 0; }
dt { color: var(--quiet); }
dd { margin: 0; text-align: right; font-size: 12px; }
</style>
