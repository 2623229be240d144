import { describe, expect, it } from 'vitest'
import { writeStl } from '../core/mesh'
import { facesOf } from '../core/marks'
import { box } from '../core/testing/shapes'
import { withBench } from './with-bench'

// Faces that are worth something: marked by patch, by view, by strokes; a tip is refused on what is off limits.
let id = ''
const { server, bench } = withBench({ seed: false, begin: async setup => {
  id = await setup.bench.bringIn(setup.server, 'block', writeStl(box([0, 0, 0], [20, 12, 8]), 'block'))
  await setup.bench.page.getByRole('link', { name: 'Pose', exact: true }).click()
} })
const worth = (name: string) => bench.page.getByRole('radio', { name: new RegExp(`^${name}`) })
const marks = async (): Promise<[string, number][]> => {
  await bench.saved()
  return (await server.job(id)).marks.map(m => [m.worth, facesOf(m.runs).length])
}
/** From below, where the underside is seen. */
async function fromBelow(): Promise<void> {
  await bench.stage.focus()
  do await bench.page.keyboard.press('o')
  while ((await bench.page.getByRole('status', { name: 'Message' }).textContent())?.trim() !== 'Below')
  await bench.still()
}

describe('faces', () => {
  it('are marked by the patch that is clicked, and their skin is counted', async () => {
    await fromBelow()
    await bench.page.keyboard.press('m')
    await bench.page.keyboard.press('3')
    expect(await worth('Off-limits').getAttribute('aria-checked')).toBe('true')
    const at = await bench.at([3, 1, 5])
    await bench.page.mouse.click(at.x, at.y)
    await expect.poll(marks).toEqual([['off-limits', 2]])
    await worth('Off-limits').filter({ hasText: '240 mm²' }).waitFor()
  })

  it('that are off limits are not touched by a tip, with the reason', async () => {
    await bench.page.getByRole('link', { name: /^Hold/ }).click()
    await fromBelow()
    await bench.page.keyboard.press('p')
    const at = await bench.at([5, 2, 5])
    await bench.page.mouse.click(at.x, at.y)
    await bench.message(/off limits: nothing may touch it/)
    expect(await bench.stiltCount()).toBe(0)
    await bench.page.keyboard.press('Escape')
    await bench.page.keyboard.press('h')
    await bench.message(/off limits|could not|cannot|not be held/)
    expect(await bench.stiltCount()).toBe(0)
  })

  it('are told of where a tip is placed on what is prized, and undone', async () => {
    await bench.page.getByRole('button', { name: 'Undo' }).click()
    await bench.page.getByRole('link', { name: 'Pose', exact: true }).click()
    await fromBelow()
    await worth('Prized').click()
    await bench.page.getByRole('button', { name: 'Mark what is seen' }).click()
    await bench.message(/What is seen from here is prized now/)
    await expect.poll(async () => (await marks()).length).toBe(1)
    await bench.page.getByRole('link', { name: /^Hold/ }).click()
    await fromBelow()
    await bench.page.keyboard.press('p')
    const at = await bench.at([5, 2, 5])
    await bench.page.mouse.click(at.x, at.y)
    await bench.message(/on a prized face and will leave a scar there/)
    expect(await bench.stiltCount()).toBe(1)
  })

  it('are marked by a stroke of the brush, and keep their marks when the part is tilted, scaled and mirrored', async () => {
    await bench.page.getByRole('link', { name: 'Pose', exact: true }).click()
    await fromBelow()
    await bench.page.keyboard.press('m')
    await bench.page.keyboard.press('2')
    await bench.page.getByLabel('By', { exact: true }).selectOption('brush')
    const from = await bench.at([-6, 0, 5]), to = await bench.at([6, 0, 5])
    await bench.drag(from, to)
    await bench.release()
    await expect.poll(async () => (await marks()).map(m => m[0])).toEqual(['prized', 'spare'])
    const before = await marks()
    await bench.write('Tilt about x, °', '25')
    await bench.page.getByRole('link', { name: 'Part', exact: true }).click()
    await bench.page.getByRole('switch', { name: 'Mirror' }).click()
    await bench.write('Width, x, mm', 'x1.5')
    await bench.scanned()
    expect(await marks()).toEqual(before)
    await bench.page.getByRole('link', { name: 'Pose', exact: true }).click()
    // half of the underside, half as long again each way
    await worth('Spare').filter({ hasText: /(270|540) mm²/ }).waitFor()
    await bench.page.getByRole('button', { name: 'Take all marks off' }).click()
    await expect.poll(marks).toEqual([])
  })

  it('are marked within a box that is drawn, as far as they are seen', async () => {
    await bench.page.getByRole('button', { name: 'Undo' }).click()
    await bench.page.getByRole('button', { name: 'Redo' }).click()
    await bench.page.keyboard.press('u')
    await bench.scanned()
    await fromBelow()
    await bench.page.keyboard.press('m')
    await bench.page.getByLabel('By', { exact: true }).selectOption('box')
    await bench.stage.focus()
    await bench.page.keyboard.press('3')
    const stage = await bench.stage.boundingBox()
    if (!stage) throw new Error('There is no stage.')
    // all around the part: what is seen of it from below is its underside
    await bench.drag({ x: stage.x + 20, y: stage.y + 20 }, { x: stage.x + stage.width - 20, y: stage.y + stage.height - 20 })
    await bench.release()
    await bench.message('What is seen in the box is off-limits now.')
    await expect.poll(marks).toEqual([['off-limits', 2]])
    // beside it there is nothing
    await bench.drag({ x: stage.x + 5, y: stage.y + 5 }, { x: stage.x + 25, y: stage.y + 25 })
    await bench.release()
    await bench.message('No face is seen there.')
    expect((await marks()).length).toBe(1)
    expect(bench.errors).toEqual([])
  })
})
