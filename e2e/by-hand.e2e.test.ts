import { describe, expect, it } from 'vitest'
import { BenchPage } from './bench'
import { lantern, plate } from './parts'
import { withBench } from './with-bench'

let id = ''
const { server, bench, browser } = withBench({ seed: false, size: { width: 1280, height: 665 }, begin: async setup => void (id = await setup.bench.bringIn(setup.server, 'lantern', lantern())) })

describe('the bench by hand', () => {
  it('steps through layers and findings by keyboard', async () => {
    await bench.stage.focus()
    await bench.page.keyboard.press('Home')
    expect(await bench.layer()).toBe(1)
    await bench.page.keyboard.press('ArrowRight')
    await bench.page.keyboard.press('Shift+ArrowRight')
    expect(await bench.layer()).toBe(12)
    await bench.page.keyboard.press('n')
    await bench.page.getByRole('region', { name: 'Body island' }).waitFor()
    expect(await bench.layer()).toBe(101)
    await bench.page.keyboard.press('n')
    await bench.page.getByRole('region', { name: 'Limb island' }).waitFor()
    await bench.page.keyboard.press('Shift+n')
    await bench.page.getByRole('region', { name: 'Body island' }).waitFor()
  })

  it('shows the cup: where it begins, what it encloses, how it ends, and where a vent would let it breathe', async () => {
    await (await bench.row(/^Cup,/)).click()
    const sheet = bench.page.getByRole('region', { name: 'Cup' })
    await sheet.waitFor()
    expect(await sheet.textContent()).toMatch(/where it joins the outside/)
    await sheet.getByText(/through \d\.\d\d mm of wall/).waitFor()
    await sheet.getByText(/\d+\.\d\d N/).waitFor()
    const picture = bench.page.getByRole('img', { name: /Layer \d+ from above/ })
    await expect.poll(() => picture.getAttribute('aria-label')).toMatch(/1 enclosed/)
  })

  it('goes back one step at Esc: first the menu, then the selection', async () => {
    const sheet = bench.page.getByRole('region', { name: 'Cup' })
    await bench.page.getByRole('button', { name: /^Show/ }).click()
    const entry = bench.page.getByText('Outline of the layer under the pointer')
    await entry.waitFor()
    await bench.page.keyboard.press('Escape')
    await entry.waitFor({ state: 'hidden' })
    expect(await sheet.isVisible()).toBe(true)
    await bench.page.keyboard.press('Escape')
    await sheet.waitFor({ state: 'hidden' })
  })

  it('explains its keys from the table that binds them', async () => {
    await bench.stage.focus()
    await bench.page.keyboard.press('?')
    const sheet = bench.page.getByRole('dialog', { name: 'Keys and gestures' })
    await sheet.waitFor()
    expect(await sheet.textContent()).toContain('Hold open islands')
    await bench.page.keyboard.press('Escape')
    await sheet.waitFor({ state: 'hidden' })
  })

  it('holds one finding, then moves its foot and tip by dragging', async () => {
    await (await bench.row(/Limb island/, 1)).click()
    await bench.page.getByRole('button', { name: 'Hold this island' }).click()
    await bench.message(/1 stilt was placed/)
    await bench.scanned()
    await bench.page.getByRole('tab', { name: /^Stilts/ }).click()
    await bench.page.getByRole('option', { name: /^Stilt 1\b/ }).click()
    await bench.saved()
    const before = await server.job(id)
    const foot = before.nodes.find(n => n.kind === 'foot'), tip = before.nodes.find(n => n.kind === 'tip')
    if (!foot || !tip) throw new Error('The stilt has no foot or no tip.')
    await bench.stage.focus()
    // seen whole, from the front
    await bench.page.keyboard.press('o')
    await bench.still()
    const from = await bench.at(foot.at)
    await bench.drag(from, { x: from.x + 9, y: from.y + 1 })
    await bench.message(/mm, lean/)
    await bench.release()
    await bench.saved()
    const moved = (await server.job(id)).nodes.find(n => n.kind === 'foot')
    expect(Math.hypot((moved?.at[0] ?? 0) - foot.at[0], (moved?.at[1] ?? 0) - foot.at[1])).toBeGreaterThan(0.3)
    expect(moved?.at[2]).toBe(0)
    await bench.page.keyboard.press('Control+z')
    await bench.saved()
    expect((await server.job(id)).nodes.find(n => n.kind === 'foot')?.at).toEqual(foot.at)
    const tipAt = await bench.at(tip.at)
    await bench.drag(tipAt, { x: tipAt.x + 3, y: tipAt.y - 5 })
    await bench.page.waitForTimeout(300)
    await bench.release()
    await bench.saved()
    const dragged = (await server.job(id)).nodes.find(n => n.kind === 'tip')?.at
    expect(dragged).not.toEqual(tip.at)
    // the same without a pointer
    await bench.page.keyboard.down('t')
    await bench.page.keyboard.press('Shift+ArrowLeft')
    await bench.page.keyboard.up('t')
    await expect.poll(async () => (await server.job(id)).nodes.find(n => n.kind === 'tip')?.at).not.toEqual(dragged)
  })

  it('places forty stilts by clicking, and undo takes all of them back', async () => {
    // a plate of its own: what is tried is the hand
    const own = await BenchPage.open(browser())
    await own.bringIn(server, 'plate', plate())
    await own.stage.focus()
    for (let i = 0; i < 6; i++) await own.page.keyboard.press('o')
    await own.still()
    await own.page.keyboard.press('p')
    await own.page.keyboard.press('1')
    for (let i = 0; i < 40; i++) {
      const at = await own.at([-10.5 + 3 * (i % 8), -6 + 3 * Math.floor(i / 8), 5])
      await own.page.mouse.click(at.x, at.y)
      await expect.poll(() => own.stiltCount(), { message: `stilt ${i + 1}` }).toBe(i + 1)
    }
    for (let i = 0; i < 40; i++) await own.page.keyboard.press('Control+z')
    await expect.poll(() => own.stiltCount()).toBe(0)
    expect(own.errors).toEqual([])
    await own.page.context().close()
  })

  it('tilts by dragging a ring, and stilts stay with the part', async () => {
    const stilts = await bench.stiltCount()
    expect(stilts).toBe(1)
    await bench.page.getByRole('link', { name: 'Pose' }).click()
    await bench.still()
    const pose = (await server.job(id)).parts[0].pose
    // a point of the ring about z, in front of the part
    const host = await bench.stage.boundingBox()
    if (!host) throw new Error('There is no stage.')
    let grabbed: { x: number; y: number } | null = null
    for (let y = host.y + host.height * 0.45; y < host.y + host.height * 0.8 && !grabbed; y += 3) {
      await bench.page.mouse.move(host.x + host.width / 2, y)
      if ((await bench.stage.evaluate(e => getComputedStyle(e).cursor)) === 'grab') grabbed = { x: host.x + host.width / 2, y }
    }
    if (!grabbed) throw new Error('There is no ring to grab.')
    await bench.drag(grabbed, { x: grabbed.x + 60, y: grabbed.y - 3 })
    await bench.release()
    await bench.message(/seated anew/)
    await bench.scanned()
    await bench.saved()
    const after = await server.job(id)
    expect(after.parts[0].pose).not.toEqual(pose)
    expect(after.nodes.filter(n => n.kind === 'tip')).toHaveLength(1)
    await bench.page.keyboard.press('Control+z')
    await bench.saved()
    expect((await server.job(id)).parts[0].pose).toEqual(pose)
    expect(bench.errors).toEqual([])
  })

  it('turns by number: the stilts are carried along, nothing is seated or scanned anew, and undo turns back', async () => {
    const before = await server.job(id)
    await bench.write(/^Turn about z/, '30')
    await expect.poll(async () => (await server.job(id)).copies[0].turnDeg).toBe(30)
    const after = await server.job(id)
    expect([after.nodes, after.beams, after.parts]).toEqual([before.nodes, before.beams, before.parts])
    await bench.page.keyboard.press('Control+z')
    await expect.poll(async () => (await server.job(id)).copies).toEqual(before.copies)
    expect(bench.errors).toEqual([])
  })
})
