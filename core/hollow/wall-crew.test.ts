import { describe, expect, it } from 'vitest'
import { prepareMesh, volumeOf, type Mesh } from '../mesh'
import { bunnyMesh } from '../testing/bunny'
import { box, sphere } from '../testing/shapes'
import { handedOver, innerWall, wallHelp, type WallHelper, type WallTasks } from './index'

/** A core of its own, as seen from here: what it is given is handed over, and so is what it answers. @param fails the task at which it ends */
function core(fails?: keyof WallTasks): { help: WallHelper; asked: (keyof WallTasks)[] } {
  const answer = wallHelp(), asked: (keyof WallTasks)[] = []
  let over = false
  return {
    asked,
    help: async (task, what) => {
      asked.push(task)
      over ||= task === fails
      const own = structuredClone(what, { transfer: handedOver(what) })
      await Promise.resolve()
      if (over) throw new Error('It ended by itself.')
      const told = answer(task, own)
      return structuredClone(told, { transfer: handedOver(told) })
    },
  }
}
const SHAPES: readonly (readonly [string, Mesh, number])[] = [['the bunny', prepareMesh(bunnyMesh()).mesh, 2], ['a ball', sphere([0, 0, 0], 8, 96), 1.5], ['a box', box([-9, -6, -5], [9, 6, 5]), 1.2]]

describe('an inner wall that several cores make', () => {
  it.each(SHAPES)('is the same to the last bit, for one core and for four: %s', async (_, mesh, wallMm) => {
    const alone = await innerWall(mesh, wallMm, 0.4)
    for (const count of [1, 3]) {
      const cores = Array.from({ length: count }, () => core())
      expect(await innerWall(mesh, wallMm, 0.4, { helpers: cores.map(c => c.help) })).toEqual(alone)
      expect(cores.every(c => c.asked.includes('between'))).toBe(true)
    }
    expect(alone.triangles.length).toBeGreaterThan(3000)
  })
  it.each(['begin', 'tree', 'find', 'take', 'place', 'back', 'between', 'cross'] as const)('is the same where one of them ends: %s', async task => {
    const [, mesh, wallMm] = SHAPES[1], failing = core(task)
    expect(await innerWall(mesh, wallMm, 0.4, { helpers: [failing.help, core().help] })).toEqual(await innerWall(mesh, wallMm, 0.4))
    expect(failing.asked).toContain(task)
  })
  it('leaves nothing behind in those that helped', async () => {
    const [, mesh, wallMm] = SHAPES[2], { help, asked } = core()
    await innerWall(mesh, wallMm, 0.4, { helpers: [help] })
    expect(asked.at(-1)).toBe('end')
    await expect(help('find', { units: Int32Array.of(0) })).rejects.toThrow('Nothing was begun.')
  })
  it('comes to about the same volume where it is only looked at', async () => {
    for (const [, mesh, wallMm] of SHAPES) {
      const rough = volumeOf(await innerWall(mesh, wallMm, 0.4, { isRough: true })), fine = volumeOf(await innerWall(mesh, wallMm, 0.4))
      expect(rough / fine).toBeGreaterThanOrEqual(1)
      expect(rough / fine).toBeLessThan(1.01)
    }
  })
})
