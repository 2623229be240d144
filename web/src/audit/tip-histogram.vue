<script setup lang="ts">
import { BarController, BarElement, CategoryScale, Chart, LinearScale, Tooltip } from 'chart.js'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { binsOf, type AuditedTip } from '@oak-stilts/core/stilts'
import { PALETTE } from '../styles/palette'

/** Tips by size, and by role how many; a bar is selected by a click. */
Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip)
const props = defineProps<{ tips: readonly AuditedTip[]; leastMm: number }>()
const emit = defineEmits<{ choose: [ids: readonly string[], size: string] }>()

const STEP_MM = 0.05
const bins = computed(() => binsOf(props.tips, STEP_MM))
/** From dark to pale: what carries, what holds a region, what saves a detail. */
const ROLES = [['carrier', 'carry the part', PALETTE.ink], ['structural', 'hold a region', PALETTE.stilt], ['detail', 'save a detail', PALETTE.besideStilt]] as const
const said = computed(() => bins.value.filter(b => b.ids.length > 0).map(b => `${b.ids.length} from ${b.fromMm.toFixed(2)}`).join(', '))

const canvas = ref<HTMLCanvasElement | null>(null)
let chart: Chart<'bar', number[], string> | null = null
function draw(): void {
  if (!chart) return
  chart.data.labels = bins.value.map(b => b.fromMm.toFixed(2))
  chart.data.datasets.forEach((set, i) => {
    set.data = bins.value.map(b => b.count[ROLES[i][0]])
    // what is too thin stands out by its rim
    set.borderWidth = bins.value.map(b => (ROLES[i][0] !== 'detail' && b.fromMm < props.leastMm - STEP_MM / 2 ? 1.5 : 0))
  })
  chart.update('none')
}
onMounted(() => {
  if (!canvas.value) return
  chart = new Chart<'bar', number[], string>(canvas.value, {
    type: 'bar',
    data: { labels: [], datasets: ROLES.map(([, label, color]) => ({ label, data: [], backgroundColor: color, borderColor: PALETTE.accent, borderWidth: 0, barPercentage: 1, categoryPercentage: 0.86 })) },
    options: {
      animation: false, responsive: true, maintainAspectRatio: false,
      scales: {
        x: { stacked: true, grid: { display: false }, ticks: { color: PALETTE.quiet, font: { size: 10 }, maxRotation: 0 } },
        y: { stacked: true, grid: { color: PALETTE.divider }, ticks: { color: PALETTE.quiet, font: { size: 10 }, maxTicksLimit: 4, precision: 0 } },
      },
      onClick: (_event, [element]) => {
        const bin = element && bins.value[element.index]
        if (bin) emit('choose', bin.ids, `${bin.fromMm.toFixed(2)} to ${bin.toMm.toFixed(2)} mm`)
      },
    },
  })
  draw()
})
watch([bins, () => props.leastMm], draw)
onBeforeUnmount(() => chart?.destroy())
</script>

<template>
  <div class="histogram">
    <div class="canvas"><canvas ref="canvas" role="img" :aria-label="`Tips by diameter in mm: ${said}`" /></div>
    <p class="legend quiet"><span v-for="[role, label, color] in ROLES" :key="role"><i :style="{ background: color }" />{{ label }}</span></p>
  </div>
</template>

<style scoped>
.canvas { position: relative; height: 88px; overflow: hidden; }
.canvas canvas { position: absolute; inset: 0; }
.legend { display: flex; flex-wrap: wrap; gap: 2px 10px; font-size: 11.5px; }
.legend i { display: inline-block; width: 9px; height: 9px; margin-right: 4px; }
</style>
