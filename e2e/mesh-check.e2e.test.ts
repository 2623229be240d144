import { describe, expect, it } from 'vitest'
import { joinMeshes, writeStl, type Mesh } from '../core/mesh'
import { moved, sphere } from '../core/testing/shapes'
import { withBench } from './with-bench'

// A damaged model: what is wrong is listed and shown, mended where that is safe, and can be taken as it came.
const { server, bench } = withBench({ seed: false })
const ball = sphere([0, 0, 0], 5, 32)
function damaged(): Mesh {
  const triangles = ball.triangles.slice(0, ball.triangles.length - 30)
  for (const i of [100, 101, 250]) [triangles[3 * i + 1], triangles[3 * i + 2]] = [triangles[3 * i + 2], triangles[3 * i + 1]]
  return joinMeshes([{ positions: ball.positions, triangles }, moved(sphere([0, 0, 0], 2, 16), [5, 0.3, 0.2])])
}
const fault = (name: string) => bench.page.getByRole('list', { name: 'Faults of the mesh' }).getByRole('button', { name })

describe('a damaged model', () => {
  it('is brought in to Part, with its faults and what was mended', async () => {
    await bench.page.goto(`${server.url}/jobs`)
    await bench.page.getByLabel('Model files').setInputFiles({ name: 'ball.stl', mimeType: 'model/stl', buffer: Buffer.from(writeStl(damaged(), 'ball')) })
    await fault('Unclosed edges, 12, mended').waitFor()
    expect(await bench.page.getByRole('list', { name: 'Faults of the mesh' }).getByRole('button').allTextContents()).toEqual(['Unclosed edges12', 'Flipped faces3', expect.stringMatching(/^Crossing faces\d+$/)])
    await bench.scanned()
  })

  it('tells of each why it matters and what was done, and shows where it is', async () => {
    await fault('Flipped faces, 3, mended').click()
    const sheet = bench.page.getByRole('region', { name: 'Flipped faces' })
    expect(await sheet.textContent()).toMatch(/They look inward.*Mend turns them\..*Mended\./)
    await bench.still()
    await fault('Crossing faces').click()
    expect(await bench.page.getByRole('region', { name: 'Crossing faces' }).textContent()).toMatch(/The scan takes what overlaps as one solid/)
    await bench.stage.focus()
    await bench.page.keyboard.press('Escape')
    await bench.page.getByRole('region', { name: 'Scale' }).waitFor()
  })

  it('can be scanned as it came, with a caveat, and mended again; the source stays', async () => {
    const { source } = (await server.job(await server.idOf('ball'))).parts[0]
    await fault('Unclosed edges').click()
    await bench.page.getByRole('button', { name: 'Take as it came' }).click()
    await bench.message(/scanned as it came.*not to be trusted/)
    await fault('Unclosed edges, 12, open').waitFor()
    await bench.scanned()
    await bench.page.getByRole('switch', { name: 'Mend' }).click()
    await fault('Unclosed edges, 12, mended').waitFor()
    await bench.scanned()
    await bench.page.getByRole('button', { name: 'Undo' }).click()
    await fault('Unclosed edges, 12, open').waitFor()
    await bench.scanned()
    await bench.saved()
    const { source: now, recipe } = (await server.job(await server.idOf('ball'))).parts[0]
    expect([now, recipe.mended]).toEqual([source, false])
    expect(bench.errors).toEqual([])
  })
})
