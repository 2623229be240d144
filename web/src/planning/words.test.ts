import { describe, expect, it } from 'vitest'
import { BUILT_IN_RECIPES, withOptions, type RecipeOfPlans } from '@oak-stilts/core/contract'
import { plannedInWords, readyInWords, recordOf } from './words'

describe('what came of a plan', () => {
  it('tells of tips, of what is left, and of undo only where there is something to undo', () => {
    expect(plannedInWords(1, 0, true, 'everything')).toBe('1 tip planned, and proved. One undo takes all of it back.')
    expect(plannedInWords(40, 2, true, null)).toBe('40 tips planned, and proved. 2 findings are still open; each says why. One undo takes all of it back.')
    // a raft alone is something to undo
    expect(plannedInWords(0, 0, true, 'islands')).toBe('0 tips planned, and proved. One undo takes all of it back.')
  })
  it('says that there was nothing to do, and for what, or that nothing could be done', () => {
    expect(plannedInWords(0, 0, false, 'inside')).toBe('Nothing hangs inside a hollow: no tip was planned. It was proved as it stands.')
    expect(plannedInWords(0, 0, false, null)).toMatch(/^Nothing hangs there that nothing holds: no tip/)
    expect(plannedInWords(0, 1, false, 'everything')).toBe('No tip could be planned: 1 finding is still open; each says why.')
  })
})

describe('what came of making a part ready', () => {
  it('tells what was added, that nothing had to be, or that nothing could be', () => {
    expect(readyInWords(2, 1, 0, 0, true)).toBe('2 stilts placed, 1 brace put in, 0 stilts made thicker. One undo takes all of it back.')
    expect(readyInWords(0, 0, 0, 0, false)).toBe('Nothing had to be added: it was proved as it stands.')
    expect(readyInWords(0, 0, 0, 2, false)).toBe('Nothing could be added: 2 findings are still open; each says why.')
  })
})

describe('what became of a recipe', () => {
  const proved = { part: 'Post', resin: 'Grey', tiltXDeg: 0, tiltYDeg: 0, tips: 3, on: '2026-05-01' }, recipe: RecipeOfPlans = { ...BUILT_IN_RECIPES[0], provedWith: [proved, { ...proved, part: 'Shelf' }], cameOut: 2, failed: 1 }
  it('counts what proved and what came out', () => {
    expect(recordOf(BUILT_IN_RECIPES[0])).toBe('Nothing was proved with it yet. No print of it was told of yet.')
    expect(recordOf(recipe)).toBe('2 parts proved with it. Of 3 prints 2 came out.')
  })
  it('is not told of other settings than those it has', () => {
    const other = withOptions(recipe, { ...recipe.options, holdMm: 1.1 })
    expect(recordOf(other)).toBe('Nothing was proved with it since its settings were last changed. No print of it was told of since its settings were last changed.')
    expect(recordOf({ ...other, provedWith: [...other.provedWith, proved], cameOut: 3 })).toBe('One part proved with it. Of 1 print 1 came out.')
  })
})
