import { describe, expect, it } from 'vitest'
import { isInside } from './page-area'

describe('an area of the page', () => {
  it('holds what is inside a box, whichever corner it was begun at', () => {
    for (const box of [[[0, 0], [10, 0], [10, 6], [0, 6]], [[10, 6], [0, 6], [0, 0], [10, 0]]]) {
      const outline = box.map(([x, y]) => ({ x, y }))
      expect([[5, 3], [1, 5], [11, 3], [5, -1]].map(([x, y]) => isInside(outline, { x, y }))).toEqual([true, true, false, false])
    }
  })
  it('follows a lasso into its bays', () => {
    const bay = [[0, 0], [10, 0], [10, 10], [6, 10], [6, 4], [4, 4], [4, 10], [0, 10]].map(([x, y]) => ({ x, y }))
    expect([[2, 8], [5, 8], [8, 8], [5, 2]].map(([x, y]) => isInside(bay, { x, y }))).toEqual([true, false, true, true])
  })
})
