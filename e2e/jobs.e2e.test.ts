import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import type { Job } from '../core/contract'
import { table } from './parts'
import { withBench } from './with-bench'

// A job is kept as versions and gone back to, goes out as one file and comes in again, is put away, deleted and brought back.
let id = ''
const { server, bench } = withBench({ seed: false, begin: async setup => {
  id = await setup.bench.bringIn(setup.server, 'table', table())
} })
const jobNow = async (of = id): Promise<Job> => {
  await bench.saved()
  return server.job(of)
}
const rows = ({ parts, copies, nodes, beams, marks }: Job): object => ({ parts, copies, nodes, beams, marks })

describe('versions of a job', () => {
  it('are kept under a name and gone back to in one step of undo', async () => {
    const { page } = bench, versions = page.getByRole('dialog', { name: 'Versions' })
    await page.getByRole('button', { name: 'Hold islands' }).click()
    await bench.message(/placed/)
    const held = await jobNow()
    await page.getByRole('button', { name: 'Versions' }).click()
    await versions.getByText('None is kept yet.').waitFor()
    await versions.getByLabel('Name of the version').fill('Held, upright')
    await page.keyboard.press('Enter')
    await versions.getByRole('button', { name: 'Go back to Held, upright' }).waitFor()
    await page.keyboard.press('Escape')
    await page.getByRole('link', { name: 'Pose', exact: true }).click()
    await bench.write('Tilt about x, °', '40')
    await bench.message(/seated anew/)
    await bench.scanned()
    const tilted = await jobNow()
    expect(tilted.parts[0].pose.tiltXDeg).toBe(40)
    await page.getByRole('button', { name: 'Versions' }).click()
    await versions.getByRole('button', { name: 'Go back to Held, upright' }).click()
    await bench.message('Back at “Held, upright”. Undo returns to what was before.')
    await bench.scanned()
    expect(rows(await jobNow())).toEqual(rows(held))
    expect(await bench.field('Tilt about x, °')).toBe('0.0')
    await page.getByRole('button', { name: 'Undo' }).click()
    expect(rows(await jobNow())).toEqual(rows(tilted))
    await page.getByRole('button', { name: 'Redo' }).click()
    expect(rows(await jobNow())).toEqual(rows(held))
    await bench.scanned()
  })
})

describe('a job', () => {
  it('goes out as one file and comes in again with its stilts', async () => {
    const { page } = bench
    await page.getByRole('button', { name: 'Export' }).click()
    const [file] = await Promise.all([page.waitForEvent('download'), page.getByText('Whole job, 3MF').click()])
    expect(file.suggestedFilename()).toBe('table - job.3mf')
    const path = await file.path()
    await page.goto(`${server.url}/jobs`)
    await page.getByLabel('Model files').setInputFiles({ name: 'table - job.3mf', mimeType: 'model/3mf', buffer: readFileSync(path) })
    await page.getByLabel('Job name').waitFor()
    await bench.scanned()
    const another = new URL(page.url()).pathname.split('/')[2]
    expect(another).not.toBe(id)
    expect(rows(await jobNow(another))).toEqual(rows(await jobNow()))
    await page.getByRole('link', { name: /^Hold/ }).click()
    expect(await bench.stiltCount()).toBe((await jobNow()).nodes.filter(n => n.kind === 'tip').length)
  })

  it('is put away, deleted and brought back', async () => {
    const { page } = bench
    await page.goto(`${server.url}/jobs`)
    const here = page.getByRole('list', { name: 'Jobs', exact: true }).getByRole('listitem')
    await expect.poll(() => here.count()).toBe(2)
    await page.getByRole('button', { name: 'Put away table' }).first().click()
    await expect.poll(() => here.count()).toBe(1)
    await page.getByText('Put away 1').click()
    await page.getByRole('list', { name: 'Jobs that were put away' }).getByRole('button', { name: 'Take out table' }).click()
    await expect.poll(() => here.count()).toBe(2)
    await page.getByRole('button', { name: 'Delete table' }).first().click()
    await page.getByText('“table” was deleted.').waitFor()
    await expect.poll(() => here.count()).toBe(1)
    await page.getByRole('button', { name: 'Undo' }).click()
    await expect.poll(() => here.count()).toBe(2)
    // also after the page was left
    await page.getByRole('button', { name: 'Delete table' }).first().click()
    await page.getByText('“table” was deleted.').waitFor()
    await page.reload()
    await page.getByText('Deleted in the last day 1').click()
    await page.getByRole('button', { name: 'Bring back table' }).click()
    await expect.poll(() => here.count()).toBe(2)
    expect((await server.job(id)).id).toBe(id)
    expect(bench.errors).toEqual([])
  })
})
