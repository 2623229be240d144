import { describe, expect, it } from 'vitest'
import { BUILT_IN_RECIPES, RecipeOfPlansSchema, withOptions, type RecipeOfPlans } from './recipe'

describe('a recipe with other options', () => {
  const proved = { part: 'Post', resin: 'Grey', tiltXDeg: 0, tiltYDeg: 12, tips: 3, on: '2026-05-01' }, recipe: RecipeOfPlans = { ...BUILT_IN_RECIPES[0], provedWith: [proved], cameOut: 2, failed: 1 }
  it('keeps what became of it as what came before', () => {
    const other = withOptions(recipe, { ...recipe.options, sticks: false })
    expect(RecipeOfPlansSchema.parse(JSON.parse(JSON.stringify(other)))).toEqual({ ...recipe, options: { ...recipe.options, sticks: false }, provedWith: [{ ...proved, earlier: true }], earlier: { cameOut: 2, failed: 1 } })
    // what comes after that counts for the options that it has now, until they change again
    const later = withOptions({ ...other, cameOut: 5 }, recipe.options)
    expect([later.cameOut, later.earlier]).toEqual([5, { cameOut: 5, failed: 1 }])
  })
  it('is the same one where the options are', () => {
    expect(withOptions(recipe, { ...recipe.options, gauges: [...(recipe.options.gauges ?? [])] })).toBe(recipe)
    expect(withOptions(BUILT_IN_RECIPES[1], { ...BUILT_IN_RECIPES[1].options, holdMm: 3 }).earlier).toBeUndefined()
  })
})
