import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { temporaryFolder } from './bench'
import { lantern, plate } from './parts'
import { withBench } from './with-bench'

const { server, bench } = withBench({ seed: false, begin: async setup => void (await setup.bench.bringIn(setup.server, 'lantern', lantern())) })
const files = temporaryFolder()

const status = (name: string): Promise<string> => bench.page.getByRole('region', { name }).getByRole('heading').innerText()

describe('walking what the scan found', () => {
  it('waives a finding with a reason, and has it still after a reload', async () => {
    const open = await bench.openCount()
    await bench.stage.focus()
    await bench.page.keyboard.press('n')
    const label = (await bench.page.getByRole('listbox', { name: 'Findings' }).getByRole('option', { selected: true }).textContent()) ?? ''
    const name = label.split(',')[0]
    await bench.page.keyboard.press('w')
    await bench.page.getByLabel('Why it may stay').fill('it sits on the mooring post')
    await bench.page.getByRole('button', { name: 'Waive it' }).click()
    await expect.poll(() => bench.openCount()).toBe(open - 1)
    expect(await status(name)).toMatch(/waived/)
    await bench.saved()
    await bench.page.reload()
    await bench.scanned()
    expect(await bench.openCount()).toBe(open - 1)
    await bench.page.getByRole('button', { name: 'Only open' }).click()
    const row = await bench.row(/ waived$/)
    expect(await row.count()).toBe(1)
    await row.click()
    await bench.page.getByText('Left as it is: it sits on the mooring post.').waitFor()
    await bench.page.keyboard.press('w')
    await expect.poll(() => bench.openCount()).toBe(open)
    await bench.page.getByRole('button', { name: 'Undo' }).click()
    await expect.poll(() => bench.openCount()).toBe(open - 1)
    await bench.page.getByRole('button', { name: 'Only open' }).click()
  })

  it('filters the list by kind', async () => {
    await bench.openSheet('Filter', 'Filter of the worklist')
    await bench.page.getByRole('checkbox', { name: /^Islands/ }).click()
    await expect.poll(() => bench.page.getByRole('option', { name: /island,/ }).count()).toBe(0)
    expect(await bench.page.getByRole('option', { name: /^Ledge,/ }).count()).toBe(4)
    await bench.page.getByRole('button', { name: 'Show what is open again' }).click()
    await bench.page.keyboard.press('Escape')
    await expect.poll(() => bench.page.getByRole('option', { name: /island,/ }).count()).toBeGreaterThan(5)
  })

  it('lists the signals in a table and as CSV, and switches lanes', async () => {
    await bench.openSheet('Signals drawn', 'Signals')
    await bench.page.getByRole('checkbox', { name: /^hanging/ }).click()
    await bench.page.getByRole('button', { name: 'Signals drawn' }).filter({ hasText: '+ 1' }).waitFor()
    const [download] = await Promise.all([bench.page.waitForEvent('download'), bench.page.getByRole('button', { name: 'Save as CSV' }).click()])
    const path = join(files, 'layers.csv')
    await download.saveAs(path)
    const lines = readFileSync(path, 'utf8').trim().split('\n')
    expect(lines[0]).toMatch(/^layer,z_mm,area_mm2,/)
    // one for each layer: 5 mm of lift and 11 mm of part
    expect(lines).toHaveLength(1 + 320)
    await bench.page.getByRole('button', { name: 'Table' }).click()
    await bench.page.getByRole('dialog', { name: 'Signals of all layers' }).getByText('Peel N, estimate').waitFor()
    await bench.page.keyboard.press('Escape')
  })

  it('keeps a large island with one tip partly held, and says how much of it hangs', async () => {
    await bench.bringIn(server, 'plate', plate())
    await (await bench.row(/^Body island/)).click()
    await bench.still()
    await bench.stage.focus()
    await bench.page.keyboard.press('p')
    const at = await bench.at([0, 0, 5])
    await bench.page.mouse.move(at.x + 2, at.y)
    await bench.message(/gap/)
    await bench.page.mouse.click(at.x, at.y)
    await bench.message(/^Stilt 1 placed/)
    await bench.scanned()
    await bench.page.keyboard.press('Escape')
    const row = bench.page.getByRole('option', { name: /^Body island, \d+ % held.*partly held$/ })
    await row.click()
    // one tip of 0.5 mm holds 2 mm around itself: about a twentieth of 24 by 16 mm
    const held = Number(/(\d+) % held/.exec((await row.textContent()) ?? '')?.[1])
    expect(held).toBeGreaterThan(2)
    expect(held).toBeLessThan(7)
    await bench.page.getByRole('region', { name: 'Body island' }).getByRole('button', { name: 'Hold the rest' }).click()
    await bench.message(/stilts were placed\.$/)
    await bench.scanned()
    await bench.page.getByRole('status', { name: 'Findings' }).filter({ hasText: /settled|Every island is held/ }).waitFor()
    expect(bench.errors).toEqual([])
  })
})
