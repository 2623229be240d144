<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Recipe } from '@oak-stilts/core/contract'
import { shapedSize, shapeOf } from '@oak-stilts/core/pose'
import { useBench } from '../bench/use-bench'
import { UNITS, unitName } from '../part/steps'
import { useBenchStore } from '../stores/bench'
import { useJobStore } from '../stores/job'
import CutSheet from './cut-sheet.vue'
import HolesSheet from './holes-sheet.vue'
import HollowSheet from './hollow-sheet.vue'
import NumberField from './number-field.vue'

/** The sizes of the step that is chosen. */
const bench = useBench(), store = useJobStore(), state = useBenchStore()
const locked = ref(true)
const AXES = [['Width, x', 0], ['Depth, y', 1], ['Height, z', 2]] as const
const source = computed(() => store.part?.source)
const recipe = computed(() => store.part?.recipe)
const size = computed(() => (source.value && recipe.value ? shapedSize(source.value.summary.sizeMm, shapeOf(recipe.value)) : ([0, 0, 0] as const)))

/** Multiplies one axis, or all of them alike. */
function scaleBy(axis: 0 | 1 | 2, factor: number): void {
  const now = recipe.value?.scale
  if (!now || !(factor > 0)) return
  const scale: Recipe['scale'] = [now[0], now[1], now[2]]
  for (const a of [0, 1, 2] as const) if (locked.value || a === axis) scale[a] = Math.max(0.001, Math.min(1000, now[a] * factor))
  void bench.setRecipe({ scale }, 'scale')
}
const changed = computed(() => recipe.value?.scale.some(s => s !== 1) ?? false)
/** The part beside the plate, as long as nothing is tilted. */
const fit = computed(() => {
  const printer = store.job?.printer
  if (!printer) return null
  const room = [printer.widthMm, printer.depthMm, printer.heightMm], over = size.value.map((v, a) => v > room[a])
  const turned = size.value[0] <= room[1] && size.value[1] <= room[0]
  return {
    room: room.map(v => v.toFixed(0)).join(' × '),
    sentence: over[2] ? 'It is higher than the printer; tilt or scale it.' : over[0] || over[1] ? (turned ? 'It fits once it is turned by 90°.' : 'It does not fit as it is; tilt or scale it.') : `It takes ${Math.round(100 * Math.max(size.value[0] / room[0], size.value[1] / room[1]))} % of the plate at its longer side.`,
  }
})
const sizeIn = (mm: number): string => (source.value ? `${Number((Math.max(...source.value.summary.sizeMm) * mm).toPrecision(3)).toLocaleString('en')} mm` : '')
</script>

<template>
  <section v-if="source && recipe && state.step === 'units'" class="part-sheet" aria-label="Units">
    <h2>Units</h2>
    <p v-if="source.statedUnitMm !== null" class="quiet">The file says {{ unitName(source.statedUnitMm) }}, and was taken so. Scale changes its size.</p>
    <template v-else>
      <p class="quiet">The file states no unit. What are its numbers?</p>
      <label v-for="u in UNITS" :key="u.mm" class="choice"><input type="radio" name="unit" :value="u.mm" :checked="recipe.unitMm === u.mm" @change="bench.setRecipe({ unitMm: u.mm }, `take as ${u.short}`)" /> <span>{{ u.name }}</span> <span class="figure quiet">{{ sizeIn(u.mm) }}</span></label>
      <p class="quiet">The largest side is given beside each.</p>
    </template>
  </section>
  <HollowSheet v-else-if="source && state.step === 'hollow'" />
  <HolesSheet v-else-if="source && state.step === 'holes'" />
  <CutSheet v-else-if="source && state.step === 'cut'" />
  <section v-else-if="source && recipe" class="part-sheet" aria-label="Scale">
    <h2>Scale</h2>
    <table>
      <thead><tr><th scope="col"><span class="visually-hidden">Axis of the file</span></th><th scope="col">Size</th><th scope="col">Of the file</th></tr></thead>
      <tbody>
        <tr v-for="[name, axis] in AXES" :key="axis">
          <th scope="row">{{ name }}</th>
          <td><NumberField :label="name" :values="[size[axis]]" :min="0.01" :max="2000" :step="1" @change="scaleBy(axis, $event[0] / size[axis])" /></td>
          <td><NumberField :label="`${name} of the file`" unit="%" :digits="1" :values="[100 * recipe.scale[axis]]" :min="0.1" :max="100000" :step="1" @change="scaleBy(axis, $event[0] / 100 / recipe.scale[axis])" /></td>
        </tr>
      </tbody>
    </table>
    <p class="line"><label><input v-model="locked" type="checkbox" /> Keep proportions</label><button class="plain-button" :disabled="!changed" @click="bench.setRecipe({ scale: [1, 1, 1] }, 'back to full size')">Back to 100 %</button></p>
    <p class="quiet">Sizes are along the axes of the file, before it is tilted. Write a size, <kbd>x1.1</kbd> or <kbd>+10%</kbd>.</p>
    <p v-if="fit">The printer takes {{ fit.room }} mm. {{ fit.sentence }}</p>
    <p v-if="source.summary.looksStanding">This file looks made to stand. Where supports are built into it, their tips scale too.</p>
    <p v-if="store.stilts.length" class="quiet">Stilts keep their sizes and are seated anew, each at its place on the part.</p>
  </section>
</template>

<style scoped>
.part-sheet { padding: 12px; display: grid; gap: 10px; }
h2 { font-size: 13px; font-weight: 600; }
table { border-collapse: collapse; width: 100%; }
th { font-weight: 400; text-align: left; padding: 2px 0; }
thead th { font-size: 12px; color: var(--quiet); padding-left: 4px; }
td { padding: 3px 0 3px 4px; }
.line { display: flex; justify-content: space-between; align-items: center; }
.choice { display: grid; grid-template-columns: auto 1fr auto; gap: 6px; align-items: center; min-height: 24px; }
kbd { font: 400 12px var(--mono); border: 1px solid var(--divider); border-radius: 3px; padding: 0 4px; color: var(--ink); }
</style>
