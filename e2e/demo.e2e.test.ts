import { describe, expect, it } from 'vitest'
import { withBench } from './with-bench'

const { server, bench } = withBench()

describe('the demo, walked once', () => {
  it('opens the heron on the first visit and tells at a first look, then closer, what hangs', async () => {
    const said = await bench.record('Findings')
    await bench.page.goto(server.url)
    await bench.page.getByLabel('Job name').waitFor()
    expect(await bench.page.getByLabel('Job name').inputValue()).toBe('Wading heron')
    await bench.scanned()
    expect((await said()).filter(s => /^At a first look about \d+ islands/.test(s))).toHaveLength(1)
    expect(await bench.openCount()).toBeGreaterThanOrEqual(30)
    expect((await server.jobs()).map(j => j.name).sort()).toEqual(['Crank bracket', "Diver's bell", "Diver's bell on stilts", 'Kelp branch', 'Lamp lattice', 'Signal buoy', 'Signal buoy, lifted out', 'Wading heron'])
  })

  it('walks its layers by keyboard', async () => {
    await bench.stage.focus()
    await bench.page.keyboard.press('Home')
    expect(await bench.layer()).toBe(1)
    for (let i = 0; i < 5; i++) await bench.page.keyboard.press('Shift+ArrowRight')
    for (let i = 0; i < 3; i++) await bench.page.keyboard.press('ArrowRight')
    await bench.page.keyboard.press('ArrowLeft')
    expect(await bench.layer()).toBe(53)
    await bench.page.keyboard.press('n')
    const body = bench.page.getByRole('listbox', { name: 'Findings' }).getByRole('option', { selected: true })
    expect((await body.textContent())?.trim()).toMatch(/^Body island/)
    await expect.poll(() => bench.layer()).toBe(101)
    await bench.page.getByRole('img', { name: /^Layer 101 from above: .*hanging/ }).waitFor()
    expect(bench.errors).toEqual([])
  })

  it('shows a bell that is proved on its stilts, and a buoy that is not on those that came with it', async () => {
    const said = async (job: string): Promise<string> => {
      await bench.page.goto(`${server.url}/jobs/${await server.idOf(job)}/proof`)
      const verdict = bench.page.getByRole('status', { name: 'Verdict' }).filter({ hasText: /^(Ready|Not ready)/ })
      await verdict.waitFor()
      return (await verdict.textContent()) ?? ''
    }
    expect(await said("Diver's bell on stilts")).toBe('Ready to print. 2 checks are left as they are.')
    expect(await said('Signal buoy, lifted out')).toMatch(/^Not ready: .*tips carry more than they can; [^:]*$/)
    expect(bench.errors).toEqual([])
  })
})
