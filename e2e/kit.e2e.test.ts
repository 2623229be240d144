import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { KitFileSchema } from '@oak-stilts/core/contract'
import { temporaryFolder } from './bench'
import { lantern } from './parts'
import { withBench } from './with-bench'

// Printers and resins: one's own made from built-in ones, used by a job, saved and loaded again.
const { server, bench } = withBench({ seed: false })
const file = join(temporaryFolder(), 'kit.json')
const entry = (name: string) => bench.page.getByRole('navigation', { name: 'Printers, resins, gauges, recipes and peg beds' }).getByRole('button', { name: new RegExp(`^${name.replace(/[()]/g, '\\$&')}`) })
const chip = async (): Promise<void> => {
  await bench.page.getByTitle('Printer, resin and layer height').click()
  await bench.page.getByRole('dialog', { name: 'Printer and resin' }).waitFor()
}
let id = ''

describe('the kit', () => {
  it('makes a printer of one’s own: the pixel is derived, the plate follows, and built-in ones cannot be changed', async () => {
    await bench.page.goto(`${server.url}/kit`)
    await entry('Harbour 50').click()
    expect(await bench.page.getByLabel('Pixels across, px').isDisabled()).toBe(true)
    await bench.page.getByRole('button', { name: 'Make my own from it' }).click()
    await bench.page.getByLabel('Printer name').fill('Mine')
    await bench.page.getByLabel('Printer name').press('Enter')
    await bench.write('Pixels across, px', '1917')
    await bench.page.getByText('0.079995 mm').waitFor()
    await bench.write('Pixels along, px', '971')
    await bench.page.getByText('77.675 mm').waitFor()
    await bench.page.getByLabel('Layer heights, mm').fill('0.1, 0.05, 0.2')
    await bench.page.getByLabel('Layer heights, mm').press('Enter')
    await expect.poll(() => bench.field('Layer heights, mm')).toBe('0.05, 0.1, 0.2')
    for (const [field, value] of [['Back edge, mm', '2'], ['Fastest travel, mm/min', '240'], ['Memory, MB', '2000']] as const) await bench.write(field, value)
    await bench.page.getByLabel('Layer heights, mm').fill('thick')
    await bench.page.getByLabel('Layer heights, mm').press('Enter')
    await bench.message(/nothing was changed/)
  })

  it('makes a resin of one’s own: what is written by hand is no guess any more', async () => {
    await entry('Clear').click()
    await bench.page.getByRole('button', { name: 'Make my own from it' }).click()
    const guess = bench.page.getByRole('button', { name: 'Release stress is a guess' })
    expect(await guess.getAttribute('aria-pressed')).toBe('true')
    await bench.write(/^Release stress, /, '0.05')
    await expect.poll(() => guess.getAttribute('aria-pressed')).toBe('false')
    await bench.write(/^Margin, /, '0.5')
    await bench.message(/can be 1 to 10/)
  })

  it('is saved as JSON, and loaded again once it was deleted', async () => {
    const [download] = await Promise.all([bench.page.waitForEvent('download'), bench.page.getByRole('button', { name: 'Save mine as JSON' }).click()])
    await download.saveAs(file)
    const kit = KitFileSchema.parse(JSON.parse(readFileSync(file, 'utf8')))
    expect([kit.printers.map(p => [p.name, p.pixelsX, p.edgesMm, p.fastestMmMin, p.memoryMb]), kit.resins.map(r => [r.name, r.releaseStressNMm2])]).toEqual([[['Mine', 1917, [0, 0, 0, 2], 240, 2000]], [['Clear (2)', 0.05]]])
    await entry('Mine').click()
    await bench.page.getByRole('button', { name: 'Delete' }).click()
    await entry('Mine').waitFor({ state: 'detached' })
    await bench.page.getByLabel('Kit file').setInputFiles(file)
    await bench.message(/1 entry was read; 1 was there already/)
    await bench.page.reload()
    await entry('Mine').waitFor()
  })

  it('has gauges on their drawing: moved to another key, changed, and had back as they were built in', async () => {
    const gauges = async (): Promise<string[]> => (await bench.page.getByRole('navigation', { name: 'Printers, resins, gauges, recipes and peg beds' }).getByRole('button').allTextContents()).slice(-8, -4).map(t => t.replace(/\s+/g, ' '))
    await entry('Medium').click()
    await bench.write(/^Spacing/, '3.2')
    await expect.poll(gauges).toEqual(['Finebuilt in 1', 'Lightbuilt in 2', 'Medium 3', 'Heavybuilt in 4'])
    await bench.page.getByRole('button', { name: 'Up', exact: true }).click()
    await expect.poll(gauges).toEqual(['Finebuilt in 1', 'Medium 2', 'Lightbuilt in 3', 'Heavybuilt in 4'])
    await bench.page.reload()
    await entry('Medium').click()
    await expect.poll(() => bench.field(/^Spacing/)).toBe('3.20')
    await bench.page.getByRole('button', { name: 'Back to built-in' }).click()
    await expect.poll(gauges).toEqual(['Finebuilt in 1', 'Lightbuilt in 2', 'Mediumbuilt in 3', 'Heavybuilt in 4'])
    await expect.poll(() => bench.field(/^Spacing/)).toBe('2.50')
  })

  it('is used by a job: another printer scans all layers again, another resin only estimates loads anew', async () => {
    id = await bench.bringIn(server, 'Lantern', lantern())
    const layers = async (): Promise<number> => Number(await bench.page.getByRole('slider', { name: 'Layer track' }).getAttribute('aria-valuemax'))
    const before = await layers()
    await bench.page.getByRole('button', { name: 'Hold islands' }).click()
    await bench.message(/placed\./)
    await bench.scanned()
    const open = await bench.openCount()
    await chip()
    await bench.page.getByLabel('Printer', { exact: true }).selectOption({ label: 'Mine' })
    await bench.message(/Mine: pixel 0\.079995 mm\. All layers are scanned again\./)
    await bench.scanned()
    expect(Math.abs((await bench.openCount()) - open)).toBeLessThan(4)
    await bench.page.getByLabel('Layer height').selectOption({ label: '0.1 mm' })
    await bench.message(/layer height 0\.1 mm/)
    await bench.scanned()
    expect(await layers()).toBeLessThan(before * 0.6)
    await bench.page.getByLabel('Resin', { exact: true }).selectOption({ label: 'Clear (2)' })
    await bench.message(/loads are estimated anew; no layer is scanned again/)
    await bench.scanned()
    await bench.saved()
    const job = await server.job(id)
    expect([job.printer.name, job.layerMm, job.resin.releaseStressNMm2]).toEqual(['Mine', 0.1, 0.05])
    await bench.page.keyboard.press('Escape')
    await bench.stage.focus()
    for (let i = 0; i < 3; i++) await bench.page.keyboard.press('Control+z')
    await expect.poll(async () => (await server.job(id)).printer.name).toBe('Harbour 50')
    await bench.scanned()
    expect([await layers(), await bench.openCount()]).toEqual([before, open])
    expect(bench.errors).toEqual([])
  })
})
