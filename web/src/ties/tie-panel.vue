<script setup lang="ts">
import { computed } from 'vue'
import { shaftOf, type Stilt } from '@oak-stilts/core/stilts'
import { useBench } from '../bench/use-bench'
import NumberField from '../components/number-field.vue'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'

/** What ties the selected stilts to others, and what can: braces, joins, props. */
const props = defineProps<{ stilts: readonly Stilt[] }>()
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const { bracing } = bench
const LEANS_FROM_DEG = 5
const several = computed(() => props.stilts.length > 1)
const leaning = computed(() => props.stilts.some(s => s.foot !== 'lost' && s.alone === s.nodes.length && shaftOf(s.path).leanDeg > LEANS_FROM_DEG))
const facts = computed(() => {
  const [first] = props.stilts
  const braces = bench.bracesOfSelected().beams.length
  const owns = new Set(props.stilts.flatMap(s => s.nodes.slice(0, s.alone)))
  const branches = store.stilts.filter(s => s.alone < s.nodes.length && owns.has(s.nodes[s.alone]) && !props.stilts.includes(s)).length
  const host = !several.value && first.alone < first.nodes.length ? store.stilts.find(s => s !== first && s.nodes.slice(0, s.alone).includes(first.nodes[first.alone])) : undefined
  return { braces, branches, host }
})
</script>

<template>
  <section v-if="several || facts.braces || facts.branches || facts.host || leaning" class="ties" aria-label="Ties">
    <p v-if="facts.host">Branch of <button class="link-button" @click="state.selectedStilts = [facts.host.id]">stilt {{ facts.host.number }}</button></p>
    <p v-if="facts.branches">{{ facts.branches === 1 ? '1 branch hangs' : `${facts.branches} branches hang` }} on {{ several ? 'these' : 'it' }}</p>
    <p v-if="facts.braces">{{ facts.braces === 1 ? '1 brace or prop' : `${facts.braces} braces and props` }} <button class="link-button" @click="bench.removeBraces()">Take away</button></p>
    <p v-if="several || leaning" class="row">
      <template v-if="several"><button class="plain-button" title="Zigzags between neighbours (C)" @click="bench.braceSelected()">Brace</button><button class="plain-button" title="To each other, as high as possible (J)" @click="bench.joinSelected()">Join</button></template>
      <button v-if="leaning" class="link-button" title="A stilt of its own under the middle of the leaning shaft (Shift + J)" @click="bench.propSelected()">Prop up</button>
    </p>
    <p v-if="several" class="row quiet">
      braces <span title="Between the end of one brace and the start of the next">every <NumberField label="Brace spacing" :values="[bracing.spacingMm]" :min="0" :max="50" :step="0.5" @change="bracing.spacingMm = $event[0]" /></span>
      <span title="Above level">at <NumberField label="Brace angle" unit="°" :digits="0" :values="[bracing.angleDeg]" :min="15" :max="75" :step="5" @change="bracing.angleDeg = $event[0]" /></span>
    </p>
  </section>
</template>

<style scoped>
.ties { padding: 5px 10px 7px; border-bottom: 1px solid var(--divider); font-size: 12.5px; }
.ties p { margin: 3px 0; }
.row { display: flex; gap: 8px; align-items: center; }
.row span { display: flex; gap: 6px; align-items: center; color: var(--quiet); }
</style>
