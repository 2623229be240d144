<script setup lang="ts">
import { computed, onScopeDispose, ref, watch } from 'vue'
import { IMPROVEMENTS, type Improvement, type PlanMeasures } from '@oak-stilts/core/contract'
import { useBench } from '../bench/use-bench'
import BenchDialog from '../components/bench-dialog.vue'
import type { OptimiseStep } from '@oak-stilts/core/ready'
import type { OptimisedPlan } from '../workers/scan.worker'

/** What can be improved of the plan that stands: each step with what it gains, and a picture of all that is taken. */
const props = defineProps<{ /** A picture of the part with another plan, as it is looked at now. */ picture: (plan: OptimisedPlan) => Promise<Blob | null> }>()
const bench = useBench()
const NAMES: Readonly<Record<Improvement, { readonly name: string; readonly says: string }>> = {
  idle: { name: 'Take away what bears nothing', says: 'Stilts that bear next to nothing, and whose loss opens nothing.' },
  straighten: { name: 'Straighten what bends', says: 'Stilts that stand each by itself, where a shorter or steeper way has opened.' },
  gather: { name: 'Gather stilts on shared trunks', says: 'Stilts that stand each by itself: on a trunk of their own, or as branches of what stands near. Their tips stay as they are.' },
  brace: { name: 'Brace what is tall or slender', says: 'Over 30 mm, or slender, and not braced yet.' },
}
const image = ref('')
watch(() => bench.optimised.value, async found => {
  forget()
  if (!found) return
  const png = await props.picture(found)
  if (png && bench.optimised.value === found) image.value = URL.createObjectURL(png)
})
function forget(): void {
  if (image.value) URL.revokeObjectURL(image.value)
  image.value = ''
}
onScopeDispose(forget)

const stepOf = (i: Improvement) => bench.optimised.value?.steps.find(s => s.step === i)
const any = computed(() => bench.optimised.value?.steps.some(s => s.taken) ?? false)
const sum = ({ scarMm2 }: PlanMeasures): number => Object.values(scarMm2).reduce((a, b) => a + b, 0)
const FIGURES: readonly { readonly of: (m: PlanMeasures) => number | null; readonly digits: number; readonly unit: string }[] = [
  { of: m => m.resinMm3 / 1000, digits: 2, unit: 'cm³ of resin' }, { of: sum, digits: 1, unit: 'mm² of scars' }, { of: m => m.tips, digits: 0, unit: 'tips' }, { of: m => m.feet, digits: 0, unit: 'feet' }, { of: m => m.swayMm, digits: 2, unit: 'mm of sway' },
]
/** What a step changes, as it is written. */
function changes({ before, after, pressed }: OptimiseStep): string {
  const figures = FIGURES.map(({ of, digits, unit }) => [of(before), after && of(after), digits, unit] as const), [was, is] = pressed ?? [0, 0]
  return [...figures, [100 * was, 100 * is, 0, '% of what bends out the shaft that is pressed most'] as const].flatMap(([from, to, digits, unit]) => {
    const [a, b] = [from?.toFixed(digits), to?.toFixed(digits)]
    return a === b || a === undefined || b === undefined ? [] : [`${a} → ${b} ${unit}`]
  }).join(', ')
}
</script>

<template>
  <BenchDialog :shown="bench.optimiseShown.value" title="Optimise" width="760px" @update:shown="bench.closeOptimise()">
    <p class="quiet">Hand work is changed too, but what is pinned is not. Every step was scanned and proved; none may open anything or mark prized skin more.</p>
    <div class="columns">
      <ul>
        <li v-for="i in IMPROVEMENTS" :key="i">
          <label><input type="checkbox" :checked="bench.improvements.value.includes(i)" @change="bench.toggleImprovement(i)" />{{ NAMES[i].name }}</label>
          <p class="quiet">{{ NAMES[i].says }}</p>
          <template v-if="stepOf(i)"><p v-if="stepOf(i)?.taken" class="gain">{{ stepOf(i)?.count }} {{ i === 'brace' ? (stepOf(i)?.count === 1 ? 'brace' : 'braces') : (stepOf(i)?.count === 1 ? 'stilt' : 'stilts') }}: {{ changes(stepOf(i)!) }}.</p><p v-else>{{ stepOf(i)?.why }}</p></template>
        </li>
      </ul>
      <div class="picture"><img v-if="image" :src="image" alt="The part with all that is taken" width="290" /><p v-else class="quiet" role="status" aria-label="Optimising">{{ bench.optimiseSaid.value }}</p></div>
    </div>
    <p class="choices"><button class="plain-button leading" :disabled="!any" @click="bench.takeOptimised()">Take what is ticked</button> <button class="plain-button" @click="bench.closeOptimise()">Leave it</button></p>
  </BenchDialog>
</template>

<style scoped>
.columns { display: grid; grid-template-columns: 1fr 290px; gap: 20px; margin-top: 10px; }
ul { list-style: none; margin: 0; padding: 0; }
li { padding: 8px 0; border-top: 1px solid #ece6d9; }
li:first-child { border-top: 0; }
label { display: flex; gap: 8px; align-items: center; font-weight: 600; }
label input { accent-color: var(--accent); margin: 0; }
li p { margin: 2px 0 0 21px; font-size: 12.5px; }
.gain { font-weight: 600; }
.picture { min-height: 220px; }
.picture > * { display: grid; place-items: center; text-align: center; width: 290px; min-height: 220px; border: 1px solid var(--divider); border-radius: 4px; background: var(--paper); font-size: 12.5px; box-sizing: border-box; }
.choices { display: flex; gap: 8px; margin-top: 14px; }
</style>
