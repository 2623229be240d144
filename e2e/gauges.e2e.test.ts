import { describe, expect, it } from 'vitest'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { plate } from './parts'
import { withBench } from './with-bench'

// Gauges on the bench: chosen by keys, changed on their drawing with stilts that follow or stay, made from a stilt.
let id = ''
const { server, bench } = withBench({ seed: false, begin: async setup => void (id = await setup.bench.bringIn(setup.server, 'plate', plate())) })
const press = (key: string): Promise<void> => bench.page.keyboard.press(key)
const gauge = () => bench.page.getByRole('combobox', { name: 'Gauge', exact: true })
const sheet = () => bench.page.getByRole('region', { name: 'Sizes of the gauge' })
async function click(point: Vec3): Promise<void> {
  const { x, y } = await bench.at(point)
  await bench.page.mouse.click(x, y)
}
/** Sizes of tips as the server has them, in the order of their numbers. */
async function tips(): Promise<{ gauge: string; tip: number; shape: string; own: object }[]> {
  await bench.saved()
  return (await server.job(id)).nodes.flatMap(n => (n.kind === 'tip' ? [n] : [])).sort((a, b) => a.number - b.number).map(n => ({ gauge: n.gauge, tip: n.fitted.tipDiameterMm, shape: n.fitted.tipShape, own: n.own }))
}

describe('gauges on the bench', () => {
  it('are chosen by digits, and a change on the drawing asks whether placed stilts follow', async () => {
    await bench.stage.focus()
    for (let i = 0; i < 6; i++) await press('o')
    await bench.still()
    await press('2')
    await bench.message(/Light gauge, tip 0\.35 mm/)
    await press('p')
    for (const x of [-8, 0, 8]) {
      await click([x, 0, 5])
      await bench.message(/^Stilt \d placed/)
    }
    await press('Escape')
    await press('Escape')
    await press('Shift+G')
    await sheet().waitFor()
    await bench.write(/^Tip diameter/, '0.45')
    await sheet().getByText('3 stilts of this job have it.').waitFor()
    await sheet().getByRole('button', { name: 'They follow' }).click()
    await bench.message(/Light was changed; 3 stilts follow/)
    expect((await tips()).map(t => t.tip)).toEqual([0.45, 0.45, 0.45])
    await bench.write(/^Tip diameter/, '0.40')
    await sheet().getByRole('button', { name: 'They stay as they are' }).click()
    await bench.message(/3 stilts stay as they are/)
    expect(await tips()).toMatchObject([{ tip: 0.45, own: { tipDiameterMm: 0.45 } }, { tip: 0.45 }, { tip: 0.45 }])
    expect((await server.job(id)).gauges).toMatchObject([{ id: 'light', tipDiameterMm: 0.4 }])
  })

  it('say that a tip is finer than four pixels, and that a ball leaves a bead', async () => {
    await gauge().selectOption({ label: 'Fine 0.20' })
    await bench.write(/^Tip diameter/, '0.15')
    await sheet().getByText(/finer than four pixels \(0\.20 mm\)/).waitFor()
    await sheet().getByLabel('Tip shape').selectOption('ball')
    await sheet().getByText(/leaves a bead on fine skin/).waitFor()
    await bench.saved()
    expect((await server.job(id)).gauges.find(g => g.id === 'fine')).toMatchObject({ tipDiameterMm: 0.15, tipShape: 'ball' })
  })

  it('can be dragged on the drawing, and set by the taper of the cone', async () => {
    await gauge().selectOption({ label: 'Heavy 0.80' })
    const grip = sheet().locator('.grip').first(), box = await grip.boundingBox()
    if (!box) throw new Error('There is no grip.')
    const from = { x: box.x + box.width / 2, y: box.y + box.height / 2 }
    await bench.drag(from, { x: from.x + 5, y: from.y })
    await bench.release()
    await expect.poll(() => bench.field(/^Knee diameter/)).toBe('2.20')
    // neck 0.80, and 3 mm that open by 10° to each side
    await bench.write(/^Taper/, '10')
    await expect.poll(() => bench.field(/^Knee diameter/)).toBe('1.86')
  })

  it('are made from a stilt, kept with the workshop, and have the next digit', async () => {
    await sheet().getByRole('button', { name: 'Close' }).click()
    await bench.page.getByRole('tab', { name: /^Stilts/ }).click()
    await bench.page.getByRole('option', { name: /^Stilt 2\b/ }).click()
    await bench.page.getByLabel('Tip shape').selectOption('ball')
    await expect.poll(async () => (await tips())[1].shape).toBe('ball')
    await bench.page.getByRole('button', { name: 'Save as a gauge' }).click()
    await sheet().getByLabel('Gauge name').fill('Harbour ball')
    await sheet().getByLabel('Gauge name').press('Enter')
    await expect.poll(() => gauge().locator('option').allTextContents()).toContain('Harbour ball 0.45')
    await bench.stage.focus()
    await press('1')
    await press('5')
    await bench.message(/Harbour ball gauge, tip 0\.45 mm/)
    await press('p')
    await click([0, 5, 5])
    await bench.message(/^Stilt 4 placed/)
    const [, , , last] = await tips()
    expect(last).toMatchObject({ tip: 0.45, shape: 'ball', own: {} })
    // the job has it for itself
    expect((await server.job(id)).gauges.map(g => g.name)).toContain('Harbour ball')
  })

  it('of a soft resin come with it, but what stilts have stays', async () => {
    await bench.page.getByTitle('Printer, resin and layer height').click()
    const dialog = bench.page.getByRole('dialog', { name: 'Printer and resin' })
    await dialog.getByLabel('Resin').selectOption({ label: 'Soft, flexible' })
    await expect.poll(async () => (await gauge().locator('option').allTextContents()).slice(0, -1)).toEqual(['Fine 0.15', 'Light 0.40', 'Medium 0.65', 'Heavy 0.80', 'Harbour ball 0.45'])
    expect((await tips()).map(t => t.tip)).toEqual([0.45, 0.45, 0.45, 0.45])
    expect(bench.errors).toEqual([])
  })
})
