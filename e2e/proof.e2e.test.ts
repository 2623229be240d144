import { describe, expect, it } from 'vitest'
import { plate } from './parts'
import { withBench } from './with-bench'

// Whether a part holds on its stilts: one thin stilt does not carry a plate; many do. The weakest is gone to, mended, and proved again.
const { server, bench } = withBench({ seed: false, begin: async setup => void (await setup.bench.bringIn(setup.server, 'plate', plate())) })
const press = (key: string): Promise<void> => bench.page.keyboard.press(key)
const verdict = (text: RegExp): Promise<void> => bench.page.getByRole('status', { name: 'Verdict' }).filter({ hasText: text }).waitFor()

describe('the proof', () => {
  it('asks for stilts first, and says of one thin stilt that it is too weak', async () => {
    await bench.stage.focus()
    await press('Shift+4')
    await verdict(/no stilts yet/)
    expect(await bench.page.getByRole('button', { name: 'Prove', exact: true }).count()).toBe(0)
    await press('Shift+3')
    await bench.scanned()
    await bench.stage.focus()
    await press('1')
    await press('n')
    await press('p')
    await bench.page.getByRole('button', { name: /^View/ }).click()
    await bench.page.getByText('Below', { exact: true }).last().click()
    await bench.still()
    const under = await bench.at([0, 0, 5])
    await bench.page.mouse.move(under.x + 2, under.y)
    await bench.page.mouse.click(under.x, under.y)
    await bench.message(/^Stilt 1 placed/)
    await bench.stage.focus()
    await press('Shift+4')
    await bench.page.getByRole('button', { name: 'Prove', exact: true }).click()
    await verdict(/^Not ready: /)
    await bench.page.getByRole('button', { name: /^to be seen to: 1 tip carries more than it can; the weakest is that of stilt 1/ }).click()
    await bench.page.getByRole('button', { name: /^1 stilt cannot be missed/ }).waitFor()
    expect(await bench.page.getByRole('region', { name: 'What tips bear' }).getByRole('listitem').count()).toBe(1)
  })

  it('is mended from where it says what is wrong', async () => {
    const share = async (): Promise<string> => (await bench.page.getByRole('region', { name: 'What tips bear' }).getByRole('listitem').first().textContent()) ?? ''
    const before = await share()
    await bench.page.getByRole('button', { name: 'One more beside' }).click()
    await bench.message(/^1 stilt was placed beside\.$/)
    await verdict(/changed since: prove it again/)
    await bench.page.getByRole('button', { name: 'Prove again' }).click()
    await bench.page.getByRole('region', { name: 'What tips bear' }).getByRole('listitem').nth(1).waitFor()
    expect(await share()).not.toBe(before)
    await bench.page.getByRole('button', { name: 'Next gauge' }).click()
    await bench.message(/^2 stilts have the next gauge now\.$/)
  })

  it('is stale after an edit, and better after more stilts', async () => {
    // in per cent, or in times where it is ten times and more
    const share = async (): Promise<number> => {
      const [, n, unit] = (await bench.page.getByRole('region', { name: 'What tips bear' }).getByRole('listitem').first().textContent())?.match(/(\d+) ([%×])/) ?? []
      return Number(n) * (unit === '×' ? 100 : 1)
    }
    const before = await share()
    expect(before).toBeGreaterThan(100)
    await bench.stage.focus()
    await press('Shift+3')
    await bench.page.keyboard.press('Shift+h')
    await bench.message(/placed|stilts/)
    await bench.scanned()
    await bench.stage.focus()
    await press('Shift+4')
    await verdict(/changed since: prove it again/)
    await bench.page.getByRole('button', { name: 'Prove again' }).click()
    await bench.page.getByRole('button', { name: /^as it should be: Nothing hangs/ }).waitFor()
    await expect.poll(share, { timeout: 60000 }).toBeLessThan(before / 3)
    // the weakest is gone to, and selected
    await bench.page.getByRole('region', { name: 'What tips bear' }).getByRole('listitem').first().getByRole('button').click()
    await press('Shift+3')
    await bench.page.getByRole('region', { name: /^Stilt \d+, side elevation/ }).waitFor()
    expect(bench.errors).toEqual([])
  })

  it('leaves a check as it is for a reason, and takes that back', async () => {
    await bench.stage.focus()
    await press('Shift+4')
    await verdict(/^Not ready/)
    const bad = await bench.page.getByRole('button', { name: /^to be seen to/ }).count()
    expect(bad).toBeGreaterThan(0)
    await bench.page.getByRole('button', { name: /^to be seen to/ }).first().click()
    await bench.page.getByRole('button', { name: 'Waive' }).click()
    await bench.page.getByLabel('Why it may stay').fill('It is a test piece.')
    await press('Enter')
    await bench.page.getByRole('button', { name: /^left as it is: / }).waitFor()
    await verdict(/One check is left as it is\.$/)
    await bench.page.getByRole('button', { name: 'Take back' }).click()
    await bench.page.getByRole('button', { name: /^to be seen to/ }).nth(bad - 1).waitFor()
  })

  it('keeps its verdict over a reload, until something is changed and until that is undone', async () => {
    await bench.stage.focus()
    await press('Shift+4')
    await bench.saved()
    await bench.page.reload()
    await bench.scanned()
    await verdict(/^Not ready: .*[^:]$/)
    expect(await bench.page.getByRole('button', { name: 'Prove again' }).isEnabled()).toBe(true)
    await bench.stage.focus()
    await press('Shift+3')
    await press('Control+a')
    await press('Delete')
    await bench.scanned()
    await bench.stage.focus()
    await press('Shift+4')
    await verdict(/changed since: prove it again/)
    await press('Control+z')
    await verdict(/^(?!.*changed since)Not ready/)
    expect([(await server.jobs()).length, bench.errors]).toEqual([1, []])
  })
})
