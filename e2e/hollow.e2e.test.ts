import { describe, expect, it } from 'vitest'
import type { Recipe } from '../core/contract'
import { writeStl } from '../core/mesh'
import { box, lathe, sphere } from '../core/testing/shapes'
import { withBench } from './with-bench'

// A thick pear: hollowed, vented where the scan says, changed, switched off and on, undone, and there after a reload.
const { server, bench } = withBench({ seed: false })
const pear = (): Uint8Array => writeStl(lathe([[0, 0], [6, 0], [9, 6], [9, 11], [6, 16], [4, 20], [0, 22]], 96), 'pear')
const recipe = async (): Promise<Recipe> => {
  await bench.saved()
  return (await server.job(await server.idOf('pear'))).parts[0].recipe
}
const sheet = (name: string) => bench.page.getByRole('region', { name, exact: true })
const said = async (name: string): Promise<string> => (await sheet(name).allTextContents()).join()

describe('the inside of a part', () => {
  it('is looked at before it is taken out, and tells what a wall that is too thick comes to', async () => {
    const { page } = bench
    await page.goto(`${server.url}/jobs`)
    await page.getByLabel('Model files').setInputFiles({ name: 'pear.stl', mimeType: 'model/stl', buffer: Buffer.from(pear()) })
    await bench.scanned()
    await page.keyboard.press('Shift+1')
    await page.getByRole('button', { name: /^Hollow/ }).click()
    await expect.poll(() => said('Hollow')).toMatch(/About [12]\.\d\d cm³ of 3\.\d\d cm³ would come out: \d\d\s%, saving \d\.\d g of resin/)
    await bench.write(/^Wall/, '12')
    await expect.poll(() => said('Hollow')).toContain('Nowhere is the part thick enough')
    expect(await page.getByRole('button', { name: 'Hollow it' }).isDisabled()).toBe(true)
    await bench.write(/^Wall/, '1.5')
    await bench.write(/^Cells/, '1')
    await bench.message(/needs cells of 0.75 mm or less/)
    await bench.write(/^Cells/, '0.3')
    expect((await recipe()).hollow).toBeNull()
  })

  it('comes out in one step, told as it was measured, and is a closed space to the scan', async () => {
    const { page } = bench
    await page.getByRole('button', { name: 'Hollow it' }).click()
    await expect.poll(() => said('Hollow')).toMatch(/Taken out[12]\.\d\d cm³, \d\d\s%.*One hollow[12]\.\d\d cm³.*It wants two openings/)
    expect((await recipe()).hollow).toEqual({ on: true, wallMm: 1.5, cellMm: 0.3, carries: null })
    await page.keyboard.press('Shift+3')
    await bench.scanned()
    await (await bench.row(/^Sealed cavity,? /)).click()
    await page.getByText('through 1.', { exact: false }).first().waitFor()
  })

  it('is vented by one press where the scan proposes it, and is a closed space no more', async () => {
    const { page } = bench
    await page.getByRole('button', { name: 'Drill the vent' }).click()
    await bench.message(/was drilled/)
    await bench.scanned()
    await expect.poll(() => page.getByRole('listbox', { name: 'Findings' }).getByRole('option', { name: /^Sealed cavit/ }).count()).toBe(0)
    const { holes } = await recipe()
    expect(holes).toMatchObject([{ on: true, diameterMm: 2.5 }])
    await page.keyboard.press('Shift+1')
    await page.getByRole('button', { name: /^Holes/ }).click()
    await bench.write(/^Diameter of hole 1/, '3')
    await expect.poll(async () => (await recipe()).holes[0].diameterMm).toBe(3)
    await bench.scanned()
    // switched off it is a closed space again
    await page.getByRole('switch', { name: 'Hole 1 drilled' }).click()
    await page.keyboard.press('Shift+3')
    await (await bench.row(/^Sealed cavity,? /)).waitFor()
    await page.keyboard.press('Control+z')
    await expect.poll(() => page.getByRole('listbox', { name: 'Findings' }).getByRole('option', { name: /^Sealed cavit/ }).count()).toBe(0)
  })

  it('asks for as many openings as the resin does, and as wide, each put right by one press', async () => {
    const { page } = bench, rows = (name: RegExp) => page.getByRole('listbox', { name: 'Findings' }).getByRole('option', { name }).count()
    await page.keyboard.press('Shift+3')
    await (await bench.row(/^One opening/)).click()
    await page.getByRole('button', { name: 'Drill one more' }).click()
    await bench.message(/A hole of 2.5 mm was drilled/)
    await bench.scanned()
    await expect.poll(() => rows(/^One opening/)).toBe(0)
    await page.keyboard.press('Shift+1')
    await page.getByRole('button', { name: /^Hollow/ }).click()
    // with as many as the resin asks for, nothing is asked for any more
    await expect.poll(() => said('Hollow')).toMatch(/One hollow/)
    expect(await said('Hollow')).not.toContain('It wants')
    const [first, second] = (await recipe()).holes
    // the pear is 22 mm high: the two are at its two ends
    expect(Math.hypot(...first.at.map((v, a) => v - second.at[a]))).toBeGreaterThan(10)
    await page.keyboard.press('Shift+1')
    await page.getByRole('button', { name: /^Holes/ }).click()
    await bench.write(/^Diameter at the end of hole 2/, '1.2')
    await expect.poll(async () => (await recipe()).holes[1]).toMatchObject({ diameterMm: 2.5, endDiameterMm: 1.2 })
    await bench.scanned()
    await page.keyboard.press('Shift+3')
    await (await bench.row(/^Narrow hole,? /)).click()
    await page.getByRole('button', { name: 'Widen to 2.5 mm' }).click()
    await expect.poll(() => rows(/^Narrow hole/)).toBe(0)
    expect((await recipe()).holes[1].endDiameterMm).toBe(2.5)
    await bench.scanned()
  })

  it('is closed again by a plug, which is a part of its own', async () => {
    const { page } = bench
    await page.keyboard.press('Shift+1')
    await page.getByRole('button', { name: /^Holes/ }).click()
    await page.getByRole('button', { name: 'Make a plug' }).click()
    await bench.message(/pear, plug stands beside it on the plate/)
    await bench.saved()
    const { parts, copies } = await server.job(await server.idOf('pear')), plug = parts.find(p => p.name === 'pear, plug')
    expect([plug?.recipe.plug?.hole.id, copies.length]).toEqual([(await recipe()).holes[1].id, 2])
    await page.getByRole('button', { name: 'pear, plug', exact: true }).click()
    await bench.scanned()
    // a rod of about 2.2 mm through a wall of 1.5 mm
    await expect.poll(async () => Number(/Volume([\d.]+) mm³/.exec((await page.getByRole('region', { name: 'Mesh', exact: true }).textContent()) ?? '')?.[1])).toBeGreaterThan(3)
    // it goes on fitting a hole that is made wider, in the same step
    const sizes = async (): Promise<(number | undefined)[]> => (await server.job(await server.idOf('pear'))).parts.map(p => p.recipe.plug?.hole.diameterMm ?? p.recipe.holes[1]?.diameterMm).sort()
    await page.getByRole('button', { name: 'pear', exact: true }).click()
    await bench.scanned()
    await page.getByRole('button', { name: /^Holes/ }).click()
    await bench.write(/^Diameter of hole 2/, '3')
    await expect.poll(sizes).toEqual([3, 3])
    await bench.scanned()
    await page.getByRole('button', { name: 'Undo' }).click()
    await expect.poll(sizes).toEqual([2.5, 2.5])
    await bench.scanned()
    await page.getByRole('button', { name: 'Undo' }).click()
    await expect.poll(async () => (await server.job(await server.idOf('pear'))).parts.length).toBe(1)
    await bench.scanned()
  })

  it('is drilled where one points, straight into the skin, moved by its rim, and undone', async () => {
    const { page } = bench
    await page.keyboard.press('Shift+1')
    await page.getByRole('button', { name: /^Holes/ }).click()
    await page.getByRole('button', { name: 'Drill by pointing' }).click()
    await bench.write(/^Diameter of the next/, '1.5')
    const box = await bench.stage.boundingBox()
    if (!box) throw new Error('There is no stage.')
    await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
    await page.getByText(/mm deep, into the open/).waitFor()
    await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2)
    await bench.message(/A hole of 1.5 mm was drilled/)
    await expect.poll(async () => (await recipe()).holes.length).toBe(3)
    const placed = (await recipe()).holes[2]
    expect(placed.depthMm).toBeGreaterThan(1.5)
    await bench.scanned()
    await page.keyboard.press('Escape')
    await bench.drag({ x: box.x + box.width / 2, y: box.y + box.height / 2 }, { x: box.x + box.width / 2 + 40, y: box.y + box.height / 2 })
    await bench.release()
    await expect.poll(async () => (await recipe()).holes[2].at).not.toEqual(placed.at)
    expect((await recipe()).holes[2]).toMatchObject({ id: placed.id, diameterMm: 1.5 })
    await bench.scanned()
    for (let i = 0; i < 2; i++) await page.getByRole('button', { name: 'Undo' }).click()
    await expect.poll(async () => (await recipe()).holes.length).toBe(2)
    expect(await page.getByRole('button', { name: 'Drill by pointing' }).getAttribute('aria-pressed')).toBe('false')
  })

  it('carries itself where that is asked for, and says when it was shaped for another tilt', async () => {
    const { page } = bench
    await page.keyboard.press('Shift+1')
    await page.getByRole('button', { name: /^Hollow/ }).click()
    await sheet('Hollow').getByRole('radio', { name: /Carries itself/ }).check()
    await page.getByRole('button', { name: 'Hollow it so' }).click()
    await expect.poll(async () => (await recipe()).hollow?.carries).toMatchObject({ up: [0, 0, 1], slopeDeg: 45, flapMm: 1 })
    await expect.poll(() => said('Hollow')).toContain('Taken out')
    await page.keyboard.press('Shift+2')
    await bench.write('Tilt about x, °', '30')
    await bench.scanned()
    await page.keyboard.press('Shift+1')
    await page.getByText('Its ceilings were shaped for another tilt.').waitFor()
    await page.getByRole('button', { name: 'Undo' }).click()
    await page.getByText('Its ceilings were shaped for another tilt.').waitFor({ state: 'detached' })
  })

  it('is solid while it is switched off, all of it there after a reload, and back as it came by undo', async () => {
    const { page } = bench, asMade = await recipe()
    await page.getByRole('switch', { name: 'Hollow switched on' }).click()
    await expect.poll(async () => (await recipe()).hollow?.on).toBe(false)
    await page.getByRole('switch', { name: 'Hollow switched on' }).click()
    await expect.poll(async () => (await recipe()).hollow?.on).toBe(true)
    await page.reload()
    await bench.scanned()
    await page.getByRole('button', { name: /^Hollow/ }).click()
    await expect.poll(() => said('Hollow')).toContain('Taken out')
    expect(await recipe()).toEqual(asMade)
    for (let i = 0; i < 20 && (await page.getByRole('button', { name: 'Undo' }).isEnabled()); i++) {
      await page.getByRole('button', { name: 'Undo' }).click()
      await bench.saved()
    }
    expect(await recipe()).toMatchObject({ hollow: null, holes: [] })
    await bench.scanned()
    expect(bench.errors).toEqual([])
  })

  it('is held from within, only where it would fail, with the outside faint', async () => {
    const { page } = bench
    await bench.bringIn(server, 'block', writeStl(box([0, 0, 0], [14, 14, 10]), 'block'))
    await page.keyboard.press('Shift+1')
    await page.getByRole('button', { name: /^Hollow/ }).click()
    await bench.write(/^Cells/, '0.4')
    await page.getByRole('button', { name: 'Hollow it' }).click()
    await expect.poll(() => said('Hollow')).toContain('Taken out')
    await page.keyboard.press('Shift+3')
    await bench.scanned()
    await page.getByRole('button', { name: 'How', exact: true }).click()
    await page.getByLabel('What to plan for').selectOption({ label: 'Inside of hollows' })
    await page.getByRole('region', { name: 'Plan', exact: true }).getByRole('button', { name: 'Plan inside' }).click()
    await bench.message(/^\d+ tips? planned, and proved\./)
    await bench.saved()
    const { nodes } = await server.job(await server.idOf('block')), tips = nodes.filter(n => n.kind === 'tip'), feet = nodes.flatMap(n => (n.kind === 'foot' ? [n.on.kind] : []))
    // under its ceiling, and nowhere else; from model to model
    expect([tips.length > 2, tips.every(t => Math.abs(t.at[2] - 13) < 0.3), new Set(feet)]).toEqual([true, true, new Set(['model'])])
    await page.getByRole('button', { name: 'Show V' }).click()
    await page.getByText(/✓.*See through the nearest wall|See through the nearest wall.*✓/).waitFor()
    await page.keyboard.press('Escape')
  })

  it('is cut with its walls, and all of it taken back', async () => {
    const { page } = bench, block = async () => {
      await bench.saved()
      return server.job(await server.idOf('block'))
    }
    await page.keyboard.press('Shift+1')
    await page.getByRole('complementary', { name: 'Part' }).getByRole('button', { name: /^Cut/ }).click()
    await page.getByRole('button', { name: 'Set a plane' }).click()
    // a ring: 14 by 14 less about 10 by 10
    await expect.poll(() => said('Cut')).toMatch(/It goes through 9[5-9]\.\d mm²/)
    await page.getByRole('button', { name: 'Cut it in two' }).click()
    await bench.message(/Cut in two/)
    await bench.scanned()
    expect((await block()).parts.map(p => [p.recipe.hollow?.on, p.recipe.cuts.length])).toEqual([[true, 1], [true, 1]])
    for (let i = 0; i < 12 && (await page.getByRole('button', { name: 'Undo' }).isEnabled()); i++) {
      await page.getByRole('button', { name: 'Undo' }).click()
      await bench.saved()
    }
    await page.reload()
    await bench.scanned()
    const { parts, nodes } = await block()
    expect([parts.length, parts[0].recipe, nodes]).toEqual([1, expect.objectContaining({ hollow: null, cuts: [] }), []])
  })

  it('drains where resin would stay as the part hangs, by one press', async () => {
    const { page } = bench, pools = () => page.getByRole('listbox', { name: 'Findings' }).getByRole('option', { name: /^Pool,? / }).count()
    // as it hangs from the plate it is a bowl
    await bench.bringIn(server, 'dome', writeStl(lathe([[6, 0], [8, 0], [8, 10], [0, 12], [0, 10], [6, 8], [6, 0]], 64), 'dome'))
    await (await bench.row(/^Pool,? /)).click()
    await page.getByRole('button', { name: 'Drill a drain' }).click()
    await bench.message(/A hole of 2.5 mm was drilled/)
    await bench.scanned()
    await expect.poll(pools).toBe(0)
    await bench.saved()
    const [{ recipe: { holes } }] = (await server.job(await server.idOf('dome'))).parts
    expect(holes).toMatchObject([{ diameterMm: 2.5 }])
    // near its top, where it would gather
    expect(holes[0].at[2]).toBeGreaterThan(9)
  })

  it('is not taken out of a mesh that is not mended: that is said beforehand, and mended by a press', async () => {
    const { page } = bench, { positions, triangles } = sphere([0, 0, 5], 5, 48)
    await page.goto(`${server.url}/jobs`)
    await page.getByLabel('Model files').setInputFiles({ name: 'leaky.stl', mimeType: 'model/stl', buffer: Buffer.from(writeStl({ positions, triangles: triangles.slice(3) }, 'leaky')) })
    await bench.scanned()
    await page.keyboard.press('Shift+1')
    await page.getByRole('switch', { name: 'Mend' }).click()
    await bench.scanned()
    await page.getByRole('button', { name: /^Hollow/ }).click()
    await page.getByText('The mesh is taken as it came', { exact: false }).waitFor()
    await page.getByRole('button', { name: 'Hollow it' }).click()
    await bench.message(/The part could not be changed: The mesh is not closed/)
    await page.getByRole('complementary', { name: 'Part' }).getByRole('button', { name: /^Cut/ }).click()
    await page.getByRole('button', { name: 'Set a plane' }).click()
    await sheet('Cut').getByText('The mesh is not closed', { exact: false }).waitFor()
    await page.getByRole('button', { name: 'Leave it' }).click()
    await page.getByRole('button', { name: 'Mend it first' }).click()
    await expect.poll(() => page.getByText('The mesh is taken as it came', { exact: false }).count()).toBe(0)
    await bench.scanned()
    await page.getByRole('button', { name: 'Set a plane' }).click()
    await expect.poll(() => said('Cut')).toMatch(/It goes through 7[78]\.\d mm²/)
    expect(bench.errors).toEqual([])
  })
})
