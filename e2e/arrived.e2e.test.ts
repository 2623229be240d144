import { describe, expect, it } from 'vitest'
import { madeReady, madeReadyFused } from './parts'
import { withBench } from './with-bench'

// A part that arrives with supports built in: they are told with their tips, lifted out as stilts, strengthened, and stay through a reload.
let id = ''
const { server, bench } = withBench({ seed: false, begin: async setup => void (id = await setup.bench.bringIn(setup.server, 'made ready', madeReady(), 0)) })

describe('supports that came with the file', () => {
  it('are told with the diameters of their tips', async () => {
    const said = bench.page.getByRole('region', { name: 'Supports that came with the file' })
    await said.getByText(/^6 supports came with the file, with tips of 0\.25 mm\. 6 that carry or hold a region are thinner than 0\.40 mm/).waitFor()
    await said.getByText('All tips, lowest first').click()
    expect(await said.getByRole('listitem').allTextContents()).toEqual(Array.from({ length: 6 }, () => 'at 8.0 mmcarries the partcone ⌀0.25'))
  })
  it('are lifted out as stilts on a raft, the model whole and where it was', async () => {
    await bench.page.getByRole('button', { name: 'Lift them out' }).click()
    await bench.message(/^6 supports are stilts now, with the sizes that they had/)
    await bench.scanned()
    await bench.saved()
    const job = await server.job(id), tips = job.nodes.flatMap(n => (n.kind === 'tip' ? [n.fitted.tipDiameterMm] : []))
    expect([job.parts.length, job.copies.length, tips.length, Math.max(...tips.map(t => Math.abs(t - 0.25))) < 0.005]).toEqual([1, 1, 6, true])
    expect([job.parts[0].raft.kind, job.parts[0].pose.liftMm, job.parts[0].source.summary.triangles]).toEqual(['plate', expect.closeTo(8, 2), 12])
    expect(await bench.stiltCount()).toBe(6)
    expect(await bench.page.getByRole('region', { name: 'Supports that came with the file' }).count()).toBe(0)
  })
  it('are strengthened, and all of it is there after a reload and taken back by undo', async () => {
    await bench.page.getByRole('tab', { name: /^Stilts/ }).click()
    await bench.page.getByRole('status', { name: 'Tips too thin' }).filter({ hasText: /^6 that carry/ }).waitFor()
    await bench.page.getByRole('button', { name: 'To 0.40' }).click()
    await bench.message(/none that carries or holds a region is under 0\.40 mm/)
    await bench.saved()
    await bench.page.reload()
    await bench.scanned()
    expect((await server.job(id)).nodes.flatMap(n => (n.kind === 'tip' ? [n.fitted.tipDiameterMm] : []))).toEqual([0.4, 0.4, 0.4, 0.4, 0.4, 0.4])
    await bench.stage.focus()
    await bench.page.keyboard.press('Control+z')
    await bench.message(/Undone: strengthen 6 tips/)
    await bench.page.keyboard.press('Control+z')
    await bench.message(/Undone: lift the supports out/)
    await bench.scanned()
    await bench.page.getByRole('button', { name: 'Lift them out' }).waitFor()
    await bench.saved()
    expect([(await server.job(id)).nodes, bench.errors]).toEqual([[], []])
  })
  it('are told and lifted out as well where they are fused with the part into one surface', async () => {
    const other = await bench.bringIn(server, 'made in one', await madeReadyFused(), 0), said = bench.page.getByRole('region', { name: 'Supports that came with the file' })
    expect((await server.job(other)).parts[0].source.summary.shells).toBe(1)
    await said.getByText(/^6 supports came with the file, with tips of 0\.25 mm/).waitFor()
    await said.getByText(/^They had grown into the part\./).waitFor()
    await bench.page.getByRole('button', { name: 'Lift them out' }).click()
    await bench.message(/^6 supports are stilts now/)
    await bench.scanned()
    await bench.saved()
    const job = await server.job(other)
    expect([job.parts[0].raft.kind, job.parts[0].pose.liftMm, job.parts[0].source.summary.volumeMm3]).toEqual(['plate', expect.closeTo(8, 2), expect.closeTo(14 * 10 * 3, 0)])
    expect(job.nodes.flatMap(n => (n.kind === 'tip' ? [n.fitted.tipDiameterMm.toFixed(2)] : []))).toEqual(['0.25', '0.25', '0.25', '0.25', '0.25', '0.25'])
  })
})
