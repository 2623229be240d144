import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { ScanReportSchema } from '@oak-stilts/core/contract'
import { ROOT, temporaryFolder } from './bench'
import { lantern } from './parts'
import { withBench } from './with-bench'

const { server, bench } = withBench({ seed: false })
const files = temporaryFolder()

describe('the main job, once through', () => {
  it('brings a part in, lifts it and scans it', async () => {
    await bench.bringIn(server, 'Lantern', lantern())
    expect(await bench.page.getByLabel('Job name').inputValue()).toBe('Lantern')
    // nine islands, a wide span, four ledges and a cup
    expect(await bench.openCount()).toBe(15)
  })

  it('tilts by number, and the scan follows by itself', async () => {
    const before = await bench.openCount()
    await bench.page.getByRole('link', { name: 'Pose' }).click()
    await bench.write(/^Tilt about x/, '15')
    const id = await server.idOf('Lantern')
    await expect.poll(async () => (await server.job(id)).parts[0].pose.tiltXDeg, { timeout: 20000 }).toBe(15)
    await bench.scanned()
    await bench.page.getByRole('link', { name: /^Hold/ }).click()
    expect(await bench.openCount()).not.toBe(before)
  })

  it('places a stilt by clicking under an island', async () => {
    const row = await bench.row(/Limb island/)
    await row.click()
    await bench.page.getByRole('region', { name: 'Limb island' }).waitFor()
    const facts = await bench.page.getByRole('region', { name: 'Limb island' }).locator('dd').allTextContents()
    const [x, y, z] = facts[6].split(',').map(parseFloat)
    await bench.still()
    const open = await bench.openCount()
    await bench.stage.focus()
    await bench.page.keyboard.press('p')
    await bench.page.keyboard.press('2')
    const at = await bench.at([x, y, z])
    await bench.page.mouse.move(at.x + 2, at.y + 1)
    await bench.message(/mm, (upright|lean).*gap/)
    await bench.page.mouse.click(at.x, at.y)
    await bench.message(/^Stilt 1 placed/)
    await bench.scanned()
    expect(await bench.stiltCount()).toBe(1)
    // the limb is held now, or held in part where more of it hangs than a light tip holds
    expect(await bench.openCount()).toBeLessThanOrEqual(open)
    await bench.page.keyboard.press('Escape')
  })

  it('changes its sizes on the side elevation, undoes and redoes', async () => {
    await bench.page.getByRole('region', { name: /Stilt 1, side elevation/ }).waitFor()
    expect(await bench.field(/^Tip diameter/)).toBe('0.35')
    await bench.write(/^Tip diameter/, '+=0.10')
    await expect.poll(() => bench.field(/^Tip diameter/)).toBe('0.45')
    await bench.page.getByRole('button', { name: 'Undo' }).click()
    await expect.poll(() => bench.field(/^Tip diameter/)).toBe('0.35')
    await bench.page.getByRole('button', { name: 'Redo' }).click()
    await expect.poll(() => bench.field(/^Tip diameter/)).toBe('0.45')
    await bench.saved()
    const job = await server.job(await server.idOf('Lantern'))
    expect(job.nodes.find(n => n.kind === 'tip')).toMatchObject({ fitted: { tipDiameterMm: 0.45 }, own: { tipDiameterMm: 0.45 } })
  })

  it('holds all open islands', async () => {
    await bench.scanned()
    await bench.page.getByRole('button', { name: 'Hold islands' }).click()
    await bench.page.getByRole('status', { name: 'Message' }).filter({ hasText: /stilts were placed[.,]/ }).waitFor({ timeout: 120000 })
    await bench.scanned()
    await bench.page.getByRole('status', { name: 'Findings' }).filter({ hasText: /Every island is (held|touched)|All .* settled/ }).waitFor()
    expect(await bench.stiltCount()).toBeGreaterThan(15)
  })

  it('exports a file that scans clean where it stands', async () => {
    await bench.page.getByRole('button', { name: 'Export' }).click()
    const [download] = await Promise.all([bench.page.waitForEvent('download'), bench.page.getByText('Model with stilts, STL').click()])
    const path = join(files, 'supported.stl')
    await download.saveAs(path)
    const out = execFileSync('npm', ['run', '--silent', 'cli', '--', 'scan', path, '--as-is'], { cwd: ROOT, maxBuffer: 1 << 28 }).toString()
    const report = ScanReportSchema.parse(JSON.parse(out))
    expect(report.mesh.unclosedEdges).toBe(0)
    expect(report.layers.unclosedRows).toBe(0)
    expect(report.islands.filter(i => i.state !== 'noted')).toEqual([])
    // the stilts stand on the plate
    expect(report.layers.areaMm2[0]).toBeGreaterThan(10)
  })

  it('exports a 3MF with two objects, and the plan as JSON that loads again', async () => {
    const save = async (item: string): Promise<Buffer> => {
      await bench.page.getByRole('button', { name: 'Export' }).click()
      const [download] = await Promise.all([bench.page.waitForEvent('download'), bench.page.getByText(item).click()])
      const path = join(files, download.suggestedFilename())
      await download.saveAs(path)
      return readFileSync(path)
    }
    const model = Buffer.from(unzipSync(await save('Model and stilts as two objects, 3MF'))['3D/3dmodel.model']).toString()
    expect(model.match(/<object /g)).toHaveLength(2)
    await save('Plan of the stilts, JSON')
    const count = await bench.stiltCount()
    await bench.stage.focus()
    await bench.page.keyboard.press('Control+a')
    await bench.page.keyboard.press('Delete')
    await expect.poll(() => bench.stiltCount()).toBe(0)
    await bench.page.getByLabel('Plan file').setInputFiles(join(files, 'Lantern - plan.json'))
    await bench.message(/stilts were loaded/)
    await expect.poll(() => bench.stiltCount()).toBe(count)
    await bench.saved()
  })

  it('has everything again after a reload', async () => {
    const count = await bench.stiltCount()
    await bench.page.reload()
    await bench.scanned()
    expect(await bench.stiltCount()).toBe(count)
    expect(bench.errors).toEqual([])
  })
})
