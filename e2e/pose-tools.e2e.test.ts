import { describe, expect, it } from 'vitest'
import type { Copy, Part } from '../core/contract'
import { writeStl } from '../core/mesh'
import { moveMesh, standOf } from '../core/pose'
import { box } from '../core/testing/shapes'
import { withBench } from './with-bench'

// A block of 20 × 12 × 8 mm: laid on its faces, stood on its edges, squared up, lifted by presets, nudged by keys.
const block = box([0, 0, 0], [20, 12, 8])
let id = ''
const { server, bench } = withBench({ seed: false, begin: async setup => {
  id = await setup.bench.bringIn(setup.server, 'block', writeStl(block, 'block'))
  await setup.bench.page.getByRole('link', { name: 'Pose', exact: true }).click()
} })
const job = async (): Promise<{ part: Part; copy: Copy }> => {
  await bench.saved()
  const { parts: [part], copies: [copy] } = await server.job(id)
  return { part, copy }
}
/** Heights of the block's corners as it stands. */
const heights = async (): Promise<number[]> => {
  const { part } = await job(), { positions } = moveMesh(block, standOf(block.positions, part.pose, 0.05))
  return [...positions].filter((_, i) => i % 3 === 2).map(z => Math.round(z * 100) / 100).sort((a, b) => a - b)
}
/** Where a point of the block is on the page. */
async function pageOf(point: readonly [number, number, number]): Promise<{ x: number; y: number }> {
  await bench.still()
  const { part } = await job(), m = standOf(block.positions, part.pose, 0.05)
  return bench.at([0, 4, 8].map(r => m[r] * point[0] + m[r + 1] * point[1] + m[r + 2] * point[2] + m[r + 3]) as unknown as [number, number, number])
}
async function clickOn(point: readonly [number, number, number]): Promise<void> {
  const { x, y } = await pageOf(point)
  await bench.page.mouse.move(x, y)
  await bench.page.mouse.click(x, y)
}

describe('a pose', () => {
  it('is lifted by presets, with what that costs', async () => {
    const presets = bench.page.getByRole('group', { name: 'Presets of the lift' })
    await presets.getByRole('button', { name: '10 mm' }).click()
    await bench.page.getByText('200 layers under it, about').waitFor()
    await bench.write('Lift, mm', '2')
    await bench.page.getByRole('status', { name: 'Lift', exact: true }).filter({ hasText: 'Under 4 mm stilts have no room' }).waitFor()
    await presets.getByRole('button', { name: 'On the plate' }).click()
    await bench.page.getByText('It stands on the plate, which holds its first layer.').waitFor()
    await bench.scanned()
    await bench.page.getByRole('link', { name: /^Hold/ }).click()
    // what stands on the plate is held by it
    expect(await bench.openCount()).toBe(0)
    await bench.page.getByRole('link', { name: 'Pose', exact: true }).click()
  })

  it('is that of the face or the edge that is clicked', async () => {
    await bench.stage.focus()
    await bench.write('Tilt about x, °', '31')
    await bench.write('Tilt about y, °', '17')
    await bench.scanned()
    await bench.stage.focus()
    await bench.page.keyboard.press('a')
    // the face that looks to the front
    await clickOn([10, 0, 4])
    await bench.message(/Laid on the plate/)
    expect(await heights()).toEqual([0, 0, 0, 0, 12, 12, 12, 12])
    await bench.stage.focus()
    await bench.page.keyboard.press('a')
    const edge = await visibleEdge()
    await clickOn(edge)
    await bench.message(/Stands on the edge/)
    const [a, b, c] = await heights()
    expect([a, b]).toEqual([a, a])
    expect(c).toBeGreaterThan(b + 1)
  })

  it('is squared up by a face, and undone', async () => {
    await bench.page.getByRole('button', { name: 'Stand upright' }).click()
    await bench.write('Turn about z, °', '37')
    await bench.stage.focus()
    await bench.page.keyboard.press('q')
    await clickOn([10, 0, 4])
    await bench.message(/square to the plate/)
    expect(Math.abs((await job()).copy.turnDeg % 90)).toBe(0)
    await bench.page.getByRole('button', { name: 'Undo' }).click()
    expect((await job()).copy.turnDeg).toBe(37)
  })

  it('is made the zero, tilted from there, and measured from the file again', async () => {
    await bench.write('Tilt about x, °', '20')
    await bench.write('Tilt about y, °', '10')
    const before = await heights()
    await bench.page.getByRole('button', { name: 'Zero here' }).click()
    await expect.poll(() => bench.field('Tilt about x, °')).toBe('0.0')
    expect(await heights()).toEqual(before)
    await bench.page.getByText('Tilts are measured from the zero that was set here').waitFor()
    await bench.page.getByRole('button', { name: 'From the file' }).click()
    await bench.page.getByText('Tilts are measured from how the file has it').waitFor()
    expect(await heights()).toEqual(before)
  })

  it('is nudged by keys, the focus on the stage', async () => {
    await bench.page.getByRole('button', { name: 'Stand upright' }).click()
    await bench.scanned()
    await bench.stage.focus()
    for (const key of [']', ']', '[', 'Shift+}', 'PageUp', 'PageUp', 'Alt+ArrowRight', 'Alt+ArrowRight', 'Alt+ArrowUp']) await bench.page.keyboard.press(key)
    await expect.poll(() => Promise.all(['Tilt about x, °', 'Tilt about y, °', 'Lift, mm', 'Across, x, mm', 'Along, y, mm'].map(l => bench.field(l)))).toEqual(['1.0', '1.0', '1.00', '2.00', '1.00'])
    await bench.page.keyboard.press('u')
    await expect.poll(() => bench.field('Tilt about x, °')).toBe('0.0')
    expect(bench.errors).toEqual([])
  })
})

/** The middle of an edge that can be seen: the one that is nearest to the eye. */
async function visibleEdge(): Promise<[number, number, number]> {
  return nearest([[10, 0, 0], [10, 0, 8], [10, 12, 0], [10, 12, 8], [0, 6, 0], [0, 6, 8], [20, 6, 0], [20, 6, 8]])
}
async function nearest(points: readonly [number, number, number][]): Promise<[number, number, number]> {
  // the eye is in front and a little to the right, so what lies nearest has the least y of the plate
  const { part } = await job(), m = standOf(block.positions, part.pose, 0.05)
  return [...points].sort((a, b) => m[4] * (a[0] - b[0]) + m[5] * (a[1] - b[1]) + m[6] * (a[2] - b[2]))[0]
}
