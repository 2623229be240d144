import { describe, expect, it } from 'vitest'
import type { Part, PlanNode } from '../core/contract'
import { readModel, wholeOf } from '../core/mesh'
import { objText } from '../core/testing/model-files'
import { lantern } from './parts'
import { withBench } from './with-bench'

// The right size: a file without a unit, wished sizes, a mirror, and stilts that survive all of it.
const { server, bench } = withBench({ seed: false })
const job = async (): Promise<{ part: Part; nodes: readonly PlanNode[] }> => {
  const { parts, nodes } = await server.job(await server.idOf('lamp'))
  return { part: parts[0], nodes }
}
const sizes = (): Promise<string[]> => Promise.all(['Width, x, mm', 'Depth, y, mm', 'Height, z, mm'].map(label => bench.page.getByLabel(label).inputValue()))

describe('the size of a part', () => {
  it('is doubted where a file without a unit is too small, with a reason and a button that puts it right', async () => {
    const mesh = wholeOf(await readModel(lantern()))
    const inches = objText({ positions: mesh.positions.map(v => v / 25.4), triangles: mesh.triangles })
    await bench.page.goto(`${server.url}/jobs`)
    await bench.page.getByLabel('Model files').setInputFiles({ name: 'lamp.obj', mimeType: 'model/obj', buffer: Buffer.from(inches) })
    await bench.page.getByRole('heading', { name: '1.0 mm at its largest. Were these inches?' }).waitFor()
    await bench.page.getByRole('button', { name: 'Take as inches: 25 mm' }).click()
    await expect.poll(sizes).toEqual(['25.40', '24.80', '11.00'])
    await bench.scanned()
    await bench.saved()
    expect(await bench.page.getByText('Were these inches?').count()).toBe(0)
    expect((await job()).part.recipe).toEqual({ mended: true, unitMm: 25.4, scale: [1, 1, 1], mirrored: false, hollow: null, holes: [], cuts: [], plug: null })
  })

  it('is given in the units that are chosen, with what each would come to', async () => {
    await bench.page.getByRole('button', { name: /^Units/ }).click()
    const sheet = bench.page.getByRole('region', { name: 'Units' })
    expect(await sheet.getByRole('radio', { name: /Inches/ }).isChecked()).toBe(true)
    await sheet.getByRole('radio', { name: /Centimetres 10 mm/ }).check()
    await expect.poll(async () => (await bench.page.getByRole('button', { name: /^Units/ }).textContent())?.trim()).toBe('Unitscm')
    await bench.page.keyboard.press('Escape')
    await bench.page.getByRole('button', { name: 'Undo' }).click()
    await expect.poll(async () => (await bench.page.getByRole('button', { name: /^Units/ }).textContent())?.trim()).toBe('Unitsinches')
    await bench.scanned()
  })

  it('is scaled by a wished size, by per cent, or along one axis, and its stilts are seated anew', async () => {
    await bench.page.getByRole('link', { name: 'Pose', exact: true }).click()
    await bench.page.getByRole('radio', { name: /Lift 5 mm/ }).check()
    await bench.page.getByRole('button', { name: 'Stand it so' }).click()
    await bench.scanned()
    await bench.page.getByRole('link', { name: /^Hold/ }).click()
    await bench.page.getByRole('button', { name: 'Hold islands' }).click()
    await expect.poll(() => bench.stiltCount()).toBeGreaterThan(4)
    await bench.scanned()
    const held = await bench.stiltCount()
    await bench.page.getByRole('link', { name: 'Part', exact: true }).click()
    await bench.page.getByRole('button', { name: /^Scale/ }).click()
    await bench.write('Width, x, mm', '50.8')
    expect(await bench.message(/seated anew/)).toBe(`All ${held} stilts were seated anew.`)
    await expect.poll(sizes).toEqual(['50.80', '49.60', '22.00'])
    await bench.write('Height, z of the file, %', '+10%')
    await expect.poll(sizes).toEqual(['55.88', '54.56', '24.20'])
    await bench.page.getByLabel('Keep proportions').uncheck()
    await bench.write('Depth, y, mm', 'x0.5')
    await expect.poll(sizes).toEqual(['55.88', '27.28', '24.20'])
    await bench.scanned()
    await bench.saved()
    const { part, nodes } = await job()
    expect(part.recipe.scale.map(s => s.toFixed(3))).toEqual(['2.200', '1.100', '2.200'])
    expect(nodes.filter(n => n.kind === 'tip')).toHaveLength(held)
    // what stands there is written on the skin of the file, which nothing changes
    expect(nodes.every(n => n.kind !== 'tip' || Math.hypot(...n.anchor.point) < 1)).toBe(true)
  })

  it('is mirrored with its stilts, and undo brings everything back', async () => {
    const before = await job()
    await bench.page.getByRole('switch', { name: 'Mirror' }).click()
    await bench.message(/Mirrored, left for right, with its stilts/)
    await bench.scanned()
    await bench.saved()
    const there = await job(), image = new Map(there.nodes.map(n => [n.id, n]))
    const sums = before.nodes.map(n => n.at[0] + (image.get(n.id)?.at[0] ?? NaN))
    expect(Math.max(...sums) - Math.min(...sums)).toBeLessThan(1e-6)
    for (let i = 0; i < 4; i++) await bench.page.getByRole('button', { name: 'Undo' }).click()
    await expect.poll(sizes).toEqual(['25.40', '24.80', '11.00'])
    await bench.scanned()
    await bench.saved()
    expect((await job()).part.recipe).toEqual({ mended: true, unitMm: 25.4, scale: [1, 1, 1], mirrored: false, hollow: null, holes: [], cuts: [], plug: null })
    expect(bench.errors).toEqual([])
  })
})
