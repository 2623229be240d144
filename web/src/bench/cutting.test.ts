import { describe, expect, it } from 'vitest'
import type { CutStep, Part } from '@oak-stilts/core/contract'
import { box } from '../../../core/testing/shapes'
import { partRow } from '../../../core/testing/jobs'
import { fakeBench } from './bench-context.fake'
import { createCutting } from './cutting'

/** A block of 10 × 4 × 6 mm on the plate; nothing works in the background. */
async function bench() {
  const context = await fakeBench(box([-5, -2, 0], [5, 2, 6]))
  const inTurn = async (work: () => Promise<void>, failed: string): Promise<void> => work().catch((error: unknown) => context.say(`${failed}: ${(error as Error).message}`))
  return { ...context, ...createCutting(context, { inTurn }, () => Promise.resolve()) }
}
const cut = (id: string, keeps: 'above' | 'below'): CutStep => ({ id, keeps, at: [0, 0, 3], normal: [0, 0, 1], whole: [], pegs: null })
const withCuts = (part: Part, cuts: CutStep[]): Part => ({ ...part, recipe: { ...part.recipe, cuts } })

describe('a plane that is set', () => {
  it('begins level, through the middle of the part, and turns about the middle of the part on it', async () => {
    const { cutting, beginCut, setPlane } = await bench()
    await beginCut()
    expect(cutting.draft.value).toMatchObject({ leanXDeg: 0, leanYDeg: 0, distanceMm: 3, whole: [], of: null })
    expect(cutting.frame.value).toEqual({ at: [0, 0, 3], radiusMm: 5 })
    setPlane({ distanceMm: 4 })
    setPlane({ leanXDeg: 30 })
    // it goes on passing through (0, 0, 4), the point that it turned about
    const { normal, offsetMm } = cutting.plane.value ?? { normal: [0, 0, 0], offsetMm: 0 }
    expect([Math.hypot(...normal), Math.abs(normal[2] * 4 - offsetMm)]).toEqual([expect.closeTo(1, 9), expect.closeTo(0, 9)])
    expect(normal[2]).toBeCloseTo(Math.cos(Math.PI / 6), 9)
  })
  it('is laid through three points, its upper side up; three in line tell none', async () => {
    const b = await bench()
    await b.beginCut()
    b.planeBy([[0, 0, 1], [1, 0, 1], [2, 0, 1]])
    expect([b.cutting.draft.value?.distanceMm, b.state.message]).toEqual([3, 'The three points lie in line; no plane is told by them. Take another.'])
    for (const points of [[[0, 0, 1], [1, 0, 2], [0, 1, 1]], [[0, 1, 1], [1, 0, 2], [0, 0, 1]]] as const) {
      b.planeBy(points.map(p => [...p]) as never)
      const { normal, offsetMm } = b.cutting.plane.value ?? { normal: [0, 0, 0], offsetMm: 0 }
      expect(normal.map(v => v * Math.SQRT2)).toEqual([expect.closeTo(-1, 9), expect.closeTo(0, 9), expect.closeTo(1, 9)])
      expect(offsetMm * Math.SQRT2).toBeCloseTo(1, 9)
    }
  })
  it('takes pegs by pointing and away again; a count takes back what was placed, and a peg never widens to its end', async () => {
    const { cutting, beginCut, pegAt, askPegs, endCut } = await bench()
    await beginCut()
    pegAt([-3, 0, 3])
    pegAt([3, 0, 3])
    expect([cutting.draft.value?.pegs.at, cutting.draft.value?.pegs.count]).toEqual([[[-3, 0, 3], [3, 0, 3]], 2])
    pegAt([3.2, 0, 3])
    expect(cutting.draft.value?.pegs.at).toEqual([[-3, 0, 3]])
    askPegs({ diameterMm: 2 })
    expect([cutting.draft.value?.pegs.at, cutting.draft.value?.pegs.endDiameterMm]).toEqual([[[-3, 0, 3]], 2])
    askPegs({ count: 3 })
    expect([cutting.draft.value?.pegs.at, cutting.draft.value?.pegs.count]).toEqual([null, 3])
    endCut()
    expect([cutting.draft.value, cutting.plane.value]).toEqual([null, null])
  })
})

describe('a cut that was made', () => {
  it('knows its other side, and is neither set anew nor joined while something was cut after it', async () => {
    const b = await bench(), part = b.store.parts[0], other = withCuts(partRow('other', { name: 'Other' }), [cut('a', 'below'), cut('b', 'above')])
    b.store.apply({ label: 'cut', put: { parts: [withCuts(part, [cut('a', 'above')]), other] } })
    expect([b.otherSide(cut('a', 'above'))?.id, b.otherSide(cut('c', 'above'))]).toEqual(['other', null])
    await b.joinAgain(cut('a', 'above'))
    expect([b.state.message, b.store.parts.length]).toEqual(['Other was cut once more after that. Join that cut first.', 2])
    await b.beginCut(cut('a', 'above'))
    expect(b.cutting.draft.value).toBeNull()
  })
})
