<script setup lang="ts">
import { computed } from 'vue'
import { useBench } from '../stage/use-bench'
import { MARKS } from '../stage/marks'
import { useBenchStore } from '../stores/bench'
import { adviceFor, type Finding } from '../stores/findings'
import FindingMark from './finding-mark.vue'

const props = defineProps<{ finding: Finding }>()
const bench = useBench(), state = useBenchStore()
const advice = computed(() => adviceFor(props.finding))
const title = computed(() => (props.finding.kind === 'island' ? `${props.finding.name} island` : MARKS[props.finding.kind].name))
const reason = computed(() => (props.finding.island ? bench.notHeld.value.get(props.finding.island.id) : undefined))
const facts = computed<[string, string][]>(() => {
  const f = props.finding
  if (f.island) {
    return [
      ['First layer', `${f.island.layer + 1}, ${f.island.zMm.toFixed(2)} mm`], ['Its area', `${f.island.areaMm2.toFixed(4)} mm²`], ['Largest area', `${f.island.largestAreaMm2.toFixed(2)} mm²`],
      ['Joins at layer', f.island.joinsLayer === null ? 'never' : String(f.island.joinsLayer + 1)], ['Hangs on it', f.figure], ['Centre', f.island.center.slice(0, 2).map(v => v.toFixed(2)).join(', ') + ' mm'],
    ]
  }
  if (f.cup) {
    return [
      ['Layers', `${f.cup.firstLayer + 1} to ${f.cup.lastLayer + 1}`], ['Encloses at most', `${f.cup.peakAreaMm2.toFixed(1)} mm²`], ['At layer', String(f.cup.peakLayer + 1)], ['Volume', f.figure],
      ['Ends', f.cup.ends === 'vent' ? 'where it joins the outside' : f.cup.ends === 'closed' ? 'closed, resin stays in' : 'stays a cup to the end'],
    ]
  }
  return [['Layer', String(f.layer + 1)]]
})
</script>

<template>
  <section class="finding" :aria-label="title">
    <h2><FindingMark :kind="finding.kind" :open="finding.state === 'open'" /> {{ title }} <span class="quiet state">{{ finding.state }}</span></h2>
    <p>{{ advice.why }}</p>
    <p class="quiet">{{ advice.help }}</p>
    <dl>
      <template v-for="[name, value] in facts" :key="name"><dt>{{ name }}</dt><dd class="figure">{{ value }}</dd></template>
    </dl>
    <p v-if="reason" class="reason">Not held: {{ reason }}</p>
    <div class="actions">
      <button v-if="finding.island && finding.state === 'open'" class="plain-button leading" title="Enter" :disabled="!!state.busy" @click="bench.hold([finding.island.id])">Hold this island</button>
      <button class="plain-button" title="Shift + N" @click="bench.step(-1)">Before</button>
      <button class="plain-button" title="N" @click="bench.step(1)">Next</button>
    </div>
  </section>
</template>

<style scoped>
.finding { padding: 10px; display: grid; gap: 8px; }
h2 { font-size: 14px; font-weight: 600; display: flex; align-items: center; gap: 8px; }
.state { font-weight: 400; font-size: 12.5px; }
dl { display: grid; grid-template-columns: auto 1fr; gap: 3px 12px; margin: 0; }
dt { color: var(--quiet); }
dd { margin: 0; text-align: right; font-size: 12.5px; }
.actions { display: flex; gap: 6px; }
.reason { color: #560f2a; }
</style>
