import { describe, expect, it } from 'vitest'
import { table } from './parts'
import { withBench } from './with-bench'

// What a plan is asked for: by a recipe, by hand, and kept as a recipe of one's own that notes what proved with it.
const { server, bench } = withBench({ seed: false, begin: async setup => void (await setup.bench.bringIn(setup.server, 'shelf', table(), 14)) })
const press = (key: string): Promise<void> => bench.page.keyboard.press(key)
const sheet = () => bench.page.getByRole('region', { name: 'Plan', exact: true })
const stilts = async (): Promise<number> => (await server.jobs()).reduce((n, j) => n + j.stilts, 0)
const planned = async (): Promise<number> => {
  await bench.message(/^\d+ tips? planned, and proved\./)
  await bench.saved()
  return stilts()
}
const undo = async (): Promise<void> => {
  await bench.stage.focus()
  await press('Control+z')
  await bench.scanned()
  await bench.saved()
  expect(await stilts()).toBe(0)
}

describe('a plan', () => {
  it('is asked for by a recipe, raft and all, as one step of undo', async () => {
    await bench.stage.focus()
    await press('Alt+p')
    await sheet().getByRole('combobox', { name: 'Recipe' }).selectOption({ label: 'Large figure' })
    await sheet().getByText('Nothing was proved with it yet.').waitFor()
    expect(await sheet().getByRole('button', { name: 'Fine' }).getAttribute('aria-pressed')).toBe('false')
    await sheet().getByRole('button', { name: 'Plan all' }).click()
    expect(await planned()).toBeGreaterThan(5)
    const [{ id }] = await server.jobs(), { parts, nodes } = await server.job(id)
    expect([parts[0].raft.kind, nodes.some(n => n.kind === 'tip' && n.gauge === 'fine')]).toEqual(['plate', false])
    await undo()
    expect((await server.job(id)).parts[0].raft.kind).toBe('none')
  })

  it('is changed by hand, kept as a recipe of one’s own, and noted with it where it proves', async () => {
    const recipe = sheet().getByRole('combobox', { name: 'Recipe' })
    await recipe.selectOption('')
    await sheet().getByRole('combobox', { name: 'What to plan for' }).selectOption({ label: 'First contacts' })
    await sheet().getByRole('button', { name: 'Plan first contacts' }).click()
    const first = await planned()
    await undo()
    await sheet().getByRole('combobox', { name: 'What to plan for' }).selectOption({ label: 'All that hangs' })
    await bench.write(/^A tip holds within/, '1.3')
    await sheet().getByRole('checkbox', { name: /^Sticks/ }).uncheck()
    await sheet().getByRole('button', { name: 'Keep as a recipe' }).click()
    await sheet().getByRole('textbox', { name: 'Name of the recipe' }).fill('Dense shelf')
    await sheet().getByRole('button', { name: 'Keep', exact: true }).click()
    await bench.message(/^Kept as the recipe “Dense shelf”\.$/)
    await sheet().getByRole('button', { name: 'Plan all' }).click()
    expect(await planned()).toBeGreaterThan(first)
    await sheet().getByText(/^One part proved with it\./).waitFor()
    // what was asked for last is there again after a reload
    await bench.page.reload()
    await bench.scanned()
    await bench.stage.focus()
    await press('Alt+p')
    await sheet().getByText(/^One part proved with it\./).waitFor()
    expect(await recipe.inputValue()).not.toBe('')
    expect(await sheet().getByRole('checkbox', { name: /^Sticks/ }).isChecked()).toBe(false)
  })

  it('keeps its recipes in the kit, where it is told how prints came out', async () => {
    await bench.page.goto(`${server.url}/kit`)
    await bench.page.getByRole('navigation').getByRole('button', { name: 'Dense shelf' }).click()
    const kit = bench.page.getByRole('region', { name: 'Recipe' })
    await kit.getByText(/^shelf, .*, upright: \d+ tips/).waitFor()
    await kit.getByRole('button', { name: 'One came out' }).click()
    await kit.getByRole('button', { name: 'One failed' }).click()
    await kit.getByText('1 came out, 1 failed.').waitFor()
    const [download] = await Promise.all([bench.page.waitForEvent('download'), kit.getByRole('button', { name: 'Save as JSON' }).click()])
    expect(download.suggestedFilename()).toBe('Dense shelf recipe.json')
    const file = await download.path()
    await kit.getByRole('button', { name: 'Delete' }).click()
    await bench.page.getByRole('navigation').getByRole('button', { name: 'Dense shelf' }).waitFor({ state: 'detached' })
    await bench.page.getByLabel('Kit file').setInputFiles(file)
    await bench.page.getByRole('navigation').getByRole('button', { name: 'Dense shelf' }).click()
    await kit.getByText('1 came out, 1 failed.').waitFor()
    // a built-in one that is changed is one’s own, and can be had back
    await bench.page.getByRole('navigation').getByRole('button', { name: /^Miniature/ }).click()
    await kit.getByRole('checkbox', { name: /^Sticks/ }).uncheck()
    await kit.getByRole('button', { name: 'Back to built-in' }).click()
    await kit.getByRole('checkbox', { name: /^Sticks/, checked: true }).waitFor()
    expect(bench.errors).toEqual([])
  })
})
