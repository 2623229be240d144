import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { chromium, type Browser, type BrowserContext, type Locator, type Page } from 'playwright-core'
import type { Job, JobSummary } from '@oak-stilts/core/contract'

export const ROOT = join(dirname(fileURLToPath(import.meta.url)), '..')

export function temporaryFolder(): string {
  return mkdtempSync(join(tmpdir(), 'oak-stilts-e2e-'))
}

/** A server process of its own on a data folder, as `npm start` runs it. */
export class TestServer {
  url = ''
  #process: ChildProcess | null = null
  #port = 0
  constructor(readonly dataFolder = temporaryFolder(), readonly seed = true) {}

  async start(): Promise<void> {
    const child = spawn(process.execPath, [join(ROOT, 'dist', 'main.mjs')], {
      cwd: ROOT, env: { ...process.env, DATA_DIR: this.dataFolder, PORT: String(this.#port), SEED: this.seed ? '1' : '0' },
    })
    this.#process = child
    this.url = await new Promise((resolve, reject) => {
      let said = ''
      child.stdout.on('data', (chunk: Buffer) => {
        said += chunk.toString()
        const found = /is at (http:\S+)/.exec(said)
        if (found) resolve(found[1])
      })
      child.stderr.on('data', (chunk: Buffer) => (said += chunk.toString()))
      child.on('exit', code => reject(new Error(`The server ended with code ${code}: ${said}`)))
    })
    // started again, it is found under the same address
    this.#port = Number(new URL(this.url).port)
  }

  /** Ends the process at once, as a lost power supply would. */
  kill(): Promise<void> {
    return this.#end('SIGKILL')
  }

  stop(): Promise<void> {
    return this.#end('SIGTERM')
  }

  #end(signal: NodeJS.Signals): Promise<void> {
    const child = this.#process
    if (!child || child.exitCode !== null || child.signalCode !== null) return Promise.resolve()
    return new Promise(resolve => {
      child.once('exit', () => resolve())
      child.kill(signal)
    })
  }

  async jobs(): Promise<JobSummary[]> {
    return (await (await fetch(`${this.url}/api/jobs`)).json()) as JobSummary[]
  }

  async job(id: string): Promise<Job> {
    return (await (await fetch(`${this.url}/api/jobs/${id}`)).json()) as Job
  }

  async idOf(name: string): Promise<string> {
    const found = (await this.jobs()).find(j => j.name === name)
    if (!found) throw new Error(`There is no job "${name}".`)
    return found.id
  }
}

const CHROME = {
  executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
  args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--disable-background-networking', '--disable-component-update', '--disable-sync', '--no-first-run'],
}
/** Drawn by the processor alone: neither smooth edges on the stage nor a second drawing of the page are worth a quarter of a test's time. */
const COARSE = { ...CHROME, args: [...CHROME.args, '--webgl-antialiasing-mode=none', '--disable-gpu-compositing'] }

/** @param fine for pictures that are kept: with smooth edges */
export function launch(fine = false): Promise<Browser> {
  return chromium.launch(fine ? CHROME : COARSE)
}

/** A browser that keeps its data in a folder, as a person's does. */
export function launchOn(folder: string): Promise<BrowserContext> {
  return chromium.launchPersistentContext(folder, { ...COARSE, viewport: { width: 1280, height: 800 } })
}

export interface Size {
  readonly width: number
  readonly height: number
}

/** A page with the bench on it, and the steps that a person would take. */
export class BenchPage {
  readonly errors: string[] = []
  #page: Page | null = null
  constructor(page: Page | null = null) {
    if (page) this.attach(page)
  }

