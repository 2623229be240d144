import { describe, expect, it } from 'vitest'
import type { Stand } from '@oak-stilts/core/pose'
import type { Stilt, StiltShape } from '@oak-stilts/core/stilts'
import { uprightShape } from '../../../core/testing/jobs'
import { box } from '../../../core/testing/shapes'
import { fakeBench, settle } from './bench-context.fake'
import { createEditing } from './editing'
import { createFiles } from './files'

const stilt = (x: number): StiltShape => uprightShape(x)

/** A bench whose seats are answered when the test says so: every stilt is moved by a millimetre along y. */
async function bench() {
  const asked: { stilts: readonly Stilt[]; answer: () => void; fail: (e: Error) => void }[] = []
  const stood: string[] = []
  const context = await fakeBench(box([0, 0, 0], [10, 4, 3]), { surface: {
    reseat: (stand: Stand, stilts: readonly Stilt[]) => new Promise<StiltShape[]>((resolve, reject) => {
      stood.push('reseat')
      asked.push({ stilts, fail: reject, answer: () => resolve(stilts.map(s => ({ ...s, path: s.path.map(([x, y, z]) => [x, y + 1, z] as const) }))) })
      void stand
    }),
    setStand: () => Promise.resolve(void stood.push('back')),
    exportFile: () => Promise.reject(new Error('no memory')),
  } })
  const editing = createEditing(context)
  const remove = (...numbers: number[]): void => {
    context.state.selectedStilts = context.store.stilts.filter(s => numbers.includes(s.number)).map(s => s.id)
    editing.remove()
  }
  return { ...context, asked, stood, ...editing, removeNumbers: remove, ...createFiles(context, () => Promise.resolve({ parts: [], copies: [] })) }
}
const seats = (stilts: readonly Stilt[]): [number, number][] => stilts.map(s => [s.number, s.path[0][1]])

describe('posing on the bench', () => {
  it('goes on from what the change before left: tilt x, then tilt y before the first answer', async () => {
    const b = await bench()
    b.addStilts('place', [stilt(1)])
    const first = b.setPose({ tiltXDeg: 10 }, 'tilt'), second = b.setPose({ tiltYDeg: 20 }, 'tilt')
    // shown at once, whatever it waits for
    expect(b.state.posing).toEqual({ tiltXDeg: 10, tiltYDeg: 20 })
    await settle()
    b.asked[0].answer()
    await first
    await settle()
    expect(b.state.posing).toEqual({ tiltXDeg: 10, tiltYDeg: 20 })
    b.asked[1].answer()
    await second
    expect([b.store.part?.pose, b.state.posing]).toMatchObject([{ tiltXDeg: 10, tiltYDeg: 20 }, {}])
    expect(seats(b.store.stilts)).toEqual([[1, 2]])
  })
  it('does not bring back a stilt that was deleted meanwhile, and seats one that was placed meanwhile', async () => {
    const b = await bench()
    b.addStilts('place', [stilt(1), stilt(2)])
    const posed = b.setPose({ tiltXDeg: 10 }, 'tilt')
    await settle()
    b.removeNumbers(1)
    b.addStilts('place', [stilt(3)])
    b.asked[0].answer()
    await settle()
    expect(b.asked[1].stilts.map(s => s.number)).toEqual([3])
    b.asked[1].answer()
    await posed
    expect([seats(b.store.stilts), b.store.part?.pose.tiltXDeg, b.state.busy]).toEqual([[[2, 1], [3, 1]], 10, ''])
  })
  it('drops seats of a pose that was undone meanwhile', async () => {
    const b = await bench()
    b.settlePose(3)
    b.addStilts('place', [stilt(1)])
    const posed = b.setPose({ tiltXDeg: 10 }, 'tilt')
    await settle()
    b.store.undo()
    b.store.undo()
    b.asked[0].answer()
    await posed
    expect([b.store.part?.pose.tiltXDeg, b.store.stilts.length, b.stood]).toEqual([0, 0, ['reseat', 'back']])
  })
  it('says so where it fails, changes nothing and takes the next change', async () => {
    const b = await bench()
    b.addStilts('place', [stilt(1)])
    const posed = b.setPose({ tiltXDeg: 10 }, 'tilt')
    await settle()
    b.asked[0].fail(new Error('There is no gauge "x".'))
    await posed
    expect([b.state.message, b.state.busy, b.store.part?.pose.tiltXDeg, b.state.posing]).toEqual(['The part could not be posed: There is no gauge "x".', '', 0, {}])
    const again = b.setPose({ liftMm: 9 }, 'lift')
    await settle()
    b.asked[1].answer()
    await again
    expect(b.store.part?.pose.liftMm).toBe(9)
  })
})

describe('turning on the bench', () => {
  it('carries the stilts along: nothing is seated anew, and undo turns back', async () => {
    const b = await bench()
    b.addStilts('place', [stilt(1)])
    const before = b.store.stilts[0]
    await b.setPose({ turnDeg: 200 }, 'turn')
    expect([b.store.copy?.turnDeg, b.store.stilts[0] === before, b.asked.length, b.state.shift.turnDeg]).toEqual([-160, true, 0, -160])
    b.store.undo()
    expect(b.store.copy?.turnDeg).toBe(0)
  })
})

describe('an export that fails', () => {
  it('says so and leaves the bench free', async () => {
    const b = await bench()
    await b.exportFile('stl')
    expect([b.state.message, b.state.busy]).toEqual(['The file could not be written: no memory', ''])
  })
})
