import { describe, expect, it } from 'vitest'
import { lantern, pavilion, plate, table } from './parts'
import { withBench } from './with-bench'

// From a file that was brought in to a part that is proved, in one command; what is left is followed, mended, and proved again.
const { server, bench } = withBench({ seed: false, begin: async setup => void (await setup.bench.bringIn(setup.server, 'plate', plate(), 12)) })
const press = (key: string): Promise<void> => bench.page.keyboard.press(key)
const verdict = (text: RegExp): Promise<void> => bench.page.getByRole('status', { name: 'Verdict' }).filter({ hasText: text }).waitFor()
const stilts = async (): Promise<number> => (await server.jobs()).reduce((n, j) => n + j.stilts, 0)

describe('making ready', () => {
  it('holds, braces and proves a part that nothing holds, as one step', async () => {
    await bench.stage.focus()
    await press('Shift+K')
    await verdict(/^Ready to print\.$/)
    await bench.message(/stilts placed, .* One undo takes all of it back/)
    await bench.saved()
    expect(await stilts()).toBeGreaterThan(10)
    expect(await bench.page.getByRole('button', { name: /^as it should be/ }).count()).toBeGreaterThan(8)
    await bench.stage.focus()
    await press('Control+z')
    await bench.scanned()
    await bench.saved()
    expect(await stilts()).toBe(0)
    await press('Control+Shift+z')
    await bench.scanned()
    await verdict(/^Ready to print\.$/)
  })

  it('is asked for with a job from the list, and keeps the verdict over a reload', async () => {
    await bench.bringIn(server, 'table', table())
    await bench.page.getByRole('link', { name: 'Jobs' }).click()
    await bench.page.getByRole('link', { name: 'Make ready table' }).click()
    await verdict(/^(Ready to print|Not ready)/)
    const said = await bench.page.getByRole('status', { name: 'Verdict' }).textContent()
    await bench.saved()
    expect(new URL(bench.page.url()).search).toBe('')
    await bench.page.reload()
    await bench.scanned()
    expect(await bench.page.getByRole('status', { name: 'Verdict' }).textContent()).toBe(said)
  })

  it('is ended by Cancel with nothing done', async () => {
    await bench.bringIn(server, 'lantern', lantern())
    const before = await stilts()
    await bench.stage.focus()
    await press('Shift+K')
    await bench.page.getByRole('toolbar', { name: 'Tools' }).getByRole('button', { name: 'Cancel' }).click({ force: true })
    await bench.message(/^It was cancelled; nothing was done\.$/)
    await bench.scanned()
    await bench.saved()
    expect(await stilts()).toBe(before)
    expect(bench.errors).toEqual([])
  })
})

describe('planning all', () => {
  it('is ended by Cancel with nothing done', async () => {
    await bench.bringIn(server, 'pavilion', pavilion())
    const before = await stilts(), drawn = (): Promise<number> => bench.page.evaluate(() => (window as unknown as { oakStage: { drawn(): number } }).oakStage.drawn())
    await bench.stage.focus()
    await press('Alt+h')
    // it grows where one can see it, and is gone when it is ended
    await expect.poll(drawn, { interval: 50 }).toBeGreaterThan(3)
    expect(await stilts()).toBe(before)
    await bench.page.getByRole('toolbar', { name: 'Tools' }).getByRole('button', { name: 'Cancel' }).click({ force: true })
    await bench.message(/^It was cancelled; nothing was done\.$/)
    await bench.scanned()
    await bench.saved()
    expect([await stilts(), await drawn()]).toEqual([before, 0])
    expect(bench.errors).toEqual([])
  })

  it('gathers tips on trunks as one step; what stands stays', async () => {
    await bench.bringIn(server, 'shelf', table(), 14)
    const before = await stilts()
    // one under the first finding
    await bench.holdFirst()
    const byHand = await stilts()
    expect(byHand).toBeGreaterThan(before)
    await bench.page.getByRole('button', { name: 'Plan all' }).click()
    await bench.message(/^\d+ tips planned, and proved\. One undo takes all of it back\.$/)
    await bench.saved()
    expect(await stilts()).toBeGreaterThan(byHand)
    await bench.stage.focus()
    await press('Shift+4')
    await verdict(/^(Ready to print|Not ready)/)
    await press('Control+z')
    await bench.scanned()
    await bench.saved()
    expect(await stilts()).toBe(byHand)
    expect(bench.errors).toEqual([])
  })
})
