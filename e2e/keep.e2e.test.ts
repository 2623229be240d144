import type { Browser, BrowserContext } from 'playwright-core'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { BenchPage, launch, TestServer } from './bench'

const server = new TestServer()
let browser: Browser
let context: BrowserContext
let id = ''

beforeAll(async () => {
  await server.start()
  browser = await launch()
  context = await browser.newContext({ viewport: { width: 1280, height: 800 } })
  id = await server.idOf("Diver's bell")
})
afterAll(async () => {
  await browser?.close()
  await server.stop()
})

describe('nothing acknowledged is lost', () => {
  it('keeps every acknowledged edit when the server is killed while edits are saved', async () => {
    // edits go in as fast as they are acknowledged; the server is killed between two answers
    for (let round = 0; round < 3; round++) {
      let revision = (await server.job(id)).revision
      let acknowledged = 0
      const killAt = 15 + round * 7
      for (let i = 0; i < 60; i++) {
        const liftMm = 5 + round + (i + 1) / 1000
        const sent = fetch(`${server.url}/api/jobs/${id}/edits`, {
          method: 'POST', headers: { 'Content-Type': 'application/json' },
          body: JSON.stringify({ batch: `round-${round}-${i}`, baseRevision: revision, edits: [{ label: 'lift', pose: { tiltXDeg: 155, tiltYDeg: 0, turnDeg: 0, liftMm } }] }),
        })
        if (i === killAt) void server.kill()
        try {
          const answer = await sent
          if (!answer.ok) break
          revision = ((await answer.json()) as { revision: number }).revision
          acknowledged = liftMm
        } catch {
          break
        }
      }
      await server.kill()
      await server.start()
      const job = await server.job(id)
      expect(acknowledged).toBeGreaterThan(5)
      // the edit on its way when the server died may be there too, never less than what was acknowledged
      expect(job.pose.liftMm).toBeGreaterThanOrEqual(acknowledged)
      expect(job.revision).toBeGreaterThanOrEqual(revision)
    }
  })

  it('counts edits that wait while the server is stopped, and sends them when it is back', async () => {
    const bench = await BenchPage.open(context)
    await bench.page.goto(`${server.url}/jobs/${id}/pose`)
    await bench.scanned()
    await server.kill()
    await bench.write(/^Lift/, '7')
    await bench.write(/^Lift/, '8')
    await bench.page.getByRole('status', { name: 'Saved state' }).filter({ hasText: /Server stopped, 2 changes wait/ }).waitFor()
    await server.start()
    await bench.saved()
    expect((await server.job(id)).pose.liftMm).toBe(8)
    expect(bench.errors).toEqual([])
    await bench.page.close()
  })

  it('refuses a save against an older revision and explains it in the second tab', async () => {
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
    expect((await server.job(id)).pose.liftMm).toBe(9)
    await dialog.getByRole('button', { name: 'Keep mine as a copy' }).click()
    await dialog.waitFor({ state: 'hidden' })
    await two.scanned()
    await expect.poll(() => two.field('Job name')).toBe("Diver's bell (copy)")
    expect(await two.field(/^Lift/)).toBe('11.00')
    expect((await server.job(id)).pose.liftMm).toBe(9)
    await one.page.close()
    await two.page.close()
  })

  it('publishes its contract', async () => {
    const document = (await (await fetch(`${server.url}/api/openapi.json`)).json()) as { openapi: string; paths: Record<string, unknown> }
    expect(document.openapi).toBe('3.1.0')
    expect(Object.keys(document.paths)).toContain('/api/jobs/{id}/edits')
    const foreign = await fetch(`${server.url}/api/nothing`)
    expect(foreign.headers.get('content-type')).toMatch(/application\/problem\+json/)
  })
})
