import { execFileSync } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { ScanReportSchema, type Copy, type Job } from '@oak-stilts/core/contract'
import { ROOT, temporaryFolder } from './bench'
import { lantern, table } from './parts'
import { withBench } from './with-bench'

// Two parts in one job: each tilted and held, moved, copied, picked, exported, and all of it over a killed server.
const { server, bench } = withBench({ seed: false })
const files = temporaryFolder()
let id = ''
const job = (): Promise<Job> => server.job(id)
const parts = () => bench.page.getByRole('region', { name: 'Parts' })
const onBench = (name: string): Promise<void> => parts().getByRole('button', { name, exact: true }).and(bench.page.locator('[aria-current=true]')).waitFor()
const copyOf = (j: Job, name: string): Copy => {
  const part = j.parts.find(p => p.name === name), copy = j.copies.find(c => c.part === part?.id)
  if (!copy) throw new Error(`There is no copy of ${name}.`)
  return copy
}
const view = async (name: 'Pose' | 'Hold'): Promise<void> => {
  await bench.page.getByRole('link', { name: new RegExp(`^${name}`) }).click()
}
const more = async (of: string, choice: string): Promise<void> => {
  await parts().getByRole('button', { name: `More for ${of}`, exact: true }).click()
  await bench.page.getByText(choice, { exact: true }).locator('visible=true').last().click()
}

