import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Browser, BrowserContext } from 'playwright-core'
import { BenchPage, launch, launchOn, temporaryFolder, TestServer } from './bench'
import { random as numbers } from '../core/testing/random'
import { holdDatabase } from '../server/testing/database-lock'
import { smallDisk, type SmallDisk } from '../server/testing/small-disk'
import { plate } from './parts'

// a disk that can be filled, where this user may mount one
const disk = smallDisk(64)
const server = new TestServer(disk?.folder ?? temporaryFolder(), false)
let browser: Browser
let context: BrowserContext
let id = ''

beforeAll(async () => {
  await server.start()
  browser = await launch()
  context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  const bench = await BenchPage.open(context)
  id = await bench.bringIn(server, 'plate', plate())
  await bench.page.close()
})
afterAll(async () => {
  await browser?.close()
  await server.stop()
  disk?.remove()
})

describe('nothing is lost', () => {
  it('over 200 edits with the server killed at random moments, its database held by others, its disk full, and the page reloaded in between', async () => {
    const random = numbers(5), bench = await BenchPage.open(context)
    await bench.page.goto(`${server.url}/jobs/${id}/hold`)
    await bench.scanned()
    let made = 0, kills = 0, reloads = 0, locks = 0, fulls = 0
    const name = (): Promise<void> => bench.page.getByLabel('Job name').evaluate((e, text) => {
      (e as HTMLInputElement).value = text
      for (const event of ['input', 'change']) e.dispatchEvent(new Event(event, { bubbles: true }))
    }, `edit ${++made}`)
    while (made < 200) {
      const held = random() < 0.4 ? holdDatabase(server.dataFolder, random() * 900) : null
      if (held) locks++
      if (disk && random() < 0.3) {
        disk.fill(random() * 9000)
        fulls++
      }
      for (let i = 0, n = 4 + Math.floor(random() * 14); i < n && made < 200; i++) {
        await name()
        if (random() < 0.3) await bench.page.waitForTimeout(random() * 500)
      }
      const dies = random() < 0.7
      if (dies) {
        // in the middle of whatever is on its way
        void server.kill()
        kills++
        for (let i = 0; i < 4 && made < 200; i++) await name()
        await bench.page.waitForTimeout(random() * 300)
        await server.kill()
        await held
        disk?.free()
        await server.start()
      }
      await held
      disk?.free()
      if (random() < 0.5) {
        reloads++
        await bench.page.reload()
        await bench.page.getByLabel('Job name').waitFor()
        // what had not been sent is there again, before anything else
        await expect.poll(() => bench.field('Job name')).toBe(`edit ${made}`)
      }
    }
    await bench.saved()
    const job = await server.job(id)
    expect(job.name).toBe('edit 200')
    expect(Math.min(kills, reloads, locks, disk ? fulls : 9)).toBeGreaterThan(3)
    // undo takes back what this visit made, one by one: nothing was applied twice or out of order
    await name()
    await name()
    await bench.stage.focus()
    await bench.page.keyboard.press('Control+z')
    await bench.saved()
    expect((await server.job(id)).name).toBe('edit 201')
    expect(bench.errors).toEqual([])
    await bench.page.close()
  })

  it('when the page is closed right after an edit, and when the bench is left for the list', async () => {
    const bench = await BenchPage.open(context)
    await bench.page.goto(`${server.url}/jobs/${id}/pose`)
    await bench.scanned()
    await bench.write(/^Lift/, '7.25')
    await bench.page.close({ runBeforeUnload: false })
    await expect.poll(async () => (await server.job(id)).parts[0].pose.liftMm).toBe(7.25)
    const again = await BenchPage.open(context)
    await again.page.goto(`${server.url}/jobs/${id}/pose`)
    await again.page.getByLabel('Job name').fill('left at once')
    await again.page.getByLabel('Job name').press('Enter')
    await again.page.getByRole('link', { name: 'Jobs', exact: true }).click()
    await again.page.getByRole('link', { name: 'Open left at once' }).waitFor()
    await again.page.close()
  })

  it('while the server is stopped: edits wait, are counted, and are sent when it is back', async () => {
    const bench = await BenchPage.open(context)
    await bench.page.goto(`${server.url}/jobs/${id}/pose`)
    await bench.scanned()
    await server.kill()
    await bench.write(/^Lift/, '7')
    await bench.write(/^Lift/, '8')
    await bench.page.getByRole('status', { name: 'Saved state' }).filter({ hasText: /Server stopped, 2 changes wait/ }).waitFor()
    await server.start()
    await bench.saved()
    expect((await server.job(id)).parts[0].pose.liftMm).toBe(8)
    expect(bench.errors).toEqual([])
    await bench.page.close()
  })

  it('in a browser that keeps nothing: it says so, and everything is sent', async () => {
    const bench = await BenchPage.open(context)
    await bench.page.addInitScript(() => {
      IDBFactory.prototype.open = () => {
        throw new DOMException('private', 'SecurityError')
      }
    })
    await bench.page.goto(`${server.url}/jobs/${id}/pose`)
    await bench.scanned()
    await server.kill()
    await bench.write(/^Lift/, '9.5')
    await bench.page.getByRole('status', { name: 'Saved state' }).filter({ hasText: /1 change waits in this page only/ }).waitFor()
    await server.start()
    await bench.saved()
    expect((await server.job(id)).parts[0].pose.liftMm).toBe(9.5)
    await bench.page.close()
  })

  it.skipIf(!disk)('in a browser whose disk is full: it says so, relies on nothing that broke, and everything is sent', async () => {
    const profile = smallDisk(64) as SmallDisk
    const own = await launchOn(profile.folder)
    try {
      const bench = await BenchPage.open(own), waits = (text: RegExp): Promise<void> => bench.page.getByRole('status', { name: 'Saved state' }).filter({ hasText: text }).waitFor()
      await bench.page.goto(`${server.url}/jobs/${id}/pose`)
      await bench.scanned()
      profile.fill()
      await server.kill()
      // more than what the browser had set aside, and nothing that could be packed
      const random = numbers(7)
      let name = ''
      for (let i = 1; i <= 60; i++) {
        name = Array.from({ length: 110 }, () => String.fromCharCode(0x4e00 + Math.floor(random() * 20000))).join('')
        await bench.page.getByLabel('Job name').fill(name)
        await bench.page.getByLabel('Job name').press('Enter')
        await bench.page.getByRole('heading', { level: 1, name, exact: true }).waitFor()
        // the browser makes room where it can
        if (i % 4 === 0) profile.fill()
      }
      await waits(/60 changes wait in this page only/)
      await server.start()
      await bench.saved()
      expect((await server.job(id)).name).toBe(name)
      // what broke once in this visit is not relied on, whatever it takes now
      profile.free()
      await server.kill()
      await bench.write(/^Lift/, '11.25')
      await waits(/1 change waits in this page only/)
      await server.start()
      await bench.saved()
      await bench.page.getByLabel('Job name').fill('left at once')
      await bench.page.getByLabel('Job name').press('Enter')
      await bench.page.getByRole('heading', { level: 1, name: 'left at once' }).waitFor()
      await bench.saved()
      expect((await server.job(id)).parts[0].pose.liftMm).toBe(11.25)
      expect(bench.errors).toEqual([])
    } finally {
      await own.close()
      profile.remove()
    }
  })

  it('where another tab changed the job: it is explained, and mine is kept as a copy', async () => {
    const one = await BenchPage.open(context), two = await BenchPage.open(context)
    await one.page.goto(`${server.url}/jobs/${id}/pose`)
    await one.scanned()
    await two.page.goto(`${server.url}/jobs/${id}/pose`)
    await two.scanned()
    await one.write(/^Lift/, '9')
    await one.saved()
    await two.write(/^Lift/, '11')
    const dialog = two.page.getByRole('dialog', { name: 'Changed in another tab' })
    await dialog.waitFor()
    expect((await server.job(id)).parts[0].pose.liftMm).toBe(9)
    await dialog.getByRole('button', { name: 'Keep mine as a copy' }).click()
    await dialog.waitFor({ state: 'hidden' })
    await two.scanned()
    await expect.poll(() => two.field('Job name')).toBe('left at once (copy)')
    expect(await two.field(/^Lift/)).toBe('11.00')
    expect((await server.job(id)).parts[0].pose.liftMm).toBe(9)
    await one.page.close()
    await two.page.close()
  })

  it('where another tab deleted the job: mine is kept as a new one', async () => {
    const one = await BenchPage.open(context), two = await BenchPage.open(context)
    const own = await one.bringIn(server, 'to be deleted', plate())
    await two.page.goto(`${server.url}/jobs`)
    await two.page.getByRole('button', { name: 'Delete to be deleted' }).click()
    await two.page.getByRole('link', { name: 'Open to be deleted' }).waitFor({ state: 'detached' })
    await one.page.getByRole('link', { name: 'Pose' }).click()
    await one.write(/^Lift/, '6.5')
    const dialog = one.page.getByRole('dialog', { name: 'Deleted in another tab' })
    await dialog.waitFor()
    await dialog.getByRole('button', { name: 'Keep mine as a new job' }).click()
    await dialog.waitFor({ state: 'hidden' })
    await one.scanned()
    expect(await one.field(/^Lift/)).toBe('6.50')
    await expect.poll(() => one.page.url()).not.toContain(own)
    await one.page.close()
    await two.page.close()
  })
})
