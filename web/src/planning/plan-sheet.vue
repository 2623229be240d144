<script setup lang="ts">
import { computed, ref } from 'vue'
import { DEFAULT_SETTINGS } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import { useDraft } from '../input/draft'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import { useKitStore } from '../stores/kit'
import OptionsForm from './options-form.vue'
import { PLAN_BUTTON, recordOf } from './words'

/** What the next plan of this part is asked for, by a recipe or by hand. */
const emit = defineEmits<{ close: [] }>()
const bench = useBench(), state = useBenchStore(), store = useJobStore(), kit = useKitStore()
const holdMm = computed(() => (store.job?.settings ?? DEFAULT_SETTINGS).tipHoldMm)
const picking = computed(() => state.tool === 'pick')
const naming = ref(false)
const { text: name, reset } = useDraft(() => bench.planRecipe.value?.name ?? '')
async function keep(): Promise<void> {
  if (!name.value.trim()) return
  await bench.keepRecipe(name.value.trim())
  naming.value = false
  reset()
}
</script>

<template>
  <section class="plan-sheet" aria-label="Plan">
    <header>
      <strong>Plan</strong>
      <select :value="bench.planRecipe.value?.id ?? ''" aria-label="Recipe" title="Settings that work for a kind of part" @change="bench.chooseRecipe(($event.target as HTMLSelectElement).value || null)"><option value="">No recipe</option><option v-for="r in kit.kit.recipes" :key="r.id" :value="r.recipe.id">{{ r.recipe.name }}</option></select>
      <button class="link-button end" @click="emit('close')">Close</button>
    </header>
    <template v-if="bench.planRecipe.value"><p v-if="bench.planRecipe.value.note" class="quiet">{{ bench.planRecipe.value.note }}</p><p class="quiet">{{ bench.planChanged.value ? 'Changed here; the recipe itself is as it was.' : recordOf(bench.planRecipe.value) }}</p></template>
    <form v-if="naming" class="name" @submit.prevent="keep"><input v-model="name" maxlength="120" aria-label="Name of the recipe" placeholder="Name the recipe" /><button class="plain-button leading" :disabled="!name.trim()">Keep</button><button type="button" class="link-button" @click="naming = false">Leave</button></form>
    <p v-else class="end-row"><button class="plain-button leading" :disabled="!!state.busy || state.scanState === 'scanning'" @click="bench.makeReady('forest')">{{ bench.aimed.value ? `Plan ${bench.aimed.value}` : PLAN_BUTTON[bench.planOptions.value.what] }}</button> <button class="plain-button" title="Beside what recipes and versions make of it (Alt + C)" :disabled="!!state.busy || state.scanState === 'scanning'" @click="bench.openCompare()">Compare</button> <button class="plain-button" title="Improve the stilts that stand (Alt + O)" :disabled="!store.stilts.length || !!state.busy || state.scanState === 'scanning'" @click="bench.openOptimise()">Optimise</button></p>
    <p v-if="!naming" class="keep"><button class="link-button" @click="naming = true">Keep as a recipe</button></p>
    <div v-if="bench.aimed.value" class="aim"><span>Only for {{ bench.aimed.value }}.</span><button class="link-button" @click="bench.noAim()">For all again</button></div>
    <div v-if="picking" class="aim"><label for="pick-by">Pick faces by</label><select id="pick-by" v-model="state.markBy"><option value="patch">patch</option><option value="flat">flat</option><option value="brush">strokes</option><option value="box">box</option></select><button class="link-button" @click="state.tool = 'select'">Done</button></div>
    <p v-else-if="!bench.aimed.value" class="quiet">Only for some: Shift + click findings of the list, or <button class="link-button" title="Alt + F" @click="state.tool = 'pick'">pick faces</button></p>
    <OptionsForm :aimed="!!bench.aimed.value" :options="bench.planOptions.value" :gauges="bench.gauges.value" :hold-mm="holdMm" @change="bench.setPlanOptions($event)" />
  </section>
</template>

<style scoped>
.plan-sheet { padding: 8px 10px 12px; }
.plan-sheet > p { margin: 5px 0; font-size: 12.5px; }
header { display: flex; align-items: center; gap: 10px; }
select { background: var(--panel); border: 1px solid var(--control); border-radius: 4px; height: 25px; color: var(--ink); max-width: 200px; }
.end { margin-left: auto; }
.end-row, .name { display: flex; gap: 8px; margin: 8px 0 !important; }
.aim { display: flex; align-items: center; justify-content: space-between; gap: 8px; font-size: 12.5px; margin: 5px 0; }
.aim select { max-width: 130px; }
.keep { margin-top: -4px !important; }
.name input { flex: 1; background: var(--paper); border: 1px solid var(--control); border-radius: 4px; padding: 3px 8px; min-width: 0; }
</style>
