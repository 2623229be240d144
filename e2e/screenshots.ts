import { mkdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Browser } from 'playwright-core'
import { readModel, wholeOf, writeStl, type Mesh } from '../core/mesh'
import { demoStl } from '../server'
import { BenchPage, launch, ROOT, temporaryFolder, TestServer, type Size } from './bench'

/** Remakes docs/screenshots from the demo, seen at the size of a small laptop. */
const folder = join(ROOT, 'docs', 'screenshots')
mkdirSync(folder, { recursive: true })
const server = new TestServer(temporaryFolder())
await server.start()
const browser: Browser = await launch(true)

async function view(job: string, route: 'part' | 'pose' | 'hold' | 'proof' | 'print', steps: (bench: BenchPage) => Promise<void>, name: string, size?: Size, after?: (bench: BenchPage) => Promise<void>): Promise<void> {
  const bench = await BenchPage.open(browser, size)
  await bench.page.goto(`${server.url}/jobs/${await server.idOf(job)}/${route}`)
  await bench.scanned()
  await bench.still()
  await steps(bench)
  await bench.still()
  await bench.page.mouse.move(2, 2)
  await bench.page.screenshot({ path: join(folder, `${name}.png`) })
  if (after) {
    await after(bench)
    await bench.saved()
  }
  await bench.page.context().close()
}

