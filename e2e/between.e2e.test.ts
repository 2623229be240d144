import { describe, expect, it } from 'vitest'
import { gate, stall } from './parts'
import { withBench } from './with-bench'

// A space that no part closes by itself, but two do where they stand side by side.
let id = ''
const { server, bench } = withBench({ seed: false, begin: async setup => void (id = await setup.bench.bringIn(setup.server, 'Stall', stall(), 0)) })
const row = () => bench.page.getByRole('option', { name: /^Cup between parts/ })
const view = (name: 'Pose' | 'Hold'): Promise<void> => bench.page.getByRole('link', { name: new RegExp(`^${name}`) }).click()
async function standAt(xMm: number): Promise<void> {
  await view('Pose')
  await bench.write(/^Across, x/, xMm.toFixed(2))
  await view('Hold')
}

describe('a cup between parts', () => {
  it('is none while the parts stand apart', async () => {
    await view('Pose')
    await bench.page.getByLabel('File of another part').setInputFiles({ name: 'Gate.stl', mimeType: 'model/stl', buffer: Buffer.from(gate()) })
    await bench.page.getByRole('button', { name: 'Stand it so' }).click()
    await bench.scanned()
    await bench.write(/^Along, y/, '0')
    await standAt(11.5)
    await bench.saved()
    expect(await bench.openCount()).toBe(0)
  })

  it('is found where one is moved against the other, with the layers in which it pulls', async () => {
    const [first] = (await server.job(id)).copies
    expect([first.xPixels, first.yPixels]).toEqual([0, 0])
    await standAt(11)
    await row().waitFor()
    await row().click()
    const sheet = bench.page.getByRole('region', { name: 'Cup between parts' })
    await sheet.waitFor()
    // 18 by 12 mm, 12 mm high: 240 layers of 0.05 mm
    expect(await sheet.textContent()).toMatch(/From layer 1 to 240 these parts close a space between them/)
    expect(await bench.openCount()).toBe(1)
  })

  it('is gone once it is moved away again, and back with undo', async () => {
    await standAt(11.3)
    await row().waitFor({ state: 'hidden' })
    await bench.stage.focus()
    await bench.page.keyboard.press('Control+z')
    await row().waitFor()
    expect(bench.errors).toEqual([])
  })
})
