import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import type { Browser } from 'playwright-core'
import { BenchPage, launch, ROOT, temporaryFolder, TestServer, type Size } from './bench'

/** Remakes docs/screenshots from the demo, seen at the size of a small laptop. */
const folder = join(ROOT, 'docs', 'screenshots')
mkdirSync(folder, { recursive: true })
const server = new TestServer(temporaryFolder())
await server.start()
const browser: Browser = await launch()

async function view(job: string, route: 'pose' | 'hold', steps: (bench: BenchPage) => Promise<void>, name: string, size?: Size): Promise<void> {
  const bench = await BenchPage.open(browser, size)
  await bench.page.goto(`${server.url}/jobs/${await server.idOf(job)}/${route}`)
  await bench.scanned()
  await bench.still()
  await steps(bench)
  await bench.still()
  await bench.page.mouse.move(2, 2)
  await bench.page.screenshot({ path: join(folder, `${name}.png`) })
  await bench.page.context().close()
}

await view('Wading heron', 'hold', async () => undefined, 'hold-heron')
await view('Wading heron', 'pose', async () => undefined, 'pose-heron')
await view("Diver's bell", 'hold', async bench => {
  await (await bench.row(/^Cup, 20/)).click()
}, 'hold-bell-cup')
await view("Diver's bell", 'hold', async bench => {
  await bench.page.getByRole('button', { name: 'Hold open islands' }).click()
  await bench.page.getByRole('status', { name: 'Message' }).filter({ hasText: /placed/ }).waitFor({ timeout: 200000 })
  await bench.scanned()
  await bench.page.getByRole('tab', { name: /^Stilts/ }).click()
  await bench.page.getByRole('option', { name: /^Stilt 2\b/ }).click()
  await bench.saved()
}, 'stilt-side-elevation')
await view('Kelp branch', 'hold', async bench => {
  await (await bench.row(/Limb island/, 1)).click()
}, 'hold-kelp-finding')
await view('Wading heron', 'hold', async bench => {
  await (await bench.row(/^Ledge,/, 2)).click()
  await bench.still()
  const picture = bench.page.getByRole('img', { name: /from above/ })
  const box = await picture.boundingBox()
  if (!box) throw new Error('There is no layer picture.')
  await bench.page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  for (let i = 0; i < 5; i++) await bench.page.mouse.wheel(0, -100)
  await bench.stage.focus()
  await bench.page.keyboard.press('v')
}, 'hold-heron-ledge')
await view('Wading heron', 'hold', async bench => {
  await bench.page.getByRole('button', { name: 'Hold open islands' }).click()
  await bench.page.getByRole('status', { name: 'Message' }).filter({ hasText: /placed/ }).waitFor({ timeout: 200000 })
  await bench.scanned()
  await bench.saved()
  // the picture of the job follows the plan
  await bench.page.waitForTimeout(4000)
}, 'hold-heron-held')
await view('Wading heron', 'hold', async () => undefined, 'hold-heron-small-screen', { width: 1280, height: 665 })
const jobs = await BenchPage.open(browser)
await jobs.page.goto(`${server.url}/jobs`)
await jobs.page.getByLabel('STL file').setInputFiles({ name: 'harbour crane.stl', mimeType: 'model/stl', buffer: Buffer.from('solid crane\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1') })
await jobs.page.getByRole('alert').waitFor()
await jobs.page.waitForLoadState('networkidle')
await jobs.page.screenshot({ path: join(folder, 'unreadable-file.png') })
await jobs.page.getByRole('button', { name: 'Close' }).click()
await jobs.page.screenshot({ path: join(folder, 'jobs.png') })
await browser.close()
await server.stop()
