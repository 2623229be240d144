<script setup lang="ts">
import { computed } from 'vue'
import { BUILT_IN_RECIPES, DEFAULT_SETTINGS, gaugesToKeep, RECIPE_FORMAT, withOptions, type Kit, type RecipeFile, type RecipeOfPlans } from '@oak-stilts/core/contract'
import { download } from '../files'
import { useDraft } from '../input/draft'
import { useKitStore } from '../stores/kit'
import OptionsForm from './options-form.vue'

/** A recipe of the workshop: what it is for, what it asks for, what it proved with, and how prints came out. Changing a built-in one makes it one's own. */
const props = defineProps<{ entry: Kit['recipes'][number] }>()
const emit = defineEmits<{ chosen: [id: string] }>()
const kit = useKitStore()
const recipe = computed(() => props.entry.recipe)
const builtIn = computed(() => BUILT_IN_RECIPES.find(r => r.id === recipe.value.id))
const gauges = computed(() => kit.kit.gauges.map(g => g.gauge))
const latest = computed(() => [...recipe.value.provedWith].reverse().slice(0, 12))

function change(changes: Partial<RecipeOfPlans>): void {
  void kit.putRecipe({ ...recipe.value, ...changes })
}
const { text: name, reset } = useDraft(() => recipe.value.name)
function rename(): void {
  if (name.value.trim()) change({ name: name.value.trim() })
  else reset()
}
const { text: note } = useDraft(() => recipe.value.note)
function remove(): void {
  const { id } = recipe.value
  void kit.remove(props.entry.id)
  emit('chosen', builtIn.value ? id : BUILT_IN_RECIPES[0].id)
}
function save(): void {
  const file: RecipeFile = { format: RECIPE_FORMAT, version: 1, recipe: recipe.value, gauges: gaugesToKeep(gauges.value, new Set(recipe.value.options.gauges ?? [])) }
  download(new Blob([JSON.stringify(file, null, 2)], { type: 'application/json' }), `${recipe.value.name.replace(/[^\p{L}\p{N} ._-]/gu, '').trim() || 'recipe'} recipe.json`)
}
const tilt = (p: RecipeOfPlans['provedWith'][number]): string => (p.tiltXDeg === 0 && p.tiltYDeg === 0 ? 'upright' : `tilted by ${Math.round(p.tiltXDeg)}° about x and ${Math.round(p.tiltYDeg)}° about y`)
</script>

<template>
  <div class="kit-recipe">
    <div class="head">
      <input v-model="name" class="name" aria-label="Recipe name" maxlength="120" @change="rename" @keydown.enter="($event.target as HTMLInputElement).blur()" />
      <button class="plain-button" @click="emit('chosen', kit.addRecipe(recipe).id)">Duplicate</button>
      <button class="plain-button" @click="save">Save as JSON</button>
      <button v-if="!entry.builtIn" class="plain-button" @click="remove">{{ builtIn ? 'Back to built-in' : 'Delete' }}</button>
    </div>
    <div class="columns">
      <div>
        <textarea v-model="note" rows="4" maxlength="600" aria-label="What it is for" placeholder="For which kind of part, and why" @change="change({ note: note.trim() })" />
        <OptionsForm :options="recipe.options" :gauges="gauges" :hold-mm="DEFAULT_SETTINGS.tipHoldMm" @change="change(withOptions(recipe, { ...recipe.options, ...$event }))" />
      </div>
      <div>
        <h3>Prints</h3>
        <p><b class="figure">{{ recipe.cameOut }}</b> came out, <b class="figure">{{ recipe.failed }}</b> failed.<template v-if="recipe.earlier"> Before its settings were last changed: {{ recipe.earlier.cameOut }} and {{ recipe.earlier.failed }}.</template></p>
        <p class="tell"><button class="plain-button" @click="change({ cameOut: recipe.cameOut + 1 })">One came out</button> <button class="plain-button" @click="change({ failed: recipe.failed + 1 })">One failed</button> <button v-if="recipe.cameOut + recipe.failed > 0" class="link-button" @click="change({ cameOut: 0, failed: 0, earlier: undefined })">Count anew</button></p>
        <p class="quiet">Prints of the log count by themselves, where their plan was made by it.</p>
        <h3>Proved with</h3>
        <p v-if="!latest.length" class="quiet">Nothing yet. What is planned by it on the bench and proves ready is noted here.</p>
        <ul v-else><li v-for="(p, i) in latest" :key="i">{{ p.part }}, {{ p.resin }}, {{ tilt(p) }}: <span class="figure">{{ p.tips }}</span> tips <span class="quiet">({{ p.on }}{{ p.earlier ? ', before its settings were last changed' : '' }})</span></li></ul>
      </div>
    </div>
    <p class="quiet">{{ entry.builtIn ? 'Built in, from common practice; a change makes it your own, and it can be had back.' : builtIn ? `Your own in the place of the built-in ${builtIn.name}.` : 'Your own.' }}</p>
  </div>
</template>

<style scoped>
.head { display: flex; align-items: center; gap: 10px; margin-bottom: 16px; flex-wrap: wrap; }
.name { font-size: 16px; font-weight: 600; border: 1px solid var(--control); border-radius: 4px; background: var(--panel); padding: 3px 8px; width: 280px; }
.columns { display: grid; grid-template-columns: repeat(auto-fill, minmax(300px, 380px)); gap: 14px 48px; align-items: start; }
textarea { width: 100%; box-sizing: border-box; border: 1px solid var(--control); border-radius: 4px; background: var(--panel); padding: 5px 8px; font: inherit; font-size: 13px; margin-bottom: 8px; resize: vertical; }
h3:not(:first-child) { margin-top: 16px; }
h3 { font-size: 13px; font-weight: 600; margin: 0 0 4px; }
.tell { margin: 6px 0; display: flex; gap: 8px; }
ul { list-style: none; padding: 0; margin: 0; font-size: 13px; }
li { padding: 3px 0; border-top: 1px solid var(--divider); }
.kit-recipe > p { margin-top: 14px; font-size: 13px; }
</style>
