import { describe, expect, it } from 'vitest'
import { plate } from './parts'
import { withBench } from './with-bench'

// Stilts that come too near to each other: refused while placing, found where one is moved there, by the resin of the job.
let id = ''
const { server, bench } = withBench({ seed: false, begin: async setup => void (id = await setup.bench.bringIn(setup.server, 'plate', plate())) })
const row = () => bench.page.getByRole('option', { name: /^Stilts \d+ and \d+,/ })
/** Clicks on the underside, away from the symbol of its island: a click on that means its lowest point, for as long as it is there. */
async function clickUnder(x: number): Promise<void> {
  const at = await bench.at([x, -4, 5])
  await bench.page.mouse.click(at.x, at.y)
}

describe('stilts side by side', () => {
  it('are placed where they keep clear of each other, and refused, with the reason, where they do not', async () => {
    await bench.stage.focus()
    for (let i = 0; i < 6; i++) await bench.page.keyboard.press('o')
    await bench.still()
    await bench.page.keyboard.press('p')
    await bench.page.keyboard.press('1')
    await clickUnder(-3)
    await expect.poll(() => bench.stiltCount()).toBe(1)
    await clickUnder(-2.4)
    expect(await bench.message(/this resin webs/)).toMatch(/another stilt/)
    expect(await bench.stiltCount()).toBe(1)
    await clickUnder(-1.55)
    await expect.poll(() => bench.stiltCount()).toBe(2)
    await clickUnder(0.2)
    await expect.poll(() => bench.stiltCount()).toBe(3)
    await bench.page.keyboard.press('Escape')
    await bench.scanned()
    expect(await row().count()).toBe(0)
  })

  it('are a finding under a resin that bleeds farther', async () => {
    await bench.page.getByTitle('Printer, resin and layer height').click()
    await bench.page.getByLabel('Resin', { exact: true }).selectOption({ label: 'Clear' })
    await row().waitFor()
    await bench.page.keyboard.press('Escape')
    await row().click()
    const sheet = bench.page.getByRole('region', { name: 'Stilts 1 and 2' })
    await sheet.waitFor()
    expect(await sheet.textContent()).toMatch(/come within 0\.\d\d mm of each other/)
    await bench.page.keyboard.press('Control+z')
    await row().waitFor({ state: 'hidden' })
  })

  it('are a finding where a foot is moved to another, which can be left as it is', async () => {
    await bench.saved()
    const before = await server.job(id), tip = before.nodes.find(n => n.kind === 'tip' && n.number === 3), foot = before.nodes.filter(n => n.kind === 'foot').find(f => Math.hypot(f.at[0] - (tip?.at[0] ?? 0), f.at[1] - (tip?.at[1] ?? 0)) < 1)
    if (!foot) throw new Error('The stilt has no foot.')
    await bench.page.keyboard.press('Escape')
    await bench.page.getByRole('tab', { name: /^Stilts/ }).click()
    await bench.page.getByRole('option', { name: /^Stilt 3\b/ }).click()
    await bench.stage.focus()
    // from the front again
    await bench.page.keyboard.press('o')
    await bench.still()
    const from = await bench.at(foot.at), to = await bench.at([-0.6, foot.at[1], 0])
    await bench.drag(from, to)
    await bench.message(/mm, lean/)
    await bench.release()
    await bench.page.getByRole('tab', { name: /^Findings/ }).click()
    await row().waitFor()
    await row().click()
    await bench.page.getByRole('region', { name: /^Stilts 2 and 3/ }).waitFor()
    await bench.page.getByRole('button', { name: 'Waive' }).click()
    await bench.page.getByLabel('Why it may stay').fill('Both are cut away.')
    await bench.page.getByRole('button', { name: 'Waive it' }).click()
    await bench.saved()
    expect((await server.job(id)).waivers.map(w => [w.kind, w.reason])).toEqual([['near', 'Both are cut away.']])
    await row().waitFor({ state: 'hidden' })
    expect(bench.errors).toEqual([])
  })
})