describe('several parts on one plate', () => {
  it('a second part is added beside the first, on a free place, and is on the bench', async () => {
    id = await bench.bringIn(server, 'Lantern', lantern())
    await view('Pose')
    await bench.page.getByLabel('File of another part').setInputFiles({ name: 'Table.stl', mimeType: 'model/stl', buffer: Buffer.from(table()) })
    await onBench('Table')
    await bench.page.getByRole('radio', { name: /Lift 5 mm/ }).check()
    await bench.page.getByRole('button', { name: 'Stand it so' }).click()
    await bench.scanned()
    await bench.saved()
    const now = await job()
    expect(now.parts.map(p => p.name)).toEqual(['Lantern', 'Table'])
    const [a, b] = [copyOf(now, 'Lantern'), copyOf(now, 'Table')]
    expect(Math.hypot(a.xPixels - b.xPixels, a.yPixels - b.yPixels) * 0.05).toBeGreaterThan(15)
  })

  it('each is tilted and held by itself', async () => {
    await bench.write(/^Tilt about y/, '12')
    await expect.poll(async () => (await job()).parts[1].pose.tiltYDeg).toBe(12)
    await bench.scanned()
    await view('Hold')
    await bench.page.getByRole('button', { name: 'Hold islands' }).click()
    await bench.message(/placed\./)
    await bench.scanned()
    const table = (await job()).parts[1].id
    const held = await bench.stiltCount()
    await parts().getByRole('button', { name: 'Lantern', exact: true }).click()
    await onBench('Lantern')
    await bench.scanned()
    expect(await bench.stiltCount()).toBe(0)
    await bench.page.getByRole('button', { name: 'Hold islands' }).click()
    await bench.message(/placed\./)
    await bench.scanned()
    await bench.saved()
    const now = await job(), tips = (part: string): number => now.nodes.filter(n => n.kind === 'tip' && n.part === part).length
    expect([now.parts[0].pose.tiltYDeg, tips(table), tips(now.parts[0].id)]).toEqual([0, held, await bench.stiltCount()])
    expect(Math.min(held, await bench.stiltCount())).toBeGreaterThan(1)
  })

  it('a copy is moved by number and by its handle, by whole pixels, with its stilts and without another scan', async () => {
    await view('Pose')
    const said = await bench.record('Scan')
    await bench.page.reload()
    await bench.scanned()
    await bench.still()
    const before = await job(), sofar = (await said()).length
    await bench.write(/^Along, y/, '-12.34')
    await expect.poll(async () => copyOf(await job(), 'Lantern').yPixels).toBe(-247)
    const handle = await bench.at([0, 0, 0])
    await bench.drag(handle, { x: handle.x - 40, y: handle.y + 2 })
    await bench.release()
    await expect.poll(async () => copyOf(await job(), 'Lantern').xPixels).not.toBe(copyOf(before, 'Lantern').xPixels)
    await bench.write(/^Turn about z/, '25')
    await expect.poll(async () => copyOf(await job(), 'Lantern').turnDeg).toBe(25)
    const after = await job()
    expect([after.nodes, after.beams, after.parts]).toEqual([before.nodes, before.beams, before.parts])
    expect((await said()).slice(sofar).filter(s => !/Scanned/.test(s))).toEqual([])
    for (let i = 0; i < 3; i++) await bench.page.keyboard.press('Control+z')
    await expect.poll(async () => copyOf(await job(), 'Lantern')).toEqual(copyOf(before, 'Lantern'))
  })

  it('out of the plate or in another part it is a finding at once, and gone once it is moved away', async () => {
    const there = copyOf(await job(), 'Table'), before = await bench.field(/^Across, x/)
    await bench.write(/^Across, x/, '72')
    await bench.page.getByRole('status', { name: 'Outside the plate' }).filter({ hasText: /mm over/ }).waitFor()
    await bench.write(/^Across, x/, (there.xPixels * 0.05 + 2).toFixed(2))
    await bench.write(/^Along, y/, (there.yPixels * 0.05).toFixed(2))
    await bench.page.getByRole('status', { name: 'Outside the plate' }).filter({ hasText: /Both|Into another part/ }).waitFor()
    await view('Hold')
    await (await bench.row(/Into another part, Lantern, Table/)).waitFor()
    await view('Pose')
    await bench.write(/^Across, x/, before)
    await bench.write(/^Along, y/, '0')
    await bench.page.getByRole('status', { name: 'Outside the plate' }).waitFor({ state: 'detached' })
  })

  it('is taken onto the bench by a click on the stage', async () => {
    await bench.page.keyboard.press('0')
    await bench.still()
    const now = await job(), own = copyOf(now, 'Lantern'), other = copyOf(now, 'Table')
    // the middle of the table's leg, seen from the stand of the lantern
    await bench.stage.hover()
    await bench.page.mouse.wheel(0, 600)
    // the view may still be on its way
    await expect.poll(async () => {
      await bench.still()
      const at = await bench.at([(other.xPixels - own.xPixels) * 0.05, (other.yPixels - own.yPixels) * 0.05, 8])
      await bench.page.mouse.click(at.x, at.y)
      return parts().getByRole('button', { name: 'Table', exact: true }).getAttribute('aria-current')
    }, { interval: 1500 }).toBe('true')
    await onBench('Table')
    await bench.scanned()
  })

  it('copies share pose and stilts; a duplicate goes its own way; deleting is undone whole', async () => {
    await more('Table', 'Add a copy on the plate')
    await expect.poll(async () => (await job()).copies.length).toBe(3)
    await more('Lantern', 'Duplicate as its own part')
    await expect.poll(async () => (await job()).parts.length).toBe(3)
    await onBench('Lantern (2)')
    await bench.scanned()
    const full = await job(), [lantern, , twin] = full.parts, of = (j: Job, part: string): number => j.nodes.filter(n => n.part === part).length
    expect([of(full, twin.id) > 0, of(full, twin.id)]).toEqual([true, of(full, lantern.id)])
    await bench.write(/^Lift/, '9')
    await expect.poll(async () => (await job()).parts.map(p => p.pose.liftMm)).toEqual([5, 5, 9])
    await bench.scanned()
    const before = await job()
    await more('Lantern', 'Delete the part')
    await bench.message(/was deleted with its stilts/)
    await expect.poll(async () => (await job()).parts.map(p => p.name)).toEqual(['Table', 'Lantern (2)'])
    expect(of(await job(), lantern.id)).toBe(0)
    await bench.page.keyboard.press('Control+z')
    await expect.poll(async () => (await job()).nodes).toEqual(before.nodes)
    expect([(await job()).parts, (await job()).copies]).toEqual([before.parts, before.copies])
    await more('Lantern (2)', 'Rename')
    await bench.page.getByLabel('Part name').fill('Spare lantern')
    await bench.page.keyboard.press('Enter')
    await expect.poll(async () => (await job()).parts[2].name).toBe('Spare lantern')
  })

  it('a plan of another part is only put on after a question, and undo brings back what it replaced', async () => {
    await parts().getByRole('button', { name: 'Table', exact: true }).click()
    await onBench('Table')
    await bench.scanned()
    await bench.page.getByRole('button', { name: 'Export' }).click()
    const [download] = await Promise.all([bench.page.waitForEvent('download'), bench.page.getByText('Plan of Table, JSON', { exact: true }).click()])
    const path = join(files, 'table plan.json')
    await download.saveAs(path)
    await parts().getByRole('button', { name: 'Lantern', exact: true }).click()
    await onBench('Lantern')
    await bench.scanned()
    const before = (await job()).nodes
    await bench.page.getByLabel('Plan file').setInputFiles(path)
    await bench.page.getByRole('button', { name: 'Leave it' }).click()
    await bench.page.getByLabel('Plan file').setInputFiles(path)
    await bench.page.getByRole('button', { name: 'Load it all the same' }).click()
    await bench.message(/loaded/)
    await expect.poll(async () => (await job()).nodes.length).not.toBe(before.length)
    await bench.stage.focus()
    await bench.page.keyboard.press('Control+z')
    await expect.poll(async () => (await job()).nodes).toEqual(before)
    await parts().getByRole('button', { name: 'Spare lantern', exact: true }).click()
    await onBench('Spare lantern')
    await bench.scanned()
  })

  it('is hidden and shown', async () => {
    await parts().getByRole('button', { name: 'Hide Table' }).click()
    await parts().getByRole('button', { name: 'Show Table' }).click()
    await parts().getByRole('button', { name: 'Hide Table' }).waitFor()
  })

  it('a server that is killed costs nothing, and undo goes back over what was done before', async () => {
    await bench.saved()
    const before = await job()
    await server.kill()
    await bench.write(/^Across, x/, '31')
    await bench.page.getByRole('status', { name: 'Saved state' }).filter({ hasText: /Server stopped/ }).waitFor()
    await server.start()
    await bench.saved()
    await bench.page.reload()
    await bench.scanned()
    const now = await job()
    expect(now.copies).not.toEqual(before.copies)
    await bench.stage.focus()
    await bench.page.keyboard.press('Control+z')
    await expect.poll(async () => (await job()).copies).toEqual(before.copies)
    await bench.page.keyboard.press('Control+z')
    await expect.poll(async () => (await job()).parts.map(p => p.name)).toEqual(['Lantern', 'Table', 'Lantern (2)'])
    // what was undone is done again, also after another reload
    await bench.saved()
    await bench.page.reload()
    await bench.scanned()
    await bench.page.getByRole('button', { name: 'Redo' }).click()
    await expect.poll(async () => (await job()).parts.map(p => p.name)).toEqual(['Lantern', 'Table', 'Spare lantern'])
  })

  it('the whole plate is exported and scans clean, every copy on its feet; one part alone as well', async () => {
    await view('Pose')
    await bench.write(/^Across, x/, '-45')
    await bench.scanned()
    await bench.page.getByRole('status', { name: 'Outside the plate' }).waitFor({ state: 'detached' })
    const save = async (item: string | RegExp): Promise<string> => {
      await bench.page.getByRole('button', { name: 'Export' }).click()
      const [download] = await Promise.all([bench.page.waitForEvent('download'), bench.page.getByText(item, { exact: true }).click()])
      const path = join(files, download.suggestedFilename())
      await download.saveAs(path)
      return path
    }
    const scan = (path: string) => ScanReportSchema.parse(JSON.parse(execFileSync('npm', ['run', '--silent', 'cli', '--', 'scan', path, '--as-is'], { cwd: ROOT, maxBuffer: 1 << 28 }).toString()))
    const whole = scan(await save('Whole plate, STL')), alone = scan(await save(/^Only Lantern, STL$/))
    for (const report of [whole, alone]) {
      expect([report.mesh.unclosedEdges, report.layers.unclosedRows, report.islands.filter(i => i.state !== 'noted').length]).toEqual([0, 0, 0])
    }
    // what the bench says of the whole plate is what a scan of the written file says
    await bench.page.getByTitle('Which signals are drawn over the layers').click()
    await bench.page.getByText('whole plate', { exact: true }).click()
    const [csv] = await Promise.all([bench.page.waitForEvent('download'), bench.page.getByRole('dialog', { name: 'Signals' }).getByRole('button', { name: 'Save as CSV' }).click()])
    const table = join(files, csv.suggestedFilename())
    await csv.saveAs(table)
    const areas = readFileSync(table, 'utf8').trim().split('\n').slice(1).map(line => Number(line.split(',')[2]))
    expect(csv.suggestedFilename()).toContain('plate layers')
    expect(areas.length).toBe(whole.layers.areaMm2.length)
    for (const [k, area] of areas.entries()) expect(Math.abs(area - whole.layers.areaMm2[k]), `layer ${k + 1}`).toBeLessThan(0.02 + 0.002 * area)
    await bench.page.keyboard.press('Escape')
    // two lanterns and two tables
    const { volumeMm3 } = alone.mesh
    expect(whole.mesh.volumeMm3).toBeGreaterThan(2 * volumeMm3)
    expect(whole.layers.areaMm2[0]).toBeGreaterThan(2 * alone.layers.areaMm2[0])
    const model = Buffer.from(unzipSync(readFileSync(await save('Whole plate by objects, 3MF')))['3D/3dmodel.model']).toString()
    expect(model.match(/<object /g)).toHaveLength(8)
    expect(bench.errors).toEqual([])
  })
})
