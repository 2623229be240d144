import { readFileSync } from 'node:fs'
import { chromium } from 'playwright-core'
import { newId, type Edit } from '../core/contract'
import { prepareMesh, readModel, wholeOf } from '../core/mesh'
import { standOf, UNSHAPED } from '../core/pose'
import { gaugeOf, routeStilt, rowsOfStilt, shapeOfRoute, Surface } from '../core/stilts'
import { between, random } from '../core/testing/random'
import { BenchPage, TestServer } from '../e2e/bench'
import { demoStl } from '../server'
import { median } from './timing'

// What thousands of stilts cost on the page, beside the same scene without them in the same run: a frame of the stage while the view
// is turned, a click that selects, memory. Drawn in software, as there is no other way on a machine without a screen.
const STILTS = 5000, FRAMES = 7
const server = new TestServer()
await server.start()
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--enable-precise-memory-info'] })
const id = await server.idOf('Wading heron')
const job = await server.job(id), [part] = job.parts
const { mesh } = prepareMesh(wholeOf(await readModel(readFileSync(await demoStl('heron')))))
const surface = new Surface(mesh, { shape: UNSHAPED, stand: standOf(mesh.positions, part.pose, 0.05) }), plate = { widthMm: 153.35, depthMm: 77.75 }, gauge = gaugeOf('fine'), r = random(5)
const rows: ReturnType<typeof rowsOfStilt>[] = []
while (rows.length < STILTS) {
  const hit = surface.cast([between(r, -60, 60), between(r, -38, 38), 0.01], [0, 0, 1])
  const route = hit && routeStilt(surface, hit.point, hit.normal, gauge, plate)
  if (hit && route?.ok) rows.push(rowsOfStilt(shapeOfRoute(surface, gauge, 'detail', route, hit.normal), { part: part.id, number: rows.length + 1 }))
}

/** Opens the job and waits for the stage, not for the scan. */
async function open(): Promise<BenchPage> {
  const bench = await BenchPage.open(browser)
  await bench.page.goto(`${server.url}/jobs/${id}/hold`)
  await bench.page.waitForFunction(() => 'oakStage' in window)
  await bench.page.getByRole('tab', { name: /^Stilts/ }).waitFor()
  // the scan takes both cores of a small machine; it has its own benchmark
  await bench.page.getByRole('button', { name: 'Cancel' }).click({ timeout: 20_000 }).catch(() => undefined)
  await bench.still()
  return bench
}

async function measure(name: string): Promise<number> {
  const bench = await open(), { page } = bench, box = await bench.stage.boundingBox()
  if (!box) throw new Error('There is no stage.')
  const x = box.x + box.width / 2, y = box.y + box.height / 2
  await page.mouse.move(x, y)
  await page.mouse.down({ button: 'right' })
  const frames: number[] = []
  for (let i = 0; i < FRAMES; i++) {
    await page.mouse.move(x + 4 * i, y)
    frames.push(await page.evaluate(() => (window as unknown as { oakStage: { frameMs(): number } }).oakStage.frameMs()))
  }
  await page.mouse.up({ button: 'right' })
  const memory = await page.evaluate(() => (performance as unknown as { memory: { usedJSHeapSize: number } }).memory.usedJSHeapSize / 1e6)
  console.log(`${name}: a frame ${median(frames).toFixed(1)} ms (up to ${Math.max(...frames).toFixed(1)}), memory of the page ${memory.toFixed(0)} MB`)
  if (name !== 'heron alone') {
    await page.getByRole('tab', { name: /^Stilts/ }).click()
    const clicks: number[] = []
    for (let i = 1; i <= 8; i++) {
      // from the click to the next time that the page is free
      clicks.push(await page.evaluate(n => new Promise<number>(done => {
        const row = document.querySelectorAll<HTMLElement>('[role=option]')[n], start = performance.now()
        row.click()
        setTimeout(() => done(performance.now() - start))
      }), i))
    }
    console.log(`  a click that selects: ${median(clicks).toFixed(1)} ms (up to ${Math.max(...clicks).toFixed(1)}; aim 8)`)
  }
  await page.context().close()
  return median(frames)
}

const alone = await measure('heron alone')
const edits: Edit[] = [{ label: 'place', put: { nodes: rows.flatMap(s => s.nodes), beams: rows.flatMap(s => s.beams) }, step: newId(), way: 'do' }]
const answer = await fetch(`${server.url}/api/jobs/${id}/edits`, { method: 'POST', headers: { 'content-type': 'application/json' }, body: JSON.stringify({ batch: newId(), baseRevision: job.revision, edits }) })
if (!answer.ok) throw new Error(await answer.text())
const full = await measure(`${STILTS} stilts on it`)
console.log(`  ratio of the frames ${(full / alone).toFixed(2)} (aim 1.50)`)
await browser.close()
await server.kill()
process.exit(0)
