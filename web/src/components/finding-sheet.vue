<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { WaivableKindSchema, type StiltVerdict, type StiltVerdictKind } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import { useBenchStore } from '../stores/bench'
import { adviceFor, kindOf, STATE_NAMES, type Finding } from '../findings'
import FindingSymbol from './finding-symbol.vue'
import WaiveForm from './waive-form.vue'

const props = defineProps<{ finding: Finding }>()
const bench = useBench(), state = useBenchStore()
const advice = computed(() => adviceFor(props.finding))
const title = computed(() => (kindOf(props.finding).title?.(props.finding) ?? props.finding.name))
const reason = computed(() => bench.whyNotHeld(props.finding))
const openNow = computed(() => props.finding.state === 'open' || props.finding.state === 'partly')
const facts = computed(() => kindOf(props.finding).facts(props.finding))
const lostCount = computed(() => state.worklist.findings.filter(f => f.kind === 'lost' && f.state === 'open').length)
/** All that is said of its kind, where a press settles it. */
const alike = computed(() => (kindOf(props.finding).fix ? bench.allOf(props.finding.kind as StiltVerdictKind) : []))
function fixThese(verdicts: readonly StiltVerdict[]): void {
  void bench.fix(verdicts)
}
const waivable = computed(() => WaivableKindSchema.safeParse(props.finding.kind).success)

const waiving = ref(false)
watch(() => props.finding.key, () => (waiving.value = false))
function askWhy(): void {
  if (openNow.value && waivable.value && props.finding.kind !== 'lost') waiving.value = true
}
function waive(reason: string): void {
  bench.waive(props.finding, reason)
  waiving.value = false
}
/** What W does: asks for the reason, or takes the waiver back. */
function toggleWaiver(): void {
  if (props.finding.state === 'waived') bench.takeBackWaiver(props.finding)
  else askWhy()
}
defineExpose({ toggleWaiver })
</script>

<template>
  <section class="finding" :aria-label="title">
    <h2><FindingSymbol :kind="finding.kind" :state="finding.state" /> {{ title }} <span class="quiet state">{{ STATE_NAMES[finding.state] }}</span></h2>
    <p>{{ advice.why }}</p>
    <p v-if="reason" class="reason">Not held: {{ reason }}</p>
    <p v-else class="quiet">{{ advice.help }}</p>
    <WaiveForm v-if="waiving" placeholder="hidden under the base" @waive="waive" @back="waiving = false" />
    <div v-else class="actions">
      <button v-if="kindOf(finding).noStilt === null && openNow" class="plain-button leading" title="Enter" :disabled="!!state.busy" @click="bench.holdOne(finding)">{{ finding.state === 'partly' ? 'Hold the rest' : finding.kind === 'ledge' ? 'Hold this ledge' : 'Hold this island' }}</button>
      <button v-if="kindOf(finding).fix && openNow" class="plain-button leading" :title="kindOf(finding).fix?.title" :disabled="!!state.busy" @click="fixThese([finding as StiltVerdict])">{{ kindOf(finding).fix?.label }}</button>
      <button v-if="(finding.kind === 'cup' || finding.kind === 'sealed') && finding.cup.vent && openNow" class="plain-button leading" title="Drills the hole that is proposed; it is listed in Part" :disabled="!!state.busy" @click="bench.drillVent(finding.cup)">Drill the vent</button>
      <button v-if="finding.kind === 'pool' && openNow" class="plain-button leading" title="Drills through the least wall where it gathers as the part hangs; it is listed in Part" :disabled="!!state.busy" @click="bench.drainPool(finding.pool)">Drill a drain</button>
      <button v-if="finding.kind === 'openings' && openNow" class="plain-button leading" title="At its lowest or highest place, whichever is farther from what opens it" :disabled="!!state.busy" @click="bench.openMore(finding)">Drill one more</button>
      <button v-if="finding.kind === 'narrow' && openNow" class="plain-button leading" title="To what the resin asks for" :disabled="!!state.busy" @click="bench.widen(finding)">Widen to {{ finding.wantedMm }} mm</button>
      <template v-if="finding.kind === 'lost' && openNow">
        <button class="plain-button leading" :disabled="!!state.busy" title="Moves its tip to the nearest place where it can stand" @click="bench.reaim(finding.stilts)">Re-aim</button>
        <button class="plain-button" @click="bench.removeLost(finding.stilts)">Remove</button>
        <button class="plain-button" title="Leave it in the plan for another pose; it is not printed" @click="bench.waive(finding, 'Kept for another pose')">Keep</button>
      </template>
      <button v-else-if="openNow && waivable" class="plain-button" title="Leave it as it is, for a reason (W)" @click="askWhy">Waive</button>
      <button v-if="finding.state === 'waived'" class="plain-button" title="W" @click="bench.takeBackWaiver(finding)">Take back the waiver</button>
      <button class="plain-button" title="Shift + N" @click="bench.step(-1)">Before</button>
      <button class="plain-button" title="N" @click="bench.step(1)">Next</button>
    </div>
    <p v-if="lostCount > 1 && finding.kind === 'lost'" class="quiet all">All {{ lostCount }} lost stilts: <button class="link-button" :disabled="!!state.busy" @click="bench.reaim(null)">Re-aim all</button><button class="link-button" @click="bench.removeLost(null)">Remove all</button></p>
    <p v-if="kindOf(finding).fix && openNow && alike.length > 1" class="quiet all">All {{ alike.length }} like this: <button class="link-button" :disabled="!!state.busy" @click="fixThese(alike)">{{ kindOf(finding).fix?.forAll }}</button></p>
    <dl>
      <template v-for="[name, value] in facts" :key="name"><dt>{{ name }}</dt><dd class="figure">{{ value }}</dd></template>
    </dl>
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
.reason { color: #560f2a; }
</style>
