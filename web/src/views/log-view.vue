<script setup lang="ts">
import { BarController, BarElement, CategoryScale, Chart, LinearScale, Tooltip } from 'chart.js'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'
import type { Print } from '@oak-stilts/core/contract'
import { tallyBy } from '@oak-stilts/core/print'
import { api } from '../api/client'
import PageHeader from '../components/page-header.vue'
import { dayText, outcomeText } from '../print/outcomes'
import { durationText } from '../print/words'
import { PALETTE } from '../styles/palette'

Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip)

/** All that was printed: how it came out, and by what success and failure go together. */
const prints = shallowRef<readonly Print[] | null>(null), trouble = ref('')
const jobs = shallowRef<ReadonlySet<string>>(new Set())
onMounted(async () => {
  document.title = 'Print log – Oak Stilts'
  try {
    const [found, there] = await Promise.all([api.prints(), api.list()])
    prints.value = found
    jobs.value = new Set(there.map(j => j.id))
  } catch (error) {
    trouble.value = (error as Error).message
  }
})
const TALLIES: readonly { readonly name: string; readonly by: (p: Print) => readonly string[] }[] = [
  { name: 'Resin', by: p => [p.facts.resin.name] }, { name: 'Gauge', by: p => p.facts.parts.flatMap(x => x.gauges.map(g => g.name)) }, { name: 'Recipe', by: p => p.facts.parts.map(x => x.recipe ?? 'none') },
]
const tallies = computed(() => TALLIES.map(t => ({ name: t.name, rows: tallyBy(prints.value ?? [], t.by).slice(0, 6) })).filter(t => t.rows.length > 1 || (t.rows.length === 1 && t.rows[0].name !== 'none')))
const canvases = ref<HTMLCanvasElement[]>([])
let charts: Chart[] = []
watch(tallies, async all => {
  await nextTick()
  for (const c of charts) c.destroy()
  charts = all.flatMap(({ rows }, i) => {
    const canvas = canvases.value[i]
    return canvas ? [new Chart(canvas, {
      type: 'bar',
      data: { labels: rows.map(r => r.name), datasets: [{ label: 'came out', data: rows.map(r => r.good), backgroundColor: PALETTE.stilt }, { label: 'failed', data: rows.map(r => r.failed), backgroundColor: '#fffdf8', borderColor: PALETTE.ink, borderWidth: 1.5 }] },
      options: { indexAxis: 'y', animation: false, responsive: true, font: { family: '"IBM Plex Sans"', size: 13 }, maintainAspectRatio: false, scales: { x: { stacked: true, ticks: { precision: 0 }, grid: { color: PALETTE.divider } }, y: { stacked: true, grid: { display: false } } }, plugins: { legend: { display: false } } },
    })] : []
  })
})
onBeforeUnmount(() => {
  for (const c of charts) c.destroy()
})
const said = computed(() => (prints.value ?? []).filter(p => p.outcome)), good = computed(() => said.value.filter(p => p.outcome?.kind === 'good').length)
</script>

<template>
  <div class="log-page">
    <PageHeader title="Print log"><span v-if="said.length" class="quiet">{{ good }} of {{ said.length }} came out.</span></PageHeader>
    <main>
      <p v-if="trouble" role="alert">{{ trouble }}</p>
      <p v-else-if="prints && !prints.length">Nothing was printed yet. What a printer starts in the Print view of a job is noted here.</p>
      <template v-else-if="prints">
        <div class="tallies">
          <figure v-for="(t, i) in tallies" :key="t.name"><figcaption>{{ t.name }} <span class="quiet"><i class="good" /> came out <i class="failed" /> failed</span></figcaption><div class="chart" :style="{ height: `${40 + 26 * t.rows.length}px` }"><canvas ref="canvases" role="img" :data-index="i" :aria-label="`${t.name}: ${t.rows.map(r => `${r.name} ${r.good} came out, ${r.failed} failed`).join('; ')}`" /></div></figure>
        </div>
        <table>
          <thead><tr><th scope="col">Date</th><th scope="col">What</th><th scope="col">How it came out</th><th scope="col">Printer, resin</th><th scope="col">Layers</th><th scope="col">Time</th><th scope="col">Resin</th></tr></thead>
          <tbody>
            <tr v-for="p in prints" :key="p.id">
              <td>{{ dayText(p.at) }}</td><td><RouterLink v-if="p.job && jobs.has(p.job.id)" :to="`/jobs/${p.job.id}/print?trace=${p.id}`">{{ p.name }}</RouterLink><template v-else>{{ p.name }}</template></td>
              <td><span class="state" :class="p.outcome?.kind ?? 'open'" aria-hidden="true" />{{ outcomeText(p) }}<p v-if="p.outcome?.note" class="quiet">{{ p.outcome.note }}</p></td>
              <td>{{ p.facts.printer }}, {{ p.facts.resin.name }}</td><td class="figure">{{ p.facts.layers.toLocaleString('en') }} × {{ p.facts.layerMm }}</td><td class="figure">{{ p.seconds > 0 ? `~${durationText(p.seconds)}` : '–' }}</td><td class="figure">{{ p.seconds > 0 ? `${p.resinMl.toFixed(1)} ml` : '–' }}</td>
            </tr>
          </tbody>
        </table>
      </template>
    </main>
  </div>
</template>

<style scoped>
.log-page { display: grid; grid-template-rows: auto 1fr; height: 100%; font-size: 15px; }
main { overflow-y: auto; padding: 16px 20px; display: grid; gap: 18px; align-content: start; }
.tallies { display: grid; grid-template-columns: repeat(auto-fit, minmax(280px, 1fr)); gap: 16px; }
figure { margin: 0; border: 1px solid var(--divider); border-radius: 6px; padding: 10px 12px; background: var(--panel); }
figcaption { font-weight: 600; display: flex; justify-content: space-between; }
figcaption .quiet { font-weight: 400; font-size: 12.5px; }
figcaption i { display: inline-block; width: 10px; height: 10px; border: 1.5px solid var(--ink); margin-left: 6px; }
figcaption i.good { background: #1d6763; border-color: #1d6763; }
.chart { position: relative; }
table { border-collapse: collapse; width: 100%; }
th { text-align: left; font-weight: 400; color: var(--quiet); font-size: 13px; }
th, td { padding: 6px 10px 6px 0; border-bottom: 1px solid var(--divider); vertical-align: top; }
.state { display: inline-block; width: 10px; height: 10px; border: 2px solid var(--ink); margin-right: 8px; }
.state.good { border-radius: 50%; background: var(--ink); }
.state.failed { transform: rotate(45deg); }
.state.open { border-style: dotted; border-radius: 50%; }
</style>
