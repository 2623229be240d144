<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { adviceFor, shareText, STATE_NAMES, volumeText, type Finding } from '../stores/findings'
import FindingMark from './finding-mark.vue'

const props = defineProps<{ finding: Finding }>()
const bench = useBench(), state = useBenchStore()
const advice = computed(() => adviceFor(props.finding))
const title = computed(() => (props.finding.kind === 'island' ? `${props.finding.name} island` : props.finding.kind === 'sealed' ? 'Sealed cavity' : props.finding.name))
const reason = computed(() => bench.whyNotHeld(props.finding))
const openNow = computed(() => props.finding.state === 'open' || props.finding.state === 'partly')
const mm = (v: number): string => `${v.toFixed(2)} mm`
const facts = computed<[string, string][]>(() => {
  const { island: i, ledge: l, cup: c, pool: p } = props.finding
  if (i) {
    return [
      ['First layer', `${i.layer + 1}, ${i.zMm.toFixed(2)} mm`], ['Its area', `${i.areaMm2.toFixed(4)} mm²`], ['Largest area', `${i.largestAreaMm2.toFixed(2)} mm²`],
      ['Joins at layer', i.joinsLayer === null ? 'never' : String(i.joinsLayer + 1)], ['Hangs on it', volumeText(i.volumeMm3)], ['Centre', i.center.slice(0, 2).map(v => v.toFixed(2)).join(', ') + ' mm'],
      ['Aim a tip at', i.aim.map(v => v.toFixed(2)).join(', ') + ' mm'], ['Within reach', shareText(i.heldShare)], ...(i.state === 'partly' ? [['Still hangs', `${i.hangingMm2.toFixed(2)} mm²`] as [string, string]] : []),
    ]
  }
  if (l) {
    return [
      ['Layers', `${l.firstLayer + 1} to ${l.lastLayer + 1}`], ['Reaches out', mm(l.reachMm)], ['Hangs without stilts', `${l.areaMm2.toFixed(2)} mm²`],
      ['Within reach', shareText(l.heldShare)], ...(l.state === 'partly' ? [['Still hangs', `${l.hangingMm2.toFixed(2)} mm²`] as [string, string]] : []),
      ['Held', !l.wide || l.spanMm === null ? 'on one side' : `on opposite sides, ${mm(l.spanMm)} apart`], [l.state === 'partly' ? 'Farthest that hangs' : 'Farthest point', l.worst.map(v => v.toFixed(2)).join(', ') + ' mm'],
    ]
  }
  if (c) {
    return [
      ['Layers', `${c.firstLayer + 1} to ${c.lastLayer + 1}`], ['Encloses at most', `${c.peakAreaMm2.toFixed(1)} mm²`], ['At layer', String(c.peakLayer + 1)], ['Volume', volumeText(c.volumeMm3)],
      ['Pull, estimate', `${c.pullN.toFixed(2)} N`],
      ['Ends', c.ends === 'vent' ? 'where it joins the outside' : c.ends === 'closed' ? 'closed, resin stays in' : 'stays a cup to the end'],
      ['Made by', c.bySupports ? 'stilts' : 'the part'],
      ['Proposed vent', c.vent ? `through ${mm(c.vent.wallMm)} of wall` : c.choked ? 'widen its passage' : c.bySupports ? 'part the stilts' : 'no wall is thin enough'],
      ...(c.vent ? [['Vent at', c.vent.at.map(v => v.toFixed(1)).join(', ') + ' mm'] as [string, string], ['Its way out', c.vent.direction[2] < -0.5 ? 'down, toward the plate' : `sideways, ${Math.round((Math.atan2(c.vent.direction[1], c.vent.direction[0]) * 180) / Math.PI)}°`] as [string, string]] : []),
    ]
  }
  if (p) return [['Layers', `${p.firstLayer + 1} to ${p.lastLayer + 1}`], ['Holds', volumeText(p.volumeMm3)], ['Widest', `${p.peakAreaMm2.toFixed(1)} mm²`]]
  return [['Layer', String(props.finding.layer + 1)]]
})

const waiving = ref(false)
const why = ref('')
const input = ref<HTMLInputElement | null>(null)
watch(() => props.finding.key, () => (waiving.value = false))
async function askWhy(): Promise<void> {
  if (!openNow.value || props.finding.kind === 'lost') return
  waiving.value = true
  why.value = ''
  await nextTick()
  input.value?.focus()
}
function waive(): void {
  if (!why.value.trim()) return
  bench.waive(props.finding, why.value)
  waiving.value = false
}
/** What W does: asks for the reason, or takes the waiver back. */
function toggleWaiver(): void {
  if (props.finding.state === 'waived') bench.takeBackWaiver(props.finding)
  else void askWhy()
}
defineExpose({ toggleWaiver })
</script>

<template>
  <section class="finding" :aria-label="title">
    <h2><FindingMark :kind="finding.kind" :state="finding.state" /> {{ title }} <span class="quiet state">{{ STATE_NAMES[finding.state] }}</span></h2>
    <p>{{ advice.why }}</p>
    <p class="quiet">{{ advice.help }}</p>
    <form v-if="waiving" class="waive" aria-label="Waive" @submit.prevent="waive">
      <label>Why it may stay <input ref="input" v-model="why" maxlength="300" placeholder="hidden under the base" @keydown.esc.stop="waiving = false" /></label>
      <span><button class="plain-button leading" :disabled="!why.trim()">Waive it</button> <button type="button" class="plain-button" @click="waiving = false">Back</button></span>
    </form>
    <div v-else class="actions">
      <button v-if="(finding.island || finding.ledge) && openNow" class="plain-button leading" title="Enter" :disabled="!!state.busy" @click="bench.holdOne(finding)">{{ finding.state === 'partly' ? 'Hold the rest' : finding.ledge ? 'Hold this ledge' : 'Hold this island' }}</button>
      <button v-if="openNow && finding.kind !== 'lost'" class="plain-button" title="Leave it as it is, for a reason (W)" @click="askWhy">Waive</button>
      <button v-if="finding.state === 'waived'" class="plain-button" title="W" @click="bench.takeBackWaiver(finding)">Take back the waiver</button>
      <button class="plain-button" title="Shift + N" @click="bench.step(-1)">Before</button>
      <button class="plain-button" title="N" @click="bench.step(1)">Next</button>
    </div>
    <dl>
      <template v-for="[name, value] in facts" :key="name"><dt>{{ name }}</dt><dd class="figure">{{ value }}</dd></template>
    </dl>
    <p v-if="reason" class="reason">Not held: {{ reason }}</p>
  </section>
</template>

<style scoped>
.finding { padding: 10px; display: grid; gap: 8px; }
h2 { font-size: 14px; font-weight: 600; display: flex; align-items: center; gap: 8px; }
.state { font-weight: 400; font-size: 12.5px; }
dl { display: grid; grid-template-columns: auto 1fr; gap: 3px 12px; margin: 0; }
dt { color: var(--quiet); }
dd { margin: 0; text-align: right; font-size: 12.5px; }
.actions { display: flex; gap: 6px; flex-wrap: wrap; }
.waive { display: grid; gap: 6px; }
.waive label { display: grid; gap: 3px; }
.waive input { border: 1px solid var(--control); border-radius: 4px; padding: 4px 6px; background: var(--panel); color: var(--ink); }
.reason { color: #560f2a; }
</style>
