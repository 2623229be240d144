import { describe, expect, it } from 'vitest'
import type { Vec3 } from '@oak-stilts/core/mesh'
import { plate } from './parts'
import { withBench } from './with-bench'

// A plate of 24 by 16 mm that hangs 5 mm above the printer's: many stilts at once, by the pointer and by keys.
let id = ''
const { server, bench } = withBench({ seed: false, begin: async setup => void (id = await setup.bench.bringIn(setup.server, 'plate', plate())) })
const press = (key: string): Promise<void> => bench.page.keyboard.press(key)
const sheet = () => bench.page.getByRole('region', { name: 'Spread' })
async function below(): Promise<void> {
  await bench.stage.focus()
  for (let i = 0; i < 6; i++) await press('o')
  await bench.message(/Below/)
  await bench.still()
}
async function hover(point: Vec3): Promise<void> {
  const { x, y } = await bench.at(point)
  await bench.page.mouse.move(x + 2, y + 1)
  await bench.page.mouse.move(x, y)
}
async function click(point: Vec3): Promise<void> {
  const { x, y } = await bench.at(point)
  await bench.page.mouse.click(x, y)
}
/** Tips of the job as the server has it, by x. */
async function tips(): Promise<number[][]> {
  await bench.saved()
  const { nodes } = await server.job(id)
  return nodes.flatMap(n => (n.kind === 'tip' ? [[...n.at]] : [])).sort((a, b) => a[0] - b[0] || a[1] - b[1])
}

describe('many stilts at once', () => {
  it('a line between two clicks, its spacing dialled by the wheel while it is shown', async () => {
    await below()
    await press('2')
    await press('r')
    await sheet().waitFor()
    await click([-10, 0, 5])
    await bench.message(/where the line ends/)
    await hover([10, 0, 5])
    await bench.message(/11 tips every 2\.0\d mm on 20\.\d mm/)
    await bench.page.keyboard.down('Shift')
    await bench.page.mouse.wheel(0, -120)
    await bench.message(/10 tips every 2\.2\d mm/)
    await bench.page.mouse.wheel(0, 120)
    await bench.page.keyboard.up('Shift')
    await bench.message(/11 tips every 2\.0\d mm/)
    await click([10, 0, 5])
    await bench.message(/^11 stilts along a line, every 2\.0\d mm/)
    const xs = (await tips()).map(t => t[0])
    expect(xs).toHaveLength(11)
    xs.slice(1).forEach((x, i) => expect(x - xs[i]).toBeCloseTo(2, 0))
  })

  it('is taken up again: other spacing and gauge, placed anew, in one step', async () => {
    await press('Escape')
    await sheet().getByText('11 along a line').waitFor()
    await bench.write(/^Spacing/, '4')
    await bench.message(/^6 stilts along a line/)
    expect(await tips()).toHaveLength(6)
    await bench.page.getByLabel('Gauge of the selection').selectOption({ label: 'Fine' })
    await bench.message(/^6 stilts along a line/)
    await bench.saved()
    const { nodes, spreads } = await server.job(id)
    expect([new Set(nodes.flatMap(n => (n.kind === 'tip' ? [n.gauge] : []))), spreads.map(s => [s.gauge, s.spacingMm])]).toEqual([new Set(['fine']), [['fine', 4]]])
    await bench.stage.focus()
    await press('Control+z')
    await press('Control+z')
    await press('Control+z')
    await bench.message(/Undone: spread along a line/)
    expect([await tips(), (await server.job(id)).spreads]).toEqual([[], []])
    await press('Control+Shift+z')
    expect(await tips()).toHaveLength(11)
    await press('Control+z')
  })

  it('an edge, or from within the face its whole border', async () => {
    await press('e')
    await hover([0, 7.7, 5])
    await bench.message(/tips every 2\.00 mm on 24\.0 mm/)
    await hover([1, 1, 5])
    await bench.message(/tips every 2\.00 mm on 80\.0 mm/)
    await hover([0, 7.7, 5])
    await bench.message(/on 24\.0 mm/)
    await click([0, 7.7, 5])
    await bench.message(/^13 stilts along an edge/)
    for (const [, y] of await tips()) expect(y).toBeCloseTo(8 - 0.175 - 0.05, 2)
  })

  it('a face: its outline first, then within; beside tips that stand, unless that is switched off', async () => {
    await press('f')
    await bench.write(/^Spacing/, '4')
    await bench.stage.focus()
    await hover([1, 1, 5])
    await bench.message(/left out beside others/)
    const kept = Number(/^(\d+)/.exec(await bench.message(/tips every 4\.00 mm/))?.[1])
    await sheet().getByLabel(/^Keep/).uncheck()
    await hover([1.5, 1, 5])
    await bench.message(/tips every 4\.00 mm$/)
    expect(Number(/^(\d+)/.exec(await bench.message(/tips every 4\.00 mm$/))?.[1])).toBeGreaterThan(kept)
    await sheet().getByLabel(/^Keep/).check()
    await click([1, 1, 5])
    await bench.message(/stilts over a face, every 4\.00 mm/)
    await bench.scanned()
    // all of it is held but for what a tip does not reach
    expect((await tips()).length).toBe(13 + kept)
    await press('Escape')
    await sheet().getByLabel('Rows').selectOption({ label: 'square' })
    await bench.message(/stilts over a face/)
    await bench.saved()
    expect((await server.job(id)).spreads.map(s => (s.way.kind === 'face' ? s.way.pattern : s.way.kind)).sort()).toEqual(['edge', 'square'])
  })

  it('strokes: a distance is kept between the tips; Esc takes back what is being drawn', async () => {
    await bench.stage.focus()
    for (let i = 0; i < 3; i++) await press('Control+z')
    expect(await tips()).toEqual([])
    await press('b')
    const [from, to] = [await bench.at([-8.2, -4, 5]), await bench.at([8.3, -4, 5])]
    await bench.drag(from, to)
    await bench.message(/tips every 4\.00 mm/)
    await press('Escape')
    await bench.release()
    expect(await tips()).toEqual([])
    await bench.drag(from, to)
    await bench.release()
    await bench.message(/^5 stilts by strokes/)
    const xs = (await tips()).map(t => t[0])
    xs.slice(1).forEach((x, i) => expect(x - xs[i]).toBeGreaterThan(3.9))
  })

  it('what was spread is there after a reload, and can be drawn anew', async () => {
    await bench.page.reload()
    await bench.scanned()
    await below()
    await bench.page.getByRole('tab', { name: /^Stilts/ }).click()
    await bench.page.getByRole('option', { name: /^Stilt 1\b/ }).click()
    await sheet().getByText('5 by strokes').waitFor()
    await sheet().getByRole('button', { name: 'Draw it anew' }).click()
    await bench.drag(await bench.at([-8.2, 4, 5]), await bench.at([8.3, 4, 5]))
    await bench.release()
    await bench.message(/^5 stilts by strokes/)
    const all = await tips()
    expect([all.length, all.every(t => Math.abs(t[1] - 4) < 0.5), (await server.job(id)).spreads.length]).toEqual([5, true, 1])
    expect(bench.errors).toEqual([])
  })
})
