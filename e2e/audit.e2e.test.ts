import { describe, expect, it } from 'vitest'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { plate } from './parts'
import { withBench } from './with-bench'

// Tips by size above the list of stilts; what is too thin for what it carries is made stronger; stilts selected by a rule.
let id = ''
const { server, bench } = withBench({ seed: false, begin: async setup => void (id = await setup.bench.bringIn(setup.server, 'plate', plate())) })
const press = (key: string): Promise<void> => bench.page.keyboard.press(key)
const audit = () => bench.page.getByRole('region', { name: 'Tips' })
async function tips(): Promise<number[]> {
  await bench.saved()
  return (await server.job(id)).nodes.flatMap(n => (n.kind === 'tip' ? [n.fitted.tipDiameterMm] : [])).sort((a, b) => a - b)
}
async function click(point: Vec3): Promise<void> {
  const { x, y } = await bench.at(point)
  await bench.page.mouse.click(x, y)
}

describe('the audit of tips', () => {
  it('shows tips by size, and says which are too thin for what they carry', async () => {
    await bench.stage.focus()
    for (let i = 0; i < 6; i++) await press('o')
    await bench.still()
    await press('p')
    for (const [key, x] of [['1', -8], ['2', -4], ['3', 0], ['4', 5]] as const) {
      await press(key)
      await click([x, 0, 5])
      await bench.message(/^Stilt \d placed/)
    }
    await press('Escape')
    await bench.scanned()
    await bench.page.getByRole('tab', { name: /^Stilts/ }).click()
    await audit().getByRole('img', { name: /Tips by diameter in mm: 1 from 0\.20, 1 from 0\.35, 1 from 0\.50, 1 from 0\.80/ }).waitFor()
    // all four hold the one body
    await audit().getByText('2 that carry or hold a region are thinner.').waitFor()
    await audit().getByRole('button', { name: 'Select the thin ones' }).click()
    await bench.page.getByRole('region', { name: '2 stilts, side elevation' }).waitFor()
  })

  it('makes them stronger by per cent, says how many are still under, then to the least', async () => {
    await audit().getByRole('button', { name: 'By', exact: true }).click()
    await bench.message(/2 tips were looked at; 1 is still under 0\.40 mm/)
    expect(await tips()).toEqual([0.23, 0.402, 0.5, 0.8])
    await audit().getByRole('button', { name: 'To 0.40' }).click()
    await bench.message(/none that carries or holds a region is under 0\.40 mm/)
    expect(await tips()).toEqual([0.4, 0.402, 0.5, 0.8])
    await bench.stage.focus()
    await press('Control+z')
    await press('Control+z')
    expect(await tips()).toEqual([0.2, 0.35, 0.5, 0.8])
    await bench.write(/^Least tip that carries/, '0.6')
    await audit().getByText('3 that carry or hold a region are thinner.').waitFor()
    await bench.write(/^Least tip that carries/, '0.4')
  })

  it('selects by a rule, everything but these, and keeps a rule with the workshop', async () => {
    await bench.openSheet('Select by rule', 'Select by rule')
    const sheet = bench.page.getByRole('dialog', { name: 'Select by rule' })
    await sheet.getByLabel('Tip ⌀ from').fill('0.3')
    await sheet.getByLabel('Tip ⌀ to').fill('0.6')
    await sheet.getByRole('button', { name: 'Select 2' }).click()
    await bench.message(/2 stilts are selected/)
    await sheet.getByLabel('everything but these').check()
    await sheet.getByLabel('Name of the rule').fill('odd ones')
    await sheet.getByRole('button', { name: 'Keep' }).click()
    await bench.message(/kept with the workshop/)
    await sheet.getByRole('button', { name: 'Select 2' }).click()
    await bench.page.keyboard.press('Escape')
    await expect.poll(() => bench.page.getByRole('option', { name: /^Stilt/, selected: true }).allTextContents()).toHaveLength(2)
    await bench.page.reload()
    await bench.scanned()
    await bench.page.getByRole('tab', { name: /^Stilts/ }).click()
    await bench.openSheet('Select by rule', 'Select by rule')
    await sheet.getByRole('button', { name: 'odd ones', exact: true }).click()
    await sheet.getByRole('button', { name: 'Select 2' }).click()
    await bench.message(/2 stilts are selected/)
    expect(bench.errors).toEqual([])
  })
})
