import { describe, expect, it } from 'vitest'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { plate } from './parts'
import { withBench } from './with-bench'

// What is said about stilts before the click, by force against it, and as findings that stay.
let id = ''
const { server, bench } = withBench({ seed: false, begin: async setup => void (id = await setup.bench.bringIn(setup.server, 'plate', plate())) })
const press = (key: string): Promise<void> => bench.page.keyboard.press(key)
async function view(name: string, times: number): Promise<void> {
  await bench.stage.focus()
  for (let i = 0; i < times; i++) await press('o')
  await bench.message(new RegExp(name))
  await bench.still()
}
async function hover(point: Vec3): Promise<{ x: number; y: number }> {
  const at = await bench.at(point)
  await bench.page.mouse.move(at.x + 2, at.y + 1)
  await bench.page.mouse.move(at.x, at.y)
  return at
}
async function place(point: Vec3): Promise<void> {
  const { x, y } = await hover(point)
  await bench.page.mouse.click(x, y)
  await bench.message(/^Stilt \d+ placed/)
}

describe('what is said about stilts', () => {
  it('where one can stand under the finding that is chosen, for the gauge in hand', async () => {
    await view('Below', 6)
    await press('n')
    await bench.page.getByRole('region', { name: 'Body island' }).waitFor()
    await bench.still()
    await press('3')
    await press('p')
    await bench.message(/Where dots are full a stilt of the Medium gauge can stand: \d+ places/)
  })

  it('before the click: length, lean, gap, scar, the share of the load; and another tip that is near', async () => {
    await view('Three-quarter', 1)
    await view('Below', 6)
    await hover([0, 0, 5])
    await bench.message(/^2\.0 mm, upright, gap \d\.\d\d mm, scar 0\.20 mm² on plain skin, about 100 % of the load/)
    await place([0, 0, 5])
    await hover([0.8, 0, 5])
    await bench.message(/would (pass|run into) another stilt.*Ctrl \+ Enter/)
  })

  it('by force against advice; it is listed with the reason, and may be waived', async () => {
    await hover([0.8, 0, 5])
    await bench.message(/Ctrl \+ Enter/)
    await press('Control+Enter')
    await bench.message(/^Stilt 2 placed by force/)
    await bench.saved()
    const forced = (await server.job(id)).nodes.find(n => n.kind === 'tip' && n.forced !== undefined)
    expect(forced).toMatchObject({ number: 2 })
    await press('Escape')
    await press('Escape')
    await (await bench.row(/placed by force,/)).click()
    const sheet = bench.page.getByRole('region', { name: 'Stilt 2, placed by force' })
    await sheet.getByText(/was placed against advice/).waitFor()
    await sheet.getByRole('button', { name: 'Waive' }).click()
    await sheet.getByLabel('Why it may stay').fill('It is cut away.')
    await sheet.getByRole('button', { name: 'Waive it' }).click()
    await bench.message(/Waived: It is cut away/)
    // the two tips are too near as well
    await (await bench.row(/tips too near,/)).waitFor()
  })

  it('that it leans too far, and stands it upright', async () => {
    await bench.stage.focus()
    await press('Control+a')
    await press('Delete')
    await press('Shift+G')
    const sheet = bench.page.getByRole('region', { name: 'Sizes of the gauge' })
    await bench.write(/^Lean limit/, '40')
    await sheet.getByRole('button', { name: 'Close' }).click()
    await bench.stage.focus()
    await press('p')
    await place([0, 0, 5])
    await press('Escape')
    await view('Right', 3)
    const foot = await bench.at([0, 0, 0]), to = await bench.at([0, 0.7, 0])
    await bench.drag(foot, to)
    await bench.message(/lean [23]\d°/)
    await bench.release()
    await bench.saved()
    await press('Shift+G')
    await bench.write(/^Lean limit/, '10')
    await sheet.getByRole('button', { name: 'They stay as they are' }).click()
    await bench.message(/1 stilt stays as it is/)
    await sheet.getByRole('button', { name: 'Close' }).click()
    await (await bench.row(/leans too far,/)).click()
    await bench.page.getByRole('button', { name: 'Stand it upright' }).click()
    await bench.message(/1 stilt upright now/)
    await bench.saved()
    const { nodes } = await server.job(id), at = (kind: string): number[] | undefined => nodes.find(n => n.kind === kind)?.at.slice(0, 2)
    expect(at('foot')).toEqual(at('knee'))
    await expect.poll(() => bench.page.getByRole('listbox', { name: 'Findings' }).textContent()).not.toMatch(/Leans/)
    // the same by its key
    await bench.stage.focus()
    await press('Control+z')
    await bench.message(/Undone: stand upright/)
    await press('Control+a')
    await press('u')
    await bench.message(/1 stilt upright now/)
    expect(bench.errors).toEqual([])
  })
})
