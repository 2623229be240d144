import { describe, expect, it } from 'vitest'
import type { HollowStep, Recipe } from '@oak-stilts/core/contract'
import { box } from '../../../core/testing/shapes'
import { fakeBench } from './bench-context.fake'
import type { RecipeChange } from './editing'
import { createHollowing } from './hollowing'

/** The hollow of a block, with what was asked of its recipe. */
async function ofBlock() {
  const context = await fakeBench(box([0, 0, 0], [20, 20, 20])), asked: [Partial<Recipe>, string][] = []
  const setRecipe = (of: RecipeChange, label: string): Promise<void> => {
    const { part } = context.store
    if (!part) return Promise.resolve()
    const change = typeof of === 'function' ? of(part.recipe) : of
    asked.push([change, label])
    context.store.apply({ label, put: { parts: [{ ...part, recipe: { ...part.recipe, ...change } }] } })
    return Promise.resolve()
  }
  return { context, asked, ...createHollowing(context, { setRecipe }) }
}

describe('what is asked of a hollow', () => {
  it('has cells of half its wall at the most: a thinner wall takes finer ones, coarser cells are refused', async () => {
    const { context, hollowing, askHollow } = await ofBlock()
    askHollow({ wallMm: 0.3 })
    expect(hollowing.asked.value).toEqual({ wallMm: 0.3, cellMm: 0.15, carries: false })
    askHollow({ cellMm: 0.2 })
    expect(hollowing.asked.value.cellMm).toBe(0.15)
    expect(context.state.message).toBe('A wall of 0.3 mm needs cells of 0.15 mm or less.')
  })

  it('becomes a step of the recipe, with the way up and the limits of the job where it carries itself', async () => {
    const { context, asked, hollowing, askHollow, makeHollow } = await ofBlock()
    askHollow({ wallMm: 3, carries: true })
    expect(hollowing.differs.value).toBe(true)
    await makeHollow()
    const hollow: HollowStep = { on: true, wallMm: 3, cellMm: 0.2, carries: { up: [0, 0, 1], slopeDeg: 45, flapMm: 1 } }
    // as it is kept: nought has no sign there
    expect(JSON.parse(JSON.stringify(asked))).toEqual([[{ hollow }, 'hollow']])
    expect([hollowing.differs.value, hollowing.otherWay.value]).toEqual([false, false])
    // tilted, its roofs look aside
    const { part } = context.store
    if (part) context.store.apply({ label: 'tilt', put: { parts: [{ ...part, pose: { ...part.pose, tiltXDeg: 40 } }] } })
    expect([hollowing.differs.value, hollowing.otherWay.value]).toEqual([true, true])
  })

  it('is switched off and on again as it was', async () => {
    const { asked, makeHollow, switchHollow, hollowing } = await ofBlock()
    switchHollow(true)
    expect(asked).toEqual([])
    await makeHollow()
    switchHollow(false)
    expect([asked[1], hollowing.differs.value]).toEqual([[{ hollow: { on: false, wallMm: 2, cellMm: 0.2, carries: null } }, 'leave it solid'], true])
    switchHollow(true)
    expect(hollowing.differs.value).toBe(false)
  })
})
