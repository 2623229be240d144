import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { z } from 'zod'
import { PrinterStateSchema, type PrinterState } from '@oak-stilts/core/contract'
import { sourceOfBytes } from '@oak-stilts/core/mesh'
import { openPackage, rehearse } from '@oak-stilts/core/print'
import { table } from './parts'
import { withBench } from './with-bench'

// From a held part to a printed plate: copies laid out, sliced, rehearsed, sent, printed over a power cut.
const { server, bench } = withBench({ seed: false })
let id = ''
const sheet = () => bench.page.getByRole('region', { name: 'Print', exact: true }), printer = () => bench.page.getByRole('region', { name: 'Printer', exact: true })
const press = (name: string | RegExp): Promise<void> => sheet().getByRole('button', { name }).click()
const doing = (what: RegExp): Promise<void> => printer().getByRole('status', { name: 'What the printer does' }).filter({ hasText: what }).waitFor()
const printers = async (): Promise<PrinterState[]> => z.array(PrinterStateSchema).parse(await (await fetch(`${server.url}/api/printers`)).json())
const harbour = async (): Promise<PrinterState> => (await printers()).find(p => p.printer.name === 'Harbour 50') as PrinterState

describe('printing', () => {
  it('five copies are laid out in one step, free of each other and on the plate', async () => {
    id = await bench.bringIn(server, 'Table', table())
    await bench.stage.focus()
    await bench.page.keyboard.press('h')
    await bench.message(/placed/)
    await bench.scanned()
    await bench.saved()
    await bench.stage.focus()
    await bench.page.keyboard.press('Shift+5')
    await bench.write('Copies of Table, ', '5')
    await bench.message(/^5 copies stand free on the plate/)
    await bench.page.getByRole('status', { name: 'Plate' }).filter({ hasText: 'All 5 stand free on the plate.' }).waitFor()
    await bench.saved()
    expect((await server.job(id)).copies).toHaveLength(5)
    await bench.page.getByRole('button', { name: 'Undo' }).click()
    await bench.saved()
    expect((await server.job(id)).copies).toHaveLength(1)
    await bench.page.getByRole('button', { name: 'Redo' }).click()
    await bench.page.getByRole('status', { name: 'Plate' }).filter({ hasText: 'All 5 stand' }).waitFor()
  })

  it('what stands over the edge is said, and laying out brings it back', async () => {
    await bench.write('Room between copies, mm', '12')
    await bench.page.getByRole('group', { name: 'Plate from above' }).getByRole('button').first().click()
    await bench.stage.focus()
    for (let i = 0; i < 125; i++) await bench.page.keyboard.press('Alt+ArrowRight')
    await bench.page.getByRole('status', { name: 'Plate' }).filter({ hasText: /reaches over the edge|runs into each other/ }).waitFor()
    await press('Slice')
    await bench.message(/^It was not sliced: /)
    await bench.page.getByRole('button', { name: 'Lay out' }).click()
    await bench.page.getByRole('status', { name: 'Plate' }).filter({ hasText: 'All 5 stand free on the plate.' }).waitFor()
  })

  it('values of this job are set by height too, and change how long it takes', async () => {
    const time = (): Promise<string> => sheet().getByLabel('What it comes to').textContent().then(t => t ?? '')
    await sheet().getByText('Light', { exact: false }).first().click()
    const before = await time()
    await bench.write('Exposure, s', '5')
    await expect.poll(time).not.toBe(before)
    await sheet().getByText('By height', { exact: false }).first().click()
    const slow = await time()
    await press('Add a range')
    await bench.write('Range 1: Speed up, mm/min', '10')
    await expect.poll(time).not.toBe(slow)
    await bench.saved()
    const job = await server.job(id)
    expect([job.resin.exposureS, job.printing.ranges.length, job.printing.ranges[0].set.travelUpMmMin]).toEqual([5, 1, 10])
  })

  it('it is sliced into a package that holds together, and its layers are seen as the printer shows them', async () => {
    await sheet().getByLabel('Shades at edges').selectOption('twice')
    await press('Slice')
    await bench.message(/^Sliced and read back: [\d,]+ layers/)
    await press('Rehearse')
    await bench.page.getByRole('region', { name: 'Rehearsal' }).getByText(/nothing begins in the air/).waitFor()
    await bench.page.getByLabel('Printed layer').fill('40')
    await bench.page.getByLabel('Printed layer').press('Enter')
    await bench.page.getByRole('img', { name: 'Layer 40 as the printer shows it' }).waitFor()
    const [file] = await Promise.all([bench.page.waitForEvent('download'), press(/^Save package/)])
    expect(file.suggestedFilename()).toBe('Table_Grey-standard_0.05mm.zip')
    await openPackage(sourceOfBytes(readFileSync(await file.path())), found => {
      const { manifest } = found, steps = rehearse(found)
      expect([manifest.parts, manifest.shades, manifest.job?.id]).toEqual([[{ name: 'Table', copies: 5 }], 5, id])
      // light of 5 s but for the first layers
      expect(manifest.layers[50].exposureS).toBe(5)
      let step = steps.next()
      while (!step.done) step = steps.next()
      expect(step.value.result.islands.filter(i => i.state === 'open')).toEqual([])
      return Promise.resolve()
    })
  })

  it('simulated printers are started, and one whose memory is full says so', async () => {
    await printer().getByRole('button', { name: 'Start simulated printers' }).click()
    await doing(/Nothing loaded/)
    await printer().getByText('What goes wrong').click()
    await printer().getByLabel('Its memory is full').check()
    await printer().getByRole('button', { name: 'Send' }).click()
    await bench.message(/did not take it\. The memory of Harbour 50 is full/)
    await printer().getByLabel('Its memory is full').uncheck()
    await expect.poll(async () => (await harbour()).faults.fullMemory).toBe(false)
  })

  it('it is sent over a broken connection, printed over a power cut, and printed', async () => {
    await printer().getByLabel('The connection breaks at the next piece').check()
    await expect.poll(async () => (await harbour()).faults.dropConnection).toBe(true)
    await printer().getByRole('button', { name: 'Send' }).click()
    await bench.message(/has it, checked to the last byte/)
    expect(await harbour()).toMatchObject({ doing: 'ready', loaded: { name: 'Table', job: { id } }, faults: { dropConnection: false } })
    await printer().getByRole('button', { name: 'Start printing' }).click()
    await doing(/Printing: Table, layer/)
    await expect.poll(async () => (await harbour()).run?.layer ?? 0).toBeGreaterThan(2)
    await printer().getByRole('button', { name: 'Cut the power for a moment' }).click()
    await doing(/The power was gone/)
    await printer().getByText(/The power went while it printed layer \d+/).waitFor()
    await bench.write('Time runs, ×', '60000')
    await printer().getByRole('button', { name: 'Go on' }).click()
    await doing(/Printed: Table/)
    expect((await harbour()).run?.secondsLeft).toBe(0)
  })

  it('a killed server loses neither the job nor what the printer holds', async () => {
    await bench.saved()
    await server.kill()
    await server.start()
    await bench.page.reload()
    await bench.scanned()
    await doing(/Printed: Table/)
    expect((await server.job(id)).copies).toHaveLength(5)
  })
})
