<script setup lang="ts">
import { NSwitch } from 'naive-ui'
import { computed } from 'vue'
import { guessUnits, shapedSize, shapeOf } from '@oak-stilts/core/pose'
import { useBench } from '../bench/use-bench'
import { notesOf } from '../bring-in/notes'
import { STEPS, unitName, type StepId } from '../part/steps'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import MeshFigures from './mesh-figures.vue'

/** What is made of the source, step by step, in the order in which it is done; and what was found in its mesh. */
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const recipe = computed(() => store.part?.recipe)
const size = computed(() => (store.part && recipe.value ? shapedSize(store.part.source.summary.sizeMm, shapeOf(recipe.value)) : null))
const written = (mm: number): string => (mm < 10 ? mm.toFixed(1) : mm.toFixed(0))
/** What a file may have been meant in that states no unit, while nobody said that it is right. */
const guesses = computed(() => {
  const part = store.part
  if (!part || part.sizeSettled || part.source.statedUnitMm !== null || part.recipe.unitMm !== 1) return []
  return guessUnits(part.source.summary.sizeMm)
})
const largest = computed(() => (size.value ? Math.max(...size.value) : 0))
function choose(step: StepId): void {
  state.step = step
  void bench.showFault(null)
}
function flip(step: StepId, on: boolean): void {
  if (step === 'mirror') void bench.mirror()
  else void bench.setRecipe({ mended: on }, on ? 'mend' : 'take the mesh as it came')
}
const notes = computed(() => (store.part ? notesOf(store.part.source) : []))

const figures = computed<Record<StepId, string>>(() => {
  const part = store.part
  if (!part) return { mend: '', units: '', scale: '', mirror: '', hollow: '', holes: '', cut: '' }
  const { unitMm, scale: [x, y, z], mirrored, hollow, holes, cuts } = part.recipe, percent = (f: number): string => `${Number((100 * f).toPrecision(4))} %`
  const { statedUnitMm } = part.source
  return {
    mend: part.source.plainHash ? '' : 'nothing to mend',
    units: statedUnitMm !== null ? (unitMm === 1 ? `${unitName(statedUnitMm)}, stated` : `× ${Number(unitMm.toPrecision(4))}`) : unitMm === 1 ? 'mm, assumed' : unitName(unitMm),
    scale: x === y && y === z ? percent(x) : [x, y, z].map(percent).join(' · '),
    mirror: mirrored ? 'left for right' : 'off',
    hollow: hollow ? `${Number(hollow.wallMm.toPrecision(3))} mm wall` : 'solid',
    cut: cuts.length === 0 ? 'whole' : cuts.length === 1 ? 'one side' : `${cuts.length} cuts`,
    holes: holes.length === 0 ? 'none' : `${holes.filter(h => h.on).length}${holes.some(h => !h.on) ? ` of ${holes.length}` : ''}`,
  }
})
</script>

<template>
  <aside v-if="store.part && recipe" class="part-panel" aria-label="Part">
    <section v-if="guesses.length" class="question" aria-label="Size of the file">
      <h2>{{ written(largest) }} mm at its largest. Were these {{ guesses[0].unit }}?</h2>
      <p class="quiet">The file states no unit.</p>
      <button v-for="(g, i) in guesses" :key="g.unit" class="plain-button" :class="{ leading: i === 0 }" @click="bench.setRecipe({ unitMm: g.unitMm }, `take as ${g.unit}`)">Take as {{ g.unit }}: {{ written(g.largestMm) }} mm</button>
      <button class="link-button" @click="bench.settleSize()">The size is right</button>
    </section>
    <section>
      <h2>Steps</h2>
      <ul>
        <li v-for="s in STEPS" :key="s.id" :class="{ on: state.step === s.id && s.sheet && !state.fault, 'on-off': s.id === 'hollow' && recipe.hollow }">
          <button v-if="s.sheet" class="step" :aria-current="state.step === s.id && !state.fault" :title="s.explains" @click="choose(s.id)"><span>{{ s.name }}</span><span class="figure">{{ figures[s.id] }}</span></button>
          <span v-else-if="figures[s.id] && s.id === 'mend'" class="step still" :title="s.explains"><span>{{ s.name }}</span><span class="figure">{{ figures[s.id] }}</span></span>
          <label v-else class="step" :title="s.explains"><span>{{ s.name }}</span><NSwitch size="small" :value="s.id === 'mend' ? recipe.mended : recipe.mirrored" :aria-label="s.name" @update:value="(on: boolean) => flip(s.id, on)" /></label>
          <NSwitch v-if="s.id === 'hollow' && recipe.hollow" size="small" :value="recipe.hollow.on" aria-label="Hollow switched on" @update:value="(on: boolean) => bench.switchHollow(on)" />
        </li>
      </ul>
    </section>
    <section aria-label="Mesh">
      <h2>Mesh</h2>
      <MeshFigures />
    </section>
    <section v-if="notes.length" aria-label="Notes on the file">
      <h2>{{ store.part.source.fileName }}</h2>
      <p v-for="n in notes" :key="n" class="hint">{{ n }}</p>
    </section>
  </aside>
</template>

<style scoped>
.part-panel { background: var(--panel); border-right: 1px solid var(--divider); overflow-y: auto; padding: 4px 12px 12px; min-height: 0; }
section { padding: 8px 0 12px; border-bottom: 1px solid #ece6d9; }
section:last-child { border: 0; }
h2 { font-size: 13px; font-weight: 600; margin-bottom: 6px; overflow-wrap: anywhere; }
.question { display: grid; gap: 6px; background: #f6eddd; margin: 4px -12px 0; padding: 10px 12px 12px; justify-items: start; }
.question h2, .question p { margin: 0; }
ul { list-style: none; margin: 0 -12px; padding: 0; }
li { border-left: 3px solid transparent; }
li.on { border-color: var(--accent); background: #f6f1e6; }
.step { display: flex; justify-content: space-between; align-items: center; gap: 8px; width: 100%; min-height: 28px; padding: 0 12px 0 9px; background: none; border: 0; text-align: left; cursor: pointer; }
.step:hover { background: #f6f1e6; }
.step.still { cursor: default; background: none; }
.on-off { display: flex; align-items: center; padding-right: 12px; }
.step .figure { font-size: 12px; color: var(--quiet); text-align: right; }
.hint { margin-top: 6px; font-size: 12.5px; }
</style>
