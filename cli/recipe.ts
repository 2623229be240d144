import { existsSync } from 'node:fs'
import { BUILT_IN_RECIPES, KitFileSchema, RecipeFileSchema, USUAL_OPTIONS, type Gauge, type PlanOptions, type RecipeFile } from '@oak-stilts/core/contract'
import { UsageError, type Options } from './arguments'
import { jsonFrom } from './files'

/** What a plan is asked for by recipe and options, and all gauges that there are then. @throws UsageError */
export function askedBy({ recipe, planning }: Options, gauges: readonly Gauge[]): { readonly planning: PlanOptions; readonly gauges: Gauge[] } {
  const found = recipe === null ? null : recipeNamed(recipe), known = [...gauges, ...(found?.gauges ?? []).filter(g => !gauges.some(o => o.id === g.id))]
  for (const id of planning.gauges ?? []) if (!known.some(g => g.id === id)) throw new UsageError(`There is no gauge "${id}". There are ${known.map(g => g.id).join(', ')}.`)
  return { planning: { ...USUAL_OPTIONS, ...found?.recipe.options, ...planning }, gauges: known }
}

/** A built-in recipe by its name or id, or one from a file: a recipe, or a kit that holds just one. @throws UsageError */
function recipeNamed(name: string): Pick<RecipeFile, 'recipe' | 'gauges'> {
  const known = BUILT_IN_RECIPES.find(r => [r.id, r.name.toLowerCase()].includes(name.toLowerCase()))
  if (known) return { recipe: known, gauges: [] }
  if (!existsSync(name)) throw new UsageError(`There is no recipe "${name}", and no file of that name. Built in are ${BUILT_IN_RECIPES.map(r => `"${r.name}"`).join(', ')}.`)
  const json = jsonFrom(name), alone = RecipeFileSchema.safeParse(json), kit = KitFileSchema.safeParse(json)
  if (alone.success) return alone.data
  if (kit.success && kit.data.recipes.length === 1) return { recipe: kit.data.recipes[0], gauges: kit.data.gauges }
  throw new UsageError(kit.success ? `${name} holds ${kit.data.recipes.length} recipes; one is wanted.` : `${name} holds no recipe.`)
}
