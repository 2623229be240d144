import { describe, expect, it } from 'vitest'
import type { PlanBeam } from '@oak-stilts/core/contract'
import { porch, table } from './parts'
import { withBench } from './with-bench'

// By keys alone, from finding to finding: spreading at what hangs, a branch to it, a stick down from it, a line between.
const { server, bench } = withBench({ seed: false })
const press = (key: string): Promise<void> => bench.page.keyboard.press(key)
async function kinds(id: string): Promise<Record<string, number>> {
  await bench.saved()
  const count: Record<string, number> = {}
  for (const { kind } of (await server.job(id)).beams as PlanBeam[]) count[kind] = (count[kind] ?? 0) + 1
  return count
}

describe('by keys alone', () => {
  it('a face and an edge are spread over where something hangs, and branches reach the next finding', async () => {
    const id = await bench.bringIn(server, 'table', table())
    await bench.stage.focus()
    await press('1')
    await press('n')
    await press('f')
    await press('Enter')
    const [count] = (await bench.message(/^\d+ stilts over a face/)).match(/^\d+/) ?? ['0']
    expect(Number(count)).toBeGreaterThan(1)
    await press('Control+z')
    await bench.message(/Undone: spread over a face/)
    await bench.scanned()
    await press('n')
    await press('e')
    await press('Enter')
    await bench.message(/^\d+ stilts along an edge/)
    await press('Control+z')
    await bench.message(/Undone: spread along an edge/)
    await bench.scanned()
    // a stroke begins where one looks, is drawn on by arrows, and goes to the next finding
    await press('n')
    await press('b')
    await press('Alt+ArrowRight')
    await bench.message(/Begin the stroke first/)
    await press('Enter')
    await bench.message(/A stroke has begun/)
    for (let i = 0; i < 4; i++) await press('Alt+ArrowRight')
    await bench.message(/^[2-5] tips every 1\.20 mm on [2-4]\.\d mm/)
    await press('Enter')
    await bench.message(/^[2-5] stilts by strokes/)
    await press('Control+z')
    await bench.message(/Undone: spread by strokes/)
    await press('Escape')
    await press('Escape')
    await bench.scanned()
    // one held by a stilt, the next by a branch of it
    await press('n')
    await press('2')
    await press('Enter')
    await bench.message(/placed/)
    await bench.scanned()
    await press('n')
    await press('1')
    await press('s')
    await press('Enter')
    await bench.message(/^1 branch placed/)
    expect((await kinds(id)).branch).toBe(1)
    expect(bench.errors).toEqual([])
  })

  it('a stick goes straight down from a ledge, and a line begins and ends where one looks', async () => {
    const id = await bench.bringIn(server, 'porch', porch(), 0)
    await bench.stage.focus()
    await press('2')
    await press('n')
    await press('l')
    await press('Enter')
    await bench.message(/Point at where it ends/)
    await press('Enter')
    await bench.message(/^Stick 1 placed: 7\.5 mm, upright/)
    expect(await kinds(id)).toEqual({ cone: 1, shaft: 2 })
    await press('Escape')
    await press('Escape')
    await press('Control+z')
    await bench.message(/Undone: place a stick/)
    await bench.scanned()
    await press('n')
    await press('r')
    await press('Enter')
    await bench.message(/where the line ends/)
    await press('Enter')
    await bench.message(/^1 stilt along a line/)
    expect((await kinds(id)).cone).toBe(1)
    expect(bench.errors).toEqual([])
  })
})