await view('Wading heron', 'hold', async () => undefined, 'hold-heron')
await view('Wading heron', 'pose', async () => undefined, 'pose-heron')
await view('Wading heron', 'pose', async bench => {
  await bench.page.getByRole('radio', { name: /^Prized/ }).click()
  await bench.stage.hover()
  for (let i = 0; i < 5; i++) await bench.page.mouse.wheel(0, -160)
}, 'pose-faces')
const cards = (bench: BenchPage) => bench.page.getByRole('group', { name: 'Tilts that are worth a look' }).getByRole('button')
await view('Wading heron', 'pose', async bench => {
  await bench.page.getByRole('button', { name: 'Find a tilt' }).click()
  await bench.page.getByText('Best of these').waitFor({ timeout: 120000 })
  await cards(bench).first().locator('canvas').waitFor()
  // one after the other is drawn
  await bench.page.waitForTimeout(2500)
  await cards(bench).first().focus()
}, 'pose-tilts')
await view("Diver's bell", 'hold', async bench => {
  await (await bench.row(/^Cup, 20/)).click()
}, 'hold-bell-cup')
// two versions of demo jobs: what they were before stands first in the list of versions
const taken = async (bench: BenchPage, version: string): Promise<void> => {
  await bench.page.getByRole('button', { name: 'Versions' }).click()
  await bench.page.getByRole('listitem').filter({ hasText: version }).getByRole('button', { name: /^Go back/ }).click()
  await bench.message(/Back at/)
  await bench.saved()
  await bench.scanned()
}
const undone = async (bench: BenchPage): Promise<void> => {
  await bench.page.getByRole('button', { name: 'Undo' }).click()
  await bench.saved()
}
await view("Diver's bell", 'part', async bench => {
  await taken(bench, 'Hollowed and vented')
  await bench.page.getByRole('button', { name: /^Hollow/ }).click()
  await bench.page.getByText('Taken out').waitFor({ timeout: 120000 })
  await bench.page.getByLabel('Current layer').fill('760')
  await bench.page.getByLabel('Current layer').press('Enter')
  await bench.stage.focus()
  await bench.page.keyboard.press('x')
}, 'part-hollow', undefined, undone)
await view('Wading heron', 'part', async bench => {
  await taken(bench, 'Cut at the legs')
  await bench.page.getByRole('button', { name: /^Cut/ }).first().click()
  await bench.page.getByRole('button', { name: 'Set it anew' }).click()
  await bench.page.getByText(/It meets 2 pieces/).waitFor({ timeout: 120000 })
}, 'part-cut', undefined, undone)
await view("Diver's bell", 'hold', async bench => {
  await bench.page.getByRole('button', { name: 'Hold islands' }).click()
  await bench.page.getByRole('status', { name: 'Message' }).filter({ hasText: /placed/ }).waitFor({ timeout: 200000 })
  await bench.scanned()
  await bench.page.getByRole('tab', { name: /^Stilts/ }).click()
  await bench.page.getByRole('option', { name: /^Stilt 2\b/ }).click()
  await bench.saved()
}, 'stilt-side-elevation')
// a fan of branches, the stilt that they hang on selected
await view('Kelp branch', 'hold', async bench => {
  await bench.page.getByRole('tab', { name: /^Stilts/ }).click()
  await bench.page.getByRole('option', { name: /^Stilt 7\b/ }).click()
  await bench.stage.focus()
  await bench.page.keyboard.press('o')
}, 'hold-kelp-branches')
await view('Signal buoy', 'hold', async bench => {
  await bench.page.getByRole('button', { name: 'Lift them out' }).click()
  await bench.message(/stilts now/)
  await bench.scanned()
  await bench.page.getByRole('tab', { name: /^Stilts/ }).click()
  await bench.stage.focus()
  await bench.page.keyboard.press('Shift+R')
  await bench.still()
}, 'hold-buoy')
// the weakest of the tips that came with it
await view('Signal buoy, lifted out', 'proof', async bench => {
  await bench.page.getByRole('button', { name: 'Prove again' }).click()
  await bench.page.getByRole('region', { name: 'What tips bear' }).waitFor({ timeout: 120000 })
  await bench.page.getByRole('button', { name: /tips carry more than they can/ }).click()
}, 'proof-buoy')
await view("Diver's bell", 'hold', async bench => {
  await bench.stage.focus()
  await bench.page.keyboard.press('Alt+c')
  const dialog = bench.page.getByRole('dialog', { name: 'Compare plans' })
  for (const label of ['As usual', 'Miniature']) await dialog.getByRole('combobox', { name: 'Add a plan' }).selectOption({ label })
  await dialog.getByRole('button', { name: 'Take Miniature' }).and(dialog.locator(':enabled')).waitFor({ timeout: 200_000 })
  await dialog.getByRole('img', { name: /^Miniature/ }).waitFor()
}, 'hold-compare')
await view('Wading heron', 'hold', async bench => {
  await bench.page.getByRole('button', { name: 'Plan all' }).click()
  await bench.page.getByRole('status', { name: 'Message' }).filter({ hasText: /planned/ }).waitFor({ timeout: 250000 })
  await bench.scanned()
  await bench.saved()
  // the picture of the job follows the plan
  await bench.page.waitForTimeout(4000)
}, 'hold-heron-held')
// three bells on the plate, sliced, rehearsed and on their way through the printer
await view("Diver's bell on stilts", 'print', async bench => {
  await bench.write(/^Copies of/, '3')
  await bench.message(/stand free on the plate/)
  await bench.page.getByRole('button', { name: 'Slice' }).click()
  await bench.page.getByRole('button', { name: 'Rehearse' }).click({ timeout: 120000 })
  await bench.page.getByRole('region', { name: 'Rehearsal' }).waitFor({ timeout: 120000 })
  await bench.page.getByRole('button', { name: 'Start simulated printers' }).click()
  await bench.page.getByRole('button', { name: 'Send' }).click()
  await bench.message(/checked to the last byte/)
  await bench.page.getByRole('button', { name: 'Start printing' }).click()
  await bench.page.getByRole('status', { name: 'What the printer does' }).filter({ hasText: 'Printing' }).waitFor()
  await bench.page.waitForTimeout(7000)
}, 'print-plate', undefined, async bench => {
  await bench.page.getByRole('button', { name: 'Stop' }).click()
  // what was printed for the picture alone is no print of the workshop
  const { id } = ((await (await fetch(`${server.url}/api/prints`)).json()) as { id: string }[])[0]
  await fetch(`${server.url}/api/prints/${id}`, { method: 'DELETE' })
  await undone(bench)
})
const log = await BenchPage.open(browser)
await log.page.goto(`${server.url}/log`)
await log.page.getByRole('table').waitFor()
await log.page.waitForTimeout(800)
await log.page.screenshot({ path: join(folder, 'print-log.png') })
await log.page.context().close()
await view('Signal buoy', 'print', async bench => {
  await bench.page.getByRole('region', { name: 'Printed before' }).locator('li button').first().click()
  await bench.page.getByRole('list', { name: 'Likely causes' }).waitFor()
}, 'print-failed')
// a model of the demo that was damaged on its way
const bell = wholeOf(await readModel(readFileSync(await demoStl('bell')))), gone = new Set<number>(), turned = new Set<number>()
for (let f = 60000; f < 61200; f++) (f < 60900 ? gone : turned).add(f)
const broken: Mesh = { positions: bell.positions, triangles: bell.triangles.slice().filter((_, i) => !gone.has(Math.floor(i / 3))) }
for (const f of turned) [broken.triangles[3 * (f - 900) + 1], broken.triangles[3 * (f - 900) + 2]] = [broken.triangles[3 * (f - 900) + 2], broken.triangles[3 * (f - 900) + 1]]
const part = await BenchPage.open(browser)
await part.page.goto(`${server.url}/jobs`)
await part.page.getByLabel('Model files').setInputFiles({ name: 'damaged bell.stl', mimeType: 'model/stl', buffer: Buffer.from(writeStl(broken, 'bell')) })
await part.page.getByRole('button', { name: /^Unclosed edges/ }).click({ timeout: 60000 })
await part.scanned()
await part.still()
await part.page.mouse.move(2, 2)
await part.page.screenshot({ path: join(folder, 'part-damaged.png') })
await fetch(`${server.url}/api/jobs/${await server.idOf('damaged bell')}`, { method: 'DELETE' })
await part.page.context().close()
const kit = await BenchPage.open(browser)
await kit.page.goto(`${server.url}/kit`)
await kit.page.getByRole('button', { name: /^Clear/ }).click()
await kit.page.getByRole('button', { name: 'Make my own from it' }).click()
await kit.page.getByLabel('Resin name').fill('Clear, harbour mix')
await kit.page.getByLabel('Resin name').press('Enter')
await kit.write(/^Release stress, /, '0.026')
await kit.write(/^Exposure, /, '2.3')
await kit.page.waitForLoadState('networkidle')
await kit.page.getByRole('button', { name: /^Medium/ }).click()
await kit.page.screenshot({ path: join(folder, 'kit.png') })
await kit.page.context().close()
const jobs = await BenchPage.open(browser)
await jobs.page.goto(`${server.url}/jobs`)
await jobs.page.waitForLoadState('networkidle')
await jobs.page.screenshot({ path: join(folder, 'jobs.png') })
await browser.close()
await server.stop()
