<script setup lang="ts">
import { onScopeDispose, ref, watch } from 'vue'
import type { PlanMeasures } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import type { ComparedPlan } from '../bench/comparing'
import BenchDialog from '../components/bench-dialog.vue'
import { useKitStore } from '../stores/kit'
import { classesOf, isLeast, rowsFor, type MeasureRow } from './measure-rows'
import TipSizes from './tip-sizes.vue'

/** Plans of the part side by side: a picture of each from the same side, and what it comes to. */
const props = defineProps<{ /** A picture of the part with a plan, as it is looked at now. */ picture: (plan: ComparedPlan) => Promise<Blob | null> }>()
const bench = useBench(), kit = useKitStore()
const pictures = ref<Record<string, string>>({})

watch(() => bench.compareShown.value, on => {
  if (on) void bench.loadVersions()
  else forget()
})
watch(() => bench.comparedPlans.value.filter(p => p.found && !(p.id in pictures.value)), async fresh => {
  for (const plan of fresh) {
    pictures.value[plan.id] = ''
    const png = await props.picture(plan)
    if (png && bench.compareShown.value) pictures.value[plan.id] = URL.createObjectURL(png)
  }
})
function written(row: MeasureRow, m: PlanMeasures): string {
  const value = row.of(m)
  return value === null ? '–' : `${value.toFixed(row.digits)} ${row.unit}`
}
function forget(): void {
  for (const url of Object.values(pictures.value)) if (url) URL.revokeObjectURL(url)
  pictures.value = {}
}
onScopeDispose(forget)

function add(event: Event): void {
  const select = event.target as HTMLSelectElement, [kind] = select.value.split(' ', 1), id = select.value.slice(kind.length + 1)
  select.value = ''
  const recipe = kit.kit.recipes.find(r => r.recipe.id === id)?.recipe, version = bench.versions.value?.find(v => v.id === id)
  if (kind === 'recipe' && recipe) bench.addRecipeToCompare(recipe)
  if (kind === 'usual') bench.addRecipeToCompare({ id: '', name: 'As usual', note: '', options: bench.usualOptions, provedWith: [], cameOut: 0, failed: 0 })
  if (kind === 'version' && version) void bench.addVersion(version)
}
</script>

<template>
  <BenchDialog :shown="bench.compareShown.value" title="Compare plans" width="1120px" @update:shown="bench.closeCompare()">
    <p class="bar">
      <select aria-label="Add a plan" @change="add"><option value="">Add a plan…</option><optgroup label="Planned anew"><option value="usual">As usual</option><option v-for="r in kit.kit.recipes" :key="r.id" :value="`recipe ${r.recipe.id}`">{{ r.recipe.name }}</option></optgroup><optgroup v-if="bench.versions.value?.length" label="Versions of the job"><option v-for="v in bench.versions.value" :key="v.id" :value="`version ${v.id}`">{{ v.name }}</option></optgroup></select>
      <span class="quiet">A recipe plans from nothing, but keeps stilts that are pinned. The least of each row is set bold. Nothing is changed until one is taken.</span>
    </p>
    <div class="table">
      <table>
        <thead>
          <tr><td /><th v-for="p in bench.comparedPlans.value" :key="p.id" scope="col"><span class="name">{{ p.name }}</span><button v-if="p.from !== 'now'" class="link-button" :aria-label="`Leave ${p.name} out`" title="Leave it out" @click="bench.removeCompared(p.id)"><span aria-hidden="true">×</span></button></th></tr>
          <tr class="pictures"><td /><td v-for="p in bench.comparedPlans.value" :key="p.id"><img v-if="pictures[p.id]" :src="pictures[p.id]" :alt="`${p.name}, seen from the same side`" width="216" /><p v-else-if="p.state !== 'done'" class="wait quiet" role="status" :aria-label="`Plan ${p.name}`">{{ p.said }}</p></td></tr>
        </thead>
        <tbody>
          <tr class="take"><td /><td v-for="p in bench.comparedPlans.value" :key="p.id"><button class="plain-button" :disabled="!p.found" :aria-label="p.from === 'now' ? 'Keep it as it is' : `Take ${p.name}`" @click="bench.takeCompared(p.id)">{{ p.from === 'now' ? 'Keep it' : 'Take this one' }}</button></td></tr>
          <tr><th scope="row">Proof</th><td v-for="p in bench.comparedPlans.value" :key="p.id" class="verdict" :title="p.verdict"><template v-if="p.found">{{ p.ready ? 'Ready to print' : 'Not ready' }}</template></td></tr>
          <tr v-for="r in rowsFor(bench.comparedDone.value)" :key="r.label" :title="r.explains"><th scope="row">{{ r.label }}</th><td v-for="p in bench.comparedPlans.value" :key="p.id" class="figure" :class="{ least: p.found && isLeast(r, p.found.measures, bench.comparedDone.value) }"><template v-if="p.found">{{ written(r, p.found.measures) }} <span v-if="r.label === 'Open islands'" class="quiet">{{ classesOf(p.found.measures) }}</span></template></td></tr>
          <tr><th scope="row">Tips by size</th><td v-for="p in bench.comparedPlans.value" :key="p.id"><TipSizes v-if="p.found" :sizes="p.found.measures.tipsBySize" /></td></tr>
          <tr><th scope="row">Took</th><td v-for="p in bench.comparedPlans.value" :key="p.id" class="figure"><template v-if="p.found">{{ p.found.seconds.toFixed(1) }} s</template></td></tr>
        </tbody>
      </table>
    </div>
  </BenchDialog>
</template>

<style scoped>
.bar { display: flex; gap: 14px; align-items: center; margin-bottom: 10px; font-size: 12.5px; }
select { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 27px; color: var(--ink); }
.table { overflow: auto; max-height: 79vh; }
table { border-collapse: collapse; }
th, td { padding: 3px 14px 3px 0; text-align: left; vertical-align: top; font-weight: 400; }
tbody th { color: var(--quiet); white-space: nowrap; min-width: 110px; }
tbody tr { border-top: 1px solid #ece6d9; }
thead th { font-weight: 600; min-width: 216px; line-height: 20px; }
.name { overflow-wrap: anywhere; }
thead button { font-size: 15px; line-height: 1; margin-left: 6px; padding-block: 0; }
td .quiet { font-family: var(--sans, inherit); font-weight: 400; font-size: 12px; }
img, .wait { display: block; width: 216px; min-height: 160px; border: 1px solid var(--divider); border-radius: 4px; background: var(--paper); }
.wait { display: grid; place-items: center; text-align: center; padding: 0 10px; box-sizing: border-box; font-size: 12.5px; }
.least { font-weight: 700; }
.take { border-top: 0; }
.take td { padding: 4px 0 8px; }
</style>
