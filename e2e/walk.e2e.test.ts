import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { writeStl } from '@oak-stilts/core/mesh'
import { box } from '../core/testing/shapes'
import { temporaryFolder } from './bench'
import { withBench } from './with-bench'

const { server, bench } = withBench()
const files = temporaryFolder()

const status = (name: string): Promise<string> => bench.page.getByRole('region', { name }).getByRole('heading').innerText()

describe('walking what the scan found', () => {
  it('tells at a first look, then closer, and walks the layers of the heron by keyboard', async () => {
    const said = await bench.record('Findings')
    await bench.page.goto(`${server.url}/jobs/${await server.idOf('Wading heron')}/hold`)
    await bench.scanned()
    expect((await said()).filter(s => /^At a first look about \d+ islands/.test(s))).toHaveLength(1)
    await bench.stage.focus()
    await bench.page.keyboard.press('Home')
    expect(await bench.layer()).toBe(1)
    for (let i = 0; i < 5; i++) await bench.page.keyboard.press('Shift+ArrowRight')
    for (let i = 0; i < 3; i++) await bench.page.keyboard.press('ArrowRight')
    await bench.page.keyboard.press('ArrowLeft')
    expect(await bench.layer()).toBe(53)
    await bench.page.keyboard.press('n')
    const body = bench.page.getByRole('listbox', { name: 'Findings' }).getByRole('option', { selected: true })
    expect((await body.textContent())?.trim()).toMatch(/^Body island/)
    await expect.poll(() => bench.layer()).toBe(101)
    await bench.page.getByRole('img', { name: /^Layer 101 from above: .*unheld/ }).waitFor()
  })

  it('waives a finding with a reason, and has it still after a reload', async () => {
    const open = await bench.openCount()
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
    expect(await bench.page.getByRole('option', { name: /^Ledge,/ }).count()).toBeGreaterThan(3)
    await bench.page.getByRole('button', { name: 'Show what is open again' }).click()
    await bench.page.keyboard.press('Escape')
    expect(await bench.page.getByRole('option', { name: /island,/ }).count()).toBeGreaterThan(10)
  })

  it('lists the signals in a table and as CSV, and switches lanes', async () => {
    await bench.openSheet('Signals drawn', 'Signals')
    await bench.page.getByRole('checkbox', { name: /^unheld/ }).click()
    await bench.page.getByRole('button', { name: 'Signals drawn' }).filter({ hasText: '+ 1' }).waitFor()
    const [download] = await Promise.all([bench.page.waitForEvent('download'), bench.page.getByRole('button', { name: 'Save as CSV' }).click()])
    const path = join(files, 'layers.csv')
    await download.saveAs(path)
    const lines = readFileSync(path, 'utf8').trim().split('\n')
    expect(lines[0]).toMatch(/^layer,z_mm,area_mm2,/)
    expect(lines.length).toBeGreaterThan(1300)
    await bench.page.getByRole('button', { name: 'Table' }).click()
    await bench.page.getByRole('dialog', { name: 'Signals of all layers' }).getByText('Peel N, estimate').waitFor()
    await bench.page.keyboard.press('Escape')
  })

  it('shows the cup of the bell and where a vent would let it breathe', async () => {
    await bench.page.goto(`${server.url}/jobs/${await server.idOf("Diver's bell")}/hold`)
    await bench.scanned()
    await (await bench.row(/^Cup, 20/)).click()
    const sheet = bench.page.getByRole('region', { name: 'Cup' })
    await sheet.getByText(/through \d\.\d\d mm of wall/).waitFor()
    await sheet.getByText(/\d+\.\d\d N/).waitFor()
    expect(await bench.layer()).toBe(913)
  })

  it('goes back one step at Esc: first the menu, then the selection', async () => {
    const sheet = bench.page.getByRole('region', { name: 'Cup' })
    await bench.page.getByRole('button', { name: /^Show/ }).click()
    const entry = bench.page.getByText('Outline of the layer under the pointer')
    await entry.waitFor()
    await bench.page.keyboard.press('Escape')
    await entry.waitFor({ state: 'hidden' })
    expect(await sheet.isVisible()).toBe(true)
    await bench.page.keyboard.press('Escape')
    await sheet.waitFor({ state: 'hidden' })
  })

  it('keeps a large island with one tip partly held, and says how much of it hangs', async () => {
    const file = join(files, 'plate.stl')
    writeFileSync(file, writeStl(box([-8, -5, 0], [8, 5, 3]), 'plate'))
    await bench.page.goto(`${server.url}/jobs`)
    await bench.page.locator('input[type=file]').first().setInputFiles(file)
    await bench.page.getByLabel('Job name').waitFor()
    const lift = bench.page.getByRole('radio', { name: /Lift 5 mm/ })
    await bench.page.getByRole('link', { name: 'Pose' }).click()
    if (await lift.count()) {
      await lift.check()
      await bench.page.getByRole('button', { name: 'Stand it so' }).click()
    }
    await bench.page.getByRole('link', { name: /^Hold/ }).click()
    await bench.scanned()
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
    // one tip of 0.5 mm holds 2 mm around itself: about a tenth of 16 by 10 mm
    const held = Number(/(\d+) % held/.exec((await row.textContent()) ?? '')?.[1])
    expect(held).toBeGreaterThan(5)
    expect(held).toBeLessThan(15)
    await bench.page.getByRole('region', { name: 'Body island' }).getByRole('button', { name: 'Hold the rest' }).click()
    await bench.message(/stilts were placed\.$/)
    await bench.scanned()
    await bench.page.getByRole('status', { name: 'Findings' }).filter({ hasText: /settled|Every island is held/ }).waitFor()
    expect(bench.errors).toEqual([])
  })
})
