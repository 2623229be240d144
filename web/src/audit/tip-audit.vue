<script setup lang="ts">
import { computed, ref } from 'vue'
import { useBench } from '../bench/use-bench'
import NumberField from '../components/number-field.vue'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import SelectRule from './select-rule.vue'
import TipHistogram from './tip-histogram.vue'

/** The audit of tips: by size above the list, and what is too thin for what it carries made stronger. */
const bench = useBench(), state = useBenchStore(), store = useJobStore()
const weak = computed(() => bench.weakTips.value.length)
const percent = ref(15)
</script>

<template>
  <section v-if="store.stilts.length" class="audit" aria-label="Tips">
    <TipHistogram :tips="bench.audited.value" :least-mm="state.leastTipMm" @choose="(ids, size) => bench.selectStilts(ids, `${ids.length} ${ids.length === 1 ? 'tip' : 'tips'} of ${size}.`)" />
    <div class="line"><span title="A tip that carries the part or holds a region is commonly too thin under 0.40 mm; what saves a detail may be finer">Least that carries</span><NumberField label="Least tip that carries" :values="[state.leastTipMm]" :min="0.1" :max="3" @change="state.leastTipMm = $event[0]" /></div>
    <p class="said" role="status" aria-label="Tips too thin">{{ weak === 0 ? 'None that carries or holds a region is thinner.' : `${weak} ${weak === 1 ? 'that carries or holds a region is' : 'that carry or hold a region are'} thinner.` }}</p>
    <div v-if="weak" class="line">
      <button class="plain-button leading" :disabled="!!state.busy" :title="`Details are left alone`" @click="bench.strengthen('to the least')">To {{ state.leastTipMm.toFixed(2) }}</button>
      <span class="by"><button class="plain-button" :disabled="!!state.busy" title="Details are left alone" @click="bench.strengthen({ percent })">By</button><NumberField label="Strengthen by" unit="%" :digits="0" :step="1" :values="[percent]" :min="1" :max="200" @change="percent = $event[0]" /></span>
    </div>
    <div class="line"><SelectRule /><button v-if="weak" class="link-button" aria-label="Select the thin ones" title="Select the thin ones" @click="bench.selectWeak()">Thin ones</button></div>
  </section>
</template>

<style scoped>
.audit { padding: 8px 10px 6px; border-bottom: 1px solid var(--divider); font-size: 12.5px; }
.line { display: flex; justify-content: space-between; align-items: center; gap: 6px; min-height: 30px; }
.by { display: inline-flex; gap: 4px; align-items: center; }
.by :deep(input) { width: 34px; }
.said { margin: 0; }
.audit :deep(button) { white-space: nowrap; }
</style>
