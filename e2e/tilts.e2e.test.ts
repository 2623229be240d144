import type { Page } from 'playwright-core'
import { describe, expect, it } from 'vitest'
import type { Job } from '../core/contract'
import { readModel, wholeOf } from '../core/mesh'
import { objText } from '../core/testing/model-files'
import { lantern } from './parts'
import { withBench } from './with-bench'

// A lantern whose file counts in inches: made as large as it is meant, its front marked, stilts placed, a tilt found and taken; then
// the same by keyboard alone.
const { server, bench } = withBench({ seed: false })
const inches = async (): Promise<Buffer> => {
  const { positions, triangles } = wholeOf(await readModel(lantern()))
  return Buffer.from(objText({ positions: positions.map(v => (0.6 * v) / 25.4), triangles }))
}
const jobNow = async (): Promise<Job> => {
  await bench.saved()
  return server.job(new URL(bench.page.url()).pathname.split('/')[2])
}
const cards = () => bench.page.getByRole('group', { name: 'Tilts that are worth a look' }).getByRole('button')
const sheet = () => bench.page.getByRole('region', { name: 'Find a tilt' })
/** Waits for the end of a search; what the sheet says instead is told where it does not come. */
const best = () => expect.poll(async () => (await sheet().allTextContents()).join(), { timeout: 120000 }).toContain('Best of these')

