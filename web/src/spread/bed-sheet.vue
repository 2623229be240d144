<script setup lang="ts">
import { computed, ref } from 'vue'
import { useBench } from '../bench/use-bench'
import { LEAST_SHARE } from '../bench/bedding'
import NumberField from '../components/number-field.vue'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import { useKitStore } from '../stores/kit'

/** A bed of pegs: which one, where it lies, what of it touches and what is left out; dropped by a click, kept for other parts. */
const bench = useBench(), state = useBenchStore(), store = useJobStore(), kit = useKitStore()
const holding = computed(() => state.tool === 'bed')
const place = computed(() => (holding.value ? state.bed : (bench.chosenBed.value?.way ?? state.bed)))
const rows = computed(() => holding.value && state.bed.anew === null && !kit.kit.beds.some(b => b.id === state.bed.source))
const report = computed(() => bench.bedReport.value)
const keepable = computed(() => (holding.value ? state.chosenStilts.length : bench.keptBed.value ? 0 : state.chosenStilts.length))
const WORTHS = ['plain', 'prized', 'spare', 'off-limits']
const name = ref('')
async function keep(): Promise<void> {
  await bench.keepAsBed(name.value)
  name.value = ''
}
</script>

<template>
  <section class="bed-sheet" aria-label="Peg bed">
    <header>
      <strong v-if="!holding">{{ bench.chosenBed.value?.way.name }}</strong>
      <template v-else-if="state.bed.anew === null"><strong>Peg bed</strong><select :value="rows ? 'rows' : state.bed.source" aria-label="Which bed" @change="bench.takeBed(($event.target as HTMLSelectElement).value)"><option value="rows">rows under the whole part</option><option v-for="b in kit.kit.beds" :key="b.id" :value="b.id">{{ b.bed.name }}</option></select></template>
      <strong v-else>{{ bench.bedAnew.value?.way.name }}, moved</strong>
      <button v-if="!holding" class="link-button end" title="Shift it as one on the stage; its pegs are placed anew" @click="bench.takeUpBed()">Move it</button>
    </header>
    <template v-if="rows">
      <div class="line"><span>Every</span><NumberField label="Pegs every" :values="[state.bed.spacingMm]" :min="0.5" :max="100" :step="0.5" @change="state.bed.spacingMm = $event[0]" /></div>
      <div class="line"><label for="bed-rows">Rows</label><select id="bed-rows" v-model="state.bed.pattern"><option value="hexagonal">hexagonal</option><option value="square">square</option></select></div>
      <div class="line"><span>Top, foot ⌀</span><span><NumberField label="Peg top" :values="[state.bed.topMm]" :min="0.2" :max="6" :step="0.1" @change="state.bed.topMm = $event[0]" /> <NumberField label="Peg foot" :values="[state.bed.footMm]" :min="0.4" :max="12" :step="0.1" @change="state.bed.footMm = $event[0]" /></span></div>
    </template>
    <div class="line"><span>Lies at x, y</span><span><NumberField label="Bed x" :values="[place.xMm]" :min="-2000" :max="2000" :step="1" @change="bench.moveBed({ xMm: $event[0] })" /> <NumberField label="Bed y" :values="[place.yMm]" :min="-2000" :max="2000" :step="1" @change="bench.moveBed({ yMm: $event[0] })" /></span></div>
    <div class="line"><span>Turned by</span><NumberField label="Bed turn" unit="°" :digits="0" :values="[place.turnDeg]" :min="-360" :max="360" :step="5" @change="bench.moveBed({ turnDeg: $event[0] })" /></div>
    <label v-if="holding" class="line"><span>Keep a distance to tips that stand</span><input v-model="state.spread.keep" type="checkbox" /></label>
    <div v-if="report" role="status" aria-label="What touches">
      <p v-if="report.standing.length"><b class="figure">{{ report.standing.length }}</b> of {{ report.pegs }} touch, <b class="figure">{{ report.meanMm.toFixed(2) }}</b> mm deep on average, <b class="figure">{{ report.contactMm2.toFixed(1) }}</b> mm² of contact in all.<template v-if="report.partly"> <b class="figure">{{ report.partly }}</b> touch with less than {{ 100 * LEAST_SHARE }} % of their top.</template></p>
      <p v-else>None of {{ report.pegs }} pegs touches. Shift the bed under the part.</p>
    </div>
    <p v-if="holding" class="go"><button class="plain-button leading" :disabled="!report?.standing.length" title="Click on the stage, or Enter" @click="bench.dropBed()">{{ state.bed.anew ? 'Put it here' : `Drop ${report?.standing.length ?? 0} ${report?.standing.length === 1 ? 'peg' : 'pegs'}` }}</button></p>
    <details v-if="report?.leftOut.length"><summary>{{ report.pegs - report.standing.length }} left out</summary>
      <ul><li v-for="l in report.leftOut" :key="l.reason"><b class="figure">{{ l.pegs.length }}</b> {{ l.reason }} <span class="quiet figure">no. {{ l.pegs.slice(0, 12).join(', ') }}{{ l.pegs.length > 12 ? ' …' : '' }}</span></li></ul>
    </details>
    <details v-if="report?.standing.length"><summary>How each touches</summary>
      <table><thead><tr><th>no.</th><th>deep, mm</th><th>deepest</th><th>mm²</th><th>of its top</th><th>skin</th></tr></thead><tbody><tr v-for="p in report.standing.slice(0, 400)" :key="p.peg" :class="{ weak: p.share < LEAST_SHARE }"><td>{{ p.peg + 1 }}</td><td>{{ p.meanMm.toFixed(2) }}</td><td>{{ p.deepestMm.toFixed(2) }}</td><td>{{ p.contactMm2.toFixed(2) }}</td><td>{{ Math.round(100 * p.share) }} %</td><td>{{ WORTHS[p.worth] }}</td></tr></tbody></table>
    </details>
    <p v-if="bench.keptBed.value" class="quiet">{{ bench.keptBed.value.bed.provedWith.length ? `Proved with ${bench.keptBed.value.bed.provedWith.map(p => `${p.resin} (${p.on})`).join(', ')}.` : 'Not proved with any resin yet.' }} <button v-if="!holding" class="link-button" title="The bed remembers the resins it proved with" @click="bench.proveBed()">It printed well with {{ store.job?.resin.name }}</button></p>
    <form v-if="keepable" class="keep" @submit.prevent="keep"><input v-model="name" aria-label="Name of the bed" :placeholder="`Keep the ${keepable} selected as a bed`" maxlength="120" /><button class="plain-button" :disabled="!name.trim()">Keep</button></form>
  </section>
</template>

<style scoped>
.bed-sheet { padding: 8px 10px 10px; }
.bed-sheet p { margin: 6px 0; font-size: 12.5px; }
header { display: flex; align-items: center; gap: 10px; }
.end { margin-left: auto; }
.line { display: flex; justify-content: space-between; align-items: center; gap: 8px; min-height: 28px; white-space: nowrap; }
select { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 25px; color: var(--ink); min-width: 0; max-width: 190px; }
details { font-size: 12.5px; margin: 4px 0; }
ul { margin: 4px 0; padding-left: 16px; }
table { border-collapse: collapse; width: 100%; font: 400 12px var(--mono); }
th { font: 400 11.5px var(--sans, inherit); color: var(--quiet); text-align: right; }
td { text-align: right; }
.weak td { color: var(--accent); }
.keep { display: flex; gap: 6px; }
.keep input { flex: 1; min-width: 0; border: 1px solid var(--control); border-radius: 4px; height: 24px; padding: 0 6px; background: var(--panel); color: var(--ink); font-size: 12.5px; }
</style>
