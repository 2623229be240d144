<script setup lang="ts">
import { computed } from 'vue'
import { isFinished } from '@oak-stilts/core/finish'
import { volumeOf } from '@oak-stilts/core/mesh'
import { shapeOf } from '@oak-stilts/core/pose'
import { useBench } from '../bench/use-bench'
import { countOf, FAULT_WORDS, stateOf, type MeshFault } from '../part/faults'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import FaultSymbol from './fault-symbol.vue'

/** What the mesh of the part comes to, and what was found in it. */
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const mesh = computed(() => store.part?.source.summary)
const mended = computed(() => store.part?.recipe.mended ?? true)
/** The mesh that was made of the file's, where more was done to it than to scale it. */
const made = computed(() => (store.part && isFinished(store.part.recipe) ? (bench.model.value?.mesh ?? null) : null))
const triangles = computed(() => (made.value ? made.value.triangles.length / 3 : (mesh.value?.triangles ?? 0)))
const volume = computed(() => {
  const shape = store.part && shapeOf(store.part.recipe)
  const mm3 = made.value ? volumeOf(made.value) : mesh.value && shape ? mesh.value.volumeMm3 * Math.abs(shape[0] * shape[1] * shape[2]) : 0
  return mm3 < 1000 ? `${mm3.toPrecision(3)} mm³` : `${(mm3 / 1000).toFixed(2)} cm³`
})
const spoken = (f: MeshFault): string => `${FAULT_WORDS[f.kind].name}, ${countOf(f)}, ${{ open: 'open', settled: 'mended', noted: 'left as it is' }[stateOf(f, mended.value)]}`
</script>

<template>
  <template v-if="mesh">
    <dl>
      <dt>Triangles</dt><dd class="figure">{{ triangles.toLocaleString('en') }}</dd>
      <dt>Volume</dt><dd class="figure">{{ volume }}</dd>
      <template v-if="!made"><dt>Shells</dt><dd class="figure">{{ mesh.shells.toLocaleString('en') }}</dd></template>
    </dl>
    <p v-if="mesh.tooDamaged" class="warn">Over 2 % of its edges are unclosed: the mesh is too damaged to trust what is found in it. Repair it before printing.</p>
    <ul v-if="bench.faults.value.length" aria-label="Faults of the mesh">
      <li v-for="f in bench.faults.value" :key="f.kind" :class="{ on: state.fault === f.kind }">
        <button :aria-label="spoken(f)" :aria-current="state.fault === f.kind" @click="void bench.showFault(f.kind)"><FaultSymbol :state="stateOf(f, mended)" /><span>{{ FAULT_WORDS[f.kind].name }}</span><span class="figure">{{ countOf(f) }}</span></button>
      </li>
    </ul>
    <p v-else-if="store.part?.source.faultsHash" class="quiet">Closed, and nothing in it is odd.</p>
  </template>
</template>

<style scoped>
dl { display: grid; grid-template-columns: auto 1fr; gap: 4px 10px; margin: 0; }
dt { color: var(--quiet); }
dd { margin: 0; text-align: right; font-size: 12px; }
ul { list-style: none; margin: 8px -12px 0; padding: 0; }
li { border-left: 3px solid transparent; }
li.on { border-color: var(--accent); background: #f6f1e6; }
button { display: grid; grid-template-columns: 18px 1fr auto; align-items: center; gap: 6px; width: 100%; min-height: 28px; padding: 0 12px 0 9px; background: none; border: 0; text-align: left; cursor: pointer; }
button:hover { background: #f6f1e6; }
button .figure { font-size: 12px; color: var(--quiet); }
.warn { margin-top: 8px; color: #560f2a; font-weight: 500; font-size: 12.5px; }
.quiet { margin-top: 6px; font-size: 12.5px; }
</style>