describe('a tilt', () => {
  it('is found for a part in inches whose front is prized, and taken with its stilts seated anew', async () => {
    const { page } = bench
    await page.goto(`${server.url}/jobs`)
    await page.getByLabel('Model files').setInputFiles({ name: 'lamp.obj', mimeType: 'model/obj', buffer: await inches() })
    await page.getByRole('button', { name: 'Take as inches: 15 mm' }).click()
    await page.getByRole('link', { name: 'Pose', exact: true }).click()
    const stand = page.getByRole('button', { name: 'Stand it so' })
    if (await stand.count()) {
      await page.getByRole('radio', { name: /Lift 5 mm/ }).check()
      await stand.click()
    }
    await bench.scanned()
    await bench.still()
    await page.getByRole('radio', { name: /^Prized/ }).click()
    await page.getByRole('button', { name: 'Mark what is seen' }).click()
    await bench.message(/prized now/)
    await page.keyboard.press('Escape')
    await page.keyboard.press('Shift+3')
    await page.getByRole('button', { name: 'Hold islands' }).click()
    await bench.message(/placed/)
    const before = await jobNow(), stilts = before.nodes.filter(n => n.kind === 'tip').length
    expect(stilts).toBeGreaterThan(4)
    await page.keyboard.press('Shift+2')
    await page.getByRole('button', { name: 'Find a tilt' }).click()
    await best()
    const words = (await cards().first().textContent()) ?? ''
    expect(words).toMatch(/\d+ islands? (instead of \d+|as now)|no islands instead of \d+/)
    expect(words).toMatch(/prized skin/)
    expect(words).not.toMatch(/Coarse/)
    // nothing has been applied
    expect((await jobNow()).revision).toBe(before.revision)
    await cards().first().click()
    await bench.message(/seated anew/)
    await bench.scanned()
    const after = await jobNow()
    expect(after.parts[0].pose).not.toEqual(before.parts[0].pose)
    expect(after.nodes.filter(n => n.kind === 'tip')).toHaveLength(stilts)
    // tips are where they were on the part
    const anchors = (job: Job): unknown => job.nodes.flatMap(n => (n.kind === 'tip' ? [[n.id, n.anchor.point.map(v => Math.round(v * 1e4))]] : [])).sort()
    expect(anchors(after)).toEqual(anchors(before))
    await page.getByRole('button', { name: 'Undo' }).click()
    await bench.message('Undone: take a tilt.')
    const undone = await jobNow()
    expect([undone.parts[0].pose, undone.copies]).toEqual([before.parts[0].pose, before.copies])
    expect(undone.nodes).toEqual(before.nodes)
    await bench.scanned()
  })

  it('is picked on the map, which shows it on the stage first', async () => {
    const { page } = bench, map = page.getByRole('application', { name: /^Map of all tilts/ })
    const box = await map.boundingBox()
    if (!box) throw new Error('There is no map.')
    await page.mouse.move(box.x + box.width * 0.35, box.y + box.height * 0.4)
    await page.getByText(/about x, .* about y: (about )?\d+ islands/).waitFor()
    const count = await cards().count()
    await page.mouse.click(box.x + box.width * 0.35, box.y + box.height * 0.4)
    await expect.poll(() => cards().count()).toBe(count + 1)
    await expect.poll(async () => (await cards().first().textContent()) ?? '').toMatch(/ledges/)
    await page.mouse.move(2, 2)
  })

  it('is found by other weights, which are scanned as well', async () => {
    const { page } = bench
    await page.getByText('What counts').click()
    for (const wish of ['Little that hangs', 'Clean faces', 'No cups', 'Low and quick', 'Little resin in stilts']) {
      await page.getByRole('slider', { name: wish }).focus()
      await page.keyboard.press('Home')
    }
    // broad and flat as it is, it pulls least on its side
    await page.getByLabel('Shows').selectOption('pull')
    await expect.poll(async () => (await cards().nth(1).textContent()) ?? '', { timeout: 20000 }).toMatch(/mm taller/)
    await best()
    await expect.poll(async () => (await cards().allTextContents()).some(t => /Coarse/.test(t)), { timeout: 20000 }).toBe(false)
  })

  it('is searched anew where the part has changed, and the search can be stopped', async () => {
    const { page } = bench
    await bench.write('Lift, mm', '9')
    await page.getByText('The part has changed since this search.').waitFor()
    expect(await cards().count()).toBe(0)
    await page.getByRole('button', { name: 'Search again' }).click()
    await page.getByRole('button', { name: 'Stop', exact: true }).click()
    await page.getByText('The search was stopped.').first().waitFor()
    await page.keyboard.press('Escape')
    await page.getByRole('heading', { name: 'Find a tilt' }).waitFor({ state: 'detached' })
    expect(bench.errors).toEqual([])
  })

  it('is found and taken by keyboard alone', async () => {
    const { page } = bench
    await page.goto(`${server.url}/jobs`)
    await page.getByRole('link', { name: 'Open lamp' }).waitFor()
    // asked for before the press, or the browser opens a chooser of its own
    const file = { name: 'lamp by keys.obj', mimeType: 'model/obj', buffer: await inches() }
    const chosen = new Promise<void>((resolve, reject) => page.once('filechooser', chooser => void chooser.setFiles(file).then(resolve, reject)))
    await tabTo(page, 'Choose models')
    await page.keyboard.press('Enter')
    await chosen
    await page.getByRole('button', { name: 'Take as inches: 15 mm' }).waitFor()
    await tabTo(page, 'Take as inches: 15 mm')
    await page.keyboard.press('Enter')
    await page.getByText('Were these inches?').waitFor({ state: 'detached' })
    await page.keyboard.press('Shift+2')
    await bench.scanned()
    if (await page.getByRole('button', { name: 'Stand it so' }).count()) {
      await tabTo(page, 'Stand it so')
      await page.keyboard.press('Enter')
    }
    await bench.still()
    for (let i = 0; i < 20; i++) await page.keyboard.press('PageUp')
    await bench.scanned()
    await page.keyboard.press('m')
    await page.keyboard.press('1')
    await page.keyboard.press('Shift+m')
    await bench.message(/prized now/)
    await page.keyboard.press('Escape')
    await page.keyboard.press('Shift+3')
    await page.keyboard.press('h')
    await bench.message(/placed/)
    await page.keyboard.press('Shift+2')
    await page.getByRole('button', { name: 'Find a tilt' }).waitFor()
    await page.keyboard.press('i')
    await best()
    const before = await jobNow()
    await tabTo(page, /^A?Best of these/)
    await page.keyboard.press('Enter')
    await bench.message(/seated anew/)
    await bench.scanned()
    const after = await jobNow()
    expect(after.parts[0].pose).not.toEqual(before.parts[0].pose)
    expect(after.nodes.filter(n => n.kind === 'tip')).toHaveLength(before.nodes.filter(n => n.kind === 'tip').length)
    await page.keyboard.press('Control+z')
    expect((await jobNow()).parts[0].pose).toEqual(before.parts[0].pose)
    expect(bench.errors).toEqual([])
  })
})

/** Presses Tab until what has the focus says so. */
async function tabTo(page: Page, name: string | RegExp): Promise<void> {
  for (let i = 0; i < 120; i++) {
    await page.keyboard.press('Tab')
    const text = await page.evaluate(() => (document.activeElement?.getAttribute('aria-label') ?? document.activeElement?.textContent ?? '').trim())
    if (typeof name === 'string' ? text === name : name.test(text)) return
  }
  throw new Error(`Tab does not come to ${String(name)}.`)
}
