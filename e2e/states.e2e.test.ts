import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { joinMeshes, writeStl, type Mesh } from '@oak-stilts/core/mesh'
import { box } from '../core/testing/shapes'
import { temporaryFolder } from './bench'
import { withBench } from './with-bench'

const { server, bench } = withBench({ seed: false })
const files = temporaryFolder()

/** Brings a model in as it stands and goes to Hold. */
async function bringIn(name: string, mesh: Mesh): Promise<void> {
  const file = join(files, `${name}.stl`)
  writeFileSync(file, writeStl(mesh, name))
  await bench.page.goto(`${server.url}/jobs`)
  await bench.page.getByLabel('Model files').setInputFiles(file)
  await bench.page.getByLabel('Job name').waitFor()
  await bench.page.getByRole('link', { name: 'Pose' }).click()
  await bench.page.getByRole('button', { name: 'Stand it so' }).click()
  await bench.page.getByRole('link', { name: /^Hold/ }).click()
}

const summary = (text: RegExp): Promise<void> => bench.page.getByRole('status', { name: 'Findings' }).filter({ hasText: text }).waitFor()

describe('what the list says', () => {
  it('where nothing hangs', async () => {
    await bringIn('block', box([-10, -10, 0], [10, 10, 12]))
    await bench.scanned()
    await summary(/^Nothing hangs in 240 layers/)
    expect(await bench.openCount()).toBe(0)
    expect(await bench.page.getByRole('button', { name: 'Hold islands' }).isDisabled()).toBe(true)
  })

  it('where the scan failed: why, and what helps', async () => {
    await bringIn('tower', box([-10, -10, 0], [10, 10, 1800]))
    await summary(/^The scan failed: The model reaches 1800 mm up.*Scale it/)
    await bench.page.getByRole('button', { name: 'Scan again' }).waitFor()
  })

  it('where the scan was cancelled, until it is asked for again', async () => {
    // fine and large enough that there is time to press Cancel
    const plates = Array.from({ length: 40 }, (_, i) => box([-50, -30, 3 * i], [50, 30, 3 * i + 1.5]))
    await bringIn('stack', joinMeshes(plates))
    await bench.page.getByRole('button', { name: 'Cancel' }).click()
    await summary(/^The scan was cancelled/)
    await bench.page.getByRole('button', { name: 'Scan again' }).click()
    await bench.scanned()
    await summary(/39 islands still hang/)
  })

  it('where one ledge is held and another one not', async () => {
    await bringIn('shelves', joinMeshes([box([-3, -3, 0], [3, 3, 24]), box([3, -3, 9], [9, 3, 10.5]), box([-8, -3, 16], [-3, 3, 17.5])]))
    await bench.scanned()
    await bench.page.getByRole('option', { name: /^Ledge, 6\.00 mm out/ }).click()
    await bench.page.getByRole('button', { name: 'Hold this ledge' }).click()
    await bench.message(/stilts? (was|were) placed\.$/)
    await bench.scanned()
    await bench.page.getByRole('option', { name: /^Ledge, 6\.00/ }).waitFor({ state: 'detached' })
    await bench.page.getByRole('option', { name: /^Ledge, 5\.00 mm out.*open/ }).waitFor()
    // it is settled, not gone: what is selected stays selected, and the list has it where all states are asked for
    await bench.page.getByRole('region', { name: 'Ledge' }).getByRole('heading').filter({ hasText: 'settled' }).waitFor()
    await bench.page.getByRole('button', { name: 'Only open' }).click()
    await bench.page.getByRole('option', { name: /^Ledge, 6\.00 mm out.*settled/, selected: true }).waitFor()
    await bench.page.getByRole('button', { name: 'Only open' }).click()
    await bench.stage.focus()
    await bench.page.keyboard.press('Control+z')
    await bench.page.getByRole('option', { name: /^Ledge, 6\.00 mm out.*open/ }).waitFor()
    expect(await bench.stiltCount()).toBe(0)
    expect(bench.errors).toEqual([])
  })
})
