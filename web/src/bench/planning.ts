import { computed, shallowRef } from 'vue'
import { PlanOptionsSchema, sameOptions, USUAL_OPTIONS, withOptions, type PlanOptions, type RecipeOfPlans } from '@oak-stilts/core/contract'
import { useKitStore } from '../stores/kit'
import type { BenchContext } from './context'

/** Where what was asked for last is kept on this computer. */
const KEPT_UNDER = 'oak-stilts/plan'

/** What the next plan is asked for, and the recipe that it comes from. */
export function createPlanning({ store, state, say }: Pick<BenchContext, 'store' | 'state' | 'say'>) {
  const kit = useKitStore(), kept = lastAsked()
  const options = shallowRef<PlanOptions>(kept.options)
  const recipeId = shallowRef<string | null>(kept.recipe)
  const recipe = computed<RecipeOfPlans | null>(() => kit.kit.recipes.find(r => r.recipe.id === recipeId.value)?.recipe ?? null)
  /** Whether something else is asked for than the recipe says. */
  const changed = computed(() => recipe.value !== null && !sameOptions(recipe.value.options, options.value))

  function ask(next: PlanOptions, from: string | null = recipeId.value): void {
    options.value = next
    recipeId.value = from
    localStorage.setItem(KEPT_UNDER, JSON.stringify({ options: next, recipe: from }))
  }
  function setOptions(change: Partial<PlanOptions>): void {
    // what is planned inside is looked at through the outside
    if (change.what !== undefined && (change.what === 'inside' || options.value.what === 'inside')) state.seeThrough = change.what === 'inside'
    ask({ ...options.value, ...change })
  }
  /** Takes what a recipe says; what is usual where there is none. */
  function chooseRecipe(id: string | null): void {
    ask(kit.kit.recipes.find(r => r.recipe.id === id)?.recipe.options ?? USUAL_OPTIONS, id)
  }
  /** Keeps what is asked for as a recipe of that name: a new one, or in the place of one's own. */
  async function keepRecipe(name: string): Promise<void> {
    const same = kit.kit.recipes.find(r => !r.builtIn && r.recipe.name === name), note = (changed.value ? '' : recipe.value?.note) ?? ''
    if (same) await kit.putRecipe(withOptions(same.recipe, options.value))
    const { id, name: kept } = same?.recipe ?? kit.addRecipe({ id: '', name, note, options: options.value, provedWith: [], cameOut: 0, failed: 0 })
    ask(options.value, id)
    say(kit.problem || `Kept as the recipe “${kept}”.`)
  }
  /** Notes with the recipe that a part proved with it. */
  function noteProved(tips: number): void {
    const { part, job } = store, of = recipe.value
    if (!of || changed.value || !part || !job) return
    const { tiltXDeg, tiltYDeg } = part.pose, others = of.provedWith.filter(p => p.part !== part.name || p.resin !== job.resin.name || p.tiltXDeg !== tiltXDeg || p.tiltYDeg !== tiltYDeg)
    void kit.putRecipe({ ...of, provedWith: [...others, { part: part.name, resin: job.resin.name, tiltXDeg, tiltYDeg, tips, on: new Date().toISOString().slice(0, 10) }].slice(-200) })
  }
  return { usualOptions: USUAL_OPTIONS, planOptions: options, planRecipe: recipe, planChanged: changed, setPlanOptions: setOptions, chooseRecipe, keepRecipe, noteProved }
}

function lastAsked(): { readonly options: PlanOptions; readonly recipe: string | null } {
  try {
    const { options, recipe } = JSON.parse(localStorage.getItem(KEPT_UNDER) ?? '{}') as { options?: unknown; recipe?: unknown }
    return { options: PlanOptionsSchema.catch(USUAL_OPTIONS).parse(options ?? {}), recipe: typeof recipe === 'string' ? recipe : null }
  } catch {
    return { options: USUAL_OPTIONS, recipe: null }
  }
}
