import { describe, expect, it } from 'vitest'
import { random } from '../core/testing/random'
import { plate } from './parts'
import { withBench } from './with-bench'

const { server, bench } = withBench({ seed: false })

describe('workers that die', () => {
  it('are said and started again, in the middle of a scan, a hold and an export, and cost no edit', async () => {
    const jobId = await bench.bringIn(server, 'dying', plate())
    const kill = async (name: RegExp): Promise<void> => {
      for (const w of bench.page.workers()) if (name.test(await w.evaluate(() => self.name).catch(() => ''))) await w.evaluate(() => self.close()).catch(() => undefined)
    }
    await bench.page.getByRole('button', { name: 'Hold islands' }).click()
    await kill(/^scan/)
    await bench.message(/stopped working and was started again/)
    await bench.scanned()
    await bench.page.getByRole('button', { name: 'Hold islands' }).click()
    await bench.message(/placed/)
    const stilts = await bench.stiltCount()
    expect(stilts).toBeGreaterThan(3)
    await kill(/^surface/)
    await bench.message(/stopped working and was started again/)
    await bench.scanned()
    expect(await bench.stiltCount()).toBe(stilts)
    const download = bench.page.waitForEvent('download')
    await bench.page.getByRole('button', { name: 'Export' }).click()
    await bench.page.getByText('Model with stilts, STL').click()
    await download
    // helpers are a help, not a need
    await kill(/^bands/)
    await bench.page.getByRole('link', { name: 'Pose' }).click()
    await bench.write(/^Lift/, '6')
    await bench.scanned()
    await bench.saved()
    // any of them, at random moments of posing, holding and exporting
    const chance = random(3)
    for (let i = 0; i < 3; i++) {
      const doing = ['pose', 'hold', 'export'][i % 3], lift = (7 + i / 4).toFixed(2)
      // what dies again and again is given up, until the page is loaded anew
      await bench.page.reload()
      await bench.scanned()
      if (doing === 'pose') {
        await bench.page.getByRole('link', { name: 'Pose' }).click()
        await bench.write(/^Lift/, lift)
      } else {
        await bench.page.getByRole('link', { name: /^Hold/ }).click()
        await bench.stage.focus()
        if (doing === 'hold') await bench.page.keyboard.press('Shift+h')
        else {
          await bench.page.getByRole('button', { name: 'Export' }).click()
          await bench.page.getByText('Model with stilts, STL').click()
        }
      }
      await bench.page.waitForTimeout(chance() * 250)
      const which = [/^scan/, /^surface/, /^bands/][Math.floor(chance() * 3)]
      await kill(which)
      // the lift is there, or the person was told and writes it again
      if (doing === 'pose') {
        await expect.poll(async () => {
          if ((await bench.field(/^Lift/)) !== lift) await bench.write(/^Lift/, lift)
          return (await server.job(jobId)).parts[0].pose.liftMm
        }).toBe(Number(lift))
      }
      await bench.scanned()
      await bench.saved()
      expect((await server.job(jobId)).nodes.filter(n => n.kind === 'tip')).toHaveLength(stilts)
    }
    expect(bench.errors).toEqual([])
  })
})
