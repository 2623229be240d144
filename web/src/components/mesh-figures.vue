<script setup lang="ts">
import { computed } from 'vue'
import { shapeOf } from '@oak-stilts/core/pose'
import { useJobStore } from '../stores/job'

/** What the mesh of the part comes to, and what was put right in it when it was brought in. */
const store = useJobStore()
const mesh = computed(() => store.part?.source.summary)
const shape = computed(() => (store.part ? shapeOf(store.part.recipe) : null))
const volume = computed(() => {
  const mm3 = mesh.value && shape.value ? mesh.value.volumeMm3 * Math.abs(shape.value[0] * shape.value[1] * shape.value[2]) : 0
  return mm3 < 1000 ? `${mm3.toPrecision(3)} mm³` : `${(mm3 / 1000).toFixed(2)} cm³`
})
const mended = computed(() => {
  const m = mesh.value
  if (!m) return []
  const out: string[] = []
  if (m.zippedEdges) out.push(`${m.zippedEdges} ${m.zippedEdges === 1 ? 'edge has' : 'edges have'} corners of the next face on ${m.zippedEdges === 1 ? 'it' : 'them'}; these seams have no width and were zipped.`)
  if (m.cappedLoops) out.push(`${m.unclosedEdges} unclosed edges; ${m.cappedLoops} ${m.cappedLoops === 1 ? 'hole was' : 'holes were'} closed for the scan.`)
  if (m.tooDamaged) out.push('The mesh is too damaged to trust. Repair it before printing.')
  if (m.turnedShells) out.push(`${m.turnedShells} ${m.turnedShells === 1 ? 'shell faced' : 'shells faced'} the wrong way and ${m.turnedShells === 1 ? 'was' : 'were'} turned.`)
  if (m.sheets) out.push(`${m.sheets} ${m.sheets === 1 ? 'sheet' : 'sheets'} without a thickness left out.`)
  if (m.duplicateTriangles) out.push(`${m.duplicateTriangles.toLocaleString('en')} repeated triangles dropped.`)
  if (m.cavities) out.push(`${m.cavities} closed ${m.cavities === 1 ? 'cavity' : 'cavities'} inside.`)
  return out
})
</script>

<template>
  <template v-if="mesh">
    <dl>
      <dt>Triangles</dt><dd class="figure">{{ mesh.triangles.toLocaleString('en') }}</dd>
      <dt>Volume</dt><dd class="figure">{{ volume }}</dd>
      <dt>Unclosed edges</dt><dd class="figure">{{ mesh.unclosedEdges }}</dd>
    </dl>
    <p v-for="m in mended" :key="m" class="hint">{{ m }}</p>
  </template>
</template>

<style scoped>
dl { display: grid; grid-template-columns: auto 1fr; gap: 4px 10px; margin: 0; }
dt { color: var(--quiet); }
dd { margin: 0; text-align: right; font-size: 12px; }
.hint { margin-top: 8px; font-size: 12.5px; }
</style>