  get page(): Page {
    if (!this.#page) throw new Error('The page is not open yet.')
    return this.#page
  }

  attach(page: Page): void {
    this.#page = page
    page.on('pageerror', error => this.errors.push(error.message))
  }

  /** Keeps all sentences that a status has shown, however short: to be asked for before the page is loaded. */
  async record(status: string): Promise<() => Promise<string[]>> {
    await this.page.addInitScript(name => {
      const said: string[] = []
      ;(window as unknown as { said: string[] }).said = said
      new MutationObserver(() => {
        const text = document.querySelector(`[role=status][aria-label="${name}"]`)?.textContent?.trim()
        if (text && said[said.length - 1] !== text) said.push(text)
      }).observe(document, { childList: true, characterData: true, subtree: true })
    }, status)
    return () => this.page.evaluate(() => (window as unknown as { said: string[] }).said)
  }

  static async open(browser: Browser | BrowserContext, size?: Size): Promise<BenchPage> {
    const bench = new BenchPage()
    await bench.open(browser, size)
    return bench
  }

  async open(browser: Browser | BrowserContext, size: Size = { width: 1280, height: 800 }): Promise<void> {
    const page = 'newContext' in browser ? await (await browser.newContext({ viewport: size, acceptDownloads: true, reducedMotion: 'reduce' })).newPage() : await browser.newPage()
    page.setDefaultTimeout(Number(process.env.E2E_TIMEOUT_MS ?? 45000))
    this.attach(page)
  }

  get stage(): Locator {
    return this.page.getByRole('application', { name: 'Stage' })
  }

  /** Waits until the scan of what is shown has ended. */
  async scanned(): Promise<void> {
    await this.page.getByRole('status', { name: 'Scan', exact: true }).filter({ hasText: 'Scanned' }).waitFor()
  }

  async saved(): Promise<void> {
    await this.page.getByRole('status', { name: 'Saved state' }).filter({ hasText: /^Saved$/ }).waitFor()
  }

  async message(text: string | RegExp): Promise<string> {
    const pattern = typeof text === 'string' ? text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&') : text.source
    const said = (): Promise<string> => this.page.getByRole('status', { name: 'Message' }).textContent().then(t => t ?? '')
    // looked for and read at once: a message goes after a while
    const found = await this.page.waitForFunction(p => {
      const now = document.querySelector('[role=status][aria-label=Message]')?.textContent?.trim() ?? ''
      return new RegExp(p).test(now) && now
    }, pattern).catch(async (error: unknown) => {
      throw new Error(`No message like ${pattern}; the last one is “${await said()}”.`, { cause: error })
    })
    return (await found.jsonValue()) || ''
  }

  /** Writes into a number field and leaves it. */
  async write(label: string | RegExp, text: string): Promise<void> {
    const field = this.page.getByLabel(label)
    await field.fill(text)
    await field.press('Enter')
  }

  field(label: string | RegExp): Promise<string> {
    return this.page.getByLabel(label).inputValue()
  }

  /** A row of the worklist, wherever it is: only those in view are drawn, so the list is scrolled as by the wheel until it comes. */
  async row(name: RegExp, nth = 0): Promise<Locator> {
    const list = this.page.getByRole('listbox', { name: 'Findings' })
    await list.waitFor()
    const scroll = (by: number): Promise<number> => list.evaluate((e, d) => {
      const scroller = [e, ...Array.from(e.querySelectorAll('*'))].find(x => x.scrollHeight > x.clientHeight + 2 && getComputedStyle(x).overflowY !== 'visible')
      if (!scroller) return -1
      const before = scroller.scrollTop
      scroller.scrollTop = d < 0 ? 0 : before + d
      return scroller.scrollTop - before
    }, by)
    // rows are drawn a frame after the list is scrolled, and frames take long where a large part is drawn beside it
    const drawn = (): Promise<unknown> => this.page.evaluate(() => new Promise(resolve => requestAnimationFrame(() => requestAnimationFrame(() => requestAnimationFrame(resolve)))))
    for (let round = 0; round < 3; round++) {
      await scroll(-1)
      const seen = new Set<string>()
      do {
        await drawn()
        for (const row of await list.getByRole('option', { name }).all()) {
          seen.add((await row.textContent()) ?? '')
          if (seen.size > nth) return row
        }
      } while ((await scroll(280)) > 0)
    }
    return list.getByRole('option', { name }).nth(nth)
  }

  /** Number of open findings as the tab says it. */
  async openCount(): Promise<number> {
    return Number((await this.page.getByRole('tab', { name: /^Findings/ }).textContent())?.replace(/\D/g, ''))
  }

  async stiltCount(): Promise<number> {
    return Number((await this.page.getByRole('tab', { name: /^Stilts/ }).textContent())?.replace(/\D/g, ''))
  }

  async layer(): Promise<number> {
    return Number(await this.page.getByRole('slider', { name: 'Layer track' }).getAttribute('aria-valuenow'))
  }

  /** Waits until the view has stopped moving and is drawn. */
  async still(): Promise<void> {
    await this.page.waitForFunction(() => (window as unknown as { oakStage?: { still(): boolean } }).oakStage?.still())
    // once more, for what a worker's answer draws
    await this.page.waitForTimeout(100)
    await this.page.waitForFunction(() => (window as unknown as { oakStage?: { still(): boolean } }).oakStage?.still())
  }

  /** Opens a small sheet at a button and waits until it has come to rest: what still moves is easily missed by a click. */
  async openSheet(button: string, sheet: string): Promise<void> {
    await this.page.getByRole('button', { name: button }).click()
    await this.page.getByRole('dialog', { name: sheet }).waitFor()
    await this.page.waitForFunction(() => document.getAnimations().every(a => a.playState !== 'running'))
  }

  /** Where a point of the stand is on the page. */
  async at(point: readonly [number, number, number]): Promise<{ x: number; y: number }> {
    const found = await this.page.evaluate(p => (window as unknown as { oakStage: { pageOf(p: unknown): { x: number; y: number } | null } }).oakStage.pageOf(p), [...point])
    if (!found) throw new Error('The point is behind the eye.')
    return found
  }

  /** Brings a small part in and lifts it, so that it hangs; gives the id of its job. */
  async bringIn(server: TestServer, name: string, stl: Uint8Array, liftMm = 5): Promise<string> {
    await this.page.goto(`${server.url}/jobs`)
    await this.page.getByLabel('Model files').setInputFiles({ name: `${name}.stl`, mimeType: 'model/stl', buffer: Buffer.from(stl) })
    await this.page.getByLabel('Job name').waitFor()
    await this.page.getByRole('complementary', { name: 'Pose' }).waitFor()
    const stand = this.page.getByRole('button', { name: 'Stand it so' })
    if (await stand.count()) {
      if (liftMm > 0) await this.page.getByRole('radio', { name: /Lift 5 mm/ }).check()
      await stand.click()
    }
    await this.page.getByRole('link', { name: /^Hold/ }).click()
    await this.scanned()
    await this.saved()
    return new URL(this.page.url()).pathname.split('/')[2]
  }

  /** Puts stilts under the first finding, as a hand does. */
  async holdFirst(): Promise<void> {
    await this.stage.focus()
    await this.page.keyboard.press('n')
    await this.page.keyboard.press('Enter')
    await this.message(/placed/)
    await this.scanned()
    await this.saved()
  }

  /** Presses, moves in steps and lets go, as a hand does. */
  async drag(from: { x: number; y: number }, to: { x: number; y: number }): Promise<void> {
    await this.page.mouse.move(from.x, from.y)
    await this.page.mouse.down()
    for (let i = 1; i <= 6; i++) await this.page.mouse.move(from.x + ((to.x - from.x) * i) / 6, from.y + ((to.y - from.y) * i) / 6)
  }

  async release(): Promise<void> {
    await this.page.mouse.up()
  }
}
