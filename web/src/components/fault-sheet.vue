<script setup lang="ts">
import { computed } from 'vue'
import { useBench } from '../bench/use-bench'
import { countOf, FAULT_WORDS, stateOf, type MeshFault } from '../part/faults'
import { useJobStore } from '../stores/job'
import FaultSymbol from './fault-symbol.vue'

/** One kind of fault: what it is, why it matters, what was done about it. */
const props = defineProps<{ fault: MeshFault }>()
const bench = useBench(), store = useJobStore()
const words = computed(() => FAULT_WORDS[props.fault.kind])
const state = computed(() => stateOf(props.fault, store.part?.recipe.mended ?? true))
const settled = computed(() => state.value !== 'noted' && (store.part?.recipe.mended ?? true))
/** Whether there is anything that Mend would change. */
const mendable = computed(() => (store.part?.source.plainHash ?? null) !== null)
</script>

<template>
  <section class="fault-sheet" :aria-label="words.name">
    <h2><FaultSymbol :state="state" />{{ words.name }} <span class="figure">{{ countOf(fault) }}</span></h2>
    <p>{{ words.why }}</p>
    <p class="quiet">{{ words.help }}</p>
    <p v-if="settled" class="line"><span>Mended.</span><button v-if="mendable" class="plain-button" @click="bench.setRecipe({ mended: false }, 'take the mesh as it came')">Take as it came</button></p>
    <p v-else-if="mendable && !store.part?.recipe.mended" class="line"><span>Not mended.</span><button class="plain-button leading" @click="bench.setRecipe({ mended: true }, 'mend')">Mend</button></p>
    <p v-if="fault.segments.length === 0" class="quiet">They have no size, so there is nothing to show.</p>
  </section>
</template>

<style scoped>
.fault-sheet { padding: 12px; display: grid; gap: 10px; }
h2 { font-size: 13px; font-weight: 600; display: flex; gap: 6px; align-items: center; }
h2 .figure { margin-left: auto; font-weight: 400; font-size: 12.5px; }
.line { display: flex; justify-content: space-between; align-items: center; }
</style>
