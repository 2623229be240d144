import { describe, expect, it } from 'vitest'
import { writeStl } from '../core/mesh'
import { sphere } from '../core/testing/shapes'
import { withBench } from './with-bench'

// A ball on stilts is turned over: its stilts are listed, and are re-aimed, kept or removed, each as one step of undo.
let id = ''
const { server, bench } = withBench({ seed: false, begin: async setup => {
  id = await setup.bench.bringIn(setup.server, 'ball', writeStl(sphere([0, 0, 0], 6, 40), 'ball'))
} })
const feet = async (): Promise<string[]> => {
  await bench.saved()
  return (await server.job(id)).nodes.flatMap(n => (n.kind === 'foot' ? [n.on.kind] : [])).sort()
}

describe('stilts that make no sense any more', () => {
  it('are listed after the part was turned over, with the reason', async () => {
    await bench.page.getByRole('button', { name: 'Hold islands' }).click()
    await bench.message(/placed/)
    await bench.page.keyboard.press('Shift+h')
    await bench.scanned()
    await bench.page.getByRole('link', { name: 'Pose', exact: true }).click()
    await bench.write('Tilt about x, °', '120')
    await bench.message(/found no way down and (is|are) listed/)
    await bench.scanned()
    expect(await feet()).toContain('lost')
    await bench.page.getByRole('link', { name: /^Hold/ }).click()
    await (await bench.row(/^Lost stilt,/)).click()
    await bench.page.getByText(/makes no sense and is not printed\. This face looks up/).waitFor()
  })

  it('are kept for another pose, and taken back', async () => {
    const sheet = bench.page.getByRole('region', { name: 'Lost stilt' }), before = await bench.openCount()
    await sheet.getByRole('button', { name: 'Keep' }).click()
    await expect.poll(() => bench.openCount()).toBe(before - 1)
    await bench.page.getByRole('button', { name: 'Undo' }).click()
    await expect.poll(() => bench.openCount()).toBe(before)
  })

  it('are re-aimed to where they can stand', async () => {
    const sheet = bench.page.getByRole('region', { name: 'Lost stilt' }), lost = await feet()
    await (await bench.row(/^Lost stilt,/)).click()
    await sheet.getByRole('button', { name: 'Re-aim', exact: true }).click()
    await bench.message(/1 stilt was re-aimed/)
    const after = await feet()
    expect(after.length).toBe(lost.length)
    expect(after.filter(f => f === 'lost').length).toBe(lost.filter(f => f === 'lost').length - 1)
    await bench.page.getByRole('button', { name: 'Undo' }).click()
    await expect.poll(feet).toEqual(lost)
  })

  it('are removed', async () => {
    const lost = await feet(), count = lost.filter(f => f === 'lost').length
    await (await bench.row(/^Lost stilt,/)).click()
    await bench.page.getByRole('region', { name: 'Lost stilt' }).getByRole('button', { name: 'Remove', exact: true }).click()
    await bench.message(/deleted/)
    expect((await feet()).filter(f => f === 'lost').length).toBe(count - 1)
    expect(bench.errors).toEqual([])
  })
})
