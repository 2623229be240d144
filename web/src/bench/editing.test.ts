import { describe, expect, it } from 'vitest'
import { ref } from 'vue'
import { listsOf, type HoleStep, type Part } from '@oak-stilts/core/contract'
import { decodeMesh } from '@oak-stilts/core/mesh'
import { standOf, type Stand } from '@oak-stilts/core/pose'
import { GAUGES, type Stilt, type StiltShape } from '@oak-stilts/core/stilts'
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
    reseatOn: (_: ArrayBuffer, place: { key: string }, stilts: readonly Stilt[]) => new Promise<StiltShape[]>((resolve, reject) => {
      stood.push(`reseatOn ${place.key.slice(-12)}`)
      asked.push({ stilts, fail: reject, answer: () => resolve(stilts.map(s => ({ ...s, path: s.path.map(([x, y, z]) => [x, y + 1, z] as const) }))) })
    }),
    setStand: () => Promise.resolve(void stood.push('back')),
    exportFile: () => Promise.reject(new Error('no memory')),
  } })
  const editing = createEditing(context)
  const remove = (...numbers: number[]): void => {
    context.state.selectedStilts = context.store.stilts.filter(s => numbers.includes(s.number)).map(s => s.id)
    editing.remove()
  }
  return { ...context, asked, stood, ...editing, removeNumbers: remove, ...createFiles(context, () => Promise.resolve({ parts: [], copies: [] }), ref(GAUGES)) }
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
    await b.settlePose(3)
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

describe('what is made of a source', () => {
  it('scales with all stilts seated anew, in one step that undo takes back to the byte', async () => {
    const b = await bench()
    b.addStilts('place', [stilt(1), stilt(2)])
    const before = JSON.stringify(listsOf(b.store.snapshot().tables)), scaled = b.setRecipe({ scale: [2, 2, 2] }, 'scale')
    await settle()
    b.asked[0].answer()
    await scaled
    expect([b.store.part?.recipe.scale, b.store.part?.sizeSettled, seats(b.store.stilts), b.store.undoLabel]).toEqual([[2, 2, 2], true, [[1, 1], [2, 1]], 'scale'])
    b.store.undo()
    expect(JSON.stringify(listsOf(b.store.snapshot().tables))).toBe(before)
  })
  it('keeps what was asked of it before, however much is asked at once', async () => {
    const b = await bench(), hole = (id: string): HoleStep => ({ id, on: false, at: [0, 0, 0], into: [0, 0, 1], diameterMm: 2, endDiameterMm: 2, depthMm: 1 }), drill = (id: string): Promise<void> => b.setRecipe(now => ({ holes: [...now.holes, hole(id)] }), 'drill')
    await Promise.all([drill('one'), drill('two'), drill('three')])
    expect(b.store.part?.recipe.holes.map(h => h.id)).toEqual(['one', 'two', 'three'])
    b.store.undo()
    expect(b.store.part?.recipe.holes.map(h => h.id)).toEqual(['one', 'two'])
  })
  it('stays as it is where it would be out of all size, where nothing changes, and where another change came first', async () => {
    const b = await bench()
    await b.setRecipe({ scale: [1000, 1, 1], unitMm: 1000 }, 'scale')
    expect(b.state.message).toMatch(/nothing was changed/)
    await b.setRecipe({ scale: [1, 1, 1] }, 'scale')
    expect(b.store.undoLabel).toBe(null)
    b.addStilts('place', [stilt(1)])
    const scaled = b.setRecipe({ scale: [2, 2, 2] }, 'scale')
    await settle()
    b.addStilts('place', [stilt(2)])
    b.asked[0].answer()
    await scaled
    expect([b.store.part?.recipe.scale, b.store.stilts.length, b.state.message]).toEqual([[1, 1, 1], 2, 'The part was changed meanwhile, so this was not done. Try it again.'])
  })
  it('is mirrored with its stilts, and back again', async () => {
    const b = await bench()
    b.addStilts('place', [stilt(1), stilt(2)])
    const at = (): number[][] => b.store.stilts.map(s => [...s.path[0]])
    const before = at()
    await b.mirror()
    expect([b.store.part?.recipe.mirrored, b.asked.length]).toEqual([true, 0])
    at().forEach(([x, y, z], i) => expect([x + before[i][0], y, z]).toEqual([expect.closeTo(at()[0][0] + before[0][0], 6), before[i][1], before[i][2]]))
    b.stand.value = standOf(decodeMesh(await b.meshOf(b.store.part as Part)).positions, (b.store.part as Part).pose, 0.1)
    await b.mirror()
    expect(b.store.part?.recipe.mirrored).toBe(false)
    at().flat().forEach((v, i) => expect(v).toBeCloseTo(before.flat()[i], 6))
  })
})
