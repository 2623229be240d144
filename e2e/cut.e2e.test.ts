import { describe, expect, it } from 'vitest'
import type { Job } from '../core/contract'
import { joinMeshes, writeStl } from '../core/mesh'
import { box } from '../core/testing/shapes'
import { withBench } from './with-bench'

// A bench on two legs: cut through both, through one alone, pegged, set anew, joined; stilts and marks go with their side.
const { server, bench } = withBench({ seed: false })
const twoLegs = (): Uint8Array => writeStl(joinMeshes([box([-12, -4, 12], [12, 4, 16]), box([-11, -3, 0], [-5, 3, 13]), box([5, -3, 0], [11, 3, 13])]), 'two legs')
const job = async (): Promise<Job> => {
  await bench.saved()
  return server.job(await server.idOf('two legs'))
}
const sheet = () => bench.page.getByRole('region', { name: 'Cut', exact: true })
const cutStep = () => bench.page.getByRole('complementary', { name: 'Part' }).getByRole('button', { name: /^Cut/ })
async function parts(): Promise<{ name: string; tips: number }[]> {
  const { parts: rows, nodes } = await job()
  return rows.map(p => ({ name: p.name, tips: nodes.filter(n => n.kind === 'tip' && n.part === p.id).length }))
}

describe('a cut', () => {
  it('shows the pieces that a plane meets, and says where it misses', async () => {
    const { page } = bench
    await bench.bringIn(server, 'two legs', twoLegs())
    await page.keyboard.press('h')
    await bench.scanned()
    await page.keyboard.press('Shift+1')
    await cutStep().click()
    await page.getByRole('button', { name: 'Set a plane' }).click()
    // level, through the middle of 16 mm that are lifted by 5
    await expect.poll(() => page.getByLabel('Distance of the plane').inputValue()).toBe('13.00')
    await expect.poll(() => sheet().textContent()).toMatch(/It meets 2 pieces.*Piece 1 36\.0 mm² Piece 2 36\.0 mm²/)
    await bench.write(/^Distance of the plane/, '80')
    await sheet().getByText('The plane does not meet the part.', { exact: false }).waitFor()
    expect(await page.getByRole('button', { name: 'Cut it in two' }).isDisabled()).toBe(true)
    await bench.write(/^Distance of the plane/, '11')
    await bench.write(/^Pegs/, '9')
    await sheet().getByText(/There is room for . of these pegs/).waitFor()
    await bench.write(/^Pegs/, '2')
    await expect.poll(() => page.getByRole('button', { name: 'Cut it in two' }).isEnabled()).toBe(true)
    // one more where one points: between the legs there is nothing to stand on; pointed at again, it goes
    await page.getByRole('button', { name: 'Place them by pointing' }).click()
    const box = await bench.stage.boundingBox()
    if (!box) throw new Error('There is no stage.')
    await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2)
    await sheet().getByText('Peg 3 stands beside what is cut.', { exact: false }).waitFor()
    await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2)
    await expect.poll(() => page.getByRole('button', { name: 'Cut it in two' }).isEnabled()).toBe(true)
    await page.keyboard.press('Escape')
  })

  it('makes two parts of one, with pegs; what held the legs goes with them', async () => {
    const { page } = bench, [before] = await parts()
    await page.getByRole('button', { name: 'Cut it in two' }).click()
    await bench.message(/Cut in two: two legs and two legs, cut off, which stands beside it on the plate/)
    await bench.scanned()
    const { parts: [top, feet], copies } = await job()
    expect([top.recipe.cuts[0].keeps, feet.recipe.cuts[0].keeps, top.recipe.cuts[0].id === feet.recipe.cuts[0].id]).toEqual(['above', 'below', true])
    expect(top.recipe.cuts[0].pegs?.at).toHaveLength(2)
    // one in each leg
    expect(top.recipe.cuts[0].pegs?.at.map(p => Math.sign(p[0])).sort()).toEqual([-1, 1])
    expect(copies).toHaveLength(2)
    expect(await parts()).toEqual([{ name: 'two legs', tips: 0 }, { name: 'two legs, cut off', tips: before.tips }])
    // the side on the bench: its sockets are open below, so that it is only islands
    await page.getByRole('button', { name: 'two legs, cut off', exact: true }).click()
    await bench.scanned()
    await cutStep().click()
    await sheet().getByText('From two legs', { exact: true }).waitFor()
  })

  it('is there after a reload, undone in one step and done again', async () => {
    const { page } = bench, made = await job()
    await page.reload()
    await bench.scanned()
    await page.getByRole('button', { name: 'Undo' }).click()
    await expect.poll(async () => (await parts()).map(p => p.name)).toEqual(['two legs'])
    await bench.scanned()
    await page.getByRole('button', { name: 'Redo' }).click()
    await expect.poll(async () => (await parts()).length).toBe(2)
    await bench.scanned()
    expect((await job()).parts).toEqual(made.parts)
  })

  it('is set anew through one leg alone, and joined again', async () => {
    const { page } = bench
    await cutStep().click()
    await page.getByRole('button', { name: 'Set it anew' }).click()
    await sheet().getByText(/It meets 2 pieces/).waitFor()
    await sheet().getByRole('checkbox', { name: 'Piece 2' }).uncheck()
    await bench.write(/^Pegs/, '0')
    await expect.poll(() => page.getByRole('button', { name: 'Cut it so' }).isEnabled()).toBe(true)
    await page.getByRole('button', { name: 'Cut it so' }).click()
    await bench.message(/Cut anew/)
    await bench.scanned()
    const now = await job(), rows = await parts()
    expect(now.parts.map(p => [p.recipe.cuts[0].whole.length, p.recipe.cuts[0].pegs])).toEqual([[1, null], [1, null]])
    // one of the legs is whole again and has its stilts under it
    expect(rows.every(p => p.tips > 0)).toBe(true)
    await page.getByRole('button', { name: 'Join again' }).click()
    await bench.message(/is whole again/)
    await bench.scanned()
    const [whole, ...more] = await parts()
    expect([more, whole.tips, (await job()).parts[0].recipe.cuts]).toEqual([[], rows[0].tips + rows[1].tips, []])
  })

  it('is laid by three points and moved by its handles; Escape leaves it', async () => {
    const { page } = bench
    await cutStep().click()
    await page.getByRole('button', { name: 'Set a plane' }).click()
    await sheet().getByText(/It meets 2 pieces/).waitFor()
    const box = await bench.stage.boundingBox()
    if (!box) throw new Error('There is no stage.')
    const x = box.x + box.width / 2, y = box.y + box.height / 2, lean = (): Promise<string[]> => Promise.all(['Lean about x', 'Lean about y', 'Distance of the plane'].map(l => page.getByLabel(l).inputValue()))
    const level = await lean()
    // the head of the arrow is pulled down by about 3 mm
    await bench.drag({ x, y: y - 138 }, { x, y: y - 100 })
    await bench.release()
    await expect.poll(lean).not.toEqual(level)
    const [, , lower] = await lean()
    expect([Number(lower) < 12, Number(lower) > 5]).toEqual([true, true])
    await page.getByRole('button', { name: 'Through three points' }).click()
    for (const [dx, dy] of [[-120, 20], [110, 0], [-60, -50]]) {
      await page.mouse.click(x + dx, y + dy)
      await bench.still()
    }
    await expect.poll(async () => (await lean()).slice(0, 2)).not.toEqual(level.slice(0, 2))
    await expect.poll(() => page.getByRole('button', { name: 'Through three points' }).getAttribute('aria-pressed')).toBe('false')
    await page.keyboard.press('Escape')
    await page.getByRole('button', { name: 'Set a plane' }).waitFor()
    expect((await job()).parts).toHaveLength(1)
    expect(bench.errors).toEqual([])
  })
})
